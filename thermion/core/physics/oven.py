"""Figures of a solar oven from its heating and cooling curves."""

from __future__ import annotations

from dataclasses import dataclass
from math import cos, inf, pi, radians, sin, sqrt

from thermion.core.lazy import numpy as np
from thermion.core.physics.cooking import WATER_J_KG_K, CookingPower, standard_cooking_power
from thermion.core.physics.sun import (
    LOWEST_DEG,
    Place,
    Sun,
    Window,
    best_window,
    clear_sky,
    sun_position,
    window_tilt,
)
from thermion.core.reasons import Why
from thermion.core.values import Figure, Source, measured, positive, single

__all__ = [
    "WATER_J_KG_K",
    "CookingPower",
    "Place",
    "Reflector",
    "Sun",
    "Window",
    "best_reflector",
    "best_window",
    "clear_sky",
    "corrected_peak",
    "efficiency",
    "first_figure_of_merit",
    "gathering_area",
    "heat_loss_coefficient",
    "reflector_gain",
    "standard_cooking_power",
    "sun_position",
    "useful_heat",
    "window_tilt",
]


def useful_heat(
    load_kg: float, rise_k: float, *, se_rise_k: float = 0.0, specific_heat: float = WATER_J_KG_K
) -> Figure:
    """Useful heat Q = m·c·ΔT [J] of a load [kg] of specific heat [J/(kg·K)] warmed by [K]."""
    per_k = positive("load_kg", load_kg) * positive("specific_heat", specific_heat)
    return Figure(value=per_k * single("rise_k", rise_k), se=per_k * se_rise_k)


def heat_loss_coefficient(
    load_kg: float,
    time_constant_s: float,
    *,
    se_time_constant_s: float = 0.0,
    specific_heat: float = WATER_J_KG_K,
    box_j_k: float = 0.0,
    box_range_j_k: float = 0.0,
    dof: float = inf,
) -> Figure:
    """UA = (m·c + box)/τ_cool [W/K] of a box cooling without sun.

    `load_kg` [kg] of specific heat [J/(kg·K)]; `box_j_k` is the box's own heat capacity
    [J/K], neglected (and said so) when not given, and `box_range_j_k` how far either way it may be
    off (a rectangle, GUM 4.3.7). `dof` are those of the time constant. Lumped-capacity cooling: F. P. Incropera,
    Fundamentals of Heat and Mass Transfer, ch. 5. ValueError for a mass or time not above zero.
    """
    mass, tau = single("load_kg", load_kg), single("time_constant_s", time_constant_s)
    if mass <= 0:
        raise ValueError("load_kg: expected a mass above zero")
    if tau <= 0:
        raise ValueError("time_constant_s: expected a time above zero")
    ua = (mass * specific_heat + box_j_k) / tau
    notes = () if box_j_k else (Why.BOX_NEGLECTED,)
    sources = (
        Source("the readings", -ua * se_time_constant_s / tau, "try", dof),
        Source("the box's own warmth", box_range_j_k / sqrt(3.0) / tau, "build"),
    )
    return measured(ua, sources, notes=notes)


def efficiency(
    load_kg: float,
    rise_k: float,
    aperture_m2: float,
    radiant_exposure_j_m2: float,
    *,
    se_rise_k: float = 0.0,
    se_exposure: float = 0.0,
    specific_heat: float = WATER_J_KG_K,
) -> Figure:
    """η = m·c·ΔT / (A·∫I dt), dimensionless; refused above 1 with the likely cause.

    `radiant_exposure_j_m2` is the irradiance integrated over the heating time [J/m²], known to
    `se_exposure`, a share of it.
    """
    mass, rise = single("load_kg", load_kg), single("rise_k", rise_k)
    area = single("aperture_m2", aperture_m2)
    exposure = single("radiant_exposure_j_m2", radiant_exposure_j_m2)
    if area <= 0 or mass <= 0:
        raise ValueError(("aperture_m2" if area <= 0 else "load_kg") + ": expected above zero")
    if exposure <= 0:
        return Figure(reason=Why.NO_LIGHT_KNOWN)
    share = mass * specific_heat * rise / (area * exposure)
    if share > 1:
        return Figure(reason=Why.MORE_HEAT_THAN_LIGHT)
    if not rise:
        return Figure(value=share)
    sources = (
        Source("the readings", share * se_rise_k / rise),
        Source("the light", -share * se_exposure, "run"),
    )
    return measured(share, sources)


def gathering_area(aperture_m2: float, reflector_m: float, angle_deg: float, elevation_deg: float) -> float:
    """Window plus the reflector's projected area [m²], both as the sun sees them from above.

    A reflector as wide as the square window of `aperture_m2` [m²], `reflector_m` [m] long and
    opened by `angle_deg` [°], facing a sun at `elevation_deg` [°], cuts length·sin(angle −
    elevation) out of the beam; divided by sin(elevation) it counts like level window. A flap that
    turns its back to the sun adds nothing.
    """
    side = sqrt(positive("aperture_m2", aperture_m2))
    sun, lean = radians(single("elevation_deg", elevation_deg)), radians(180.0 - angle_deg)
    if not 0 < sun <= pi / 2:
        raise ValueError("elevation_deg: expected 0 to 90")
    facing = cos(sun) * sin(lean) + sin(sun) * cos(lean)
    return side**2 + side * max(reflector_m * facing, 0.0) / sin(sun)


