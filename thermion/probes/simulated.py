"""Stand-in probes: one per row of a run, reading the physical model of that build."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from thermion.core.kinds.base import Kind
from thermion.core.plans import Plan
from thermion.core.sim import observe


@dataclass(frozen=True, kw_only=True)
class SimulatedProbe:
    """A probe in a build, or in the air when there is no plan.

    `lengths_s` tells how long each phase lasted before the next began, so that cooling starts
    where heating ended. `cloud` is (from [s], until [s], share of light left) in the first
    phase. Equal seeds and moments give equal readings.
    """

    kind: Kind
    conditions: Mapping[str, float]
    plan: Plan | None
    seed: int
    lengths_s: Mapping[str, float]
    noise_k: float = 0.25
    cloud: tuple[float, float, float] | None = None

    def read(self, phase: str, elapsed_s: float) -> float:
        true = self.true_c(phase, elapsed_s)
        order = [p.key for p in self.kind.test.phases].index(phase)
        key = (self.seed, order, round(elapsed_s))
        step = next(r.step_si for r in self.kind.test.reads if r.unit == "degC")
        return float(observe([true], seed=key, resolution=step, noise_k=self.noise_k)[0])

    def true_c(self, phase: str, elapsed_s: float) -> float:
        """Temperature of the model without noise [°C]."""
        model = self.kind.rehearsal
        air = self.conditions[model.air]
        if self.plan is None or model.course is None:
            return air
        at = self.conditions.get(model.begins_at, air)
        for each in self.kind.test.phases:
            seconds = elapsed_s if each.key == phase else self.lengths_s.get(each.key, 0.0)
            for length, light in self._stretches(each.key, max(seconds, 0.0)):
                conditions = model.dimmed(self.conditions, light)
                at = float(model.course(self.plan, conditions, each.key, [length], at)[0])
            if each.key == phase:
                break
        return at

    def _stretches(self, phase: str, seconds: float) -> list[tuple[float, float]]:
        """(length [s], share of light) one after the other, up to `seconds` into the phase."""
        if self.cloud is None or phase != self.kind.test.phases[0].key:
            return [(seconds, 1.0)]
        begin, end, share = self.cloud
        edges = [(0.0, begin, 1.0), (begin, end, share), (end, seconds, 1.0)]
        return [(min(b, seconds) - a, light) for a, b, light in edges if min(b, seconds) > a]
