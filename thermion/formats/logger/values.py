"""The values of each channel: its unit and where that was found; cells that hold no temperature."""

from __future__ import annotations

from bisect import bisect_left, bisect_right
from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass
from statistics import median
from typing import TYPE_CHECKING, Literal

from thermion.core.physics.units import convert, unit_label
from thermion.formats.logger.above import unit_above
from thermion.formats.logger.asking import Answers, Question
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


def read_values(
    sheet: Sheet, tracks: Sequence[Track], decimals: Decimals, said: Answers, usual: str
) -> tuple[list[Channel], list[Question]]:
    """Each channel with its values; questions about units that nobody says or that cannot be."""
    from thermion.formats.logger.reader import Channel

    raw = [[(line, s, cell, *value(cell, decimals)) for line, s, cell in track] for _, track in tracks]
    shared = shared_letter([group.name for group, _ in tracks])
    above = unit_above(sheet.above)
    units, questions, open_ones = [], [], []
    for k, (group, _) in enumerate(tracks):
        cells = Counter(u for *_, u in raw[k] if u)
        says = _sources(sheet, group, cells, shared, above)
        unit = says[0] if says else _Unit("", "")
        numbers = [n for *_, n, _ in raw[k] if n is not None]
        clash = len({s.unit for s in says if s.found != "above the table"}) > 1
        doubt = _doubt(unit.unit, numbers) if unit.unit else ""
        given = said.get(f"unit-{k}", "")
        if unit.unit and (clash or doubt):
            likely = doubt or unit.unit
            questions.append(_unit_question(k, group, says, numbers, given or likely, doubt))
            unit = _Unit(given if given in UNITS else likely, SAID if given else OPEN)
        elif not unit.unit:
            open_ones.append(k)
        units.append(unit)
    if open_ones:
        guess = said.get("unit", "") or _guess(
            [n for k in open_ones for *_, n, _ in raw[k] if n is not None], usual
        )
        guess = guess if guess in (*UNITS, "none") else usual
        names = ", ".join(tracks[k][0].name for k in open_ones[:4]) + (
            f" and {len(open_ones) - 4} more" if len(open_ones) > 4 else ""
        )
        options = (*((u, unit_label(u)) for u in UNITS), ("none", "no temperature"))
        questions.append(
            Question(
                key="unit",
                text=f"No unit is written for {names}. What is it?",
                options=options,
                likely=guess,
                columns=tuple(open_ones),
            )
        )
        for k in open_ones:
            units[k] = _Unit("" if guess == "none" else guess, SAID if said.get("unit") else OPEN)
    out = []
    for k, (group, _) in enumerate(tracks):
        if units[k].unit == "":
            continue
        times, numbers, lost, count = _cleaned(raw[k], units[k].unit)
        out.append(
            Channel(
                index=k,
                heading=group.name,
                unit=units[k].unit,
                unit_from=units[k].found,
                time_s=tuple(times),
                value=tuple(numbers),
                lost=tuple(lost),
                lost_count=count,
            )
        )
    return out, questions


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


def _cleaned(
    rows: Sequence[tuple[int, float, str, float | None, str]], unit: str
) -> tuple[list[float], list[float], list[Lost], int]:
    """Times and values without cells that hold no temperature; two of one moment are averaged."""
    times: list[float] = []
    values: list[float] = []
    same: list[int] = []
    lost: list[Lost] = []
    count = 0
    low, high = convert(COLDEST_C, "degC", unit), convert(HOTTEST_C, "degC", unit)
    for line, second, cell, read, own in rows:
        number = read if read is None or own in ("", unit) else convert(read, own, unit)
        if number is None:
            reason = "" if not cell else ("no reading" if cell.lower() in MISSING else "is not a number")
        elif number in SIGNS_C:
            reason = SIGNS_C[number]
        else:
            reason = "" if low <= number <= high else "no temperature can be that"
            if not reason:
                if times and times[-1] == second:
                    same[-1] += 1
                    values[-1] += (number - values[-1]) / same[-1]
                else:
                    times.append(second)
                    values.append(number)
                    same.append(1)
                continue
        if cell:
            count += 1
            if reason and len(lost) < MAX_LISTED:
                lost.append(Lost(line, cell[:30], reason))
    times, values = _without_first_signs(times, values, unit, lost, rows)
    return times, values, lost, max(count, len(lost))


def _without_first_signs(
    times: list[float],
    values: list[float],
    unit: str,
    lost: list[Lost],
    rows: Sequence[tuple[int, float, str, float | None, str]],
) -> tuple[list[float], list[float]]:
    """85 °C alone among others is what some probes show before their first reading, not a temperature."""
    sign = FIRST_SIGN[unit]
    if sign not in values:
        return times, values
    room = ALONE_K * (1.8 if unit == "degF" else 1.0)
    lines = {second: (line, cell) for line, second, cell, *_ in rows}
    known = [(t, v) for t, v in zip(times, values, strict=True) if v != sign]
    moments = [t for t, _ in known]  # in order, as the values are
    kept_t, kept_v = [], []
    for t, v in zip(times, values, strict=True):
        if v == sign and known:
            before, after = bisect_left(moments, t), bisect_right(moments, t)
            beside = [x for _, x in (*known[max(before - 1, 0) : before], *known[after : after + 1])]
            if all(abs(x - sign) > room for x in beside):
                line, cell = lines[t]
                lost.append(Lost(line, cell, "what a probe shows before its first reading"))
                continue
        kept_t.append(t)
        kept_v.append(v)
    return kept_t, kept_v


__all__ = ["Lost", "cell_unit", "read_values"]
