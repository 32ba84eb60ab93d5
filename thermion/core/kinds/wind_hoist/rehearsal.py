"""A wind hoist, rehearsed by its model."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from thermion.core.kinds.rehearsal import Marks, Rehearsal
from thermion.core.kinds.trials import Attempt, Trial
from thermion.core.kinds.wind_hoist.analysis import RISE_STEP_M, load_after
from thermion.core.kinds.wind_hoist.body import grip, rotor_model
from thermion.core.kinds.wind_hoist.brief import BRIEF
from thermion.core.lazy import numpy as np
from thermion.core.physics.lift import G_M_S2, load_mass
from thermion.core.plans import Plan
from thermion.core.sim import simulate_lift, torque_curve

MOST = 12  # attempts that anybody would make in one go


def simulate(
    plans: Sequence[Plan],
    conditions: Mapping[str, float],
    seed: int,
    choices: Mapping[str, str] | None = None,
    marks: Marks | None = None,
    attempts: int | None = None,
) -> list[Trial]:
    """Attempts of each rotor as a class would make them: up its ladder, or searching for the limit."""
    rig = {**BRIEF.default_rig(), **conditions}
    dice, way = np.random.default_rng(seed), choices or {}
    tried = [_attempts(plan, rig, dice, way, attempts or MOST) for plan in plans]
    return [
        Trial(traces={}, conditions=rig, attempts=a, plan=p, choices=way)
        for p, a in zip(plans, tried, strict=True)
    ]


def _attempts(
    plan: Plan, rig: Mapping[str, float], dice: np.random.Generator, way: Mapping[str, str], most: int
) -> tuple[Attempt, ...]:
    model, wind, height = rotor_model(plan, rig), rig["wind_m_s"], rig["height_m"]
    curve = None if model is None else torque_curve(model, wind)
    out: list[Attempt] = []
    for _ in range(most):
        step = load_after(out, rig, way)
        if step.load is None:
            break
        mass = load_mass(step.load, rig["unit_kg"], rig["cup_kg"])
        values = {"load": step.load, "rise_m": 0.0}
        seen: tuple[str, ...] = ()
        slips = mass * G_M_S2 * rig["spool_m"] / 2 > grip(plan)
        run = None if model is None or slips else simulate_lift(model, mass, wind, height, curve=curve)
        if run is not None and run.time_s is not None:
            rise = round((run.rise_m + dice.normal(0, 0.002)) / RISE_STEP_M) * RISE_STEP_M
            values["rise_m"] = height if run.full else min(max(rise, 0.0), 0.97 * height)
            values["time_s"] = max(round(run.time_s + dice.normal(0, 0.1), 1), 0.2)
        elif slips and model is not None:
            seen = ("slipped",)
        out.append(Attempt(values, seen))
    return tuple(out)


REHEARSAL = Rehearsal(simulate=simulate)
