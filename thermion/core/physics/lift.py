"""Wind hoist: work, power, wind power, and which load to try next.

Units: kg, m, s, J, W, m/s. A load is counted in equal weights; its mass includes the cup.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from math import floor, inf, pi

from thermion.core.reasons import Because, Why, because
from thermion.core.values import (
    Figure,
    Source,
    finite,
    measured,
    not_negative,
    positive,
    scaled,
    single,
    sources_of,
    whole,
)

G_M_S2 = 9.80665  # standard gravity, 3rd CGPM (1901)
AIR_KG_M3 = 1.225  # International Standard Atmosphere at sea level and 15 °C
R_DRY_AIR = 287.05  # J/(kg·K), ISO 2533:1975
BETZ = 16.0 / 27.0  # greatest share of the wind's power a disc can take (A. Betz, 1920)


def load_mass(count: float, unit_kg: float, cup_kg: float = 0.0) -> float:
    """Mass of a load [kg]: the cup plus `count` weights of `unit_kg` [kg] each."""
    weights = whole("count", count, least=0)
    return not_negative("cup_kg", cup_kg) + weights * positive("unit_kg", unit_kg)


def lift_work(mass_kg: float, height_m: float) -> float:
    """Work W = m·g·h [J] of lifting `mass_kg` [kg] by `height_m` [m], g = 9.80665 m/s²."""
    return not_negative("mass_kg", mass_kg) * G_M_S2 * not_negative("height_m", height_m)


def lift_power(mass_kg: float, height_m: float, time_s: float) -> float:
    """Mean power P = m·g·h/t [W] of a lift in `time_s` [s].

    A partial rise counts with the height it reached. ValueError naming the argument for a
    negative mass or height, or a time not above zero.
    """
    seconds = positive("time_s", time_s)
    return lift_work(mass_kg, height_m) / seconds


def lift_power_figure(
    mass_kg: float,
    height_m: float,
    time_s: float,
    *,
    se_mass_kg: float = 0.0,
    se_height_m: float = 0.0,
    se_time_s: float = 0.0,
) -> Figure:
    """`lift_power` with its standard uncertainty (first order, in quadrature; GUM 5.1.2)."""
    power = lift_power(mass_kg, height_m, time_s)
    return measured(
        power,
        (
            Source("the weights", lift_power(1.0, height_m, time_s) * se_mass_kg, "all"),
            Source("the height", lift_power(mass_kg, 1.0, time_s) * se_height_m, "all"),
            Source("the stopwatch", -power / time_s * se_time_s, "try"),
        ),
    )


def air_density(temp_c: float, pressure_pa: float = 101_325.0) -> float:
    """Density of dry air ρ = p/(R·T) [kg/m³] at `temp_c` [°C] and `pressure_pa` [Pa]."""
    kelvin = single("temp_c", temp_c) + 273.15
    if kelvin <= 0:
        raise ValueError("temp_c: expected above absolute zero")
    return positive("pressure_pa", pressure_pa) / (R_DRY_AIR * kelvin)


def wind_power(speed_m_s: float, radius_m: float, density_kg_m3: float = AIR_KG_M3) -> float:
    """Power of the wind through the swept disc, ½·ρ·π·R²·v³ [W]."""
    area = pi * positive("radius_m", radius_m) ** 2
    density = positive("density_kg_m3", density_kg_m3)
    return 0.5 * density * area * not_negative("speed_m_s", speed_m_s) ** 3


def power_coefficient(
    power: Figure,
    wind_w: float,
    *,
    speed_m_s: float | None = None,
    se_speed_m_s: float = 0.0,
    se_density: float = 0.0,
) -> Figure:
    """Cp = P/P_wind, dimensionless; above the Betz limit it is refused with the likely cause.

    `wind_w` is the wind's power [W] at `speed_m_s` [m/s]; a standard uncertainty of that counts three
    times, since the power goes with its cube. `se_density` is relative. `betz_share` gives the
    share of what is possible at all. ValueError for no wind.
    """
    wind = positive("wind_w", wind_w)
    if power.value is None:
        return Figure(reason=power.reason)
    cp = power.value / wind
    if cp > BETZ:
        return Figure(reason=Why.ABOVE_BETZ)
    if power.se is None:
        return Figure(value=cp)
    by_wind = 3.0 * cp * not_negative("se_speed_m_s", se_speed_m_s) / (speed_m_s or 1.0)
    sources = (
        *sources_of(scaled(power, 1.0 / wind)),
        Source("the wind speed", -by_wind if speed_m_s else 0.0, "run"),
        Source("the air's density", -cp * se_density, "run"),
    )
    return measured(cp, sources)


def betz_share(cp: Figure) -> Figure:
    """Cp over the Betz limit 16/27: the share of what any rotor could take, dimensionless."""
    return scaled(cp, 1.0 / BETZ) if cp.value is not None else Figure(reason=cp.reason)


def turns(height_m: float, spool_m: float, string_m: float = 0.0) -> float:
    """Turns of the shaft for a rise: N = h/(π·(d_spool + d_string)); diameters [m]."""
    across = positive("spool_m", spool_m) + not_negative("string_m", string_m)
    return not_negative("height_m", height_m) / (pi * across)


def rise_of(turned: float, spool_m: float, string_m: float = 0.0) -> float:
    """Rise [m] for turns of the shaft: h = N·π·(d_spool + d_string); diameters [m]."""
    across = positive("spool_m", spool_m) + not_negative("string_m", string_m)
    return single("turned", turned) * pi * across


def tip_speed_ratio(turned: float, time_s: float, radius_m: float, speed_m_s: float) -> float:
    """Speed of the tip over the wind's: 2π·R·N/(t·v), `turned` turns in `time_s` [s]."""
    per_s = not_negative("turned", turned) / positive("time_s", time_s)
    return 2 * pi * positive("radius_m", radius_m) * per_s / positive("speed_m_s", speed_m_s)


