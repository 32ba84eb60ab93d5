"""Standardised cooking power of a solar oven, after ASAE/ASABE S580."""

from __future__ import annotations

from dataclasses import dataclass
from math import sqrt

from thermion.core.lazy import ArrayLike, FloatArray, special
from thermion.core.lazy import numpy as np
from thermion.core.reasons import Because, Why, because
from thermion.core.values import Figure, finite, positive, series, single

WATER_J_KG_K = 4186.0  # specific heat of water near 20 °C, CRC Handbook of Chemistry and Physics
INTERVAL_S = 600.0
STANDARD_W_M2 = 700.0
STANDARD_EXCESS_K = 50.0
LOAD_KG_M2 = 7.0
LEAST_INTERVALS = 30
LEAST_R2 = 0.75
SUN_W_M2 = (450.0, 1100.0)
SUN_SWING_W_M2 = 100.0
AIR_C = (20.0, 35.0)
BELOW_BOILING_K = 5.0
ABOVE_AIR_K = 5.0


@dataclass(frozen=True)
class Interval:
    """Ten minutes: mean excess of water over air [K], power, and why it is set aside, if so."""

    from_s: float
    excess_k: float
    power_w: float
    adjusted_w: float
    set_aside: str = ""


@dataclass(frozen=True)
class CookingPower:
    """`power_w` at 50 K with its standard error; 95 % confidence interval; the line; intervals."""

    power_w: Figure
    low_w: float | None
    high_w: float | None
    n: int
    r2: float | None
    intercept_w: float | None
    slope_w_k: float | None
    intervals: tuple[Interval, ...]


def standard_cooking_power(
    time_s: ArrayLike,
    water_c: ArrayLike,
    air_c: ArrayLike,
    irradiance_w_m2: ArrayLike,
    water_kg: float,
    *,
    aperture_m2: float | None = None,
    boiling_c: float = 100.0,
) -> CookingPower:
    """Cooking power at 50 K above air, referred to 700 W/m².

    Parameters
    ----------
    time_s, water_c : shape (n,) [s, °C], the readings of the heating run.
    air_c, irradiance_w_m2 : scalar or shape (n,), at the same times [°C, W/m² on the aperture].
    water_kg : mass of the water [kg].  aperture_m2 : intercept area [m²], to check the load.
    boiling_c : boiling temperature of the place [°C].

    Returns
    -------
    CookingPower. Over each 10 minutes P = m·c·(T₂ − T₁)/600 and P_s = P·700/Ī; P_s is regressed
    on the mean of T_water − T_air; its value at 50 K is reported with standard error and 95 %
    confidence interval. Intervals outside the standard's conditions (sun 450 to 1100 W/m² and
    steady within 100 W/m², air 20 to 35 °C, water from 5 K above air to 5 K below boiling) are
    set aside and listed with the reason. Fewer than 3 usable intervals give a reason; fewer
    than 30, r² below 0.75 or a load other than 7 kg/m² are noted.

    Raises
    ------
    ValueError naming the argument for bad input.

    References
    ----------
    .. [1] ASAE S580.1 (2013), Testing and Reporting Solar Cooker Performance, ASABE.
    .. [2] P. A. Funk, Solar Energy 68, 1 (2000), doi:10.1016/S0038-092X(99)00059-6.
    """
    t, water = series(time_s, water_c)
    air = _matched("air_c", air_c, t)
    sun = _matched("irradiance_w_m2", irradiance_w_m2, t)
    mass = positive("water_kg", water_kg)
    boiling = single("boiling_c", boiling_c)
    edges = np.arange(t[0], t[-1] + 1e-6, INTERVAL_S)
    intervals = tuple(
        _interval(t, water, air, sun, mass=mass, boiling=boiling, begin=float(a), end=float(a) + INTERVAL_S)
        for a in edges[:-1]
    )
    used = [x for x in intervals if not x.set_aside]
    notes: list[Because] = []
    if aperture_m2 is not None:
        load = mass / positive("aperture_m2", aperture_m2)
        if abs(load - LOAD_KG_M2) > 0.1 * LOAD_KG_M2:
            notes.append(because(Why.OTHER_LOAD, load=load, standard=LOAD_KG_M2))
    if len(used) < 3:
        why = because(Why.TOO_FEW_INTERVALS, intervals=len(used))
        return CookingPower(
            power_w=Figure(reason=why),
            low_w=None,
            high_w=None,
            n=len(used),
            r2=None,
            intercept_w=None,
            slope_w_k=None,
            intervals=intervals,
        )
    return _line(used, intervals, notes)


