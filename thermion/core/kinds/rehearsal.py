"""How a family is rehearsed: trials by simulation, and what a stand-in probe would show."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from typing import Protocol

from thermion.core.kinds.trials import Trial
from thermion.core.lazy import FloatArray
from thermion.core.plans import Plan

Marks = Mapping[str, Sequence[float]]  # of each phase [s]


class Simulate(Protocol):
    """Trials that plans would have under a rig [stored units] and choices; seeded.

    What is read at marks is read at these, or at the usual ones of a phase that has none. Where a plan
    has so many `attempts` it makes no more; None for as many as a class would want.
    """

    def __call__(
        self,
        plans: Sequence[Plan],
        conditions: Mapping[str, float],
        seed: int,
        choices: Mapping[str, str] | None = None,
        marks: Marks | None = None,
        attempts: int | None = None,
    ) -> list[Trial]: ...


class Course(Protocol):
    """True temperatures [°C] of a build at `time_s` [s] of a phase that begins at `start_c`."""

    def __call__(
        self, plan: Plan, conditions: Mapping[str, float], phase: str, time_s: Sequence[float], start_c: float
    ) -> FloatArray: ...


def _all_light(conditions: Mapping[str, float], _: float) -> Mapping[str, float]:
    return conditions


@dataclass(frozen=True, kw_only=True)
class Rehearsal:
    """Models of a family.

    `course`, where temperatures are read, follows one build through a phase; it begins at the
    condition named by `begins_at`, and the air beside it has that of `air`. `dimmed` gives the
    rig when a share of the light (0 to 1) is left.
    """

    simulate: Simulate
    course: Course | None = None
    begins_at: str = "start_c"
    air: str = "air_c"
    dimmed: Callable[[Mapping[str, float], float], Mapping[str, float]] = _all_light
