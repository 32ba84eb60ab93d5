"""Temperatures as a class reads them: what each thermometer, its step and the reading leave open."""

from __future__ import annotations

from dataclasses import dataclass, replace
from itertools import pairwise
from math import log, sqrt

from thermion.core.kinds.luck import luck_of
from thermion.core.kinds.trials import Trace, Trial
from thermion.core.lazy import numpy as np
from thermion.core.physics.approach import Approach
from thermion.core.physics.fitted import read_off
from thermion.core.reasons import Because, Why, because
from thermion.core.values import Figure, Source, measured

READ_K = 0.2  # standard uncertainty of reading a temperature at its mark, beside the step
OFF_K = 0.5  # of a thermometer that was not checked against the others
GAP = 2.001  # planned intervals without a reading from which a figure says that it leans on a gap


@dataclass(frozen=True)
class Thermometer:
    """A build's thermometer: its step and its standard uncertainty beyond it [K]."""

    step_k: float
    off_k: float

    @classmethod
    def of(cls, trial: Trial, step_k: float) -> Thermometer:
        """The challenge's thermometers; `step_k` and half a kelvin where nothing is said of them."""
        return cls(trial.step("thermometer", step_k), trial.off("thermometer", OFF_K))

    @property
    def rounding(self) -> float:
        return self.step_k / sqrt(12.0)

    @property
    def reading(self) -> float:
        """Standard uncertainty of one reading against the next of the same thermometer [K]."""
        return sqrt(READ_K**2 + self.rounding**2)

    def readings(self, by: float) -> tuple[Source, Source]:
        """Sources of a figure on which one reading acts `by` times."""
        return (
            Source("reading the thermometer", READ_K * by, "try"),
            Source("the thermometer's step", self.rounding * by, "step"),
        )

    def offset(self, by: float) -> tuple[Source]:
        """What the thermometer's own error does, acting `by` times."""
        return (Source("the build's thermometer", self.off_k * by, "build"),)


def checked_off(step_k: float) -> float:
    """What is left of a thermometer's error once it was read against the others in one glass [K]: that
    one reading, and the middle of theirs."""
    return 1.2 * Thermometer(step_k, 0.0).reading


@dataclass(frozen=True)
class Air:
    """Mean air of a phase [°C] and its standard uncertainty [K]."""

    value: float
    se: float


def air_of(trial: Trial, *phases: str) -> Air:
    """The air beside a test, as measured; else the brief's, as uncertain as that is."""
    keys = phases or tuple(trial.air)
    values = [v for key in keys for v in trial.air.get(key, Trace()).value]
    if not values:
        return Air(trial.conditions.get("air_c", 20.0), trial.u("air_c", 1.0))
    probe = Thermometer.of(trial, 0.5)
    wander = float(np.std(values, ddof=1)) if len(values) > 1 else probe.reading
    return Air(float(np.mean(values)), sqrt(probe.off_k**2 + max(wander, probe.reading) ** 2 / len(values)))


def hottest(trial: Trial, phase: str, probe: Thermometer) -> tuple[Figure, Figure]:
    """Highest reading [°C] and its rise over the first one [K]; bounds where the test broke off."""
    values = trial.traces[phase].value
    top, first = max(values), values[0]
    if trial.broke_off(phase):
        why = because(Why.BROKE_OFF_SO_FAR, minutes=trial.traces[phase].time_s[-1] / 60)
        return Figure(at_least=top, reason=why, partial=True), Figure(
            at_least=top - first, reason=why, partial=True
        )
    luck = luck_of(values, probe.reading)
    still = len(values) > 1 and values[-1] > max(values[:-1])
    on = trial.unfinished(phase)
    notes = (Why.STILL_ON,) if on else (Why.STILL_RISING,) if still else ()
    peak = measured(top, (*probe.readings(luck), *probe.offset(1.0)), notes=notes)
    gain = measured(top - first, probe.readings(sqrt(1 + luck**2)))
    if len(values) < 2:
        gain = Figure(reason=Why.RISE_NEEDS_TWO)
    return replace(peak, partial=on), replace(gain, partial=on)


