"""A file's bytes as a table: letters, separators, quotes; headings, a row of units, what stands above."""

from __future__ import annotations

import csv
import io
import re
from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from functools import cached_property
from itertools import zip_longest

from thermion.formats.logger.as_json import of_json
from thermion.formats.logger.cells import MISSING, is_clock, is_date, is_number, unit_row
from thermion.formats.workbook import PICTURES, NoWorkbook, is_workbook, sheets_of

MAX_ROWS = 70_000
MAX_CELLS = 400_000
MAX_LINE = 20_000  # letters
MAX_COLUMNS = 400
SEPARATORS = (";", "\t", ",", "|", " ")
_ABOVE = 80  # lines that may stand above the readings
_SAMPLE = 60
FEWEST = 4  # rows by which a last one is found too short
_DECIMALS = re.compile(r"\d[.,]\d+$")
MOST_WRAPPED = 6  # lines of one row of headings
Row = tuple[int, Sequence[str]]  # number of its line from 1, its cells


class UnreadableFile(ValueError):  # noqa: N818 - an answer to a person
    """The file cannot be used at all; the message says why and what to do."""


@dataclass(frozen=True, kw_only=True)
class Sheet:
    """What a file holds as a table. `units` is the row of units below the headings, if there is one;
    `above` what stands before the headings; `plain` is false where no row of headings was found; `cut` the number
    of a last line that was cut off, 0 where none was."""

    headings: tuple[str, ...]
    units: tuple[str, ...]
    above: tuple[tuple[str, ...], ...]
    body: tuple[Row, ...]
    separator: str
    plain: bool = True
    cut: int = 0

    @cached_property
    def _columns(self) -> list[tuple[str, ...]]:
        return list(zip_longest(*(row for _, row in self.body), fillvalue=""))

    def column(self, index: int) -> tuple[str, ...]:
        return self._columns[index] if index < len(self._columns) else ("",) * len(self.body)


def sheet_of(data: bytes) -> Sheet:
    """The table of a file. UnreadableFile when there is none."""
    text = _of_workbook(data) if is_workbook(data) else _decode(data)
    lines = _lines(of_json(text) or _unwrapped(text))
    separator = _separator(lines)
    rows = _cells(lines, separator)
    start = _first_data(rows)
    head = _heading(rows, start)
    headings: tuple[str, ...] = tuple(rows[head][1]) if head is not None else ()
    units = tuple(rows[head + 1][1]) if head is not None and start > head + 1 else ()
    above = [tuple(cells) for _, cells in rows[: start if head is None else head] if any(cells)]
    wide = len(rows[start][1])
    body = _under_headings([row for row in rows[start:] if not _remark(row[1], wide)], headings)
    body, cut = _whole_lines(body)
    body, headings, units = _fitted(body, headings, units, separator)
    width = max(len(headings), *(len(cells) for _, cells in body))
    if width * len(body) > MAX_CELLS:
        raise UnreadableFile(
            f"{len(body):,} rows of {width} columns; Thermion reads up to {MAX_CELLS:,} cells. Export the file with "
            "a longer interval, or only the part that belongs to this run."
        )
    if width > MAX_COLUMNS:
        raise UnreadableFile(f"{width} columns: this is not a table of readings.")
    named = [name or f"column {i + 1}" for i, name in enumerate([*headings, *[""] * (width - len(headings))])]
    return Sheet(
        headings=tuple(named),
        units=units,
        above=tuple(above),
        body=tuple(body),
        separator=separator,
        plain=head is not None,
        cut=cut,
    )


def _whole_lines(body: list[Row]) -> tuple[list[Row], int]:
    """The rows without a last one that was cut off, and its number: it has fewer cells than every other, or ends in
    a number without the decimals that every other ends in. What stands there may be half a number."""
    if len(body) < FEWEST:
        return body, 0
    line, last = body[-1]
    others = [cells for _, cells in body[:-1]]
    short = len(last) < min(len(cells) for cells in others)
    ends = [cells[-1] for cells in others if cells]
    stump = bool(last) and last[-1].isdigit() and all(_DECIMALS.search(end) for end in ends)
    return (body[:-1], line) if short or stump else (body, 0)


def _of_workbook(data: bytes) -> str:
    """The sheet of a workbook that has most rows, as text between tabs; its dates and clocks as they are."""
    try:
        found = sheets_of(data, MAX_ROWS)
    except NoWorkbook as error:
        raise UnreadableFile(str(error)) from None
    rows = max((sheet.rows for sheet in found), key=len, default=())
    return "\n".join("\t".join(_written(value) for value in row) for row in rows)


def _written(value: object) -> str:
    if isinstance(value, datetime):
        return value.isoformat(sep=" ", timespec="milliseconds").removesuffix(".000")
    if isinstance(value, float) and value.is_integer():
        return str(int(value))
    return " ".join(str(value).split())


