"""What applies only under a choice of the brief, and the unit of a difference."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Protocol, TypeVar

from thermion.core.physics.units import TEMP_UNITS

When = tuple[str, ...] | None  # (key of a choice, the values of it) under which something applies


class _Conditional(Protocol):
    @property
    def when(self) -> When: ...


_C = TypeVar("_C", bound=_Conditional)


def holds(when: When, choices: Mapping[str, str]) -> bool:
    """Whether a condition holds under the choices made."""
    return when is None or choices.get(when[0]) in when[1:]


def applying(items: Sequence[_C], choices: Mapping[str, str]) -> list[_C]:
    """Those of the items that apply under the choices made."""
    return [x for x in items if holds(x.when, choices)]


def difference_unit(unit: str) -> str:
    """The unit of a difference of two values in `unit`: of temperatures, the delta."""
    return "delta_" + unit if unit in TEMP_UNITS else unit