def crossing(trial: Trial, phase: str, fit: Approach, level: float, probe: Thermometer) -> Figure:
    """Minutes until a level was reached while warming, by the fitted curve; else between readings."""
    trace = trial.traces[phase]
    t, v = trace.time_s, trace.value
    sure = 2 * probe.reading
    if v[0] >= level:
        return Figure(at_most=t[0] / 60, reason=Why.ABOVE_AT_FIRST)
    above = [i for i, x in enumerate(v) if x >= level + sure]
    below = [i for i, x in enumerate(v) if x < level - sure and (not above or i < above[0])]
    after = t[below[-1]] / 60 if below else t[0] / 60
    if not above:
        if max(v) >= level:
            return Figure(at_least=after, reason=Why.ONLY_JUST_AT_LEVEL)
        return Figure(at_least=t[-1] / 60, reason=Why.NEVER_REACHED, partial=trial.broke_off(phase))
    between = Figure(at_least=after, at_most=t[above[0]] / 60, reason=Why.BETWEEN_READINGS)
    start, end = fit.start, fit.asymptote
    if not fit.reliable or start is None or end is None or not start < level < end:
        return between

    def minutes(start: float, end: float, tau: float) -> float:
        return -tau / 60 * log(max((end - level) / (end - start), 1e-12))

    found = read_off(fit, t, minutes, noise=probe.reading)
    slope = (end - level) / (fit.time_constant_s or 1.0) * 60  # K/min there
    if slope * (t[-1] - t[0]) / 60 < 4 * probe.reading:
        return between
    sources = (Source("the readings", found.se, "try", found.dof), *probe.offset(-1.0 / slope))
    return measured(found.value, sources, notes=_gap_notes(trial, phase, 60 * found.value))


def _gap_notes(trial: Trial, phase: str, at_s: float) -> tuple[Because, ...]:
    times, every = trial.traces[phase].time_s, trial.interval_s.get(phase)
    for a, b in pairwise(times):
        if every and a <= at_s <= b and b - a > GAP * every:
            return (because(Why.LEANS_ON_GAP, minutes=(b - a) / 60),)
    return ()


def fall_by_reading(
    trial: Trial, phase: str, fall_k: float, minutes: float, probe: Thermometer
) -> dict[str, Figure]:
    """Minutes ``held`` until it fell by so much, and the fall ``lost`` in so many minutes [K], where no
    curve could be fitted: the time between two readings, the fall straight between them."""
    t, v = trial.traces[phase].time_s, trial.traces[phase].value
    top = int(np.argmax(v))
    sure, luck = 2 * sqrt(2.0) * probe.reading, luck_of(v, probe.reading)
    down = [i for i in range(top, len(v)) if v[top] - v[i] >= fall_k + sure]
    not_yet = [i for i in range(top, len(v)) if v[top] - v[i] < fall_k - sure and (not down or i < down[0])]
    least = (t[not_yet[-1]] - t[top]) / 60 if not_yet else 0.0
    held = Figure(at_least=least, reason=Why.NOT_FALLEN_THAT_FAR)
    if down:
        held = Figure(at_least=least, at_most=(t[down[0]] - t[top]) / 60, reason=Why.BETWEEN_READINGS)
    end = t[top] + 60 * minutes
    if end > t[-1] + 1e-9:
        lost = Figure(at_least=max(v[top] - v[-1], 0.0), reason=Why.READINGS_STOP)
        return {"held": held, "lost": lost}
    lost_k = v[top] - float(np.interp(end, t, v))
    return {
        "held": held,
        "lost": measured(lost_k, probe.readings(sqrt(1 + luck**2)), notes=_gap_notes(trial, phase, end)),
    }
