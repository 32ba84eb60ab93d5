"""Physical models that rehearse a challenge and feed the stand-in probes; seeded and noisy.

Oven: one lumped node for air, absorber and load,
    C·dT/dt = optical gain·A·I(t) − UA·(T − T_air),
solved exactly over each step in which the irradiance is constant.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike

from thermion.core.values import FloatArray, finite, single


@dataclass(frozen=True)
class OvenModel:
    """What decides an oven's temperature.

    `optical_gain`: share of light on the window that becomes heat, reflector included
    (may exceed 1 with a reflector); `ua_w_k` [W/K] losses; `heat_capacity_j_k` [J/K].
    """

    aperture_m2: float
    optical_gain: float
    ua_w_k: float
    heat_capacity_j_k: float

    @property
    def time_constant_s(self) -> float:
        return self.heat_capacity_j_k / self.ua_w_k


def simulate_ovens(
    models: list[OvenModel], time_s: ArrayLike, irradiance_w_m2: ArrayLike, air_c: float,
    start_c: ArrayLike,
) -> FloatArray:  # fmt: skip
    """Temperatures of several ovens over time.

    Parameters
    ----------
    models : k ovens.
    time_s : shape (n,), increasing [s]; the first is the moment of `start_c`.
    irradiance_w_m2 : scalar or shape (n,): on the window from each time to the next.
    air_c : outside temperature [°C].  start_c : scalar or shape (k,) [°C].

    Returns
    -------
    shape (k, n) [°C]. Exact for irradiance constant over each step.
    """
    t = finite("time_s", time_s)
    sun = np.broadcast_to(finite("irradiance_w_m2", irradiance_w_m2), t.shape)
    gain = np.array([m.optical_gain * m.aperture_m2 / m.ua_w_k for m in models])
    tau = np.array([m.time_constant_s for m in models])
    if np.any(tau <= 0):
        raise ValueError("models: expected heat capacity and losses above zero")
    out = np.empty((len(models), t.size))
    out[:, 0] = np.broadcast_to(finite("start_c", start_c), (len(models),))
    decay = np.exp(-np.diff(t)[None, :] / tau[:, None])
    target = single("air_c", air_c) + gain[:, None] * sun[None, :-1]
    for i in range(t.size - 1):
        out[:, i + 1] = target[:, i] + (out[:, i] - target[:, i]) * decay[:, i]
    return out


def observe(
    temp_c: ArrayLike, *, seed: int | tuple[int, ...], resolution: float = 0.5, noise_k: float = 0.2
) -> FloatArray:
    """Readings as a class takes them: true temperatures with noise, rounded to the scale."""
    true = finite("temp_c", temp_c)
    noisy = true + np.random.default_rng(seed).normal(0.0, noise_k, true.shape)
    return np.asarray(np.round(noisy / resolution) * resolution, dtype=float)
