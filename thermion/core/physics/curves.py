"""Curves of readings against time: exponential approach, crossings, peaks, holding, falling.

All functions take times in seconds [s] and values in one SI unit (°C for temperatures) and
use the time at which a reading was taken, never the time for which it was planned.
"""

from __future__ import annotations

from dataclasses import dataclass
from math import inf, sqrt

from thermion.core.lazy import ArrayLike
from thermion.core.lazy import numpy as np
from thermion.core.physics.approach import Approach, fit_approach, fit_approach_many, no_fit
from thermion.core.reasons import Because, Why, because
from thermion.core.values import Figure, series, single

__all__ = [
    "Approach",
    "Crossing",
    "degree_minutes_above",
    "fall_after",
    "first_crossing",
    "fit_approach",
    "fit_approach_many",
    "held_above",
    "initial_rate",
    "minutes_to_fall",
    "no_fit",
    "peak",
    "rise",
]

_RECTANGLE = sqrt(12.0)  # GUM 4.3.7: resolution / √12 is the standard uncertainty


@dataclass(frozen=True)
class Crossing:
    """When a level was passed [s].

    `after_s` and `before_s` bracket it. `censored` is true when it was not observed:
    not reached by the last reading (only `after_s`), or passed before the first
    (only `before_s`); `time_s` is then None. `gap_s` is the width of the bracket.
    """

    time_s: float | None
    after_s: float | None
    before_s: float | None
    censored: bool

    @property
    def gap_s(self) -> float | None:
        if self.after_s is None or self.before_s is None:
            return None
        return self.before_s - self.after_s


def first_crossing(
    time_s: ArrayLike, value: ArrayLike, level: float, *, direction: str = "either"
) -> Crossing:
    """First time the readings pass `level`, by linear interpolation between two readings.

    `direction` is "up", "down" or "either". For "either" the first reading decides from
    which side the level is approached. Returns a `Crossing`; see there for censoring.
    Raises ValueError for bad input or an unknown direction.
    """
    t, v = series(time_s, value)
    level = single("level", level)
    if direction not in ("up", "down", "either"):
        raise ValueError("direction: expected 'up', 'down' or 'either'")
    up = v[0] < level if direction == "either" else direction == "up"
    beyond = v >= level if up else v <= level
    if direction == "either" and v[0] == level:
        return Crossing(float(t[0]), float(t[0]), float(t[0]), False)
    if beyond[0]:
        return Crossing(None, None, float(t[0]), True)
    reached = np.flatnonzero(beyond)
    if reached.size == 0:
        return Crossing(None, float(t[-1]), None, True)
    i = int(reached[0])
    share = (level - v[i - 1]) / (v[i] - v[i - 1])
    return Crossing(float(t[i - 1] + share * (t[i] - t[i - 1])), float(t[i - 1]), float(t[i]), False)


def _leans_on_gap(gap_s: float, interval_s: float | None) -> tuple[Because, ...]:
    if interval_s and gap_s > 2 * interval_s * 1.001:
        return (because(Why.LEANS_ON_GAP, minutes=gap_s / 60),)
    return ()


def peak(time_s: ArrayLike, value: ArrayLike, *, resolution: float = 0.0) -> Figure:
    """Highest reading, in the unit of `value`; se is the instrument's alone."""
    _, v = series(time_s, value)
    notes = (Why.STILL_RISING,) if v.size > 1 and v[-1] > v[:-1].max() else ()
    return Figure(value=float(v.max()), se=resolution / _RECTANGLE, notes=notes)


def rise(time_s: ArrayLike, value: ArrayLike, *, resolution: float = 0.0) -> Figure:
    """Highest reading minus the first [unit of value]; two instrument readings' uncertainty."""
    _, v = series(time_s, value)
    if v.size < 2:
        return Figure(reason=Why.RISE_NEEDS_TWO)
    return Figure(value=float(v.max() - v[0]), se=resolution / _RECTANGLE * sqrt(2.0))