def first_figure_of_merit(
    limit_c: float,
    air_c: float,
    irradiance_w_m2: float,
    *,
    se_limit_k: float = 0.0,
    se_air_k: float = 0.0,
    se_irradiance: float = 0.0,
) -> Figure:
    """F₁ = (T_limit − T_air)/I [K·m²/W]; `se_irradiance` is a share of it.

    S. C. Mullick, T. C. Kandpal and A. K. Saxena, Solar Energy 39, 353 (1987),
    doi:10.1016/S0038-092X(87)80021-X.
    """
    excess = single("limit_c", limit_c) - single("air_c", air_c)
    sun = single("irradiance_w_m2", irradiance_w_m2)
    if sun <= 0:
        return Figure(reason=Why.NO_LIGHT_KNOWN)
    sources = (
        Source("the limit", se_limit_k / sun),
        Source("the air's thermometer", -se_air_k / sun, "run"),
        Source("the light", -excess / sun * se_irradiance, "run"),
    )
    return measured(excess / sun, sources)


def corrected_peak(
    peak_c: float, air_c: float, irradiance_w_m2: float, *, to_air_c: float, to_irradiance: float
) -> float:
    """Peak a box would reach under other sun and air [°C]: its excess scales with irradiance.

    Holds for a box near its limiting temperature (F₁ constant); ValueError without sun.
    """
    sun = single("irradiance_w_m2", irradiance_w_m2)
    if sun <= 0:
        raise ValueError("irradiance_w_m2: expected above zero")
    return to_air_c + (peak_c - air_c) * to_irradiance / sun


def reflector_gain(
    window_m: float, length_m: float, angle_deg: float, elevation_deg: float, reflectance: float
) -> float:
    """Light on a level window with a hinged flat reflector over light without it (≥ 1).

    Ray geometry in the plane of the sun: window from 0 to `window_m` [m], flap of `length_m`
    [m] hinged at its far edge and opened by `angle_deg` [°] from the closed position, sun at
    `elevation_deg` [°] facing it. Rays are mirrored at the flap; those that land on the window
    count, times `reflectance` (0 to 1). Window ends and scattered light are neglected.
    """
    sun = radians(single("elevation_deg", elevation_deg))
    if window_m <= 0 or not 0 < sun <= pi / 2:
        raise ValueError(
            "window_m: expected above zero" if window_m <= 0 else "elevation_deg: expected 0 to 90"
        )
    lean = pi - radians(single("angle_deg", angle_deg))
    flap = (cos(lean), sin(lean))
    ray = (cos(sun), -sin(sun))
    facing = ray[0] * flap[1] - ray[1] * flap[0]  # power per metre of flap
    if length_m <= 0 or facing <= 0:
        return 1.0
    along = ray[0] * flap[0] + ray[1] * flap[1]
    back = (2 * along * flap[0] - ray[0], 2 * along * flap[1] - ray[1])
    if back[1] >= 0:
        return 1.0
    landing = length_m * (flap[0] - flap[1] * back[0] / back[1])  # relative to the hinge
    if landing >= 0:
        return 1.0
    share = min(1.0, window_m / -landing)
    return 1.0 + reflectance * share * length_m * facing / (window_m * sin(sun))


@dataclass(frozen=True)
class Reflector:
    """Opening angle [°] of the flap from closed, the light gained, and a reason if none."""

    angle_deg: float | None
    gain: float
    reason: str | None = None


def best_reflector(
    window_m: float, length_m: float, elevation_deg: float, reflectance: float = 0.88
) -> Reflector:
    """Angle of a hinged flat reflector that throws most light on a level window, and the gain.

    Found by ray geometry (`reflector_gain`) over half degrees. Below 15° of sun: says so.
    ValueError for lengths not above zero or a reflectance outside 0 to 1.
    """
    depth, length = positive("window_m", window_m), positive("length_m", length_m)
    share, height = single("reflectance", reflectance), single("elevation_deg", elevation_deg)
    if not 0 <= share <= 1:
        raise ValueError("reflectance: expected 0 to 1")
    if height <= 0:
        return Reflector(None, 1.0, "there is no sun")
    if height < LOWEST_DEG:
        return Reflector(None, 1.0, f"the sun stands below {LOWEST_DEG:.0f}°")
    angles = np.arange(30.0, 170.5, 0.5)
    gains = [reflector_gain(depth, length, float(a), min(height, 90.0), share) for a in angles]
    best = int(np.argmax(gains))
    return Reflector(float(angles[best]), gains[best])