def _line(used: list[Interval], intervals: tuple[Interval, ...], notes: list[Because]) -> CookingPower:
    x = np.array([i.excess_k for i in used])
    y = np.array([i.adjusted_w for i in used])
    dx = x - x.mean()
    size = float(dx @ dx)
    if size == 0:
        why = Why.SAME_EXCESS
        return CookingPower(
            power_w=Figure(reason=why),
            low_w=None,
            high_w=None,
            n=len(used),
            r2=None,
            intercept_w=None,
            slope_w_k=None,
            intervals=intervals,
        )
    slope = float(dx @ y) / size
    intercept = float(y.mean() - slope * x.mean())
    residual = y - intercept - slope * x
    dof = len(used) - 2
    s2 = float(residual @ residual) / dof
    total = float(((y - y.mean()) ** 2).sum())
    r2 = 1 - float(residual @ residual) / total if total > 0 else None
    value = intercept + slope * STANDARD_EXCESS_K
    se = sqrt(s2 * (1 / len(used) + (STANDARD_EXCESS_K - float(x.mean())) ** 2 / size))
    half = float(special.stdtrit(dof, 0.975)) * se
    if len(used) < LEAST_INTERVALS:
        notes.append(because(Why.FEW_INTERVALS, intervals=len(used), standard=LEAST_INTERVALS))
    if r2 is not None and r2 < LEAST_R2:
        notes.append(because(Why.LOOSE_LINE, r2=r2, standard=LEAST_R2))
    if not x.min() <= STANDARD_EXCESS_K <= x.max():
        notes.append(Why.OUTSIDE_MEASURED)
    figure = Figure(value=value, se=se, notes=tuple(notes))
    return CookingPower(
        power_w=figure,
        low_w=value - half,
        high_w=value + half,
        n=len(used),
        r2=r2,
        intercept_w=intercept,
        slope_w_k=slope,
        intervals=intervals,
    )


def _matched(name: str, value: ArrayLike, t: FloatArray) -> FloatArray:
    found = finite(name, value)
    if found.ndim and found.shape != t.shape:
        raise ValueError(f"{name}: expected one number or {t.size} to match time_s")
    return np.asarray(np.broadcast_to(found, t.shape))


def _interval(
    t: FloatArray,
    water: FloatArray,
    air: FloatArray,
    sun: FloatArray,
    mass: float,
    boiling: float,
    begin: float,
    end: float,
) -> Interval:
    inside = (t > begin) & (t < end)
    at = np.concatenate([[begin], t[inside], [end]])

    def over(series: FloatArray) -> FloatArray:
        return np.asarray(np.interp(at, t, series))

    w, a, s = over(water), over(air), over(sun)
    mean_sun = float(np.trapezoid(s, at)) / INTERVAL_S
    excess = float(np.trapezoid(w - a, at)) / INTERVAL_S
    power = mass * WATER_J_KG_K * float(w[-1] - w[0]) / INTERVAL_S
    why = ""
    if not SUN_W_M2[0] <= mean_sun <= SUN_W_M2[1]:
        why = f"sun {mean_sun:.0f} W/m², outside {SUN_W_M2[0]:.0f} to {SUN_W_M2[1]:.0f}"
    elif float(s.max() - s.min()) > SUN_SWING_W_M2:
        why = f"the sun changed by {s.max() - s.min():.0f} W/m²"
    elif not AIR_C[0] <= float(a.mean()) <= AIR_C[1]:
        why = f"air {a.mean():.0f} °C, outside {AIR_C[0]:.0f} to {AIR_C[1]:.0f}"
    elif float(w[0]) < float(a[0]) + ABOVE_AIR_K:
        why = "water less than 5 K above the air"
    elif float(w[-1]) > boiling - BELOW_BOILING_K:
        why = "water within 5 K of boiling"
    adjusted = power * STANDARD_W_M2 / mean_sun if mean_sun > 0 else 0.0
    return Interval(from_s=begin, excess_k=excess, power_w=power, adjusted_w=adjusted, set_aside=why)
