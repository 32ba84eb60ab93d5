"""Charts of lines and points: one picture for screen, print and download (see docs/decisions.md)."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache
from itertools import pairwise
from math import ceil, floor, log10

from flask import render_template

from thermion.web.components.shapes import marker_at

WIDTH = 760.0
LEFT, RIGHT, TOP, BOTTOM = 56.0, 48.0, 14.0, 50.0
LABEL_GAP = 18.0
TALL, WIDE = 560.0, 400.0  # heights: beside a grid, beside a table
BOARD = 345.0  # across a projector, where its text is the largest


MOST_POINTS = 60  # of a stretch that still shows each reading
MOST_DRAWN = 120  # of a logger's stretch, its peaks and dips kept

Stretch = tuple[tuple[float, float], ...]


@dataclass(frozen=True, kw_only=True)
class CurveLine:
    """One build's readings [min, class's unit], by stretches without gaps, and its fit."""

    label: str
    name: str
    colour: str
    shape: str
    stretches: tuple[Stretch, ...]
    fit: tuple[tuple[float, float], ...] = ()
    faint: bool = False
    traced: tuple[Stretch, ...] = ()  # of a logger: too many to show each reading as a point


@dataclass(frozen=True)
class Tick:
    at: float
    text: str


@dataclass(frozen=True, kw_only=True)
class DrawnCurve:
    """A line in picture coordinates: path strings ready for the template."""

    line: CurveLine
    dots: str
    path: str
    traced: str
    fit: str
    label_x: float
    label_y: float
    lead_y: float


@dataclass(frozen=True, kw_only=True)
class Chart:
    """All that the template needs; coordinates in picture units."""

    title: str
    x_label: str
    y_label: str
    x_ticks: tuple[Tick, ...]
    y_ticks: tuple[Tick, ...]
    drawn: tuple[DrawnCurve, ...]
    level_y: float | None
    level_text: str
    divide_x: tuple[Tick, ...]
    height: float
    bottom: float
    width: float = WIDTH
    left: float = LEFT
    right: float = WIDTH - RIGHT
    top: float = TOP


def nice_ticks(low: float, high: float, about: int) -> list[float]:
    """Round numbers (1, 2, 5 × 10ⁿ apart) that cover low to high in about so many steps."""
    span = max(high - low, 1e-9)
    raw = span / about
    power = 10.0 ** floor(log10(raw))
    step = next(f * power for f in (1, 2, 5, 10) if f * power >= raw * 0.999)
    first, last = floor(low / step + 1e-9), ceil(high / step - 1e-9)
    return [round(i * step, 10) for i in range(first, last + 1)]


def curves(
    lines: Sequence[CurveLine],
    *,
    title: str,
    y_label: str,
    x_end: float,
    x_label: str = "minutes",
    from_zero: bool = False,
    height: float = WIDE,
    level: float | None = None,
    level_text: str = "",
    divides: Sequence[tuple[float, str]] = (),
) -> Chart:
    """Readings against time with fits; x in minutes, y in the class's unit.

    `divides` marks the start of each phase after the first, with its name.
    """
    foot = height - BOTTOM
    frame = _Frame(_range(lines, level), x_end, foot, from_zero=from_zero)
    ends = {i: end for i, line in enumerate(lines) if (end := _end(line, frame)) is not None}
    label_y = _spread({i: y for i, (_, y) in ends.items()}, foot)
    drawn = []
    for i, line in enumerate(lines):
        x, y = ends.get(i, (0.0, 0.0))
        drawn.append(_drawn(line, frame, label_x=x + 9, label_y=label_y.get(i, 0.0), lead_y=y))
    return Chart(
        title=title,
        x_label=x_label,
        y_label=y_label,
        x_ticks=tuple(Tick(frame.x(t), f"{t:g}") for t in frame.x_ticks),
        y_ticks=tuple(Tick(frame.y(t), f"{t:g}".replace("-", "−")) for t in frame.y_ticks),
        drawn=tuple(drawn),
        level_y=frame.y(level) if level is not None and frame.holds(level) else None,
        level_text=level_text,
        divide_x=tuple(Tick(frame.x(at), name) for at, name in divides),
        height=height,
        bottom=foot,
    )


def _range(lines: Sequence[CurveLine], level: float | None) -> tuple[float, float]:
    """From which value to which the picture goes; a room's temperatures while nothing is read."""
    values = [y for line in lines for s in (*line.stretches, *line.traced) for _, y in s]
    if not values:
        return 15.0, 60.0
    if level is not None:
        values.append(level)
    return min(values), max(values)


