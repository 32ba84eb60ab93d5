"""The times of a file: which columns tell them, and every way in which they can be meant."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date
from itertools import pairwise

from thermion.formats.logger.cells import (
    ClockParts,
    Decimals,
    clock_parts,
    is_clock,
    is_date,
    number,
    unit_in,
)
from thermion.formats.logger.dates import clock_s, dated, full_year, has_clock
from thermion.formats.logger.sheet import Sheet
from thermion.formats.logger.ways import DAY, EPOCH, Axis, Meaning, Stamp

SAMPLE = 400
EARLIEST_NUMBER = 30_000  # of a date as a number: a day of 1982 in a spreadsheet
_TIME_WORDS = (
    "time t elapsed zeit temps tiempo tempo tid uptime runtime timestamp ora duration dauer moment laufzeit uhrzeit"
    " heure hora clock datetime datum date fecha data stamp zeitstempel horodatage relative x"
)
_INDEX_WORDS = "row index no nr record sample scan count id line"
_TIME, _INDEX = frozenset(_TIME_WORDS.split()), frozenset(_INDEX_WORDS.split())
_UNITS = {
    "s": "s sec secs second seconds sek sekunde sekunden seconde secondes segundo segundos secondi",
    "min": "min mins minute minutes minuten minuto minutos minuti",
    "h": "h hr hrs hour hours std stunde stunden heure heures hora horas ore",
    "ms": "ms msec msecs millis millisecond milliseconds millisekunden",
    "day": "d day days tag tage jour jours serial",
}
UNIT_OF_WORD = {word: unit for unit, words in _UNITS.items() for word in words.split()}
SECONDS = {"s": 1.0, "min": 60.0, "h": 3600.0, "ms": 0.001, "day": DAY}


def words_of(heading: str) -> list[str]:
    """The words of a heading in small letters, also those run together: elapsedMs, t_min."""
    parted = re.sub(r"(?<=[a-zäöü])(?=[A-Z])", " ", heading)
    return [w for w in re.split(r"[^a-zäöüéèß]+", parted.lower()) if w]


def names_time(heading: str) -> bool:
    words = words_of(heading)
    if unit_in(heading):
        return False
    return any(w in _TIME for w in words) or (bool(words) and all(w in UNIT_OF_WORD for w in words))


def says_time(heading: str) -> int:
    """How plainly a heading says that it is a time: 2 with nothing but words for it and its unit, 1 among others
    or by one letter, 0 by a unit alone or with a number behind: T1, min."""
    words = words_of(heading)
    told = [w for w in words if w in _TIME and len(w) > 1]
    if told and all(w in _TIME or w in UNIT_OF_WORD for w in words):
        return 2
    if any(ch.isdigit() for ch in heading) and not told:
        return 0
    return int(bool(told) or any(w in _TIME for w in words))


def names_index(heading: str) -> bool:
    """Whether a heading names numbers of rows."""
    return bool(set(words_of(heading)) & _INDEX) or heading.strip() in ("#", "№")


def stamps_of(sheet: Sheet, decimals: Decimals) -> list[Stamp]:
    """Every column, or pair of columns, that can be the time of the rows; dates before clocks before numbers."""
    parts = _in_parts(sheet, decimals)
    if parts is not None:
        return [parts]
    columns = _columns(sheet, decimals)
    out = _days(sheet, columns)
    used = {c for stamp in out for c in stamp.columns}
    for i in (*columns.clocks, *columns.numbers):
        if i in used:
            continue
        cells, heading, unit = sheet.column(i), sheet.headings[i], _unit_cell(sheet, i)
        ways = (
            _clocked(cells, heading, unit)
            if i in columns.clocks
            else _numbered(cells, heading, unit, decimals)
        )
        if ways:
            out.append(Stamp((i,), tuple(ways)))
    return out


@dataclass(frozen=True)
class _Columns:
    """Columns by what most of their cells are."""

    days: tuple[int, ...]
    clocks: tuple[int, ...]
    numbers: tuple[int, ...]


def _columns(sheet: Sheet, decimals: Decimals) -> _Columns:
    sample = sheet.body[:: max(1, len(sheet.body) // SAMPLE)]
    found: dict[str, list[int]] = {"day": [], "clock": [], "number": [], "": []}
    for i, heading in enumerate(sheet.headings):
        cells = [row[i] for _, row in sample if i < len(row) and row[i]]
        kinds = [_kind(c, heading, decimals) for c in cells]
        most = max(("day", "clock", "number"), key=kinds.count)
        found[most if cells and kinds.count(most) * 2 > len(cells) else ""].append(i)
    return _Columns(tuple(found["day"]), tuple(found["clock"]), tuple(found["number"]))


def _kind(cell: str, heading: str, decimals: Decimals) -> str:
    if is_clock(cell):
        return "clock"
    if is_date(cell) and not (cell.isdigit() and not names_time(heading)):  # 20260603 may be anything
        return "day"
    return "number" if number(cell, decimals) is not None else ""


def _days(sheet: Sheet, columns: _Columns) -> list[Stamp]:
    """Columns of dates, each with its clock: behind the date, or in a column of its own."""
    out: list[Stamp] = []
    used: set[int] = set()
    for i in columns.days:
        day = sheet.column(i)
        alone = not any(has_clock(c) for c in day[:SAMPLE])
        named = [j for j in columns.numbers if names_time(sheet.headings[j])]
        free = [j for j in (*columns.clocks, *named) if j not in used] if alone else []
        near = sorted(free, key=lambda j: abs(j - i))
        pair = next((j for j in near if j in columns.clocks), near[0] if near else -1)
        ways = dated(day, sheet.column(pair) if pair >= 0 else None)
        if ways and (pair >= 0 or not alone):
            out.append(Stamp((i, pair) if pair >= 0 else (i,), tuple(ways)))
            used.add(pair)
    return out


def _unit_cell(sheet: Sheet, index: int) -> str:
    return sheet.units[index] if index < len(sheet.units) else ""


# clocks


def _clocked(cells: Sequence[str], heading: str, unit: str) -> list[Meaning]:
    """Ways to read 10:05 or 10:05:30: two parts can be hours and minutes, or minutes and seconds."""
    parts = [clock_parts(cell) for cell in cells]
    written = [p for p in parts if p is not None]
    three = sum(p.third is not None for p in written)
    two = len(written) - three
    hint = f"{heading} {unit}".lower().replace(" ", "")
    if three > 1 or not two:
        return [_of_three(parts, elapsed="elapsed" in hint or two > 0)]
    return _of_two([p if p is not None and p.third is None else None for p in parts], cells, hint)


def _of_three(parts: Sequence[ClockParts | None], *, elapsed: bool) -> Meaning:
    """Hours, minutes and seconds; what has two parts among them is minutes and seconds: 59:30, then 1:00:00."""
    whole = [
        ClockParts(0, p.first, float(p.second), days=p.days, rest=p.rest) if p and p.third is None else p
        for p in parts
    ]
    seconds = tuple(None if p is None else _h_m_s(p) for p in whole)
    return Meaning("h:mm:ss", "elapsed" if elapsed else "clock", seconds)


def _of_two(parts: Sequence[ClockParts | None], cells: Sequence[str], hint: str) -> list[Meaning]:
    """Hours and minutes, or minutes and seconds: the likelier first."""
    known = [p for p in parts if p is not None]
    clock = Meaning("h:mm", "clock", tuple(None if p is None else _h_m_s(p) for p in parts))
    minutes = tuple(None if p is None else p.first * 60.0 + p.second + p.rest for p in parts)
    elapsed = Meaning("m:ss", "elapsed", minutes)
    if sum(bool(p.half) for p in known) > 1:
        return [clock]
    finer = sum(p is not None and ("." in c or "," in c) for c, p in zip(cells, parts, strict=True))
    no_hours = sum(p.first > 23 for p in known) > 1
    if re.search(r"(?<!:)m?m:ss", hint) or finer > 1 or no_hours:
        return [elapsed]
    if any(word in hint for word in ("hh:mm", "h:mm", "uhrzeit")):
        return [clock]
    begins_small = bool(known) and known[0].first < 5  # a lesson begins later in the day
    return [elapsed, clock] if begins_small else [clock, elapsed]


def _h_m_s(p: ClockParts) -> float | None:
    """Seconds of hours, minutes and seconds; None where they cannot be that."""
    second = p.third or 0.0
    if p.second > 59 or second >= 61:
        return None
    if p.half:
        at = clock_s(p.first, p.second, second, p.half)
        return None if at is None else at + p.rest
    return p.days * DAY + p.first * 3600.0 + p.second * 60.0 + second + p.rest


# numbers


def _numbered(cells: Sequence[str], heading: str, unit: str, decimals: Decimals) -> list[Meaning]:
    """Ways to read numbers as times: by the unit that the heading names, else by what they can be."""
    said = _unit_said(heading, unit)
    time = names_time(heading) or (unit != "" and said != "")
    if not time and not _large(cells[:SAMPLE], decimals):
        return []
    numbers = [number(c, decimals) if c else None for c in cells]
    known = [n for n in numbers if n is not None]
    if not any(b != a for a, b in pairwise(known)):  # a time goes on
        return []
    day = _calendar(numbers, known, said)
    if day or not time or names_index(heading):
        return day
    if said and not (said == "min" and "max" in words_of(heading)):  # min and max of a value
        return [_scaled(said, "elapsed", numbers, SECONDS[said])]
    keys = by_length(known)
    if _parts_of_a_day(known):
        keys.insert(0, "day")
    return [_scaled(k, "clock" if k == "day" else "elapsed", numbers, SECONDS[k]) for k in keys]


def _parts_of_a_day(known: Sequence[float]) -> bool:
    """Whether numbers can be times of day as a spreadsheet holds them: 0.5 is noon."""
    return max(known) < 2 and usual_gap(known) < 0.05 and not all(n.is_integer() for n in known)


def _unit_said(heading: str, unit: str) -> str:
    """The unit of time that a row of units or a heading names, the heading's last word first; else none."""
    words = (*words_of(unit), *reversed(words_of(heading)))
    return next((UNIT_OF_WORD[word] for word in words if word in UNIT_OF_WORD), "")


