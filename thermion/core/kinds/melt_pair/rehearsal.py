"""A melt pair, rehearsed by its model."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from thermion.core.kinds.melt_pair.body import melt_model
from thermion.core.kinds.melt_pair.brief import BRIEF
from thermion.core.kinds.melt_pair.how_tested import TEST
from thermion.core.kinds.rehearsal import Marks, Rehearsal
from thermion.core.kinds.trials import Trace, Trial
from thermion.core.lazy import FloatArray
from thermion.core.lazy import numpy as np
from thermion.core.plans import Plan
from thermion.core.sim import simulate_melting

SEEN_FROM = (0.0, 0.06, 0.25, 0.55, 0.97)  # melted share from which each stage is seen; estimates


def _stages(melted: FloatArray) -> tuple[float, ...]:
    return tuple((np.searchsorted(SEEN_FROM, melted, side="right") - 1).astype(float).tolist())


def simulate(
    plans: Sequence[Plan],
    conditions: Mapping[str, float],
    seed: int,
    choices: Mapping[str, str] | None = None,
    marks: Marks | None = None,
    attempts: int | None = None,
) -> list[Trial]:
    """What a class would see of these pairs and one control at the usual checks.

    The eye errs by a few percent of the melted share (seeded), and checks come a little late.
    """
    apart = {"open_sides": 0.0, "shared_walls": 0.0}  # unless the brief asks for them
    rig = {**BRIEF.default_rig(), **apart, **conditions}
    times = np.array(TEST.phases[0].marks_in(marks))
    models = [melt_model(None, "", rig)]
    models += [melt_model(plan, device, rig) for plan in plans for device in ("fast", "slow")]
    dice = np.random.default_rng(seed)
    latest = min(20.0, 0.5 * float(np.min(np.diff(times), initial=40.0)))
    late = times + dice.uniform(0.05 * latest, latest, times.shape)
    late[0] = 0.0
    _, melted = simulate_melting(models, late, min(rig["start_c"], rig["solidus_c"]))
    eye = np.clip(melted + np.where(melted > 0, dice.normal(0, 0.02, melted.shape), 0), 0, 1)
    seen = [Trace(tuple(late.tolist()), _stages(np.maximum.accumulate(row))) for row in eye]
    return [
        Trial(
            traces={"fast": seen[1 + 2 * i], "slow": seen[2 + 2 * i]},
            conditions=rig,
            control={"stage": seen[0]},
            choices=choices or {},
            plan=plan,
        )
        for i, plan in enumerate(plans)
    ]


REHEARSAL = Rehearsal(simulate=simulate)
