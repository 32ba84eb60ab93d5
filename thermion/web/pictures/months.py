"""A year month by month: what was used and what was too much as a bar, what is left as a line."""

from __future__ import annotations

from dataclasses import dataclass

from thermion.core.kinds.life_size import LifeYear
from thermion.core.physics.units import Setting
from thermion.web.pictures.curves import Tick, nice_ticks

WIDTH, HEIGHT, LEFT, FOOT, TOP, RIGHT = 760.0, 280.0, 70.0, 250.0, 34.0, 16.0


@dataclass(frozen=True, kw_only=True)
class MonthBar:
    x: float
    wide: float
    used_y: float
    used_h: float
    over_y: float
    over_h: float
    name: str
    said: str


@dataclass(frozen=True, kw_only=True)
class MonthsChart:
    title: str
    label: str
    bars: tuple[MonthBar, ...]
    trail: str
    dots: tuple[tuple[float, float], ...]
    y_ticks: tuple[Tick, ...]
    legend: tuple[str, str, str]
    width: float = WIDTH
    height: float = HEIGHT
    left: float = LEFT
    foot: float = FOOT
    right: float = WIDTH - RIGHT


def months_chart(year: LifeYear, legend: tuple[str, str, str], setting: Setting) -> MonthsChart:
    """The months of a year side by side on one scale, in the unit they are shown in."""

    def shown(stored: float) -> float:
        return setting.from_si(stored, year.unit)

    most = max(max(shown(m.used + m.over), shown(m.left)) for m in year.months)
    ticks = nice_ticks(0.0, max(most, 1e-9), 5)
    tall = (FOOT - TOP) / ticks[-1]
    step = (WIDTH - LEFT - RIGHT) / len(year.months)
    unit = setting.label(year.unit)
    bars, dots = [], []
    for i, m in enumerate(year.months):
        used, over, left = shown(m.used), shown(m.over), shown(m.left)
        numbers = zip((used, over, left), legend, strict=True)
        bars.append(
            MonthBar(
                x=LEFT + i * step + 6,
                wide=step - 12,
                used_y=FOOT - used * tall,
                used_h=used * tall,
                over_y=FOOT - (used + over) * tall,
                over_h=over * tall,
                name=m.name,
                said=f"{m.name}: " + ", ".join(f"{number:.0f} {unit} {what}" for number, what in numbers),
            )
        )
        dots.append((LEFT + (i + 1) * step, FOOT - left * tall))
    return MonthsChart(
        title="The year month by month",
        label=unit,
        bars=tuple(bars),
        trail="M" + "L".join(f"{x:.1f},{y:.1f}" for x, y in dots),
        dots=tuple(dots),
        y_ticks=tuple(Tick(FOOT - t * tall, f"{t:g}") for t in ticks),
        legend=legend,
    )
