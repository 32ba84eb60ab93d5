"""What is known of one build in one run, and what follows from it."""

from __future__ import annotations

from collections.abc import Hashable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from functools import cached_property
from math import sqrt

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
    and `bare` its attempts; the run's conditions [stored unit], how `uncertain` each is, and its
    choices, the air, and the plan with its counts. `until_s`: the last planned mark of each phase;
    `ended`: nothing more is to come of it. `judged`: the class's own criteria, whatever the test.
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
    uncertain: Mapping[str, float] = field(default_factory=dict)
    until_s: Mapping[str, float] = field(default_factory=dict)
    ended: bool = True
    judged: Mapping[str, Figure] = field(default_factory=dict)

    def u(self, key: str, otherwise: float) -> float:
        """Standard uncertainty of a condition [stored unit], as it was obtained in this run."""
        return self.uncertain.get(key, otherwise)

    def step(self, instrument: str, otherwise: float) -> float:
        """Step of an instrument of this challenge [stored unit]."""
        return self.conditions.get(f"step_{instrument}", otherwise)

    def off(self, instrument: str, otherwise: float) -> float:
        """Standard uncertainty of an instrument beyond its step [stored unit]."""
        return self.conditions.get(f"u_{instrument}", otherwise)

    def weighed(self, step_kg: float = 0.001) -> float:
        """Standard uncertainty of a mass on the kitchen scale [kg]: its step, and what it is off."""
        return sqrt(self.step("scale", step_kg) ** 2 / 12.0 + self.off("scale", 0.0) ** 2)

    def broke_off(self, phase: str) -> bool:
        """Whether the test is over and its readings of a phase end before they should."""
        return self.ended and self.unfinished(phase)

    def unfinished(self, phase: str) -> bool:
        """Whether the readings of a phase end more than one planned interval before its last mark."""
        times = self.traces.get(phase, Trace()).time_s
        planned, every = self.until_s.get(phase), self.interval_s.get(phase, 0.0)
        return bool(times) and planned is not None and times[-1] < planned - 1.5 * every

    def counts(self) -> dict[str, Figure]:
        """Units and impact of the plan and the class's own criteria, which every family reports."""
        counted = {
            "units": Figure(value=self.units_used, se=0.0),
            "impact": Figure(value=self.impact_points, se=0.0),
        }
        return counted | dict(self.judged)

    def content(self) -> Hashable:
        """All of it, as one value that can be looked up: equal content, equal figures."""
        said: tuple[Mapping[str, Hashable], ...] = (self.traces, self.conditions, self.air, self.interval_s)
        said = (*said, self.control, self.choices, self.uncertain, self.until_s)
        said = (*said, {"ended": self.ended}, self.judged)
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
