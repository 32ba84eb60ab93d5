"""A sail run, rehearsed by its model."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from thermion.core.kinds.rehearsal import Marks, Rehearsal
from thermion.core.kinds.sail_run.analysis import STOP_STEP_M
from thermion.core.kinds.sail_run.body import sail_model
from thermion.core.kinds.sail_run.brief import BRIEF
from thermion.core.kinds.trials import Attempt, Trial
from thermion.core.lazy import numpy as np
from thermion.core.plans import Plan
from thermion.core.sim import simulate_sails


def simulate(
    plans: Sequence[Plan],
    conditions: Mapping[str, float],
    seed: int,
    choices: Mapping[str, str] | None = None,
    marks: Marks | None = None,
    attempts: int | None = None,
) -> list[Trial]:
    """Attempts of each sail, three unless told: wind that wavers by a few percent, ruler and stopwatch."""
    rig = {**BRIEF.default_rig(), **conditions}
    dice = np.random.default_rng(seed)
    models = [sail_model(plan, rig) for plan in plans]
    there = [m for m in models if m is not None]
    tries: list[list[Attempt]] = [[] for _ in plans]
    for _ in range(attempts or 3):
        wind = rig["wind_m_s"] * (1 + dice.normal(0, 0.03))
        runs = iter(
            simulate_sails(there, wind, rig["track_m"], hub_m=rig["hub_m"], fan_gap_m=rig["fan_m"])
            if there
            else []
        )
        for k, model in enumerate(models):
            if model is None:
                tries[k].append(Attempt({"stop_m": 0.0}))
                continue
            run = next(runs)
            stop = rig["track_m"] if run.at_end else run.stop_m + dice.normal(0, 0.005)
            stop = min(max(round(stop / STOP_STEP_M) * STOP_STEP_M, 0.0), rig["track_m"])
            values = {"stop_m": stop, "give": float(run.give)}
            if run.time_s is not None and stop > 0:
                values["time_s"] = max(round(run.time_s + dice.normal(0, 0.1), 1), 0.2)
            tries[k].append(Attempt(values, ("collapsed",) if run.give == 0 else ()))
    return [
        Trial(traces={}, conditions=rig, attempts=tuple(a), plan=p, choices=choices or {})
        for p, a in zip(plans, tries, strict=True)
    ]


REHEARSAL = Rehearsal(simulate=simulate)
