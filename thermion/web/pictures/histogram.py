"""How many designs end where: bars in bins, those that pass apart from those that do not."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from thermion.web.pictures.curves import Tick, nice_ticks

WIDTH, HEIGHT, LEFT, FOOT, TOP = 760.0, 300.0, 44.0, 246.0, 26.0


@dataclass(frozen=True, kw_only=True)
class BarOf:
    """A bin: its place, the heights of both parts, and what it says when read aloud."""

    x: float
    wide: float
    pass_y: float
    pass_h: float
    fail_y: float
    fail_h: float
    said: str


@dataclass(frozen=True, kw_only=True)
class Histogram:
    title: str
    label: str
    bars: tuple[BarOf, ...]
    x_ticks: tuple[Tick, ...]
    y_ticks: tuple[Tick, ...]
    rows: tuple[tuple[str, int, int], ...]  # (from – to, passing, not passing)
    width: float = WIDTH
    height: float = HEIGHT
    left: float = LEFT
    foot: float = FOOT


def histogram(values: Sequence[tuple[float, bool]], label: str, title: str) -> Histogram | None:
    """Bars of (value, passes) pairs; None without values."""
    if not values:
        return None
    low, high = min(v for v, _ in values), max(v for v, _ in values)
    if high - low < 1e-9:
        high = low + 1.0
    edges = nice_ticks(low, high, 12)
    step = edges[1] - edges[0]
    counts = [[0, 0] for _ in edges[:-1]]
    for value, passes in values:
        at = min(int((value - edges[0]) / step + 1e-9), len(counts) - 1)
        counts[at][0 if passes else 1] += 1
    most = max(a + b for a, b in counts)
    y_ticks = nice_ticks(0, most, 4)
    tall = (FOOT - TOP) / y_ticks[-1]
    wide = (WIDTH - LEFT - 16) / len(counts)
    bars = []
    for i, (good, poor) in enumerate(counts):
        span = f"{edges[i]:g} to {edges[i + 1]:g}"
        bars.append(
            BarOf(
                x=LEFT + i * wide + 2,
                wide=wide - 4,
                pass_y=FOOT - (good + poor) * tall,
                pass_h=good * tall,
                fail_y=FOOT - poor * tall,
                fail_h=poor * tall,
                said=f"{span}: {good + poor} designs, {good} pass",
            )
        )
    return Histogram(
        title=title,
        label=label,
        bars=tuple(bars),
        x_ticks=tuple(Tick(LEFT + i * wide, f"{e:g}".replace("-", "−")) for i, e in enumerate(edges)),
        y_ticks=tuple(Tick(FOOT - t * tall, f"{t:g}") for t in y_ticks),
        rows=tuple((f"{edges[i]:g}–{edges[i + 1]:g}", a, b) for i, (a, b) in enumerate(counts)),
    )
