"""Rain catch: water in, water caught, and what a roof and a tank would make of it.

Volumes in m³ (1 mL is 1e-6 m³), depths in m, areas in m², times in s, intensity in mm/h.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from math import sqrt

from thermion.core.lazy import ArrayLike, FloatArray
from thermion.core.lazy import numpy as np
from thermion.core.reasons import Why
from thermion.core.values import Figure, finite, not_negative, positive, ratio, series, single, whole

MONTH_DAYS = (31, 28, 31, 30, 31, 30, 31, 31, 30, 31, 30, 31)


def squeeze_volume(volume_m3: ArrayLike, squeezes: int, *, resolution: float = 0.0) -> Figure:
    """Volume of one squeeze of a sprayer [m³] from repeated fills of a measure.

    `volume_m3` shape (k,): what `squeezes` squeezes gave, k times. Standard error from the
    spread of the fills (Type A) and the measure's `resolution` (Type B), in quadrature.
    """
    v = np.atleast_1d(finite("volume_m3", volume_m3))
    n = whole("squeezes", squeezes)
    if v.size == 0 or np.any(v <= 0):
        raise ValueError("volume_m3: expected at least one volume above zero")
    spread = float(np.std(v, ddof=1)) / sqrt(v.size) if v.size > 1 else 0.0
    se = sqrt(spread**2 + not_negative("resolution", resolution) ** 2 / 12.0 / v.size) / n
    notes = () if v.size > 1 else (Why.MEASURED_ONCE,)
    return Figure(value=float(v.mean()) / n, se=se, notes=notes)


def rain_depth(volume_m3: float, tray_m2: float) -> float:
    """Depth of a shower on the tray [m]: water in over the tray's area."""
    return not_negative("volume_m3", volume_m3) / positive("tray_m2", tray_m2)


def rain_intensity_mm_h(depth_m: float, time_s: float) -> float:
    """Intensity of a shower [mm/h]. Heavy rain is above 7.6 mm/h, violent above 50 (AMS)."""
    return not_negative("depth_m", depth_m) * 1000.0 * 3600.0 / positive("time_s", time_s)


@dataclass(frozen=True)
class Capture:
    """Share of all water caught, and how many times the share its mouth alone would get."""

    efficiency: Figure
    concentration: Figure


def capture(caught_m3: Figure, poured_m3: Figure, mouth_m2: float, tray_m2: float) -> Capture:
    """Capture efficiency V_out/V_in and concentration (V_out/V_in)/(A_mouth/A_tray).

    A concentration above 1 means it gathers from beyond its own mouth. More water out than in
    (beyond two standard uncertainties) is refused with the likely cause.
    """
    share_of_tray = positive("mouth_m2", mouth_m2) / positive("tray_m2", tray_m2)
    if share_of_tray > 1 + 1e-9:
        raise ValueError("mouth_m2: expected a mouth no larger than the tray")
    out, water = caught_m3.value, poured_m3.value
    if out is None or water is None:
        why = (caught_m3 if out is None else poured_m3).reason or Why.NOT_NOTED
        return Capture(Figure(reason=why), Figure(reason=why))
    not_negative("caught_m3", out)
    positive("poured_m3", water)
    slack = 2 * sqrt((caught_m3.se or 0.0) ** 2 + (poured_m3.se or 0.0) ** 2)
    if out > water + slack:
        no = Figure(reason=Why.MORE_OUT_THAN_IN)
        return Capture(no, no)
    efficiency = ratio(caught_m3, poured_m3)
    return Capture(efficiency, ratio(efficiency, Figure(value=share_of_tray)))


def leak_rate(time_s: ArrayLike, volume_m3: ArrayLike, *, resolution: float = 0.0) -> Figure:
    """Loss between the first and the last of at least two later readings [m³/s].

    Each reading is uncertain by half a `resolution` beside its rounding; a loss within twice what that
    makes of the difference is only a bound, and a volume that grew beyond it a reason.
    """
    t, v = series(time_s, volume_m3)
    if t.size < 2:
        return Figure(reason=Why.LEAK_NEEDS_TWO)
    seconds, lost = float(t[-1] - t[0]), float(v[0] - v[-1])
    step = not_negative("resolution", resolution)
    u = sqrt(2.0 * (0.5**2 + 1 / 12.0)) * step  # of a difference of two readings
    if lost < -2 * u:
        return Figure(reason=Why.MORE_WATER_THAN_BEFORE)
    if lost <= 2 * u:
        most = max(lost, 0.0) + 2 * u
        return Figure(at_most=most / seconds, reason=Why.BELOW_MEASURE)
    return Figure(value=lost / seconds, se=u / seconds)