def _under_headings(body: Sequence[Row], headings: tuple[str, ...]) -> list[Row]:
    """The rows of readings; where the headings stand again in another order, the cells below follow them."""
    named = sorted(headings) if len(set(headings)) == len(headings) else []
    order: list[int] | None = None
    out: list[Row] = []
    for line, cells in body:
        if tuple(cells) == headings:
            order = None
        elif named and sorted(cells) == named:
            order = [list(cells).index(heading) for heading in headings]
        elif order is None:
            out.append((line, cells))
        else:
            out.append((line, [cells[k] if k < len(cells) else "" for k in order]))
    return out


def _decode(data: bytes) -> str:
    if not data.strip():
        raise UnreadableFile("This file is empty.")
    for magic, what in PICTURES.items():
        if data.startswith(magic):
            raise UnreadableFile(f"This is {what}, not a CSV file.")
    for mark, encoding in ((b"\xef\xbb\xbf", "utf-8-sig"), (b"\xff\xfe", "utf-16"), (b"\xfe\xff", "utf-16")):
        if data.startswith(mark):
            return data.decode(encoding, errors="replace")
    if b"\x00" in data[:4096]:
        for encoding, zero in (("utf-16-le", 1), ("utf-16-be", 0)):  # written without a mark
            if data[:64][zero::2].count(0) > 24 and data[:64][1 - zero :: 2].count(0) == 0:
                return data.decode(encoding, errors="replace")
        raise UnreadableFile("This is not a text file. Export the logger's data as CSV.")
    try:
        return data.decode("utf-8")
    except UnicodeDecodeError:
        return data.decode("cp1252", errors="replace")


def _unwrapped(text: str) -> str:
    """A text whose quoted headings stand on one line each: "Time⏎(s)"."""
    lines = text.replace("\r\n", "\n").replace("\r", "\n").split("\n")
    out: list[str] = []
    for line in lines:
        before = out[-1] if out else ""
        if len(out) <= _ABOVE and before.count('"') % 2 and before.count("\v") < MOST_WRAPPED:
            out[-1] = f"{before}\v{line}"
        else:
            out.append(line)
    if any(line.count('"') % 2 and "\v" in line for line in out):  # a quote that nobody closes
        return text
    return "\n".join(line.replace("\v", " ") for line in out)


def _lines(text: str) -> list[str]:
    lines = text.replace("\r\n", "\n").replace("\r", "\n").split("\n")
    while lines and not lines[-1].strip():
        lines.pop()
    if len(lines) > MAX_ROWS + _ABOVE:
        raise UnreadableFile(
            f"{len(lines) - 1:,} rows; Thermion reads up to {MAX_ROWS:,}. Export the file with a longer "
            "interval, or only the part that belongs to this run."
        )
    longest = max(range(len(lines)), key=lambda i: len(lines[i]), default=0)
    if lines and len(lines[longest]) > MAX_LINE:
        raise UnreadableFile(
            f"Line {longest + 1} has {len(lines[longest]):,} letters: this is not a table of readings. "
            "Export the logger's data as CSV."
        )
    if lines and lines[0].lower().startswith("sep=") and len(lines[0]) == 5:
        lines[0] = ""
    return lines


def _split(lines: Sequence[str], separator: str) -> list[list[str]]:
    if separator == " ":
        return [re.split(r"\s{2,}|\t", line.strip()) for line in lines]
    return [_clean(row) for row in csv.reader(io.StringIO("\n".join(lines)), delimiter=separator)]


def _clean(row: Sequence[str]) -> list[str]:
    return [cell.strip(" \u00a0\ufeff'").strip() if cell else "" for cell in row]


def _separator(lines: Sequence[str]) -> str:
    """The separator under which most lines fall into equally many times, dates, numbers and gaps."""
    filled = [line for line in lines if line.strip()]
    sample = filled[-_SAMPLE - 5 : -5] if len(filled) > 2 * _SAMPLE else filled[-_SAMPLE:]

    def fits(separator: str) -> float:
        try:
            rows = _split([line.replace('"', "") for line in sample], separator)
        except csv.Error:
            return 0.0
        wide, often = Counter(len(row) for row in rows).most_common(1)[0] if rows else (0, 0)
        if wide < 2:
            return 0.0
        cells = [cell for row in rows for cell in row if cell]
        read = sum(is_number(c) or is_clock(c) or is_date(c) or c.lower() in MISSING for c in cells)
        return often / len(rows) * (0.3 + read / max(len(cells), 1))

    scores = {separator: fits(separator) for separator in SEPARATORS}
    best = max(SEPARATORS, key=lambda s: (round(scores[s], 2), -SEPARATORS.index(s)))
    return best if scores[best] > 0 else ","


