"""What is known of one build in one run, and what follows from it."""

from __future__ import annotations

from collections.abc import Hashable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from functools import cached_property

from thermion.core.plans import Plan
from thermion.core.values import Figure


@dataclass(frozen=True)
class Trace:
    """Readings of one build in one phase: time taken [s], value [SI]."""

    time_s: tuple[float, ...] = ()
    value: tuple[float, ...] = ()

    @cached_property
    def _hash(self) -> int:
        return hash((self.time_s, self.value))

    def __hash__(self) -> int:  # a logger's trace is long, and looked up with every figure
        return self._hash


@dataclass(frozen=True)
class Attempt:
    """One go at a station: what was read [stored unit], what was seen, and if hand-held.

    `trace`: the probe's readings meanwhile, of a race with one probe.
    """

    values: Mapping[str, float]
    seen: tuple[str, ...] = ()
    free: bool = False
    trace: Trace = Trace()


@dataclass(frozen=True)
class Trial:
    """One build in one run.

    `traces` by phase, by what is read when a family reads one of several things, or by device;
    `attempts` of a test by turns, in order; `control` traces of the untouched control beside it
    and `bare` its attempts; the run's conditions [stored unit] and choices, the air, and the
    plan with its counts.
    """

    traces: Mapping[str, Trace]
    conditions: Mapping[str, float]
    air: Mapping[str, Trace] = field(default_factory=dict)
    units_used: float = 0.0
    impact_points: float = 0.0
    interval_s: Mapping[str, float] = field(default_factory=dict)
    attempts: tuple[Attempt, ...] = ()
    control: Mapping[str, Trace] = field(default_factory=dict)
    bare: tuple[Attempt, ...] = ()
    choices: Mapping[str, str] = field(default_factory=dict)
    plan: Plan = field(default_factory=Plan)

    def counts(self) -> dict[str, Figure]:
        """Units and impact of the plan, which every family reports."""
        return {"units": Figure(self.units_used, 0.0), "impact": Figure(self.impact_points, 0.0)}

    def content(self) -> Hashable:
        """All of it, as one value that can be looked up: equal content, equal figures."""
        said = (self.traces, self.conditions, self.air, self.interval_s, self.control, self.choices)
        tried = tuple(
            (tuple(a.values.items()), a.seen, a.free, a.trace) for a in (*self.attempts, *self.bare)
        )
        counts = (self.units_used, self.impact_points, len(self.attempts))
        plan = (self.plan.parts, tuple(self.plan.factors.items()))
        return (tuple(tuple(each.items()) for each in said), tried, counts, plan)

    def fair(self) -> tuple[Attempt, ...]:
        """Attempts that may be ranked: those that were not hand-held."""
        return tuple(a for a in self.attempts if not a.free)


@dataclass(frozen=True)
class Fitted:
    """A figure set and the fitted curves (times [s], values) to draw through the points."""

    figures: Mapping[str, Figure]
    curves: Mapping[str, tuple[Sequence[float], Sequence[float]]]


def each_attempt(trial: Trial) -> list[Trial]:
    """A trial by its fair attempts, where each is the same test again."""
    return [replace(trial, attempts=(a,)) for a in trial.fair()]
