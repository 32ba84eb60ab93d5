"""From a collector on a tray to a roof and a tank: a year of rain against what a house uses."""

from __future__ import annotations

from collections.abc import Mapping

from thermion.core.kinds.briefing import Condition
from thermion.core.kinds.life_size import LifeFact, LifeMonth, LifeSize, LifeYear
from thermion.core.physics.rain import MONTH_DAYS, roof_yield, smallest_tank, tank_year
from thermion.core.values import Figure

MONTHS = ("Jan", "Feb", "Mar", "Apr", "May", "Jun", "Jul", "Aug", "Sep", "Oct", "Nov", "Dec")
YEARS = {  # shares of a year's rain by month; made up, each adds to 1
    "the same all year": (1 / 12,) * 12,
    "dry summer": (0.13, 0.12, 0.1, 0.08, 0.05, 0.02, 0.01, 0.02, 0.07, 0.12, 0.14, 0.14),
    "one rainy season": (0.01, 0.01, 0.02, 0.05, 0.11, 0.19, 0.23, 0.2, 0.12, 0.04, 0.01, 0.01),
}
SETTINGS = (
    Condition(
        key="rain_m",
        label="Rain in a year",
        unit="millimeter",
        default=800,
        tolerance=0,
        low=20,
        high=6000,
        hint="from a rain gauge, or the weather service",
    ),
    Condition(
        key="spread",
        label="It rains",
        unit="dimensionless",
        default=1,
        tolerance=0,
        low=0,
        high=2,
        words=tuple(YEARS),
    ),
    Condition(
        key="roof_m2",
        label="Roof, seen from above",
        unit="meter**2",
        default=60,
        tolerance=0,
        low=1,
        high=20000,
        hint="length × width of what it covers",
    ),
    Condition(
        key="runoff",
        label="Share that reaches the gutter",
        unit="percent",
        default=85,
        tolerance=0,
        low=1,
        high=100,
        hint="tiles or metal 80 to 95, grass on a roof 30 to 50",
    ),
    Condition(
        key="first_m3",
        label="Let run off first, each month",
        unit="liter",
        default=20,
        tolerance=0,
        low=0,
        high=10000,
        hint="dust and leaves come with the first rain",
    ),
    Condition(key="people", label="People", unit="dimensionless", default=5, tolerance=0, low=1, high=2000),
    Condition(
        key="each_m3", label="One uses in a day", unit="liter", default=20, tolerance=0, low=0.5, high=1000
    ),
    Condition(
        key="tank_m3",
        label="The tank holds",
        unit="liter",
        default=3000,
        tolerance=0,
        low=10,
        high=10_000_000,
    ),
)


def _roughly(water_m3: float) -> Figure:
    """To three figures: a model with even rain knows no more."""
    return Figure(value=float(f"{water_m3:.3g}"))


def year(given: Mapping[str, float]) -> LifeYear:
    """A year of a tank under a roof; `given` are the settings [stored unit]."""
    shares = list(YEARS.values())[round(given["spread"])]
    came = [
        roof_yield(given["rain_m"] * share, given["roof_m2"], given["runoff"], given["first_m3"])
        for share in shares
    ]
    use = given["people"] * given["each_m3"]
    first = tank_year(came, given["tank_m3"], use)
    usual = tank_year(came, given["tank_m3"], use, start_m3=first.end_m3)  # not the year it was set up
    days = sum(MONTH_DAYS)
    smallest = smallest_tank(came, use)
    if smallest.value is not None:
        smallest = _roughly(smallest.value)
    enough = "The tank never runs dry."
    if usual.dry_days:
        enough = f"On {usual.dry_days} days of {days} the tank cannot give what is used."
    return LifeYear(
        said=enough,
        facts=(
            LifeFact(label="Comes off the roof in a year", unit="liter", figure=_roughly(sum(came))),
            LifeFact(
                label="Is used in a year, if there is enough", unit="liter", figure=_roughly(use * days)
            ),
            LifeFact(label="Of that the tank gives", unit="percent", figure=Figure(value=usual.share_met)),
            LifeFact(label="Runs over", unit="liter", figure=_roughly(usual.overflow_m3)),
            LifeFact(label="Smallest tank that never runs dry", unit="liter", figure=smallest),
        ),
        months=tuple(
            LifeMonth(name=name, used=m.used_m3, over=m.overflow_m3, left=m.end_m3)
            for name, m in zip(MONTHS, usual.months, strict=True)
        ),
        unit="liter",
    )


LIFE_SIZE = LifeSize(
    question="What would a roof and a tank do?",
    model=(
        "The rain of a month falls evenly on its days; the tank is filled, then used. A real month has "
        "dry weeks and storms: a real tank runs dry, and over, more often. Rain water is not for drinking."
    ),
    settings=SETTINGS,
    work=year,
    legend=("used", "runs over", "in the tank at the month's end"),
    share="runoff",
    from_metric="efficiency",
)
