"""The one door for what is observed: typed, pointed at, sent by a device or read from a file.

Whatever is noted of a build comes through `observe` with the quantity that is read there, whose
limits follow from the challenge's choices and rig, and leaves it as a value in the stored unit, a
value with a question, or a refusal. Nobody else turns what a person writes into a reading.
"""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from math import inf
from typing import Literal

from thermion.core.judging.doubts import Known, doubt_of
from thermion.core.judging.plausibility import (
    Context,
    Expectation,
    check_amount,
    check_temperature,
    check_word,
)
from thermion.core.kinds.analysis import Metric
from thermion.core.kinds.base import Kind
from thermion.core.kinds.testing import Reads
from thermion.core.lazy import ArrayLike, FloatArray
from thermion.core.lazy import numpy as np
from thermion.core.physics.units import NotANumber, Setting, convert, parse_number, stored_unit
from thermion.core.values import Check, finite

Source = Literal["hand", "probe", "file"]
_BEYOND = 1e-9  # relative; a limit itself is inside, whatever the last bit says
CLOCK = re.compile(r"(\d{1,3}):([0-5]\d(?:[.,]\d)?)")  # minutes and seconds
MOST = 1e6  # of a quantity without an upper end of its own [shown unit]


@dataclass(frozen=True)
class Quantity:
    """What is read, shown in `unit`, with its limits `low` to `high` [stored unit].

    `words` name the values of a scale in words, 0 first, and `back` is asked when one goes back;
    `whole` numbers are counted, in `things`; `digits` are shown.
    """

    key: str
    label: str
    unit: str
    low: float
    high: float
    words: tuple[str, ...] = ()
    back: str = ""
    whole: bool = False
    things: tuple[str, str] = ("", "")
    digits: int = 1


@dataclass(frozen=True)
class Around:
    """What is known around a reading: `expected` of its own row, `neighbours` by name [°C, K].

    `before` is the last value of the same row [stored unit], `air_c` what the air has, and `above_air`
    says that nothing read here is colder than that; `known` is what is known of an amount.
    """

    expected: Expectation | None = None
    neighbours: Mapping[str, Expectation] = field(default_factory=dict)
    before: float | None = None
    air_c: float | None = None
    above_air: bool = False
    known: Known = field(default_factory=Known)


NOTHING = Around()


@dataclass(frozen=True)
class Observed:
    """A value in the stored unit, None when refused; with what there is to say of it."""

    value: float | None
    check: Check

    @property
    def refused(self) -> bool:
        return self.value is None


def quantity_of(
    read: Reads, rig: Mapping[str, float] | None = None, before: Mapping[str, float] | None = None
) -> Quantity:
    """The quantity of something read, under a rig [stored units].

    `before` holds what was noted of the same attempt already [stored units], by key. What the
    read is `within` bounds it, else its `limit` among the rig's conditions, if they are known.
    """
    stored = stored_unit(read.unit)
    high = convert(read.high, read.unit, stored)
    if read.within and before and read.within in before:
        high = min(high, before[read.within])
    elif read.limit and rig and read.limit in rig:
        high = min(high, rig[read.limit])
    return Quantity(
        key=read.key,
        label=read.label,
        unit=read.unit,
        low=convert(read.low, read.unit, stored),
        high=high,
        words=read.words,
        back=read.back,
        whole=read.whole,
        things=read.things,
        digits=read.digits,
    )


ROOM = 1.05  # times what there was: a scale and a jug differ by so much


def known_of(
    read: Reads,
    rig: Mapping[str, float],
    tolerance: Mapping[str, float],
    *,
    earlier: Sequence[float] = (),
    others: Sequence[float] = (),
) -> Known:
    """What is known of an amount: of the same build and of others [stored unit], and by the rig."""
    most, most_is = inf, ""
    if read.part_of is not None and read.part_of[0] in rig:
        condition, each, most_is = read.part_of
        most = ROOM * each * rig[condition]
    common = rig.get(read.common) if read.common else None
    usual = tolerance.get(read.common, 0.5)
    return Known(
        earlier=tuple(earlier),
        others=tuple(others),
        most=most,
        most_is=most_is,
        common=common,
        usual=usual,
        loose=read.scale == "string",
    )


def predicted(kind: Kind, choices: Mapping[str, str], rig: Mapping[str, float]) -> Quantity:
    """What teams predict under these choices: a metric, within the limits of what it is read by."""
    metric = kind.analysis.prediction_for(choices)
    reads = [*kind.test.reads_for(choices), *kind.test.attempt_reads(choices)]
    by = next((read for read in reads if read.key == metric.reads), None)
    if by is not None:
        return replace(quantity_of(by, rig), key="prediction", label=metric.label, unit=metric.unit)
    return _bare(metric)


def _bare(metric: Metric) -> Quantity:
    """A metric without a reading of its own: zero or more, a share at most all of it."""
    stored = metric.si_unit
    high = convert(100.0 if metric.unit == "percent" else MOST, metric.unit, stored)
    return Quantity(
        key="prediction", label=metric.label, unit=metric.unit, low=0.0, high=high, digits=metric.digits
    )


def observe(
    given: str | float,
    quantity: Quantity,
    setting: Setting,
    *,
    unit: str = "",
    source: Source = "hand",
    around: Around = NOTHING,
) -> Observed:
    """What was observed, as a value, a value with a question, or a refusal.

    Parameters
    ----------
    given : text as typed (a number with or without unit, or a word of the scale), or a number.
    quantity : what is read there, with its limits.
    setting : how the class writes numbers.
    unit : unit of a number; the stored one when empty.
    source : ``hand`` is asked about every slip; a ``probe`` or a ``file`` mistakes no unit and no decimal
        sign, but may lie in the air or in another row.
    around : what the readings so far lead one to expect.

    Returns
    -------
    Observed. A suggestion is in the stored unit.
    """
    try:
        value, remark = _value(given, quantity, setting, unit)
    except NotANumber as error:
        return Observed(None, Check("refuse", str(error), code="unreadable"))
    check = _check(value, quantity, setting, around, unit_said=bool(remark))
    if check.answer == "refuse":
        return Observed(None, check)
    if source != "hand" and check.code not in ("jump", "neighbour's value"):
        check = Check("ok")
    if check.answer == "ok" and remark:
        check = Check("ok", remark)
    return Observed(value, check)