@dataclass(frozen=True)
class NextLoad:
    """What to try next, or the bracket found.

    `load` None: finished. `lifts` is the most it is known to lift (None: nothing yet), `fails`
    the least it is known not to lift. `note` says why, and when a repeat contradicted.
    """

    load: float | None
    lifts: float | None
    fails: float | None
    note: Because = Why.NONE


def next_load(
    results: Sequence[tuple[float, bool]],
    school: str | Sequence[float],
    step: float = 1.0,
    start: float = 1.0,
    *,
    most: float | None = None,
) -> NextLoad:
    """The load to try next.

    Parameters
    ----------
    results : (load, lifted all the way) of the tries so far, in any order; loads as counts of
        weights or in any one unit.
    school : "ladder" (start, start + step, … the same for everyone, until one fails), a list of
        loads (a fixed ladder), or "search" (double until one fails, then halve to one step).
    step, start : smallest difference worth telling, and the first load; above zero.
    most : the largest load there are weights for.

    Returns
    -------
    NextLoad. A repeat that contradicts (lifted 5, failed 4) widens the bracket to what all
    tries agree on, and says so. It always ends: no load is proposed twice.

    Raises
    ------
    ValueError for an unknown school, a step or start not above zero, or loads not finite.
    """
    gap, first = positive("step", step), positive("start", start)
    for load, _ in results:
        not_negative("results", load)
    if isinstance(school, str) and school not in ("ladder", "search"):
        raise ValueError("school: expected 'ladder', 'search' or a list of loads")
    lifted = [load for load, up in results if up]
    failed = [load for load, up in results if not up]
    bracket = _Bracket.of(lifted, failed)
    note: Because = Why.NONE
    if bracket.clash:
        note = because(Why.TRIES_DISAGREE, lifted=max(lifted), failed=min(failed))
    tried = [load for load, _ in results]
    try_next: float | None = None
    if school == "search":
        try_next = _search(bracket, tried, gap, start=first, most=most)
    elif not failed:
        try_next = _rung(school, lifted, tried, gap, first, most)
    if try_next is None and not note:
        note = Why.ALL_LIFTED if bracket.high is None else Why.LIMIT_BETWEEN
    return NextLoad(try_next, bracket.low, bracket.high, note)


