"""A logger's file laid along a test: what the test has read, and the file's curves to be slid over it."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from thermion.core.physics.thinning import keep_extremes
from thermion.core.physics.units import Setting, convert
from thermion.records.running.series import Series, Spot
from thermion.records.tables import Entry
from thermion.web.pictures.curves import Tick, nice_ticks

WIDTH, HEIGHT, LEFT, RIGHT, TOP, FOOT = 1000.0, 300.0, 50.0, 12.0, 12.0, 262.0
MOST = 240  # points of a curve that are drawn
SMALL = (120.0, 28.0)


@dataclass(frozen=True)
class Track:
    """One curve: of which channel, its team's colour ("air" for the air, "" while it is no row's), its path."""

    index: int
    colour: str
    path: str


@dataclass(frozen=True, kw_only=True)
class CurvesLaid:
    """The picture: scales, what was read, the file's curves as if its first reading were at 0."""

    x_ticks: tuple[Tick, ...]
    y_ticks: tuple[Tick, ...]
    zero: float
    per_s: float  # picture units per second
    least_s: float
    most_s: float
    there: tuple[Track, ...]
    file: tuple[Track, ...]


def laid_along(
    channels: Sequence[tuple[int, Sequence[float], Sequence[float]]],
    rows: Mapping[int, Entry | None],
    series: Mapping[Spot, Series],
    phase: str,
    end_s: float,
    begin_s: float,
    setting: Setting,
) -> CurvesLaid:
    """Curves of `channels` (index, times [s], °C) over what rows of the run have read in a phase.

    The window holds the test and the file wherever it can be slid to.
    """
    length = max((times[-1] for _, times, _ in channels if times), default=0.0)
    there = {entry_id: s for (entry_id, of), s in series.items() if of == phase and s.trace.time_s}
    last = max([end_s, *(s.trace.time_s[-1] for s in there.values())])
    low_s, high_s = min(-0.15 * last, begin_s) - 30, max(last * 1.05, begin_s + length) + 30
    values = [v for _, _, c in channels for v in (min(c), max(c))]
    values += [v for s in there.values() for v in (min(s.trace.value), max(s.trace.value))]
    shown = [setting.from_si(v, "degC") for v in values] or [0.0, 1.0]
    y_ticks = nice_ticks(min(shown) - 1, max(shown) + 1, 5)
    per_s = (WIDTH - LEFT - RIGHT) / (high_s - low_s)
    per_y = (FOOT - TOP) / (y_ticks[-1] - y_ticks[0])

    def x(second: float) -> float:
        return LEFT + (second - low_s) * per_s

    def y(celsius: float) -> float:
        return FOOT - (setting.from_si(celsius, "degC") - y_ticks[0]) * per_y

    def path(times: Sequence[float], celsius: Sequence[float], shift: float) -> str:
        kept = keep_extremes(times, celsius, MOST)
        points = " ".join(f"{times[i] * per_s + shift:.1f} {y(celsius[i]):.1f}" for i in kept)
        return f"M{points}" if points else ""

    minutes = [t for t in nice_ticks(low_s / 60, high_s / 60, 9) if low_s <= t * 60 <= high_s]
    return CurvesLaid(
        x_ticks=tuple(Tick(x(t * 60), f"{t:g}") for t in minutes),
        y_ticks=tuple(Tick(y(convert(t, setting.temp_unit, "degC")), f"{t:g}") for t in y_ticks),
        zero=x(0.0),
        per_s=per_s,
        least_s=-length - 60.0,
        most_s=max(last, 600.0) + 60.0,
        there=tuple(
            Track(entry_id, _colour(rows.get(entry_id)), path(s.trace.time_s, s.trace.value, x(0.0)))
            for entry_id, s in there.items()
        ),
        file=tuple(Track(i, "", path(times, celsius, x(0.0))) for i, times, celsius in channels if times),
    )


def _colour(entry: Entry | None) -> str:
    return entry.version.build.team.colour if entry is not None and entry.version is not None else "air"


def small_curve(times: Sequence[float], values: Sequence[float]) -> str:
    """The course of a channel, as small as a word."""
    kept = keep_extremes(times, values, 60)
    span, low = max(times[-1] - times[0], 1e-9), min(values)
    room = max(max(values) - low, 1e-9)
    wide, high = SMALL
    points = (
        f"{(times[i] - times[0]) / span * wide:.1f} {high - 3 - (values[i] - low) / room * (high - 6):.1f}"
        for i in kept
    )
    return "M" + " ".join(points)
