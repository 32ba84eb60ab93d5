"""Reads a temperature logger's CSV file as it comes: separators, decimal sign, headings, times.

Nothing is guessed silently: every row that cannot be used is listed with its line and reason.
"""

from __future__ import annotations

import csv
import io
import re
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import UTC, datetime
from functools import cache
from types import ModuleType

MAX_ROWS = 20_000
MAX_LISTED = 200
MAX_LINE = 20_000  # letters
MAX_LINES = MAX_ROWS + 2_000  # with what stands above the readings
LOOKED_AT = 400  # letters of a line by which its separator is found
_PICTURES = {
    b"\x89PNG": "a PNG picture",
    b"\xff\xd8\xff": "a JPEG picture",
    b"GIF8": "a GIF picture",
    b"%PDF": "a PDF",
    b"PK\x03\x04": "a spreadsheet or zip file; save it as CSV first",
    b"SQLite": "a database",
}
_UNIT = re.compile(r"(?:°|º|deg\.?\s*|\b|_)([CF])(?:elsius|ahrenheit)?\b(?!.*°)", re.IGNORECASE)
_ELAPSED = re.compile(r"^(?:(\d+):)?(\d{1,3}):(\d{2}(?:[.,]\d+)?)$")
_DATE = re.compile(r"\d{1,4}[-/.]\d{1,2}[-/.]\d{1,4}")


class UnreadableFile(ValueError):  # noqa: N818 - an answer to a person
    """The file cannot be used at all; the message says why and what to do."""


@dataclass(frozen=True)
class Channel:
    """A column of temperatures: its heading and unit ("degC", "degF", or "" if not said)."""

    index: int
    heading: str
    unit: str


@dataclass(frozen=True)
class Skipped:
    line: int
    reason: str


@dataclass(frozen=True)
class LoggerFile:
    """What a file holds. `rows` are (time from the first usable row [s], value per channel)."""

    channels: tuple[Channel, ...]
    rows: tuple[tuple[float, tuple[float | None, ...]], ...]
    skipped: tuple[Skipped, ...]
    skipped_count: int
    starts_at: datetime | None
    time_heading: str
    delimiter: str
    decimal: str


def read_logger(data: bytes) -> LoggerFile:
    """Parse a file. Raises UnreadableFile when there is nothing to use in it."""
    lines = _lines(_decode(data))
    delimiter = _delimiter(lines)
    table = list(csv.reader(io.StringIO("\n".join(lines)), delimiter=delimiter))
    comma = delimiter != "," and any(
        re.fullmatch(r"\s*-?\d+,\d+\s*", cell) for row in table[:200] for cell in row
    )
    head = _heading_row(table, comma)
    heading = [cell.strip() for cell in table[head]]
    body = [(head + i + 2, row) for i, row in enumerate(table[head + 1 :])]
    if len(body) > MAX_ROWS:
        raise UnreadableFile(
            f"{len(body):,} rows; Thermion reads up to {MAX_ROWS:,}. Export the file with a longer "
            "interval, or only the part that belongs to this run."
        )
    clock = _Clock.find(heading, [row for _, row in body[:50]], comma)
    channels = tuple(
        Channel(i, name or f"column {i + 1}", _unit_of(name))
        for i, name in enumerate(heading)
        if i not in clock.columns and _is_numeric([r[i] for _, r in body if i < len(r)], comma)
    )
    if not channels:
        raise UnreadableFile("No column with numbers beside the time was found.")
    rows, skipped, count = _rows(body, clock, channels, comma)
    if not rows:
        raise UnreadableFile("None of the rows could be used. " + (skipped[0].reason if skipped else ""))
    first = rows[0][0]
    return LoggerFile(
        channels,
        tuple((t - first, v) for t, v in rows),
        tuple(skipped),
        count,
        clock.base_of(first),
        " + ".join(heading[i] for i in clock.columns),
        delimiter,
        "comma" if comma else "point",
    )


def _decode(data: bytes) -> str:
    if not data.strip():
        raise UnreadableFile("This file is empty.")
    for magic, what in _PICTURES.items():
        if data.startswith(magic):
            raise UnreadableFile(f"This is {what}, not a CSV file.")
    for mark, encoding in ((b"\xef\xbb\xbf", "utf-8-sig"), (b"\xff\xfe", "utf-16"), (b"\xfe\xff", "utf-16")):
        if data.startswith(mark):
            return data.decode(encoding, errors="replace")
    if b"\x00" in data[:4096]:
        raise UnreadableFile("This is not a text file. Export the logger's data as CSV.")
    try:
        return data.decode("utf-8")
    except UnicodeDecodeError:
        return data.decode("cp1252", errors="replace")


def _lines(text: str) -> list[str]:
    lines = text.replace("\r\n", "\n").replace("\r", "\n").split("\n")
    while lines and not lines[-1].strip():
        lines.pop()
    if len(lines) > MAX_LINES:
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
    return lines


def _delimiter(lines: Sequence[str]) -> str:
    import clevercsv  # takes half a second to load: not at every start

    sample = [line[:LOOKED_AT] for line in lines[:60] if line.strip()][-40:]
    try:
        dialect = clevercsv.Detector().detect("\n".join(sample), delimiters=[",", ";", "\t", "|"])
    except Exception:  # the detector gives up in several ways; counting is the fallback
        dialect = None
    if dialect is not None and dialect.delimiter in (",", ";", "\t", "|"):
        return str(dialect.delimiter)
    return max(";\t|,", key=lambda d: min(line.count(d) for line in sample[-10:]))


def _number(cell: str, comma: bool) -> float | None:
    text = cell.strip().replace("\u00a0", "").replace("−", "-")
    text = re.sub(r"\s*°?\s*[CF]$", "", text)
    if comma:
        text = text.replace(",", ".")
    try:
        value = float(text)
    except ValueError:
        return None
    return value if abs(value) < 1e6 else None


