"""An oven as one lumped node for air, absorber and load.

C·dT/dt = optical gain·A·I(t) − UA·(T − T_air), solved exactly over each step in which the
irradiance is constant. Duffie and Beckman, Solar Engineering of Thermal Processes, 4th ed., ch. 6.
"""

from __future__ import annotations

from dataclasses import dataclass

from thermion.core.lazy import ArrayLike, FloatArray
from thermion.core.lazy import numpy as np
from thermion.core.values import finite, single


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
    models: list[OvenModel], time_s: ArrayLike, irradiance_w_m2: ArrayLike, air_c: float, start_c: ArrayLike
) -> FloatArray:
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
    if step.size and np.ptp(step) <= 1e-9 * step[0]:
        out[:, 1:] = _even_steps(target, out[:, 0], np.exp(-step[0] / tau))
        return out
    decays = np.exp(-step[None, :] / tau[:, None])
    for i in range(step.size):
        out[:, i + 1] = target[:, i] + (out[:, i] - target[:, i]) * decays[:, i]
    return out


def _even_steps(target: FloatArray, start: FloatArray, decay: FloatArray) -> FloatArray:
    """x[i] = decay·x[i−1] + (1 − decay)·target[i] for all ovens, a block of steps at a time.

    Within a block the answer is a sum with known weights; only the blocks follow one another.
    """
    count, steps = target.shape
    block = 64
    whole = np.zeros((count, -(-steps // block), block))
    whole.reshape(count, -1)[:, :steps] = target * (1.0 - decay)[:, None]
    age = np.arange(block)[:, None] - np.arange(block)[None, :]
    weights = np.where(age >= 0, decay[:, None, None] ** np.maximum(age, 0), 0.0)
    within = whole @ weights.transpose(0, 2, 1)
    left = decay[:, None] ** np.arange(1, block + 1)
    for k in range(within.shape[1]):
        within[:, k] += left * start[:, None]
        start = within[:, k, -1]
    return within.reshape(count, -1)[:, :steps]
