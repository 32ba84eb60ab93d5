"""Is this reading a slip? Answers ``ok``, ``ask`` with a likely correction, or ``refuse``.

``ask`` never blocks the entry: the reading is stored and the question stands beside it.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from itertools import pairwise
from math import isfinite
from statistics import median

from thermion.core.physics.units import TempUnit, convert, unit_label
from thermion.core.values import Check, single

ABSOLUTE_ZERO_C = -273.15
OUT_K = 2.0  # so near to the air's temperature, a probe may lie in it


@dataclass(frozen=True)
class Expectation:
    """What the readings so far lead one to expect [°C], and how far off is still usual [K]."""

    value: float
    tolerance: float


@dataclass(frozen=True)
class Context:
    """What is known when a temperature is typed; `above_air`: it is of what is warmer than the air;
    `unit_said`: its unit was written beside it, so nobody mistook that."""

    possible_c: tuple[float, float]
    unit: TempUnit = "degC"
    expected: Expectation | None = None
    neighbours: Mapping[str, Expectation] = field(default_factory=dict)
    air_c: float | None = None
    above_air: bool = False
    unit_said: bool = False


def expect(
    time_s: Sequence[float], temp_c: Sequence[float], at_s: float, *, floor_k: float = 4.0
) -> Expectation | None:
    """Expected temperature at `at_s` from a build's own readings so far in this phase.

    A curve that levels off goes on by something between nothing and the median slope of the
    last three steps (Theil-Sen [1]_); the middle of that is expected, and its half-width plus
    `floor_k` plus four robust standard deviations (1.4826 × MAD) of earlier changes of the step
    is still usual. One reading: a wide guess around it. None without readings.

    .. [1] P. K. Sen, J. Am. Stat. Assoc. 63, 1379 (1968), doi:10.1080/01621459.1968.10480934.
    """
    if len(time_s) != len(temp_c) or not all(isfinite(x) for x in (*time_s, *temp_c)):
        raise ValueError("time_s, temp_c: expected as many finite times as temperatures")
    if len(time_s) < 2:
        return Expectation(temp_c[0], 25.0) if time_s else None
    steps = [b - a for a, b in pairwise(time_s)]
    if min(steps) <= 0:
        raise ValueError("time_s: expected times in increasing order without repeats")
    slopes = [(b - a) / step for (a, b), step in zip(pairwise(temp_c), steps, strict=True)]
    move = median(slopes[-3:]) * (at_s - time_s[-1])
    changes = [(b - a) * step for (a, b), step in zip(pairwise(slopes), steps[1:], strict=True)]
    mad = 0.0
    if len(changes) > 1:
        middle = median(changes)
        mad = median([abs(change - middle) for change in changes])
    return Expectation(temp_c[-1] + 0.45 * move, 0.55 * abs(move) + floor_k + 4 * 1.4826 * mad)


def check_temperature(typed: float, context: Context) -> Check:
    """Check one temperature before it is stored.

    Parameters
    ----------
    typed : what was typed, in `context.unit`.
    context : limits of what is possible [°C], the class's unit, the expectation from the
        build's own curve, and those of the builds beside it (by name).

    Returns
    -------
    Check. ``refuse`` only for what cannot be; a suggestion is given when a slip of unit or
    decimal place explains it.
    """
    number = single("typed", typed)
    value = convert(number, context.unit, "degC")
    low, high = context.possible_c
    slip = _slip(number, value, context)
    room = 1e-9 * max(abs(low), abs(high))  # a limit itself is inside, whatever the last bit says
    if value < max(low, ABSOLUTE_ZERO_C) - room or value > high + room:
        shown = f"{number:g} {unit_label(context.unit)}"
        limits = " to ".join(
            f"{convert(x, 'degC', context.unit):.0f}" for x in (max(low, ABSOLUTE_ZERO_C), high)
        )
        return Check(
            "refuse",
            f"{shown} cannot be here: this test reads {limits} {unit_label(context.unit)}.",
            slip.suggestion if slip else None,
            "impossible",
        )
    if context.expected is None:
        return slip or _colder_than_air(number, value, context) or Check("ok")
    return _beside(number, value, context.expected, slip, context)


def _beside(
    number: float, value: float, expected: Expectation, slip: Check | None, context: Context
) -> Check:
    """A possible temperature beside what the readings so far lead one to expect."""
    if abs(value - expected.value) <= expected.tolerance:
        return _colder_than_air(number, value, context) or Check("ok")
    if context.air_c is not None and abs(value - context.air_c) <= OUT_K:
        other = f" {slip.message}" if slip and slip.code == "other unit" else ""
        return Check("ask", f"That is what the air has. Did the probe fall out?{other}", code="jump")
    if slip:
        return slip
    for name, theirs in context.neighbours.items():
        if abs(value - theirs.value) <= min(theirs.tolerance, 2.0):
            return Check("ask", f"That is what {name} would read. Right row?", None, "neighbour's value")
    jump = value - expected.value
    step = convert(abs(jump), "delta_degC", context.unit.replace("deg", "delta_deg"))
    way = "above" if jump > 0 else "below"
    said = f"{step:.0f} {unit_label(context.unit)} {way} the curve so far. Probe in the air?"
    return Check("ask", said, None, "jump")


def _colder_than_air(number: float, value: float, context: Context) -> Check | None:
    """What is warmer than the air by nature reads less than it: in the other unit, most likely."""
    if context.air_c is None or not context.above_air or value >= context.air_c - OUT_K:
        return None
    other: TempUnit = "degF" if context.unit == "degC" else "degC"
    converted = convert(number, other, "degC")
    low, high = context.possible_c
    if max(low, context.air_c) <= converted <= high and not context.unit_said:
        return _ask_unit(number, converted, other)
    return Check("ask", "That is colder than the air. Is it so?", code="jump")


def _slip(number: float, value: float, context: Context) -> Check | None:
    """The slip of unit or decimal place that would explain the number, if one does."""
    low, high = context.possible_c
    other: TempUnit = "degF" if context.unit == "degC" else "degC"
    converted = convert(number, other, "degC")
    if context.expected is None:
        room = 10.0 <= converted <= 40.0
        if (value > 50.0 or value < 0.0) and room and not context.unit_said:
            return _ask_unit(number, converted, other)
        if value > high and low <= convert(number / 10, context.unit, "degC") <= high:
            suggestion = convert(number / 10, context.unit, "degC")
            return Check("ask", "A decimal sign left out?", suggestion, "decimal place")
        return None
    near = max(6.0, context.expected.tolerance * 0.75)
    cold = convert(context.expected.value, "degC", context.unit) < 10
    for factor, least in ((0.1, 100), (10.0, 0), (0.01, 1000)):
        if abs(number) < least and not cold:
            continue  # thermometers show tenths, so a lost sign leaves three digits
        candidate = convert(number * factor, context.unit, "degC")
        if abs(candidate - context.expected.value) <= near:
            word = "left out" if factor < 1 else "too many"
            return Check("ask", f"A decimal sign {word}?", candidate, "decimal place")
    if abs(converted - context.expected.value) <= near and not context.unit_said:
        return _ask_unit(number, converted, other)
    return None


def _ask_unit(number: float, converted: float, other: TempUnit) -> Check:
    return Check("ask", f"Was that {number:g} {unit_label(other)}?", converted, "other unit")


def check_amount(
    typed: float, low: float, high: float, label: str, *, least: str = "", most: str = "", whole: bool = False
) -> Check:
    """Check one number of an attempt: a count, a length, a volume, a time; any one unit.

    `low` to `high` is what can be (the track, the string, the water poured, the weights there
    are); `least` and `most` say the ends in words. Outside: refused, with a decimal sign
    left out or one too many as suggestion where that would fit. `whole` refuses broken counts.
    """
    value = single("typed", typed)
    if whole and value != int(value):
        return Check("refuse", f"{label} is counted in whole numbers.", code="impossible")
    if not low <= value <= high:
        fits = [value * f for f in (0.1, 0.01, 10.0) if low < value * f <= high]
        over = f"{label} can be at most {most or f'{high:g}'}."
        under = f"{label}: {least or f'{low:g}'} or more."
        return Check("refuse", over if value > high else under, fits[0] if fits else None, "impossible")
    return Check("ok")


def check_word(before: int | None, seen: float, words: Sequence[str], back: str = "") -> Check:
    """Check a value of a scale in words (0 first) against the one seen before.

    With `back`, the question for a scale that only ever rises (melting), going backwards is
    asked, never refused. Refused is only what is none of the words.
    """
    value = single("seen", seen)
    if value not in range(len(words)):
        return Check("refuse", f"There are {len(words)} steps, {words[0]} to {words[-1]}.", code="impossible")
    if back and before is not None and value < before:
        return Check("ask", back, before, "backwards")
    return Check("ok")