def roof_yield(
    depth_m: float, roof_m2: float, runoff_coefficient: float, first_flush_m3: float = 0.0
) -> float:
    """Water a roof gives [m³]: depth × area × runoff coefficient − first flush, never under 0.

    Runoff coefficients: hard roofs 0.8 to 0.95, green roofs 0.3 to 0.5 (EN 16941-1:2018).
    """
    share = single("runoff_coefficient", runoff_coefficient)
    if not 0 <= share <= 1:
        raise ValueError("runoff_coefficient: expected 0 to 1")
    water = not_negative("depth_m", depth_m) * positive("roof_m2", roof_m2) * share
    return max(water - not_negative("first_flush_m3", first_flush_m3), 0.0)


@dataclass(frozen=True)
class TankMonth:
    """A month of a tank [m³], and what is in it at its end."""

    used_m3: float
    overflow_m3: float
    end_m3: float


@dataclass(frozen=True)
class Tank:
    """A year of a tank, in days and m³. `start + inflow = used + overflow + end`."""

    share_met: float
    dry_days: int
    used_m3: float
    overflow_m3: float
    end_m3: float
    months: tuple[TankMonth, ...] = ()


def tank_year(
    inflow_m3: Sequence[float], tank_m3: float, daily_use_m3: float, *, start_m3: float = 0.0
) -> Tank:
    """Monthly inflow [m³], spread evenly over its days, against a daily use [m³] for a year.

    Each day: rain in, use out, what is above the rim overflows. A dry day is one on which the
    use could not be met in full. ValueError unless there are 12 months of zero or more.
    """
    daily = _daily(inflow_m3)
    room, use = not_negative("tank_m3", tank_m3), positive("daily_use_m3", daily_use_m3)
    level = not_negative("start_m3", start_m3)
    if level > room:
        raise ValueError("start_m3: expected no more than the tank holds")
    dry = 0
    months = []
    for rain in np.split(daily, np.cumsum(MONTH_DAYS)[:-1]):
        used = over = 0.0
        for came in rain.tolist():
            level += came
            drawn = min(level, use)
            dry += drawn < use * (1 - 1e-9)
            used, level = used + drawn, level - drawn
            spill = max(level - room, 0.0)
            over, level = over + spill, level - spill
        months.append(TankMonth(used, over, level))
    used = sum(m.used_m3 for m in months)
    return Tank(
        share_met=used / (use * daily.size),
        dry_days=dry,
        used_m3=used,
        overflow_m3=sum(m.overflow_m3 for m in months),
        end_m3=level,
        months=tuple(months),
    )


def smallest_tank(inflow_m3: Sequence[float], daily_use_m3: float) -> Figure:
    """Smallest tank that never runs dry, once it has seen a year [m³].

    Sequent-peak algorithm over two years. A use above the year's inflow gives a reason.

    References
    ----------
    .. [1] H. A. Thomas and R. P. Burden, Operations Research in Water Quality Management,
       Harvard University (1963).
    """
    daily = _daily(inflow_m3)
    use = positive("daily_use_m3", daily_use_m3)
    if daily.sum() < use * daily.size * (1 - 1e-12):
        return Figure(reason=Why.LESS_RAIN_THAN_USED)
    missing = worst = 0.0
    for rain in np.tile(daily, 2).tolist():
        missing = max(missing + use - rain, 0.0)
        worst = max(worst, missing)
    return Figure(value=worst)


def _daily(inflow_m3: Sequence[float]) -> FloatArray:
    months = finite("inflow_m3", inflow_m3)
    if months.shape != (12,) or np.any(months < 0):
        raise ValueError("inflow_m3: expected 12 months of zero or more")
    return np.repeat(months / np.array(MONTH_DAYS), MONTH_DAYS)
