"""Layers in series, Newton's law, and melting: keep cold, keep warm, heat-through, melt pair."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from thermion.core.lazy import ArrayLike, FloatArray
from thermion.core.lazy import numpy as np
from thermion.core.physics.heat import FUSION_J_KG
from thermion.core.values import finite, not_negative, positive, single


def layer_resistance(
    layers: Sequence[tuple[float, float]],
    area_m2: float,
    *,
    inside_w_m2k: float | None = None,
    outside_w_m2k: float | None = None,
) -> float:
    """Thermal resistance of layers in series [K/W].

    `layers` holds (thickness [m], conductivity [W/(m·K)]); surface films [W/(m²·K)] are added
    where given. R = (1/h_i + Σ d/λ + 1/h_o)/A, ISO 6946:2017, section 6.
    """
    area = positive("area_m2", area_m2)
    total = 0.0
    for thickness, conductivity in layers:
        total += not_negative("layers", thickness) / positive("layers", conductivity)
    for name, film in (("inside_w_m2k", inside_w_m2k), ("outside_w_m2k", outside_w_m2k)):
        if film is not None:
            total += 1.0 / positive(name, film)
    return total / area


def newton_path(
    time_s: ArrayLike, start_c: float, surroundings_c: float, time_constant_s: float
) -> FloatArray:
    """T(t) = T_s + (T₀ − T_s)·exp(−t/τ) [°C] at `time_s` [s]; exact, any shape.

    A warm drink toward the air, or a probe behind a sample toward the pad.
    """
    t, tau = finite("time_s", time_s), positive("time_constant_s", time_constant_s)
    ends = single("surroundings_c", surroundings_c)
    return np.asarray(ends + (single("start_c", start_c) - ends) * np.exp(-t / tau))


def meltwater(time_s: ArrayLike, ua_w_k: ArrayLike, air_c: float, started_kg: float) -> FloatArray:
    """Melted mass [kg] of ice at 0 °C: UA·T_air·t/L_f until all is melted; none below 0 °C.

    `time_s` and `ua_w_k` broadcast against each other.
    """
    t, ua = finite("time_s", time_s), finite("ua_w_k", ua_w_k)
    if np.any(ua < 0):
        raise ValueError("ua_w_k: expected zero or more")
    heat = np.maximum(ua * max(single("air_c", air_c), 0.0) * t, 0.0)
    return np.asarray(np.minimum(heat / FUSION_J_KG, positive("started_kg", started_kg)))


@dataclass(frozen=True)
class MeltModel:
    """A sample warmed through `ua_w_k` [W/K] by air at `air_c` [°C] and light of `light_w` [W].

    It melts between `solidus_c` and `liquidus_c` [°C] and takes `fusion_j_kg` [J/kg] for it,
    spread evenly over that range; otherwise `specific_heat` [J/(kg·K)].
    """

    mass_kg: float
    ua_w_k: float
    air_c: float
    light_w: float = 0.0
    solidus_c: float = 22.0
    liquidus_c: float = 26.0
    fusion_j_kg: float = 105_000.0
    specific_heat: float = 2_000.0

    @property
    def goal_c(self) -> float:
        """Temperature it would end at [°C]."""
        return self.air_c + self.light_w / self.ua_w_k


def simulate_melting(
    models: Sequence[MeltModel], time_s: ArrayLike, start_c: float
) -> tuple[FloatArray, FloatArray]:
    """Temperature [°C] and melted fraction (0 to 1) of samples that start solid.

    `time_s` shape (n,) [s]; returns two arrays of shape (models, n). Exact: an exponential
    approach with the sensible heat, one with the larger apparent heat capacity of the melting
    range, and one with the sensible heat again. ValueError for a start above the solidus.
    """
    t = finite("time_s", time_s)
    begin = single("start_c", start_c)
    temp, melted = np.empty((2, len(models), t.size))
    for k, m in enumerate(models):
        positive("mass_kg", m.mass_kg)
        positive("ua_w_k", m.ua_w_k)
        positive("liquidus_c − solidus_c", m.liquidus_c - m.solidus_c)
        if begin > m.solidus_c:
            raise ValueError("start_c: expected a solid sample, below where it starts to melt")
        temp[k] = _piecewise(m, t, begin)
        melted[k] = np.clip((temp[k] - m.solidus_c) / (m.liquidus_c - m.solidus_c), 0.0, 1.0)
    return temp, melted


def _piecewise(m: MeltModel, t: FloatArray, begin: float) -> FloatArray:
    width = m.liquidus_c - m.solidus_c
    plain = m.mass_kg * m.specific_heat / m.ua_w_k
    slow = m.mass_kg * (m.specific_heat + m.fusion_j_kg / width) / m.ua_w_k
    out = np.empty_like(t)
    since, at = 0.0, begin
    for tau, until in ((plain, m.solidus_c), (slow, m.liquidus_c), (plain, np.inf)):
        here = t >= since - 1e-12
        out[here] = m.goal_c + (at - m.goal_c) * np.exp(-(t[here] - since) / tau)
        if m.goal_c <= until:
            break
        since += tau * np.log((m.goal_c - at) / (m.goal_c - until))
        at = until
    return out
