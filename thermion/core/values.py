"""What a computed figure looks like: a number with its uncertainty, a bound, or a reason."""

from __future__ import annotations

from dataclasses import dataclass
from math import isfinite
from typing import Literal

import numpy as np
from numpy.typing import ArrayLike, NDArray

FloatArray = NDArray[np.float64]
Direction = Literal["higher", "lower", "none"]


@dataclass(frozen=True)
class Figure:
    """One derived figure.

    ``value`` is None when the data cannot carry it; ``reason`` then says why, and
    ``at_least`` / ``at_most`` give the bound that is known. ``se`` is the standard
    uncertainty in the figure's unit. ``notes`` qualify a value that does exist.
    """

    value: float | None = None
    se: float | None = None
    at_least: float | None = None
    at_most: float | None = None
    reason: str | None = None
    notes: tuple[str, ...] = ()

    @property
    def known(self) -> bool:
        return self.value is not None


def finite(name: str, data: ArrayLike) -> FloatArray:
    """`data` as a float array; ValueError naming `name` if anything in it is not finite."""
    try:
        array = np.asarray(data, dtype=float)
    except (TypeError, ValueError):
        raise ValueError(f"{name}: expected numbers") from None
    if not np.all(np.isfinite(array)):
        raise ValueError(f"{name}: expected finite numbers, found NaN or infinity")
    return array


def single(name: str, value: ArrayLike) -> float:
    """`value` as one finite float; ValueError naming `name` otherwise."""
    try:
        found = float(value)  # type: ignore[arg-type]
    except (TypeError, ValueError):
        raise ValueError(f"{name}: expected a number") from None
    if not isfinite(found):
        raise ValueError(f"{name}: expected a finite number, found {found}")
    return found


def series(time_s: ArrayLike, value: ArrayLike) -> tuple[FloatArray, FloatArray]:
    """A checked pair of equally long one-dimensional arrays in order of time.

    Raises ValueError naming the argument when empty, unequal, not finite, or when
    times go backwards or repeat.
    """
    t, v = finite("time_s", time_s), finite("value", value)
    if t.ndim != 1 or t.size == 0:
        raise ValueError("time_s: expected a non-empty one-dimensional array")
    if v.shape != t.shape:
        raise ValueError(f"value: expected {t.size} numbers to match time_s, got {v.size}")
    if np.any(np.diff(t) <= 0):
        raise ValueError("time_s: expected times in increasing order without repeats")
    return t, v