class _Frame:
    """Where minutes and values lie in the picture."""

    def __init__(self, low_high: tuple[float, float], x_end: float, foot: float, *, from_zero: bool) -> None:
        low, high = low_high
        if from_zero:
            self.y_ticks = nice_ticks(0.0, high * 1.06, 7)
        else:
            room = max((high - low) * 0.06, 2.0)
            self.y_ticks = nice_ticks(low - room / 3, high + room, 7)
        self.x_ticks = [t for t in nice_ticks(0.0, max(x_end, 1.0), 10) if t <= x_end * 1.001 or x_end <= 0]
        self.foot = foot
        self.first = self.y_ticks[0]
        self.kx = (WIDTH - LEFT - RIGHT) / max(x_end, 1.0)
        self.ky = (foot - TOP) / (self.y_ticks[-1] - self.first)

    def x(self, minute: float) -> float:
        return LEFT + minute * self.kx

    def y(self, value: float) -> float:
        return self.foot - (value - self.first) * self.ky

    def holds(self, value: float) -> bool:
        return self.first <= value <= self.y_ticks[-1]

    def trail(self, points: Stretch) -> str:
        return _path(points, self.kx, self.first, self.ky, self.foot)


def _end(line: CurveLine, frame: _Frame) -> tuple[float, float] | None:
    """Where a line ends, which is where its name stands; a faint one bears none."""
    lasts = [s[-1] for s in (*line.stretches[-1:], *line.traced[-1:]) if s]
    if line.faint or not lasts:
        return None
    minute, value = max(lasts)
    return frame.x(minute), frame.y(value)


def _drawn(line: CurveLine, frame: _Frame, *, label_x: float, label_y: float, lead_y: float) -> DrawnCurve:
    dots = (marker_at(frame.x(a), frame.y(b), line.shape) for s in line.stretches for a, b in s)
    return DrawnCurve(
        line=line,
        dots="".join(dots),
        path="".join(frame.trail(s) for s in line.stretches if len(s) > 1),
        traced="".join(frame.trail(s) for s in line.traced),
        fit=frame.trail(line.fit),
        label_x=label_x,
        label_y=label_y,
        lead_y=lead_y,
    )


@lru_cache(maxsize=2048)
def _path(points: Stretch, kx: float, y0: float, ky: float, foot: float) -> str:
    """Path data of a line; most lines of a picture are those of the picture before."""
    if not points:
        return ""
    return "M" + "L".join(f"{LEFT + a * kx:.1f},{foot - (b - y0) * ky:.1f}" for a, b in points)


def _spread(wanted: dict[int, float], foot: float) -> dict[int, float]:
    """Push labels apart so that none overlap, keeping their order and staying in the frame."""
    order = sorted(wanted, key=lambda i: wanted[i])
    placed: dict[int, float] = {}
    floor_y = TOP
    for i in order:
        placed[i] = max(wanted[i], floor_y)
        floor_y = placed[i] + LABEL_GAP
    over = floor_y - LABEL_GAP - foot
    if over > 0:
        ceiling = foot
        for i in reversed(order):
            placed[i] = min(placed[i], ceiling)
            ceiling = placed[i] - LABEL_GAP
    return placed


def split_at_gaps(
    times_s: Sequence[float], values: Sequence[float], interval_s: float | None
) -> list[tuple[Sequence[float], Sequence[float]]]:
    """(times, values) of each stretch, broken where readings are over 1.6 planned intervals apart."""
    breaks = [i for i, (a, b) in enumerate(pairwise(times_s), 1) if interval_s and b - a > 1.6 * interval_s]
    edges = [0, *breaks, len(times_s)] if times_s else []
    return [(times_s[a:b], values[a:b]) for a, b in pairwise(edges)]


def chart_svg(chart: Chart) -> str:
    return render_template("pictures/curves.svg", chart=chart)
