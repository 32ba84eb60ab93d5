"""A file's bytes, or what was pasted, as tabs of cells; what no table is says so."""

from __future__ import annotations

import csv
import datetime
import io
import re
from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any, Literal

from thermion.formats.workbook import PICTURES, NoWorkbook, is_workbook, sheets_of

MOST_LINES, MOST_COLUMNS = 2_000, 200
_SEPARATORS = ("\t", ";", ",", "|")
_DIGITS = re.compile(r"\s*\d+\s*")


class NoTable(ValueError):  # noqa: N818 - an answer to a person
    """There is no table to be read; the message says why and what to do."""


Sort = Literal["text", "number", "clock", "date"]


@dataclass(frozen=True, slots=True)
class SheetCell:
    """What stands in a cell. A `number` is written with a point, a `clock` as hours:minutes:seconds, as the
    spreadsheet holds them; `text` stands as it was typed."""

    text: str = ""
    sort: Sort = "text"


EMPTY = SheetCell()
Rows = tuple[tuple[SheetCell, ...], ...]


@dataclass(frozen=True, kw_only=True)
class Tab:
    """One sheet of a file, its rows all of one width; `computed` where the spreadsheet worked cells out."""

    name: str
    rows: Rows
    computed: bool = False


def tabs_of(data: bytes) -> list[Tab]:
    """Every tab of a file that holds anything. NoTable when there is none, or it is no table."""
    if not data.strip():
        raise NoTable("This file is empty.")
    for magic, what in PICTURES.items():
        if data.startswith(magic):
            raise NoTable(f"This is {what}, not a table. Choose a .csv, .xlsx or .ods file.")
    found = _workbook(data) if is_workbook(data) else [_text_tab(data)]
    tabs = [tab for tab in (_trimmed(t) for t in found) if tab.rows]
    if not tabs:
        raise NoTable("There is nothing in this table yet.")
    return tabs


def _trimmed(tab: Tab) -> Tab:
    """Without the empty lines at its end; refused where it is larger than any class's."""
    rows = list(tab.rows)
    while rows and not any(cell.text for cell in rows[-1]):
        rows.pop()
    wide = max((i + 1 for row in rows for i, cell in enumerate(row) if cell.text), default=0)
    if len(rows) > MOST_LINES or wide > MOST_COLUMNS:
        raise NoTable(
            f"{len(rows):,} lines of {wide} columns: this is no table of a class's marks. A logger's file has a "
            "door of its own, “Read a logger file”."
        )
    filled = (tuple(row[:wide]) + (EMPTY,) * (wide - len(row[:wide])) for row in rows)
    return Tab(name=tab.name, rows=tuple(filled), computed=tab.computed)


def _workbook(data: bytes) -> list[Tab]:
    try:
        found = sheets_of(data, MOST_LINES)
    except NoWorkbook as error:
        raise NoTable(str(error)) from None
    out = []
    for sheet in found:
        rows = [[_cell(value) for value in row] for row in sheet.rows]
        out.append(
            Tab(name=sheet.name, rows=_spread(rows, sheet.merged, sheet.start), computed=sheet.computed)
        )
    return out


def _spread(rows: Sequence[list[SheetCell]], merged: Sequence[Any], start: tuple[int, int]) -> Rows:
    """Words of a merged cell stand in all of it; a merged number is one number."""
    for (first, left), (last, right) in merged:
        across = slice(left - start[1], right - start[1] + 1)
        down = rows[max(first - start[0], 0) : last - start[0] + 1]
        cell = down[0][across.start] if down and 0 <= across.start < len(down[0]) else EMPTY
        if cell.sort == "text":
            for row in down:
                row[across] = [cell] * len(row[across])
    return tuple(tuple(row) for row in rows)


def _cell(value: object) -> SheetCell:
    if isinstance(value, bool):
        return SheetCell("yes" if value else "no")
    if isinstance(value, (int, float)):
        return SheetCell(f"{value:.9g}" if abs(value) < 1e9 else repr(value), "number")
    if isinstance(value, datetime.timedelta):
        minutes, seconds = divmod(round(value.total_seconds()), 60)
        return SheetCell(f"{minutes // 60}:{minutes % 60:02d}:{seconds:02d}", "clock")
    if isinstance(value, datetime.time):
        return SheetCell(f"{value.hour}:{value.minute:02d}:{value.second:02d}", "clock")
    if isinstance(value, (datetime.date, datetime.datetime)):
        return SheetCell(value.isoformat(), "date")
    return SheetCell(_plain(str(value)))


def _plain(text: str) -> str:
    return text.replace("\u00a0", " ").replace("\ufeff", "").strip().removeprefix("'").strip()


def _text_tab(data: bytes) -> Tab:
    lines = _decoded(data).replace("\r\n", "\n").replace("\r", "\n").split("\n")
    if lines and re.fullmatch(r"sep=.", lines[0].strip(), re.IGNORECASE):
        lines[0] = ""
    if len(lines) > 2 * MOST_LINES:
        raise NoTable(
            f"{len(lines):,} lines: this is no table of a class's marks. A logger's file has a door of its own, "
            "“Read a logger file”."
        )
    separator = _separator(lines)
    if not separator:
        parts = [re.split(r"\s{2,}", line.strip()) for line in lines]
    else:
        try:
            parts = list(csv.reader(io.StringIO("\n".join(lines)), delimiter=separator))
        except csv.Error as error:
            raise NoTable(f"This is not a table that can be read: {error}.") from None
    return Tab(name="", rows=tuple(tuple(SheetCell(_plain(part)) for part in line) for line in parts))


def _decoded(data: bytes) -> str:
    if data.startswith((b"\xff\xfe", b"\xfe\xff")):
        return data.decode("utf-16", errors="replace")
    if b"\x00" in data[:4096]:
        raise NoTable("This is not a text file. Save the table as .csv, .xlsx or .ods.")
    try:
        return data.decode("utf-8-sig")
    except UnicodeDecodeError:
        return data.decode("cp1252", errors="replace")


def _separator(lines: Sequence[str]) -> str:
    """The sign that parts most lines into equally many cells; none where only blanks do.

    NoTable where a comma may be the decimal sign as well.
    """
    filled = [line for line in lines if line.strip()]
    widths = {s: Counter(len(row) for row in csv.reader(filled, delimiter=s)) for s in _SEPARATORS}
    share = {s: max((n for w, n in widths[s].items() if w > 1), default=0) for s in _SEPARATORS}
    best = max(_SEPARATORS, key=lambda s: (share[s], -_SEPARATORS.index(s)))
    if not share[best]:
        return ""
    rows = [row for row in csv.reader(filled, delimiter=best) if len(row) > 1]
    beyond = [cell for row in rows[1:] for cell in row[len(rows[0]) :] if _DIGITS.fullmatch(cell)]
    if best == "," and beyond:  # more numbers than headings
        raise NoTable(
            "The decimal comma and the comma between columns cannot be told apart. Save the table as .xlsx, "
            "or copy it in the spreadsheet and paste it here."
        )
    return best