def _large(cells: Sequence[str], decimals: Decimals) -> bool:
    """Whether all numbers are so large that they may be dates."""
    early = [n for c in cells if c and (n := number(c, decimals)) is not None]
    return bool(early) and min(early) >= EARLIEST_NUMBER


def _scaled(
    key: str, axis: Axis, numbers: Sequence[float | None], scale: float, shift: float = 0.0
) -> Meaning:
    return Meaning(key, axis, tuple(None if n is None else round(n * scale + shift, 3) for n in numbers))


def _calendar(numbers: Sequence[float | None], known: Sequence[float], said: str) -> list[Meaning]:
    """Numbers so large that they can only be counted from 1970, or a spreadsheet's days."""
    low, high = min(known), max(known)
    for key, scale in (("1970 s", 1.0), ("1970 ms", 1e-3), ("1970 us", 1e-6)):
        if 9.4e8 / scale <= low <= high <= 2.4e9 / scale and not (said == "ms" and scale == 1.0):
            return [_scaled(key, "fixed", numbers, scale)]
    whole = all(n.is_integer() for n in known)
    if (
        EARLIEST_NUMBER <= low <= high <= 60_000
        and not whole
        and usual_gap(known) < 0.1
        and said in ("", "day")
    ):
        return [_scaled("serial", "local", numbers, DAY, (date(1899, 12, 30).toordinal() - EPOCH) * DAY)]
    return []


