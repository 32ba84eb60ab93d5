"""A solar oven, rehearsed by its model."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from thermion.core.kinds.rehearsal import Marks, Rehearsal
from thermion.core.kinds.solar_oven.analysis import RESOLUTION_K
from thermion.core.kinds.solar_oven.body import oven_model
from thermion.core.kinds.solar_oven.brief import BRIEF
from thermion.core.kinds.solar_oven.how_tested import TEST
from thermion.core.kinds.trials import Trace, Trial
from thermion.core.lazy import FloatArray
from thermion.core.lazy import numpy as np
from thermion.core.plans import Plan
from thermion.core.sim import observe, simulate_ovens

BOILING_C = 100.0  # water at sea level; further heat goes into steam


def course(
    plan: Plan, conditions: Mapping[str, float], phase: str, time_s: Sequence[float], start_c: float
) -> FloatArray:
    """True temperatures [°C] of the build at `time_s` [s] of a phase that begins at `start_c`."""
    model = oven_model(plan, conditions)
    sun = conditions.get("irradiance_w_m2", 800.0) if phase == "heating" else 0.0
    air = conditions.get("air_c", 20.0)
    at = np.concatenate([[0.0], np.maximum(np.asarray(time_s, dtype=float), 1e-6)])
    order = np.argsort(at, kind="stable")
    path = simulate_ovens([model], at[order], sun, air, start_c)[0]
    out: FloatArray = np.empty_like(path)
    out[order] = path
    found: FloatArray = out[1:]
    return np.minimum(found, BOILING_C) if conditions.get("load_kg", 0.0) > 0 else found


def simulate(
    plans: Sequence[Plan],
    conditions: Mapping[str, float],
    seed: int,
    choices: Mapping[str, str] | None = None,
    marks: Marks | None = None,
    attempts: int | None = None,
) -> list[Trial]:
    """What a class would read of these boxes at the marks, thermometer and all."""
    rig = {**BRIEF.default_rig(), **conditions}
    out = []
    for i, plan in enumerate(plans):
        at, traces = rig["start_c"], {}
        for n, phase in enumerate(TEST.phases):
            times = phase.marks_in(marks)
            true = course(plan, rig, phase.key, times, at)
            at = float(true[-1])
            read = observe(true, seed=(seed, i, n), resolution=RESOLUTION_K)
            traces[phase.key] = Trace(tuple(times), tuple(read.tolist()))
        out.append(Trial(traces=traces, conditions=rig, plan=plan, choices=choices or {}))
    return out


def dimmed(conditions: Mapping[str, float], share: float) -> dict[str, float]:
    """The rig when `share` of its light is left."""
    return {**conditions, "irradiance_w_m2": conditions.get("irradiance_w_m2", 0.0) * share}


REHEARSAL = Rehearsal(course=course, simulate=simulate, dimmed=dimmed)
