"""Dates as they are written: which number is the day, and what clock stands behind."""

from __future__ import annotations

import re
from collections.abc import Sequence
from datetime import date
from functools import lru_cache

from thermion.formats.logger.cells import clock_parts, number, plain
from thermion.formats.logger.ways import DAY, EPOCH, Meaning

_MONTHS = {  # by the first three or four letters, in several languages
    name: month
    for month, names in enumerate(
        (
            "jan ene gen ian",
            "feb fév fev",
            "mar mär mrz mrt",
            "apr avr abr",
            "may mai mei mag maj",
            "jun juin giu iun",
            "jul juil lug iul",
            "aug aoû aou ago",
            "sep set",
            "oct okt ott out",
            "nov",
            "dec dez dic déc",
        ),
        1,
    )
    for name in names.split()
}
_WEEKDAY = re.compile(
    r"^(?:mon|tue|wed|thu|fri|sat|sun|montag|dienstag|mittwoch|donnerstag|freitag|samstag|sonntag|mo|di|mi|do|fr|sa|so"
    r"|lun|mer|jeu|ven|sam|dim)(?:[a-z]*day)?\.?,?\s+",
    re.I,
)
_Y_FIRST = re.compile(r"(\d{4})[-/.](\d{1,2})[-/.](\d{1,2})(?!\d)")
_NUMERIC = re.compile(r"(\d{1,2})([-/.])(\d{1,2})\2(\d{4}|\d{2})(?!\d)")
_WORDED = re.compile(r"(\d{1,2})[-. ]*([^\W\d_]{3,10})\.?[-. ,]*(\d{4}|\d{2})(?!\d)")
_WORD_FIRST = re.compile(r"([^\W\d_]{3,10})\.?\s+(\d{1,2}),?\s+(\d{4})(?!\d)")
_COMPACT = re.compile(r"((?:19|20)\d{2})(\d{2})(\d{2})")
_TAIL = re.compile(
    r"[T ,;_\-]*(\d{1,2})(?:[:.h]?(\d{2}))(?:[:.m]?(\d{2})(?:[.,](\d+))?)?s?\s*([ap])?\.?\s?m?\.?"
    r"\s*(?:(Z|UTC|GMT)|([+-])(\d{2}):?(\d{2})|[A-Z]{3,4})?",
    re.IGNORECASE,
)

_Fields = tuple[str, int, int, int, str]  # order ("ymd" or "?"), three numbers as they stand, sign between


def dated(cells: Sequence[str], clocks: Sequence[str] | None) -> list[Meaning]:
    """Ways to read dates: each order of day and month that every cell allows."""
    found = [_date_fields(c) for c in cells]
    tails = [_tail_seconds(t) if f is not None else None for f, t in found]
    if clocks is not None:
        tails = [of_day(c) for c in clocks]
    out = []
    for key in _orders([f for f, _ in found if f is not None and f[0] == "?"]):
        days = [None if f is None else _ordinal(f, key) for f, _ in found]
        wrong = sum(d is None and f is not None for d, (f, _) in zip(days, found, strict=True))
        if wrong > 1 or (wrong and len(found) < 3):  # one cell alone decides nothing: it may be torn
            continue
        meaning = _moments(key, days, tails)
        if any(s is not None for s in meaning.seconds):
            out.append(meaning)
    return out


def _moments(
    key: str, days: Sequence[int | None], tails: Sequence[tuple[float, float | None] | None]
) -> Meaning:
    """Days with what stands behind them; of the world if each one says how far from UTC it is."""
    seconds: list[float | None] = []
    fixed = True
    for day, tail in zip(days, tails, strict=True):
        if day is None or tail is None:
            seconds.append(None)
            continue
        at, offset = tail
        fixed = fixed and offset is not None
        seconds.append((day - EPOCH) * DAY + at - (offset or 0.0))
    return Meaning(key, "fixed" if fixed else "local", tuple(seconds))


def _orders(open_ones: Sequence[_Fields]) -> list[str]:
    """The orders in which dates of three numbers can be meant; with points the day is first everywhere."""
    if not open_ones:
        return ["date"]
    if sum(f[4] == "." for f in open_ones) * 2 > len(open_ones):
        return ["dmy"]
    return ["dmy", "mdy", *(["ymd"] if any(f[3] < 100 for f in open_ones) else [])]