def observe_many(
    given: ArrayLike, quantity: Quantity, setting: Setting, *, unit: str = ""
) -> tuple[FloatArray, int | None, Check]:
    """Values of a device or a file at once [stored unit], the first that cannot be, and why.

    The index is None when all can be; then the answer is ``ok``. ValueError for what is not finite.
    """
    numbers = finite("given", given)
    values, possible = _converted(numbers, quantity, unit)
    outside = np.flatnonzero(np.logical_not(possible))
    if outside.size == 0:
        return values, None, Check("ok")
    first = int(outside[0])
    found = observe(float(numbers[first]), quantity, setting, unit=unit, source="file")
    return values, first, found.check


def possible_values(
    given: ArrayLike, quantity: Quantity, *, unit: str = ""
) -> tuple[list[float], list[bool]]:
    """Values of a device or a file at once [stored unit], and which of them can be what is read there.

    ValueError for what is not finite.
    """
    values, possible = _converted(finite("given", given), quantity, unit)
    return [float(v) for v in values], possible


def _converted(numbers: FloatArray, quantity: Quantity, unit: str) -> tuple[FloatArray, list[bool]]:
    stored = stored_unit(quantity.unit)
    zero, one = (convert(x, unit or stored, stored) for x in (0.0, 1.0))
    values: FloatArray = zero + numbers * (one - zero)
    low, high = _edges(quantity)
    possible = (values >= low) & (values <= high)
    if quantity.whole or quantity.words:
        possible &= values == np.round(values)
    return values, [bool(ok) for ok in possible]


def _edges(quantity: Quantity) -> tuple[float, float]:
    room = _BEYOND * max(abs(quantity.low), abs(quantity.high) if quantity.high < inf else 0.0)
    return quantity.low - room, quantity.high + room


def _value(given: str | float, quantity: Quantity, setting: Setting, unit: str) -> tuple[float, str]:
    """Stored value, and a remark when it was written in another unit than the class's."""
    if not isinstance(given, str):
        return convert(given, unit or stored_unit(quantity.unit), stored_unit(quantity.unit)), ""
    typed = given.strip()
    if quantity.unit in ("second", "minute") and (clock := CLOCK.fullmatch(typed)):
        value = 60.0 * int(clock[1]) + float(clock[2].replace(",", "."))
        return value, f"Read as {clock[1]} min {clock[2]} s."
    if quantity.words:
        return _word(typed, quantity.words), ""
    if any(quantity.things):
        number, suffix = parse_number(typed, setting.decimal)
        if suffix.lower() in quantity.things:
            return setting.to_si(number, quantity.unit), ""
    value, read_in = setting.parse(typed, quantity.unit)
    if read_in == setting.unit_of(quantity.unit):
        return value, ""
    return value, f"Read as {typed}, stored as {setting.show(value, quantity.unit, quantity.digits)}."


def _word(typed: str, words: Sequence[str]) -> float:
    """A value of a scale in words by its number or its word."""
    names = [word.lower() for word in words]
    if typed.lower() in names:
        return float(names.index(typed.lower()))
    if typed.isascii() and typed.isdigit() and int(typed) < len(names):
        return float(typed)
    options = ", ".join(f"{i} {word}" for i, word in enumerate(words))
    raise NotANumber(f"Not one of these: {options}.")


def _check(value: float, quantity: Quantity, setting: Setting, around: Around, *, unit_said: bool) -> Check:
    low, high = _edges(quantity)
    if quantity.words:
        before = None if around.before is None else round(around.before)
        return check_word(before, value, quantity.words, quantity.back)
    if quantity.unit == "degC":
        context = Context(
            possible_c=(quantity.low, quantity.high),
            unit=setting.temp_unit,
            expected=around.expected,
            neighbours=around.neighbours,
            air_c=around.air_c,
            above_air=around.above_air,
            unit_said=unit_said,
        )
        check = check_temperature(setting.from_si(value, "degC"), context)
        if check.answer == "ok" and around.known.common is not None:
            return doubt_of(value, "degC", around.known, lambda v: _said(v, quantity, setting)) or check
        return check
    inside = low <= value <= high
    shown = setting.from_si(min(max(value, quantity.low), quantity.high) if inside else value, quantity.unit)
    ends = [setting.from_si(x, quantity.unit) for x in (quantity.low, quantity.high)]
    least, most = (_said(x, quantity, setting) for x in (quantity.low, quantity.high))
    check = check_amount(
        shown, ends[0], ends[1], quantity.label, least=least, most=most, whole=quantity.whole
    )
    if check.answer == "ok" and not quantity.whole:
        doubt = doubt_of(
            value, quantity.unit, around.known, lambda v: _said(v, quantity, setting), end=quantity.high
        )
        return doubt or check
    if check.suggestion is None:
        return check
    return replace(check, suggestion=setting.to_si(check.suggestion, quantity.unit))


def _said(value: float, quantity: Quantity, setting: Setting) -> str:
    number = setting.from_si(value, quantity.unit)
    return setting.show(
        value, quantity.unit, 0 if abs(number - round(number)) < 1e-6 else quantity.digits or 1
    )