def _is_numeric(cells: Sequence[str], comma: bool) -> bool:
    filled = [c for c in cells if c.strip()]
    return bool(filled) and sum(_number(c, comma) is not None for c in filled) * 2 > len(filled)


def _looks_like_data(row: Sequence[str], comma: bool) -> bool:
    values = [c for c in row if c.strip()]
    numeric = sum(
        _number(c, comma) is not None or _ELAPSED.match(c.strip()) is not None or _DATE.search(c) is not None
        for c in values
    )
    return len(values) >= 2 and numeric >= 2 and numeric * 2 >= len(values)


def _heading_row(table: Sequence[Sequence[str]], comma: bool) -> int:
    """The row before the first that looks like data; what stands above it is a preamble."""
    for i, row in enumerate(table[:60]):
        if _looks_like_data(row, comma):
            if i == 0:
                raise UnreadableFile("The first row holds data; a row of column names is needed.")
            return i - 1
    raise UnreadableFile("No rows of times and numbers were found in this file.")


@cache
def _parser() -> ModuleType:
    from dateutil import parser  # loaded with the first file

    return parser


def _unit_of(heading: str) -> str:
    found = _UNIT.search(heading)
    return {"C": "degC", "F": "degF"}[found.group(1).upper()] if found else ""


@dataclass(frozen=True)
class _Clock:
    """How the time columns are read; times come out as seconds on one axis."""

    columns: tuple[int, ...]
    how: str  # "elapsed", "clock" or "date"
    scale: float = 1.0

    @classmethod
    def find(cls, heading: Sequence[str], rows: Sequence[Sequence[str]], comma: bool) -> _Clock:
        def filled(i: int) -> list[str]:
            return [r[i].strip() for r in rows if i < len(r) and r[i].strip()]

        dated = [i for i in range(len(heading)) if _mostly(_DATE.search, filled(i))]
        clocked = [i for i in range(len(heading)) if _mostly(_ELAPSED.match, filled(i))]
        if dated:
            day = dated[0]
            extra = clocked[:1] if clocked and not any(":" in c for c in filled(day)) else []
            return cls((day, *extra), "date")
        if clocked:
            return cls((clocked[0],), "clock")
        for i, name in enumerate(heading):
            if re.search(r"time|elapsed|zeit|temps|tiempo|tempo|tid\b|second|minute|^t\b", name, re.I):
                return cls((i,), "elapsed", _scale(name))
        if _is_numeric(filled(0), comma):
            return cls((0,), "elapsed", _scale(heading[0]))
        raise UnreadableFile("No column of times was found.")

    def seconds(self, row: Sequence[str], comma: bool) -> float | None:
        cells = [row[i].strip() if i < len(row) else "" for i in self.columns]
        if not cells[0]:
            return None
        if self.how == "elapsed":
            number = _number(cells[0], comma)
            return None if number is None else number * self.scale
        if self.how == "clock":
            match = _ELAPSED.match(cells[0])
            if match is None:
                return None
            h, m, s = match.groups()
            return int(h or 0) * 3600 + int(m) * 60 + float(s.replace(",", "."))
        try:
            text = " ".join(cells)
            iso = re.match(r"\d{4}-", text) is not None
            moment = _moment(text, iso)
            return moment.replace(tzinfo=UTC).timestamp()
        except (ValueError, OverflowError):
            return None

    def base_of(self, seconds: float) -> datetime | None:
        """The wall-clock moment of a time, when the file has dates; without a zone."""
        if self.how != "date":
            return None
        return datetime.fromtimestamp(seconds, UTC).replace(tzinfo=None)


def _moment(text: str, iso: bool) -> datetime:
    """A date and time; the plain international form the quick way, which a long file needs."""
    if iso:
        try:
            return datetime.fromisoformat(text)
        except ValueError:
            pass
    found: datetime = _parser().parse(text, dayfirst=not iso)
    return found


def _mostly(test: object, cells: Sequence[str]) -> bool:
    return bool(cells) and sum(bool(test(c)) for c in cells) * 2 > len(cells)  # type: ignore[operator]


def _scale(heading: str) -> float:
    if re.search(r"\bmin|\bm\b|minute", heading, re.I):
        return 60.0
    if re.search(r"\bh\b|hour|std", heading, re.I):
        return 3600.0
    return 0.001 if re.search(r"\bms\b|milli", heading, re.I) else 1.0


def _rows(
    body: Sequence[tuple[int, Sequence[str]]], clock: _Clock, channels: Sequence[Channel], comma: bool
) -> tuple[list[tuple[float, tuple[float | None, ...]]], list[Skipped], int]:
    rows: list[tuple[float, tuple[float | None, ...]]] = []
    skipped: list[Skipped] = []
    count = 0

    def skip(line: int, reason: str) -> None:
        nonlocal count
        count += 1
        if len(skipped) < MAX_LISTED:
            skipped.append(Skipped(line, reason))

    for line, row in body:
        if not any(cell.strip() for cell in row):
            continue
        time = clock.seconds(row, comma)
        if time is None:
            skip(line, "the time cannot be read")
            continue
        if rows and time <= rows[-1][0]:
            skip(line, "the time does not go forward")
            continue
        values = []
        for channel in channels:
            cell = row[channel.index].strip() if channel.index < len(row) else ""
            value = _number(cell, comma) if cell else None
            if cell and value is None:
                skip(line, f"“{cell[:30]}” in {channel.heading} is not a number")
                break
            values.append(value)
        else:
            if all(v is None for v in values):
                skip(line, "no value in this row")
                continue
            rows.append((time, tuple(values)))
    return rows, skipped, count
