"""Lines as boards write them on a serial line, as values by the name of their channel.

A line that is no reading says nothing; of a line that was torn nobody can know, so the first one after the
line was opened is not read, and none that does not end.
"""

from __future__ import annotations

import json
import re
from math import isfinite

from thermion.core.physics.units import convert

LONGEST = 400
_NUMBER = r"[+-]?\d+(?:[.,]\d+)?(?:[eE][+-]?\d+)?"
UNITS = {"C": "Cel", "F": "Cel", "K": "K", "g": "g", "kg": "kg", "mL": "l", "l": "l"}  # → as it is sent
UNITS |= {"mm": "m", "cm": "m", "m": "m", "ms": "s", "s": "s", "count": "count"}
_TIMES = {"mL": 1e-3, "mm": 1e-3, "cm": 1e-2, "ms": 1e-3}
_SPELT = {unit.casefold(): unit for unit in UNITS}
_UNIT = rf"(?:\s*(?:°|deg\s?)?(?P<unit>{'|'.join(sorted(UNITS, key=len, reverse=True))})(?![A-Za-z]))?"
_NAMED = re.compile(rf"(?P<name>[A-Za-z][A-Za-z0-9_.\-]*)\s*[:=]\s*(?P<value>{_NUMBER}){_UNIT}", re.I)
_BARE = re.compile(rf"(?P<value>{_NUMBER}){_UNIT}", re.I)
_BETWEEN = re.compile(r"[;,\t ]+")
Unit = str  # one of UNITS, or "" where the line does not say
CLOCKS = {"t", "ts", "time", "timestamp", "millis", "uptime"}  # what a board calls its own clock


def read_line(line: str) -> list[tuple[str, float, Unit]]:
    """(name, value, unit) of each channel of a line; nothing of a line that is no reading.

    Read are `A:21.5 B:22.0`, `temp=21.5C`, `21.5`, `21.5;22.0`, `1,21.5,22.0` as three values, tabs
    and blanks between, and a JSON object of numbers. Values without a name are called by their place: 1, 2.
    A decimal comma is read where nothing else can be meant: with blanks, tabs or semicolons between. Nothing is
    read of 21,5: that may be one number or two. The board's own clock (t, ts, time, millis, uptime) beside other
    channels is none of them: a value counts as taken when it came.
    """
    text = line.strip()
    if not text or len(text) > LONGEST:
        return []
    if text.startswith("{"):
        return _without_clock(_object(text))
    named = list(_NAMED.finditer(text))
    if named:
        rest = _NAMED.sub(" ", text)
        if _BETWEEN.sub("", rest):
            return []
        return _without_clock([(m["name"], *_said(m)) for m in named])
    cells = re.split(r"[;\t ]+" if re.search(r"[;\t ]", text) else r",", text)
    found = [_BARE.fullmatch(cell.strip()) for cell in cells if cell.strip()]
    if not found or any(m is None for m in found) or may_be_decimals(text):
        return []
    return [(str(i), *_said(m)) for i, m in enumerate(found, 1) if m]


def _without_clock(found: list[tuple[str, float, Unit]]) -> list[tuple[str, float, Unit]]:
    """The channels of a line; what is called as a clock and has no unit is one, unless it stands alone."""
    channels = [each for each in found if each[2] or each[0] not in CLOCKS]
    return channels or found


def may_be_decimals(line: str) -> bool:
    """Whether commas between whole numbers may stand before decimals: 21,5 or 21,5,22,0."""
    cells = line.strip().split(",")
    return len(cells) % 2 == 0 and all(re.fullmatch(r"[+-]?\d+", cell.strip()) for cell in cells)


def as_sent(value: float, unit: Unit) -> tuple[float, str]:
    """A value of a unit, as a number in the unit that it is sent in."""
    number = convert(value, "degF", "degC") if unit == "F" else value * _TIMES.get(unit, 1.0)
    return number, UNITS[unit]


def _said(found: re.Match[str]) -> tuple[float, Unit]:
    return _number(found["value"]), _SPELT.get((found["unit"] or "").casefold(), "")


def _number(text: str) -> float:
    return float(text.replace(",", "."))


def _object(text: str) -> list[tuple[str, float, Unit]]:
    try:
        found = json.loads(text)
    except ValueError:
        return []
    if not isinstance(found, dict):
        return []
    numbers = [
        (name, float(value), "")
        for name, value in found.items()
        if isinstance(value, int | float) and not isinstance(value, bool) and abs(value) < 1e12
    ]
    return [(name, value, unit) for name, value, unit in numbers if isfinite(value)]
