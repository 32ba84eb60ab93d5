"""The best of several is also the luckiest: how much wider that makes it."""

from __future__ import annotations

from collections.abc import Sequence
from math import log, sqrt


def luck_of(values: Sequence[float], reading: float) -> float:
    """How many times a value's own uncertainty the highest of several nearly equal ones has.

    `reading` is the standard uncertainty of one of the `values`, in their unit; what lies within two
    of it of the highest may have been the highest by luck. The root mean square of the largest of m
    standard normal values is √(1 + 0.28·ln²m), within 5 % up to m = 50 (H. A. David and H. N.
    Nagaraja, Order Statistics, 3rd ed., 2003, table of moments).
    """
    level = max(values) - 2 * reading
    near = sum(v >= level for v in values)
    return sqrt(1.0 + 0.28 * log(near) ** 2)