def usual_gap(known: Sequence[float]) -> float:
    gaps = sorted(abs(b - a) for a, b in pairwise(known))
    return gaps[len(gaps) // 2] if gaps else 0.0


def by_length(known: Sequence[float]) -> list[str]:
    """Units that numbers of time can be in, those that make a lesson's length first."""
    keys, total, usual = ["s", "min", "h", "ms"], max(known) - min(known), usual_gap(known)
    fits = [k for k in keys if 100 <= total * SECONDS[k] <= 8 * 3600 and 0.04 <= usual * SECONDS[k] <= 900]
    return sorted(keys, key=lambda k: k not in fits)


def _in_parts(sheet: Sheet, decimals: Decimals) -> Stamp | None:
    """Year, month, day, hour, minute and second in columns of their own."""
    names = {w: i for i, h in enumerate(sheet.headings) for w in words_of(h)[:1]}
    wanted = [("year",), ("month",), ("day",), ("hour", "hr", "h"), ("minute", "min"), ("second", "sec")]
    columns = [next((names[n] for n in group if n in names), -1) for group in wanted]
    if min(columns[:5]) < 0:
        return None
    rows = zip(*(sheet.column(i) if i >= 0 else ["0"] * len(sheet.body) for i in columns), strict=True)
    seconds = [_moment([number(c, decimals) for c in row]) for row in rows]
    return Stamp(tuple(c for c in columns if c >= 0), (Meaning("date", "local", tuple(seconds)),))


def _moment(parts: Sequence[float | None]) -> float | None:
    """Year, month, day, hour, minute, second as seconds since 1970; None where one is missing or cannot be."""
    known = [part for part in parts if part is not None]
    if len(known) < len(parts):
        return None
    year, month, day, hour, minute = (int(part) for part in known[:5])
    try:
        days = date(full_year(year), month, day).toordinal() - EPOCH
    except (ValueError, OverflowError):
        return None
    at = clock_s(hour, minute, known[5], "")
    return None if at is None else days * DAY + at
