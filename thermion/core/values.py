"""What a computed figure looks like (a number, a bound, a reason), and the answer to a reading."""

from __future__ import annotations

from dataclasses import dataclass
from math import isfinite, sqrt
from typing import Literal

from thermion.core.lazy import ArrayLike, FloatArray
from thermion.core.lazy import numpy as np

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


Answer = Literal["ok", "ask", "refuse"]
Code = Literal[
    "", "unreadable", "impossible", "other unit", "decimal place", "neighbour's value", "jump", "backwards"
]


@dataclass(frozen=True)
class Check:
    """The answer, a sentence for the reader, and the likely correction (stored unit), if any."""

    answer: Answer
    message: str = ""
    suggestion: float | None = None
    code: Code = ""


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


def positive(name: str, value: ArrayLike) -> float:
    """`value` as one finite float above zero; ValueError naming `name` otherwise."""
    found = single(name, value)
    if found <= 0:
        raise ValueError(f"{name}: expected a number above zero, found {found:g}")
    return found


def not_negative(name: str, value: ArrayLike) -> float:
    """`value` as one finite float of zero or more; ValueError naming `name` otherwise."""
    found = single(name, value)
    if found < 0:
        raise ValueError(f"{name}: expected zero or more, found {found:g}")
    return found


def whole(name: str, value: ArrayLike, least: int = 1) -> int:
    """`value` as a whole number of at least `least`; ValueError naming `name` otherwise."""
    found = single(name, value)
    if found != int(found) or found < least:
        raise ValueError(f"{name}: expected a whole number of {least} or more, found {found:g}")
    return int(found)


def ratio(top: Figure, bottom: Figure) -> Figure:
    """top / bottom of two figures of zero or more; a bound of either becomes a bound of the ratio.

    Relative standard uncertainties add in quadrature (GUM 5.1.6). A bottom of zero, or bounds
    on both sides that say nothing, give a reason instead.
    """
    notes = tuple(dict.fromkeys((*top.notes, *bottom.notes)))
    if top.value is not None and bottom.value is not None:
        if bottom.value == 0:
            return Figure(reason="compared with zero")
        value = top.value / bottom.value
        variance = (value * (bottom.se or 0.0)) ** 2 + (top.se or 0.0) ** 2
        known = top.se is not None or bottom.se is not None
        return Figure(value, sqrt(variance) / abs(bottom.value) if known else None, notes=notes)
    most_below = bottom.value if bottom.value is not None else bottom.at_most
    least_below = bottom.value if bottom.value is not None else bottom.at_least
    least_above = top.value if top.value is not None else top.at_least
    most_above = top.value if top.value is not None else top.at_most
    low = least_above / most_below if least_above is not None and most_below else None
    high = most_above / least_below if most_above is not None and least_below else None
    reason = top.reason if top.value is None else bottom.reason
    return Figure(at_least=low, at_most=high, reason=reason or "not known", notes=notes)


def exceeds(difference: float, allowed: float) -> bool:
    """Whether something is off by more than it may, whatever the last bit says: 31 cm − 30 cm is 1 cm."""
    return abs(difference) > allowed * (1 + 1e-9) + 1e-12


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
