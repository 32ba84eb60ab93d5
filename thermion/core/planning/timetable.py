"""A class's hours in the week and its holidays: which hour comes next."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from datetime import date, datetime, time, timedelta
from itertools import islice

WEEKDAYS = ("Mon", "Tue", "Wed", "Thu", "Fri", "Sat", "Sun")
FAR_DAYS = 400  # no timetable has a hole longer than that


@dataclass(frozen=True, kw_only=True)
class Hour:
    """An hour of every week: its weekday (0 Monday), when it begins, its length [s], of which packing up."""

    weekday: int
    start: time
    length_s: float
    pack_up_s: float

    def __post_init__(self) -> None:
        if not 0 <= self.weekday < len(WEEKDAYS):
            raise ValueError("weekday: expected 0 to 6")
        if not 0 <= self.pack_up_s < self.length_s:
            raise ValueError("pack_up_s: expected less than the lesson")


@dataclass(frozen=True)
class Holiday:
    """Days without lessons, both ends included."""

    first: date
    last: date

    def __post_init__(self) -> None:
        if self.last < self.first:
            raise ValueError("last: expected no day before the first")


def is_free(day: date, holidays: Sequence[Holiday]) -> bool:
    """Whether there is no school on a day."""
    return any(h.first <= day <= h.last for h in holidays)


def next_hours(
    hours: Sequence[Hour], holidays: Sequence[Holiday], after: datetime, count: int
) -> list[tuple[datetime, Hour]]:
    """The next hours that begin after a moment, at the class's own clock; fewer where a year has none."""
    return list(islice(_hours(hours, holidays, after), count))


def _hours(
    hours: Sequence[Hour], holidays: Sequence[Holiday], after: datetime
) -> Iterator[tuple[datetime, Hour]]:
    ordered = sorted(hours, key=lambda hour: hour.start)
    for days in range(FAR_DAYS):
        day = after.date() + timedelta(days=days)
        if is_free(day, holidays):
            continue
        for hour in ordered:
            begins = datetime.combine(day, hour.start, after.tzinfo)
            if hour.weekday == day.weekday() and begins > after:
                yield begins, hour


def next_school_day(after: datetime, holidays: Sequence[Holiday]) -> datetime:
    """The same time on the next day that is no weekend and no holiday."""
    day = after + timedelta(days=1)
    while day.weekday() > 4 or is_free(day.date(), holidays):
        day += timedelta(days=1)
    return day
