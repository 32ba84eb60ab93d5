"""A spreadsheet's file (.xlsx, .xls, .ods) as rows of values; what cannot be opened says why."""

from __future__ import annotations

import io
import re
import zipfile
import zlib
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

MOST_UNPACKED = 40_000_000
MAGIC = _ZIP, _OLD = b"PK\x03\x04", b"\xd0\xcf\x11\xe0"
PICTURES = {
    b"\x89PNG": "a PNG picture",
    b"\xff\xd8\xff": "a JPEG picture",
    b"GIF8": "a GIF picture",
    b"%PDF": "a PDF",
    b"SQLite": "a database",
}
_LOCKED = "EncryptedPackage".encode("utf-16-le")
_COMPUTED = re.compile(rb"<f[ >]|table:formula=")
LOCKED = "This file is locked with a password. Save it without one, then bring it again."


class NoWorkbook(ValueError):  # noqa: N818 - an answer to a person
    """The file cannot be opened as a spreadsheet; the message says why and what to do."""


@dataclass(frozen=True, kw_only=True)
class BookSheet:
    """One sheet as it is held: values of cells from `start` on (row, column), merged cells as (first, last)."""

    name: str
    rows: Sequence[Sequence[object]]
    merged: Sequence[Any]
    start: tuple[int, int]
    computed: bool


def is_workbook(data: bytes) -> bool:
    return data.startswith(MAGIC)


def sheets_of(data: bytes, most_rows: int) -> list[BookSheet]:
    """Every sheet of a workbook, its first rows up to one more than the most. NoWorkbook when it is none."""
    from python_calamine import CalamineError, CalamineWorkbook, PasswordError

    if _LOCKED in data:
        raise NoWorkbook(LOCKED)
    computed = _unpacked(data) if data.startswith(_ZIP) else False
    out = []
    try:
        book = CalamineWorkbook.from_filelike(io.BytesIO(data))
        for name in book.sheet_names:
            sheet = book.get_sheet_by_name(name)
            out.append(
                BookSheet(
                    name=name,
                    rows=sheet.to_python(nrows=most_rows + 2),
                    merged=getattr(sheet, "merged_cell_ranges", None) or (),
                    start=sheet.start or (0, 0),
                    computed=computed,
                )
            )
    except PasswordError:
        raise NoWorkbook(LOCKED) from None
    except (CalamineError, ValueError, OSError):
        raise NoWorkbook("This is no spreadsheet that can be read. Save it as .xlsx, .ods or .csv.") from None
    return out


def _unpacked(data: bytes) -> bool:
    """Whether any cell was worked out by the spreadsheet; NoWorkbook for what unpacks to far too much."""
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as packed:
            if sum(entry.file_size for entry in packed.infolist()) > MOST_UNPACKED:
                raise NoWorkbook("This file unpacks to far more than a table of a class. It was not opened.")
            inside = [n for n in packed.namelist() if re.search(r"(worksheets/.*|^content)\.xml$", n)]
            return any(_COMPUTED.search(packed.read(name)) for name in inside)
    except NoWorkbook:
        raise
    except (zipfile.BadZipFile, zlib.error, NotImplementedError, RuntimeError, ValueError, OSError, EOFError):
        raise NoWorkbook("This file is damaged, or no spreadsheet. Save it again as .xlsx or .csv.") from None