def initial_rate(time_s: ArrayLike, value: ArrayLike, *, readings: int = 3) -> Figure:
    """Slope of the first `readings` readings by least squares [unit of value per minute]."""
    t, v = series(time_s, value)
    if t.size < max(readings, 2):
        return Figure(reason=because(Why.RATE_NEEDS_MORE, readings=t.size, least=max(readings, 2)))
    x, y = t[:readings] / 60.0, v[:readings]
    dx = x - x.mean()
    slope = float((dx * y).sum() / (dx**2).sum())
    resid = y - y.mean() - slope * dx
    dof = x.size - 2
    se = sqrt(float((resid**2).sum()) / dof / float((dx**2).sum())) if dof > 0 else None
    return Figure(value=slope, se=se, dof=float(dof) if dof > 0 else inf)


def held_above(
    time_s: ArrayLike, value: ArrayLike, level: float, *, interval_s: float | None = None
) -> Figure:
    """Minutes spent at or above `level`, crossings interpolated.

    When the last reading is still above the level the value is unknown and `at_least` holds
    the minutes seen. `interval_s` is the planned interval, to notice gaps.
    """
    t, v = series(time_s, value)
    level = single("level", level)
    total = 0.0
    notes: tuple[Because, ...] = ()
    for i in range(t.size - 1):
        a, b, dt = v[i], v[i + 1], t[i + 1] - t[i]
        if max(a, b) < level:
            continue
        share = 1.0 if min(a, b) >= level else (max(a, b) - level) / abs(b - a)
        total += share * dt
        notes = notes or _leans_on_gap(float(dt), interval_s)
    minutes = float(total / 60.0)
    if v[-1] >= level and t.size > 1:
        return Figure(at_least=minutes, reason=Why.STILL_ABOVE, notes=notes)
    return Figure(value=minutes, notes=notes)


def fall_after(
    time_s: ArrayLike,
    value: ArrayLike,
    minutes: float,
    *,
    interval_s: float | None = None,
    resolution: float = 0.0,
) -> Figure:
    """Fall from the peak within `minutes` after it [unit of value], interpolated.

    Not known when the readings stop earlier; `at_least` is then the fall seen so far. se follows
    from the instrument's `resolution` in both readings, where it is given.
    """
    t, v = series(time_s, value)
    top = int(np.argmax(v))
    end = float(t[top] + 60.0 * single("minutes", minutes))
    if end > t[-1] + 1e-9:
        seen = float(v[top] - v[-1])
        return Figure(at_least=max(seen, 0.0), reason=Why.READINGS_STOP)
    after = int(np.searchsorted(t, end))
    notes = _leans_on_gap(float(t[after] - t[after - 1]), interval_s) if after else ()
    se = resolution / _RECTANGLE * sqrt(2.0) if resolution > 0 else None
    return Figure(value=float(v[top] - np.interp(end, t, v)), se=se, notes=notes)


def minutes_to_fall(
    time_s: ArrayLike,
    value: ArrayLike,
    kelvin: float,
    *,
    interval_s: float | None = None,
    resolution: float = 0.0,
) -> Figure:
    """Minutes from the peak until the value has fallen by `kelvin`.

    A fall never seen is a bound (`at_least`), never a time. se follows from the
    instrument's resolution and the slope at the crossing.
    """
    t, v = series(time_s, value)
    top = int(np.argmax(v))
    drop = single("kelvin", kelvin)
    if drop <= 0:
        raise ValueError("kelvin: expected a fall above zero")
    cross = first_crossing(t[top:], v[top:], float(v[top]) - drop, direction="down")
    if cross.time_s is None:
        seen = (t[-1] - t[top]) / 60.0
        return Figure(at_least=float(seen), reason=Why.NOT_FALLEN_THAT_FAR)
    i = int(np.searchsorted(t, cross.time_s))
    slope = abs(v[i] - v[i - 1]) / (t[i] - t[i - 1])
    se = resolution / _RECTANGLE * sqrt(2.0) / slope / 60.0
    return Figure(
        value=float(cross.time_s - t[top]) / 60.0,
        se=float(se),
        notes=_leans_on_gap(cross.gap_s or 0.0, interval_s),
    )


def degree_minutes_above(time_s: ArrayLike, value: ArrayLike, ambient: float) -> Figure:
    """Area between the curve and `ambient` by the trapezoid rule [K·min]; signed."""
    t, v = series(time_s, value)
    if t.size < 2:
        return Figure(reason=Why.AREA_NEEDS_TWO)
    return Figure(value=float(np.trapezoid(v - single("ambient", ambient), t) / 60.0))
