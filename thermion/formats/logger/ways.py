"""One way to read a file's times, and what each way is called."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date
from typing import Literal

# From a start; time of day; a date of the place; a moment of the world.
Axis = Literal["elapsed", "clock", "local", "fixed"]
EPOCH, DAY = date(1970, 1, 1).toordinal(), 86400.0
SAID = {
    "s": "seconds",
    "min": "minutes",
    "h": "hours",
    "ms": "thousandths of a second",
    "day": "days of a spreadsheet",
    "dmy": "day before month",
    "mdy": "month before day",
    "ymd": "year first",
    "h:mm": "hours and minutes",
    "m:ss": "minutes and seconds",
    "h:mm:ss": "hours, minutes and seconds",
    "date": "date and clock",
    "1970 s": "seconds since 1970",
    "1970 ms": "thousandths of a second since 1970",
    "1970 us": "millionths of a second since 1970",
    "serial": "a spreadsheet's day numbers",
}


@dataclass(frozen=True)
class Meaning:
    """One way to read a file's times: `seconds` of each row, None where a cell cannot be meant so."""

    key: str
    axis: Axis
    seconds: tuple[float | None, ...]

    @property
    def read(self) -> int:
        return sum(s is not None for s in self.seconds)


@dataclass(frozen=True)
class Stamp:
    """Columns that tell the time together, and the ways in which they can be meant, likeliest first."""

    columns: tuple[int, ...]
    ways: tuple[Meaning, ...]
