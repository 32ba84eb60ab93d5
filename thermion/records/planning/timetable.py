"""The hours and holidays of a class, entered once."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, time

from thermion.core.physics.units import NotANumber, parse_minutes
from thermion.core.planning.timetable import WEEKDAYS, Holiday, Hour
from thermion.records.errors import Refused
from thermion.records.planning.classes import setting_of
from thermion.records.tables import SchoolClass

MOST_HOURS, MOST_HOLIDAYS = 20, 40


@dataclass(frozen=True, kw_only=True)
class HourTyped:
    """An hour as typed; without a start it is none."""

    weekday: str
    start: str
    length: str
    pack_up: str


def hours_of(school_class: SchoolClass) -> list[Hour]:
    return [
        Hour(
            weekday=h["weekday"],
            start=time.fromisoformat(h["start"]),
            length_s=h["length_s"],
            pack_up_s=h["pack_up_s"],
        )
        for h in school_class.hours
    ]


def holidays_of(school_class: SchoolClass) -> list[Holiday]:
    return [Holiday(date.fromisoformat(a), date.fromisoformat(b)) for a, b in school_class.holidays]


def save_timetable(
    school_class: SchoolClass, hours: Sequence[HourTyped], holidays: Sequence[tuple[str, str]]
) -> None:
    """Keep a class's hours and holidays. Refused, naming the field, for what is none; nothing changes then."""
    found = [_hour(h, school_class) for h in hours if h.start.strip()]
    free = [_holiday(first, last) for first, last in holidays if first.strip()]
    if len(found) > MOST_HOURS or len(free) > MOST_HOLIDAYS:
        raise Refused("That is more than a school year has.", "hours")
    school_class.hours = [
        {
            "weekday": h.weekday,
            "start": h.start.isoformat("minutes"),
            "length_s": h.length_s,
            "pack_up_s": h.pack_up_s,
        }
        for h in sorted(found, key=lambda h: (h.weekday, h.start))
    ]
    school_class.holidays = sorted([h.first.isoformat(), h.last.isoformat()] for h in free)


def _hour(typed: HourTyped, school_class: SchoolClass) -> Hour:
    decimal = setting_of(school_class).decimal
    try:
        return Hour(
            weekday=WEEKDAYS.index(typed.weekday),
            start=time.fromisoformat(typed.start.strip()),
            length_s=parse_minutes(typed.length, decimal),
            pack_up_s=parse_minutes(typed.pack_up, decimal),
        )
    except (ValueError, NotANumber):
        said = f"{typed.start} {typed.length}".strip()[:30]
        raise Refused(
            f"“{said}” is no hour of a class: a start as 09:00, minutes, and fewer to pack up.", "hours"
        ) from None


def _holiday(first: str, last: str) -> Holiday:
    try:
        begins = date.fromisoformat(first.strip())
        return Holiday(begins, date.fromisoformat(last.strip()) if last.strip() else begins)
    except ValueError:
        said = f"{first} – {last}"[:40]
        raise Refused(
            f"“{said}” are no holidays: a first day, and a last one not before it.", "hours"
        ) from None
