"""What is said of a fault in a challenge file, with its place, and the checks that all parts of it share."""

from __future__ import annotations

from collections.abc import Hashable, Iterable

from thermion.core.judging.observed import Quantity, possible_values
from thermion.core.kinds.briefing import Condition
from thermion.records.errors import Refused


def no(where: str, what: str) -> Refused:
    return Refused(f"{where}: {what}.", "file")


def no_twice(where: str, items: Iterable[Hashable]) -> None:
    seen: set[Hashable] = set()
    for i, item in enumerate(items):
        if item in seen:
            raise no(f"{where}[{i}]", "is there twice")
        seen.add(item)


def among(where: str, value: object, known: Iterable[object]) -> None:
    if value not in set(known):
        raise no(where, f"“{value}” is not known")


def may_be(value: float | None, quantity: Quantity) -> bool:
    """Whether a number [stored unit] can be what is given there; None is nothing."""
    return value is None or possible_values([value], quantity)[1][0]


def within(where: str, value: float | None, quantity: Quantity) -> None:
    """As a page takes it."""
    if not may_be(value, quantity):
        raise no(where, f"{value:g} cannot be “{quantity.label.lower()}”")


def between(where: str, value: float, low: float, high: float) -> None:
    if not low <= value <= high:
        raise no(where, f"{value:g} is not within {low:g} and {high:g}")


def number_of(c: Condition) -> Quantity:
    """A number of the brief as a quantity; a scale in words counts from 0."""
    high = len(c.words) - 1.0 if c.words else c.si("high")
    low = 0.0 if c.words else c.si("low")
    return Quantity(key=c.key, label=c.label, unit=c.unit, low=low, high=high, words=c.words)
