"""Keeping cold or warm, rehearsed by its model."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from thermion.core.kinds.keep_temp.analysis import (
    HEIGHT_STEP_M,
    MASS_STEP_KG,
    TEMP_STEP_K,
    VOLUME_STEP_M3,
    WATER_KG_M3,
    cup_of,
)
from thermion.core.kinds.keep_temp.body import jar_ua
from thermion.core.kinds.keep_temp.brief import BRIEF
from thermion.core.kinds.keep_temp.how_tested import TEST
from thermion.core.kinds.rehearsal import Marks, Rehearsal
from thermion.core.kinds.trials import Trace, Trial
from thermion.core.lazy import FloatArray
from thermion.core.lazy import numpy as np
from thermion.core.physics.heat import cup_height
from thermion.core.physics.oven import WATER_J_KG_K
from thermion.core.plans import Plan
from thermion.core.sim import meltwater, newton_path, observe


def course(
    plan: Plan, conditions: Mapping[str, float], phase: str, time_s: Sequence[float], start_c: float
) -> FloatArray:
    """True temperatures [°C] of a warm drink in its jacket at `time_s` [s]."""
    tau = conditions.get("load_kg", 0.2) * WATER_J_KG_K / jar_ua(plan, conditions)
    return newton_path(time_s, start_c, conditions.get("air_c", 20.0), tau)


def simulate(
    plans: Sequence[Plan],
    conditions: Mapping[str, float],
    seed: int,
    choices: Mapping[str, str] | None = None,
    marks: Marks | None = None,
    attempts: int | None = None,
) -> list[Trial]:
    """What a class would read of these jars by the measure chosen."""
    chosen = {"measure": "volume", **(choices or {})}
    rig = {**BRIEF.default_rig(), **conditions}
    times = TEST.phases[0].marks_in(marks)
    uas = np.array([jar_ua(plan, rig) for plan in plans])
    melted = meltwater(np.array(times), uas[:, None], rig["air_c"], rig["started_kg"])
    out = []
    for i, plan in enumerate(plans):
        traces = _read(plan, rig, chosen["measure"], times, melted[i], (seed, i))
        out.append(Trial(traces=traces, conditions=rig, choices=chosen, plan=plan))
    return out


def _read(
    plan: Plan,
    rig: Mapping[str, float],
    measure: str,
    marks: Sequence[float],
    melted_kg: FloatArray,
    seed: tuple[int, int],
) -> dict[str, Trace]:
    if measure == "temp":
        true = course(plan, rig, TEST.phases[0].key, marks, rig["drink_c"])
        return {"temp_c": _trace(marks, observe(true, seed=seed, resolution=TEMP_STEP_K))}
    if measure == "height":
        cup = cup_of(rig)
        true = cup_height(np.minimum(melted_kg / WATER_KG_M3, cup.volume_m3), cup)
        heights = observe(true, seed=seed, resolution=HEIGHT_STEP_M, noise_k=3e-4)
        return {"height_m": _trace(marks, np.clip(heights, 0, cup.height_m))}
    if measure == "volume":
        seen = observe(melted_kg / WATER_KG_M3, seed=seed, resolution=VOLUME_STEP_M3, noise_k=5e-7)
        return {"volume_m3": _trace(marks, np.maximum(seen, 0))}
    true = melted_kg if measure == "mass" else rig["started_kg"] - melted_kg
    seen = observe(true, seed=seed, resolution=MASS_STEP_KG, noise_k=5e-4)
    key = "mass_kg" if measure == "mass" else "left_kg"
    return {key: _trace(marks, np.maximum(seen, 0))}


def _trace(marks: Sequence[float], values: FloatArray) -> Trace:
    return Trace(tuple(marks), tuple(values.tolist()))


REHEARSAL = Rehearsal(course=course, simulate=simulate, begins_at="drink_c")
