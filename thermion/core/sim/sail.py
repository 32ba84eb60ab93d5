"""A trolley with a sail in the jet of a fan: drag with camber, a sail that gives, friction.

m·dv/dt = ½·ρ·(u(x) − v)²·C·A_eff − μ·m·g, with the fan's jet u(x) spreading with distance.

.. [1] H. Schlichting and K. Gersten, Boundary-Layer Theory, 9th ed., ch. 22: the round jet slows
   as 1/x beyond its core.
.. [2] S. F. Hoerner, Fluid-Dynamic Drag (1965), ch. 3: flat plate 1.17, open hemisphere 1.42.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from thermion.core.lazy import ArrayLike, FloatArray
from thermion.core.lazy import numpy as np
from thermion.core.physics.lift import AIR_KG_M3, G_M_S2
from thermion.core.values import finite, positive

FLAT_DRAG, CUPPED_DRAG = 1.17, 1.42
_CORE_DIAMETERS = 2.0  # a free nozzle has six; the swirl of a room fan mixes far sooner
_STEP_S = 0.02


@dataclass(frozen=True)
class SailModel:
    """A sail on its trolley.

    `area_m2`; `belly` depth over width (0 flat, 0.5 a half round); `rake_deg` mast off upright;
    `low_m`, `high_m` lower and upper edge above the track; `stiffness_pa` wind pressure at
    which half of the sail has given way; `mass_kg` of all that rolls; `rolling` friction
    coefficient; `turned_deg` off square to the wind.
    """

    area_m2: float = 0.03
    belly: float = 0.1
    rake_deg: float = 0.0
    low_m: float = 0.03
    high_m: float = 0.21
    stiffness_pa: float = 12.0
    mass_kg: float = 0.15
    rolling: float = 0.05
    turned_deg: float = 0.0

    def check(self) -> None:
        """ValueError naming what cannot be."""
        for name in ("area_m2", "stiffness_pa", "mass_kg", "rolling"):
            positive(name, getattr(self, name))
        if not 0 <= self.belly <= 1:
            raise ValueError("belly: expected 0 to 1")
        if not 0 <= self.low_m < self.high_m:
            raise ValueError("low_m: expected below high_m and not under the track")
        for name in ("rake_deg", "turned_deg"):
            if not abs(getattr(self, name)) <= 90:
                raise ValueError(f"{name}: expected −90 to 90")

    @property
    def drag_coefficient(self) -> float:
        """From a flat plate to an open half round as the belly grows to half the width."""
        return FLAT_DRAG + (CUPPED_DRAG - FLAT_DRAG) * min(self.belly / 0.5, 1.0)


@dataclass(frozen=True)
class SailRun:
    """Where it stopped [m], seconds until then, whether at the end stop, and how much it gave:
    0 collapsed, 1 leaned, 2 held."""

    stop_m: float
    time_s: float | None
    at_end: bool
    give: int


def jet_speed(x_m: ArrayLike, fan_m_s: float, fan_diameter_m: float = 0.3) -> FloatArray:
    """Speed of a fan's jet on its axis [m/s] at a distance [m]: steady for two diameters, then
    falling as 1/x."""
    x, width = finite("x_m", x_m), positive("fan_diameter_m", fan_diameter_m)
    core = _CORE_DIAMETERS * width
    return np.asarray(positive("fan_m_s", fan_m_s) * np.minimum(1.0, core / np.maximum(x, 1e-9)))


def simulate_sails(
    models: Sequence[SailModel],
    wind_m_s: float,
    track_m: float,
    *,
    fan_diameter_m: float = 0.3,
    hub_m: float = 0.15,
    fan_gap_m: float = 0.4,
    limit_s: float = 40.0,
) -> list[SailRun]:
    """Runs from rest at the start line, `fan_gap_m` [m] before the fan whose hub is `hub_m` [m]
    above the track; all sails in one integration (semi-implicit Euler, 20 ms).

    A sail that does not overcome friction stays where it is: a result of zero.
    """
    track, width = positive("track_m", track_m), positive("fan_diameter_m", fan_diameter_m)
    for model in models:
        model.check()
    low, high = (np.array([getattr(m, k) for m in models]) for k in ("low_m", "high_m"))
    mass = np.array([m.mass_kg for m in models])
    friction = np.array([m.rolling for m in models]) * mass * G_M_S2
    square = np.cos(np.radians([m.rake_deg for m in models])) * np.cos(
        np.radians([m.turned_deg for m in models])
    )
    strength = np.array([m.stiffness_pa for m in models])
    force = 0.5 * AIR_KG_M3 * square**2 * np.array([m.area_m2 * m.drag_coefficient for m in models])
    x, v, time = np.zeros((3, len(models)))
    worst = np.ones(len(models))
    going = np.ones(len(models), bool)
    for i in range(int(limit_s / _STEP_S)):
        away = x + fan_gap_m
        half = width / 2 + 0.1 * away  # the jet widens by about a tenth of the distance
        inside = np.clip(np.minimum(high, hub_m + half) - np.maximum(low, hub_m - half), 0.0, None)
        wind = np.maximum(jet_speed(away, wind_m_s, width) - v, 0.0)
        pressure = 0.5 * AIR_KG_M3 * wind**2
        stands = 1.0 / (1.0 + (pressure / strength) ** 2)
        worst = np.minimum(worst, stands)
        push = force * wind**2 * inside / (high - low) * stands - friction
        v = np.where(going, np.maximum(v + push / mass * _STEP_S, 0.0), 0.0)
        x = np.minimum(x + v * _STEP_S, track)
        time = np.where(going, (i + 1) * _STEP_S, time)
        going &= (x < track) & ((v > 0) | (push > 0))
        if not going.any():
            break
    return [
        SailRun(
            float(x[k]),
            float(time[k]) if x[k] > 0 else None,
            bool(x[k] >= track),
            2 if worst[k] > 0.8 else 1 if worst[k] > 0.4 else 0,
        )
        for k in range(len(models))
    ]