@dataclass(frozen=True)
class _Bracket:
    """The most that is lifted for certain and the least that is not; `clash` when tries contradict."""

    low: float | None
    high: float | None
    clash: bool

    @classmethod
    def of(cls, lifted: Sequence[float], failed: Sequence[float]) -> _Bracket:
        least, most = min(failed, default=inf), max(lifted, default=-inf)
        return cls(
            low=max((x for x in lifted if x < least), default=None),
            high=min((x for x in failed if x > most), default=None),
            clash=most >= least,
        )


def _rung(
    ladder: str | Sequence[float],
    lifted: Sequence[float],
    tried: Sequence[float],
    step: float,
    start: float,
    most: float | None,
) -> float | None:
    """The next load of a ladder that nothing has failed on yet."""
    if not isinstance(ladder, str):
        rungs = sorted(set(finite("school", ladder).tolist()))
        return next((x for x in rungs if x not in tried), None)
    rung = floor((max(lifted) - start) / step + 1e-9) + 1 if lifted else 0
    load = start + step * max(rung, 0)
    return None if most is not None and load > most else load


def _search(
    bracket: _Bracket, tried: Sequence[float], step: float, start: float, most: float | None
) -> float | None:
    """Doubling above, halving between; every load lies whole steps from `start`."""
    limit = inf if most is None else most
    if not tried:
        return min(start, limit)
    if bracket.high is None:
        top = max(tried)
        if bracket.clash or top >= limit:  # a clash: failed below what it lifted, the bracket stays open
            return None
        doubled = start + step * round((2 * top - start) / step)
        return min(max(doubled, top + step), limit)
    base = bracket.low or 0.0
    if bracket.high - base <= step * (1 + 1e-9):
        return None
    middle = start + step * round(((base + bracket.high) / 2 - start) / step)
    count = int((bracket.high - base) / step) + 2
    near = sorted((middle + step * k for k in range(-count, count + 1)), key=lambda x: abs(x - middle))
    inside = [x for x in near if x > 0 and base < x - 1e-9 and x + 1e-9 < bracket.high]
    return next((x for x in inside if all(abs(x - y) > 1e-9 for y in tried)), None)


@dataclass(frozen=True)
class Lift:
    """One attempt: mass lifted [kg], how far it rose [m], seconds; `full` when to the top."""

    mass_kg: float
    rise_m: float
    time_s: float | None
    full: bool


def best_tried(lifts: Sequence[Lift]) -> tuple[Lift | None, Figure]:
    """The attempt of greatest power among those tried, and that power [W]: never extrapolated.

    A build that never lifted anything has a power of zero, not a blank; without any attempt,
    or with no time taken of a rise, there is a reason.
    """
    if not lifts:
        return None, Figure(reason=Why.NO_ATTEMPT)
    timed = [x for x in lifts if x.rise_m > 0 and x.time_s]
    if not timed:
        if any(x.rise_m > 0 for x in lifts):
            return None, Figure(reason=Why.RISE_NOT_TIMED)
        return None, Figure(value=0.0, se=0.0, notes=(Why.NOTHING_LIFTED,))
    best = max(timed, key=lambda x: lift_power(x.mass_kg, x.rise_m, x.time_s or 1.0))
    power = lift_power(best.mass_kg, best.rise_m, best.time_s or 1.0)
    notes = () if any(not x.full for x in lifts) else (Why.BEST_TRIED,)
    return best, Figure(value=power, notes=notes)
