"""The values of each channel: its unit and where that was found; cells that hold no temperature."""

from __future__ import annotations

from bisect import bisect_left, bisect_right
from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass
from statistics import median
from typing import TYPE_CHECKING, Literal

from thermion.core.physics.units import convert, unit_label
from thermion.formats.asking import Answers, Question
from thermion.formats.logger.above import unit_above
from thermion.formats.logger.cells import (
    FIRST_SIGN,
    MISSING,
    SIGNS_C,
    Decimals,
    cell_unit,
    shared_letter,
    unit_in,
    unit_word,
    value,
)
from thermion.formats.logger.columns import ColumnGroup
from thermion.formats.logger.sheet import Sheet

if TYPE_CHECKING:
    from thermion.formats.logger.reader import Channel

MAX_LISTED = 200
UNITS = ("degC", "degF", "K")
COLDEST_C, HOTTEST_C, ALONE_K = -90.0, 1500.0, 10.0
Track = tuple[ColumnGroup, list[tuple[int, float, str]]]  # line, seconds, cell; in order of time


@dataclass(frozen=True)
class Lost:
    """A cell without a temperature, and why."""

    line: int
    cell: str
    reason: str


Found = Literal[
    "",
    "in the cells",
    "in its column",
    "in the heading",
    "in the row of units",
    "above the table",
    "as answered",
    "to be confirmed",
]
SAID: Found = "as answered"
OPEN: Found = "to be confirmed"


@dataclass(frozen=True)
class _Unit:
    unit: str
    found: Found


@dataclass(frozen=True, slots=True)
class _Cell:
    """What stands in a channel at a moment, and what it is read as; `own` is a unit written beside it."""

    line: int
    time_s: float
    text: str
    number: float | None
    own: str


@dataclass(frozen=True)
class _Column:
    """A channel before its unit is known."""

    group: ColumnGroup
    cells: Sequence[_Cell]

    @property
    def numbers(self) -> list[float]:
        return [c.number for c in self.cells if c.number is not None]


def read_values(
    sheet: Sheet, tracks: Sequence[Track], decimals: Decimals, said: Answers, usual: str
) -> tuple[list[Channel], list[Question]]:
    """Each channel with its values; questions about units that nobody says or that cannot be."""
    columns = [
        _Column(group, [_Cell(line, time_s, cell, *value(cell, decimals)) for line, time_s, cell in track])
        for group, track in tracks
    ]
    shared = shared_letter([group.name for group, _ in tracks])
    above = unit_above(sheet.above)
    units: list[_Unit] = []
    questions: list[Question] = []
    for k, column in enumerate(columns):
        says = _sources(sheet, column.group, _units_in(column), shared, above)
        unit, question = _unit_of(k, column, says, said.get(f"unit-{k}", ""))
        units.append(unit)
        if question is not None:
            questions.append(question)
    nobody = [k for k, unit in enumerate(units) if not unit.unit]
    if nobody:
        unit, question = _asked_for_all([columns[k] for k in nobody], nobody, said.get("unit", ""), usual)
        questions.append(question)
        for k in nobody:
            units[k] = unit
    channels = [_channel(k, column, units[k]) for k, column in enumerate(columns) if units[k].unit]
    return channels, questions


def _units_in(column: _Column) -> Counter[str]:
    return Counter(cell.own for cell in column.cells if cell.own)


def _unit_of(k: int, column: _Column, says: Sequence[_Unit], given: str) -> tuple[_Unit, Question | None]:
    """A channel's unit; a question where it is said in two ways, or the numbers cannot well be in it."""
    if not says:
        return _Unit("", ""), None
    first, numbers = says[0], column.numbers
    # a line above the table is for all channels: what a channel says of itself outweighs it
    clash = len({s.unit for s in says if s.found != "above the table"}) > 1
    doubt = _doubt(first.unit, numbers)
    if not clash and not doubt:
        return first, None
    likely = doubt or first.unit
    question = _unit_question(k, column.group, says, numbers, given or likely, doubt)
    if given:
        return _Unit(given if given in UNITS else likely, SAID), question
    return _Unit(likely, OPEN), question


def _asked_for_all(
    columns: Sequence[_Column], at: Sequence[int], given: str, usual: str
) -> tuple[_Unit, Question]:
    """One question for all channels whose unit nobody says."""
    likely = given or _guess([n for column in columns for n in column.numbers], usual)
    if likely not in (*UNITS, "none"):
        likely = usual
    names = ", ".join(column.group.name for column in columns[:4])
    if len(columns) > 4:
        names += f" and {len(columns) - 4} more"
    question = Question(
        key="unit",
        text=f"No unit is written for {names}. What is it?",
        options=(*((u, unit_label(u)) for u in UNITS), ("none", "no temperature")),
        likely=likely,
        columns=tuple(at),
    )
    return _Unit("" if likely == "none" else likely, SAID if given else OPEN), question


def _channel(k: int, column: _Column, unit: _Unit) -> Channel:
    from thermion.formats.logger.reader import Channel

    times, numbers, lost, count = _cleaned(column.cells, unit.unit)
    return Channel(
        index=k,
        heading=column.group.name,
        unit=unit.unit,
        unit_from=unit.found,
        time_s=tuple(times),
        value=tuple(numbers),
        lost=tuple(lost),
        lost_count=count,
    )


