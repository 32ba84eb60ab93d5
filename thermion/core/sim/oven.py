"""An oven as one lumped node for air, absorber and load.

C·dT/dt = optical gain·A·I(t) − UA·(T − T_air), solved exactly over each step in which the
irradiance is constant. Duffie and Beckman, Solar Engineering of Thermal Processes, 4th ed., ch. 6.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike
from scipy.signal import lfilter

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
    if t.ndim != 1 or t.size == 0 or np.any(np.diff(t) < 0):
        raise ValueError("time_s: expected a non-empty array in order of time")
    sun = np.broadcast_to(finite("irradiance_w_m2", irradiance_w_m2), t.shape)
    gain = np.array([m.optical_gain * m.aperture_m2 / m.ua_w_k for m in models])
    tau = np.array([m.time_constant_s for m in models])
    if not models or not np.all(np.isfinite(tau)) or np.any(tau <= 0):
        raise ValueError("models: expected heat capacity and losses above zero")
    out = np.empty((len(models), t.size))
    out[:, 0] = np.broadcast_to(finite("start_c", start_c), (len(models),))
    target = single("air_c", air_c) + gain[:, None] * sun[None, :-1]
    step = np.diff(t)
    if step.size and np.ptp(step) <= 1e-9 * step[0]:  # even steps: a recursive filter per oven
        decay = np.exp(-step[0] / tau)
        for k, d in enumerate(decay.tolist()):
            drive = (1.0 - d) * target[k]
            out[k, 1:] = lfilter([1.0], [1.0, -d], drive, zi=[d * out[k, 0]])[0]
        return out
    decays = np.exp(-step[None, :] / tau[:, None])
    for i in range(step.size):
        out[:, i + 1] = target[:, i] + (out[:, i] - target[:, i]) * decays[:, i]
    return out
