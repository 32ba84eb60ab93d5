"""What a pretended team would read of its build: the family's model, asked once for each test."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from functools import cached_property

from thermion.core.kinds.base import Kind
from thermion.core.kinds.testing import Reads
from thermion.core.kinds.trials import Attempt, Trace, Trial
from thermion.core.physics.curves import first_crossing
from thermion.core.physics.units import Setting
from thermion.core.plans import Plan
from thermion.probes.simulated import SimulatedProbe

LONGEST_RACE_S = 240.0  # after which nobody waits any longer


@dataclass(frozen=True)
class PretendedRace:
    """What the probe shows [s, °C], when the race is stopped [s], and whether at the target."""

    shown: Trace
    ends_s: float
    reached: bool


@dataclass(frozen=True, kw_only=True)
class PretendedTrial:
    """One build in one test, as its model has it. `marks` by phase [s]; `conditions` in stored units."""

    kind: Kind
    plan: Plan
    conditions: Mapping[str, float]
    choices: Mapping[str, str]
    setting: Setting
    seed: int
    marks: Mapping[str, tuple[float, ...]]

    @cached_property
    def trial(self) -> Trial:
        marks = self.marks or None
        return self.kind.rehearsal.simulate([self.plan], self.conditions, self.seed, self.choices, marks)[0]

    @property
    def read(self) -> Reads | None:
        """What is read at marks."""
        return self.kind.test.grid_read(self.choices)

    def at_mark(self, phase: str, mark_s: float, device: str) -> float:
        """What is read there [stored unit of what is read]."""
        read = self.read
        if read is not None and read.unit == "degC":
            probe = SimulatedProbe(
                kind=self.kind,
                conditions=self.conditions,
                plan=self.plan,
                seed=self.seed,
                lengths_s={key: marks[-1] for key, marks in self.marks.items()},
            )
            return probe.read(phase, mark_s)
        traces = self.trial.traces
        trace = traces.get(device) or traces.get(phase) or next(iter(traces.values()))
        nearest = min(range(len(trace.time_s)), key=lambda i: abs(trace.time_s[i] - mark_s))
        return trace.value[nearest]

    def typed(self, value: float) -> str:
        """A value read at a mark as it is typed; a stage by its number."""
        read = self.read
        if read is None or read.words:
            return f"{value:g}"
        return self.setting.typed(value, read.unit, read.digits)

    def attempt(self, number: int) -> tuple[dict[str, str], Attempt]:
        """What is typed of an attempt (from 0), and the attempt itself; the last one again after the last."""
        found = self.trial.attempts[min(number, len(self.trial.attempts) - 1)]
        first, _ = self.kind.test.suggest((), self.trial.conditions, self.choices)
        values = {**first, **found.values}
        reads = {r.key: r for r in self.kind.test.attempt_reads(self.choices)}
        typed = {k: self.setting.typed(values[k], r.unit, 1) for k, r in reads.items() if k in values}
        return typed, found

    @cached_property
    def race(self) -> PretendedRace:
        """A race of the sample: what the probe shows until the target, or until nobody waits any longer."""
        trace = self.trial.traces["race"]
        target = self.conditions[self.kind.views.level]
        there = first_crossing(trace.time_s, trace.value, target, direction="up").time_s
        ends = min(LONGEST_RACE_S if there is None else there, LONGEST_RACE_S)
        before = [(t, v) for t, v in zip(trace.time_s, trace.value, strict=True) if t < ends]
        shown = Trace(tuple(t for t, _ in before), tuple(v for _, v in before))
        return PretendedRace(shown, ends, reached=there is not None and there <= LONGEST_RACE_S)
