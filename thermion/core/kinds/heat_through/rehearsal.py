"""A heat-through race, rehearsed by its model."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from thermion.core.kinds.heat_through.analysis import RESOLUTION_K
from thermion.core.kinds.heat_through.body import race_constant
from thermion.core.kinds.heat_through.brief import BRIEF
from thermion.core.kinds.heat_through.how_tested import TEST
from thermion.core.kinds.rehearsal import Marks, Rehearsal
from thermion.core.kinds.trials import Trace, Trial
from thermion.core.lazy import FloatArray
from thermion.core.lazy import numpy as np
from thermion.core.plans import Plan
from thermion.core.sim import newton_path, observe


def course(
    plan: Plan, conditions: Mapping[str, float], phase: str, time_s: Sequence[float], start_c: float
) -> FloatArray:
    """True temperatures of the probe behind the sample [°C] at `time_s` [s]."""
    return newton_path(time_s, start_c, conditions.get("source_c", 45.0), race_constant(plan))


def simulate(
    plans: Sequence[Plan],
    conditions: Mapping[str, float],
    seed: int,
    choices: Mapping[str, str] | None = None,
    marks: Marks | None = None,
    attempts: int | None = None,
) -> list[Trial]:
    """A race of each sample and one of the bare control; starts differ by a few tenths."""
    rig = {**BRIEF.default_rig(), **conditions}
    times = np.array(TEST.phases[0].marks_in(marks))
    constants = [race_constant(None), *(race_constant(plan) for plan in plans)]
    dice = np.random.default_rng(seed)
    runs = []
    for i, tau in enumerate(constants):
        start = rig["start_c"] + abs(dice.normal(0, 0.3)) * (i > 0)
        true = newton_path(times, start, rig["source_c"], tau)
        seen = observe(true, seed=(seed, i), resolution=RESOLUTION_K, noise_k=0.05)
        runs.append(Trace(tuple(times.tolist()), tuple(seen.tolist())))
    return [
        Trial(
            traces={"race": run}, conditions=rig, control={"race": runs[0]}, choices=choices or {}, plan=plan
        )
        for plan, run in zip(plans, runs[1:], strict=True)
    ]


REHEARSAL = Rehearsal(course=course, simulate=simulate)