def _cells(lines: Sequence[str], separator: str) -> list[Row]:
    if separator == " ":
        return [*enumerate(_split(lines, separator), 1)]
    try:
        reader = csv.reader(lines, delimiter=separator)
        rows: list[Row] = [(reader.line_num, _clean(row)) for row in reader]
    except csv.Error as error:
        raise UnreadableFile(f"This is not a table that can be read: {error}.") from None
    if len(rows) < len(lines) or any(
        "\n" in cell for _, row in rows for cell in row
    ):  # a quote that stays open
        bare = [line.replace('"', "") for line in lines]
        rows = [(i + 1, _clean(line.split(separator))) for i, line in enumerate(bare)]
    return rows


def _is_data(row: Sequence[str]) -> bool:
    """Whether a row holds readings: numbers, times and gaps, and hardly any other words."""
    filled = [c for c in row if c]
    read = [c for c in filled if is_number(c) or is_clock(c) or is_date(c)]
    known = len(read) + sum(c.lower() in MISSING for c in filled)
    return (
        bool(read) and (len(read) >= 2 or len(row) == 1 or known > len(read)) and known * 5 >= len(filled) * 2
    )


def _names_by_number(row: Sequence[str], after: Sequence[str]) -> bool:
    """Whether a row that looks like readings names columns by whole numbers: Time, 1, 2, 3."""
    words = [k for k, cell in enumerate(row) if cell and not _reads(cell) and cell.lower() not in MISSING]
    others = [cell for k, cell in enumerate(row) if cell and k not in words]
    told = any(k < len(after) and _reads(after[k]) for k in words)
    return told and all(cell.isdigit() for cell in others) and len(set(others)) == len(others)


def _reads(cell: str) -> bool:
    return is_number(cell) or is_clock(cell) or is_date(cell)


def _remark(row: Sequence[str], usual: int) -> bool:
    """Whether a row is empty, or one remark between the readings."""
    filled = [cell for cell in row if cell]
    return not filled or (usual > 1 and len(filled) == 1 and not _reads(filled[0]))


def _first_data(rows: Sequence[Row]) -> int:
    """The first row of readings: it and the next such rows have the width that most rows have."""
    widths = Counter(len(cells) for _, cells in rows if any(cells))
    usual = widths.most_common(1)[0][0] if widths else 0
    for i, (_, cells) in enumerate(rows[:_ABOVE]):
        if not _is_data(cells) or abs(len(cells) - usual) > 1:
            continue
        before = list(rows[i - 1][1]) if i else []  # headings may be written once more
        after = [c for _, c in rows[i + 1 : i + 6] if not _remark(c, usual) and list(c) != before][:2]
        if after and _names_by_number(cells, after[0]):
            continue
        if all(_is_data(c) for c in after) or len(after) == 0:
            return i
    raise UnreadableFile(
        "No rows of times and numbers were found in this file. Export the logger's readings as CSV: "
        "a row of column names, then one row for each moment."
    )


def _heading(rows: Sequence[Row], start: int) -> int | None:
    """The row of column names above the readings; the row of units between, if there is one, is not it."""
    usual = len(rows[start][1])
    above = [i for i in range(start) if not _remark(rows[i][1], usual)]
    if not above:
        return None
    last = above[-1]

    def names(i: int) -> bool:
        cells = [c for c in rows[i][1] if c]
        return (
            len(cells) >= max(1, min(2, usual))
            and (not _is_data(rows[i][1]) or _names_by_number(rows[i][1], rows[start][1]))
            and len(rows[i][1]) >= usual / 2
        )

    if len(above) > 1 and unit_row(rows[last][1]) and names(above[-2]) and last == above[-2] + 1:
        return above[-2] if last == start - 1 else None
    return last if names(last) else None


def _fitted(
    body: list[Row], headings: tuple[str, ...], units: tuple[str, ...], separator: str
) -> tuple[list[Row], tuple[str, ...], tuple[str, ...]]:
    """Rows under their headings: trailing separators fall away; a decimal comma cut in two is refused."""
    while headings and not headings[-1]:
        headings = headings[:-1]
    wide = Counter(_width(cells) for _, cells in body).most_common(1)[0][0]
    points = any("." in cell and is_number(cell) for _, cells in body[:200] for cell in cells)
    advice = (
        "the decimal comma and the comma between columns cannot be told apart. Export it with semicolons "
        "between columns, or with decimal points."
    )
    if separator == "," and not points:
        if headings and wide > len(headings):
            raise UnreadableFile(f"Rows have {wide} parts under {len(headings)} column names: {advice}")
        if not headings and wide > 2:
            raise UnreadableFile(f"The columns have no names, and {advice}")
    if headings and wide == len(headings) + 1:  # numbers of rows, without a name
        return body, ("row", *headings), ("", *units) if units else units
    if headings and wide > len(headings):
        raise UnreadableFile(
            f"Rows have {wide} parts under {len(headings)} column names. Which is which cannot be told: "
            "export it with a name for each column."
        )
    return body, headings, units


def _width(cells: Sequence[str]) -> int:
    return max((i + 1 for i, cell in enumerate(cells) if cell), default=0)