def _sources(sheet: Sheet, group: ColumnGroup, cells: Counter[str], shared: str, above: str) -> list[_Unit]:
    """What is said of a channel's unit, the nearest first."""
    i = group.column
    second = unit_word(sheet.units[i]) if i < len(sheet.units) and sheet.units[i] else ""
    heading = unit_in(sheet.headings[i]) or unit_in(group.name)
    most = cells.most_common(1)
    said = [
        _Unit(most[0][0] if most else "", "in the cells"),
        _Unit(group.unit, "in its column"),
        _Unit(heading, "in the heading"),
        _Unit(second, "in the row of units"),
        _Unit("" if heading or second else shared, "in the heading"),
        _Unit("" if heading or second or shared else above, "above the table"),
    ]
    return [s for s in said if s.unit]


def _doubt(unit: str, numbers: Sequence[float]) -> str:
    """The unit that the numbers look like, where they cannot well be in the one that is written."""
    signs = set(SIGNS_C)
    known = [n for n in numbers if n not in signs]
    if len(known) < 2:
        return ""
    low, middle = min(known), median(known)
    if unit == "K" and middle < 200:
        return "degC"
    if unit == "degC" and low > 245 and middle < 420:
        return "K"
    if unit == "degF" and len(known) > 3 and low > -15 and max(known) < 32:
        return "degC"
    return ""


def _guess(numbers: Sequence[float], usual: str) -> str:
    known = [n for n in numbers if n not in SIGNS_C]
    if known and min(known) > 245 and median(known) < 420:
        return "K"
    if known and usual == "degC" and median(known) > 130:
        return "degF"
    return usual


def _unit_question(
    k: int, group: ColumnGroup, says: Sequence[_Unit], numbers: Sequence[float], likely: str, doubt: str
) -> Question:
    told = " and ".join(dict.fromkeys(f"{unit_label(s.unit)} {s.found}" for s in says))
    read = f"{min(numbers):g} to {max(numbers):g}" if numbers else "nothing"
    why = f" but reads {read}" if doubt else ""
    options = tuple((u, unit_label(u)) for u in UNITS)
    return Question(
        key=f"unit-{k}",
        text=f"{group.name} says {told}{why}. Which unit is it?",
        options=options,
        likely=likely,
        columns=(k,),
    )


def _cleaned(cells: Sequence[_Cell], unit: str) -> tuple[list[float], list[float], list[Lost], int]:
    """Times and values without cells that hold no temperature; two of one moment are averaged."""
    times: list[float] = []
    values: list[float] = []
    same: list[int] = []
    lost: list[Lost] = []
    count = 0
    low, high = convert(COLDEST_C, "degC", unit), convert(HOTTEST_C, "degC", unit)
    for cell in cells:
        number = _in_unit(cell, unit)
        if number is None or number in SIGNS_C or not low <= number <= high:
            reason = _why_none(cell, number)
            count += bool(cell.text)
            if cell.text and reason and len(lost) < MAX_LISTED:
                lost.append(Lost(cell.line, cell.text[:30], reason))
        elif times and times[-1] == cell.time_s:
            same[-1] += 1
            values[-1] += (number - values[-1]) / same[-1]
        else:
            times.append(cell.time_s)
            values.append(number)
            same.append(1)
    times, values = _without_first_signs(times, values, unit, lost, cells)
    return times, values, lost, max(count, len(lost))


def _in_unit(cell: _Cell, unit: str) -> float | None:
    """A cell's number in its channel's unit, whatever unit is written beside it."""
    if cell.number is None or cell.own in ("", unit):
        return cell.number
    return convert(cell.number, cell.own, unit)


def _why_none(cell: _Cell, number: float | None) -> str:
    """Why a cell holds no temperature; "" for an empty one."""
    if number is not None:
        return SIGNS_C.get(number, "no temperature can be that")
    if not cell.text:
        return ""
    return "no reading" if cell.text.lower() in MISSING else "is not a number"


def _without_first_signs(
    times: list[float], values: list[float], unit: str, lost: list[Lost], cells: Sequence[_Cell]
) -> tuple[list[float], list[float]]:
    """85 °C alone among others is what some probes show before their first reading, not a temperature."""
    sign = FIRST_SIGN[unit]
    if sign not in values:
        return times, values
    room = convert(ALONE_K, "delta_degC", f"delta_{unit}" if unit != "K" else "delta_degC")
    at = {cell.time_s: cell for cell in cells}
    known = [(t, v) for t, v in zip(times, values, strict=True) if v != sign]
    moments = [t for t, _ in known]  # in order, as the values are
    kept_t, kept_v = [], []
    for t, v in zip(times, values, strict=True):
        if v == sign and known:
            before, after = bisect_left(moments, t), bisect_right(moments, t)
            beside = (*known[max(before - 1, 0) : before], *known[after : after + 1])
            if all(abs(x - sign) > room for _, x in beside):
                lost.append(Lost(at[t].line, at[t].text, "what a probe shows before its first reading"))
                continue
        kept_t.append(t)
        kept_v.append(v)
    return kept_t, kept_v


__all__ = ["Lost", "cell_unit", "read_values"]
