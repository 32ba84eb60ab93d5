"""Readings as a class takes them: true values with noise, rounded to the instrument's scale."""

from __future__ import annotations

from thermion.core.lazy import ArrayLike, FloatArray
from thermion.core.lazy import numpy as np
from thermion.core.values import finite


def observe(
    temp_c: ArrayLike, *, seed: int | tuple[int, ...], resolution: float = 0.5, noise_k: float = 0.2
) -> FloatArray:
    """True values with normal noise of `noise_k`, rounded to `resolution`; any shape and unit.

    Equal seeds give equal readings.
    """
    true = finite("temp_c", temp_c)
    noisy = true + np.random.default_rng(seed).normal(0.0, noise_k, true.shape)
    return np.asarray(np.round(noisy / resolution) * resolution, dtype=float)