@lru_cache(maxsize=65536)
def _date_fields(cell: str) -> tuple[_Fields | None, str]:
    """The numbers of a date as they stand, and what comes behind it."""
    text = _WEEKDAY.sub("", plain(cell))
    found = _Y_FIRST.match(text)
    if found:
        return ("ymd", int(found[1]), int(found[2]), int(found[3]), "-"), text[found.end() :]
    found = _NUMERIC.match(text)
    if found:
        return ("?", int(found[1]), int(found[3]), int(found[4]), found[2]), text[found.end() :]
    for pattern, name, day, year in ((_WORDED, 2, 1, 3), (_WORD_FIRST, 1, 2, 3)):
        found = pattern.match(text)
        if found:
            month = _month(found[name])
            return (
                ("ymd", full_year(int(found[year])), month, int(found[day]), "-") if month else None
            ), text[found.end() :]
    found = _COMPACT.match(text)
    if found:
        return ("ymd", int(found[1]), int(found[2]), int(found[3]), "-"), text[found.end() :]
    clock_first = re.fullmatch(r"(\d{1,2}:\d{2}(?::\d{2})?(?:\s*[ap]m)?)\s+(.*\d{2,4}.*)", text, re.I)
    if clock_first and not clock_first[2].startswith(("+", "-")):
        fields, rest = _date_fields(clock_first[2])
        return fields, (rest or " " + clock_first[1])
    return None, ""


def _month(word: str) -> int:
    low = word.lower()
    return _MONTHS.get(low[:4]) or _MONTHS.get(low[:3], 0)


def full_year(year: int) -> int:
    return year if year >= 100 else 2000 + year


def _ordinal(fields: _Fields, key: str) -> int | None:
    order, a, b, c, _ = fields
    if order == "?":
        a, b, c = {"dmy": (c, b, a), "mdy": (c, a, b), "ymd": (a, b, c)}[key]
    try:
        return date(full_year(a), b, c).toordinal() if 1970 <= full_year(a) <= 2099 else None
    except ValueError:
        return None


def has_clock(cell: str) -> bool:
    """Whether a clock stands behind the date."""
    fields, rest = _date_fields(cell)
    return fields is not None and bool(rest.strip(" T,;_-Z"))


@lru_cache(maxsize=65536)
def _tail_seconds(rest: str) -> tuple[float, float | None] | None:
    """Seconds of the day behind a date, and the offset from universal time, if it is said."""
    if not rest.strip(" T,;"):
        return 0.0, None
    found = _TAIL.fullmatch(rest.rstrip())
    if found is None:
        return None
    h, m, s, f, half, world, sign, oh, om = found.groups()
    at = clock_s(int(h), int(m), float(s or 0), half or "")
    if at is None:
        return None
    offset = 0.0 if world else None
    if sign:
        offset = (int(oh) * 3600 + int(om) * 60) * (-1 if sign == "-" else 1)
    return at + (float(f"0.{f}") if f else 0.0), offset


def clock_s(hour: int, minute: int, second: float, half: str) -> float | None:
    """Seconds of the day; None for a clock that cannot be."""
    if half:
        if not 1 <= hour <= 12:
            return None
        hour = hour % 12 + (12 if half.lower() == "p" else 0)
    if hour > 24 or minute > 59 or second >= 61:
        return None
    return hour * 3600 + minute * 60 + second


def of_day(cell: str) -> tuple[float, float | None] | None:
    """A clock in a column of its own, beside a date."""
    parts = clock_parts(cell)
    if parts is not None and not parts.days:
        at = clock_s(parts.first, parts.second, parts.third or 0.0, parts.half)
        return None if at is None else (at + parts.rest, None)
    if re.fullmatch(r"\d{5,6}", cell):  # 95900, 100000
        digits = cell.zfill(6)
        at = clock_s(int(digits[:2]), int(digits[2:4]), float(digits[4:]), "")
        return None if at is None else (at, None)
    share = number(cell, "either")
    if (
        share is not None and 0 <= share < 1 and not float(share).is_integer()
    ):  # a spreadsheet's part of a day
        return share * DAY, None
    return None
