"""A rain catch, rehearsed by its model."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from thermion.core.kinds.rain_catch.analysis import STEP_M3
from thermion.core.kinds.rain_catch.body import collector_model
from thermion.core.kinds.rain_catch.brief import BRIEF
from thermion.core.kinds.rehearsal import Marks, Rehearsal
from thermion.core.kinds.trials import Attempt, Trace, Trial
from thermion.core.lazy import numpy as np
from thermion.core.plans import Plan
from thermion.core.sim import simulate_showers

LEAK_CHECKS_S = (0.0, 300.0, 600.0)


def simulate(
    plans: Sequence[Plan],
    conditions: Mapping[str, float],
    seed: int,
    choices: Mapping[str, str] | None = None,
    marks: Marks | None = None,
    attempts: int | None = None,
) -> list[Trial]:
    """Showers on each collector, three unless told, a hand that doses within 3 %, and a leak check."""
    rig = {**BRIEF.default_rig(), **conditions}
    dice = np.random.default_rng(seed)
    out = []
    for i, plan in enumerate(plans):
        model = collector_model(plan, rig)
        doses = np.maximum(rig["dose_m3"] * (1 + dice.normal(0, 0.03, attempts or 3)), 1e-5)
        if model is None:
            nothing = tuple(Attempt({"poured_m3": rig["dose_m3"], "caught_m3": 0.0}) for _ in doses)
            out.append(Trial(traces={}, conditions=rig, attempts=nothing, choices=choices or {}, plan=plan))
            continue
        showers = simulate_showers(model, doses.tolist(), rig["tray_m2"], seed=seed * 1000 + i)
        caught = tuple(
            Attempt(
                {
                    "poured_m3": rig["dose_m3"],
                    "caught_m3": min(max(_read(s.caught_m3, dice), 0.0), rig["dose_m3"]),
                }
            )
            for s in showers
        )
        later = [showers[-1].stored_m3 * float(np.exp(-model.leak_per_s * t)) for t in LEAK_CHECKS_S]
        store = Trace(LEAK_CHECKS_S, tuple(_read(v, dice) for v in later))
        out.append(
            Trial(traces={"store": store}, conditions=rig, attempts=caught, choices=choices or {}, plan=plan)
        )
    return out


def _read(true_m3: float, dice: np.random.Generator) -> float:
    return max(round((true_m3 + dice.normal(0, 5e-7)) / STEP_M3) * STEP_M3, 0.0)


REHEARSAL = Rehearsal(simulate=simulate)
