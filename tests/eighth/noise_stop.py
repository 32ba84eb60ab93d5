"""Noise stopper, made up: a buzzer under a hood; how many decibels reach the ear beside it.

What docs/families.md shows: a whole family, written with nothing but what it has.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from math import sqrt

import numpy as np

from thermion.core.kinds.analysis import Analysis, Metric
from thermion.core.kinds.base import Kind
from thermion.core.kinds.briefing import BriefDefault, Briefing, Caution, Condition, Term
from thermion.core.kinds.building import Building, Drawing, Factor, PartPlace, Shape, View
from thermion.core.kinds.rehearsal import Marks, Rehearsal
from thermion.core.kinds.schools import IMPACT, UNITS, passed, passing, progress, raw, thrift
from thermion.core.kinds.testing import Bench, Need, Observation, Reads, Testing
from thermion.core.kinds.trials import Attempt, Fitted, Trial, each_attempt
from thermion.core.kinds.views import Picture, Views
from thermion.core.plans import Plan
from thermion.core.values import Figure

STEP_DB = 1.0  # of the sound level meter

BRIEF = Briefing(
    conditions=(
        Condition(
            key="bare_db",
            label="Buzzer without a hood",
            unit="decibel",
            default=82,
            tolerance=1,
            low=40,
            high=110,
            actual=True,
        ),
        Condition(
            key="away_m",
            label="Meter from the buzzer",
            unit="centimeter",
            default=50,
            tolerance=1,
            low=10,
            high=300,
        ),
    ),
    criteria=(
        Condition(
            key="quiet_db", label="Quiet enough", unit="decibel", default=65, tolerance=0, low=30, high=100
        ),
    ),
    schools=(
        raw("Quietest", "The most decibels taken away.", Term(metric="taken", unit="decibel")),
        thrift("Decibels taken away minus one for every unit used.", Term(metric="taken", unit="decibel")),
        progress(Term(metric="taken", unit="decibel")),
    ),
    cautions=(Caution(text="Nobody puts an ear to the buzzer."),),
    defaults={
        age: BriefDefault(
            story="The fog horn wakes the keeper's child. Which hood lets them sleep?",
            success=success,
            school=way,
        )
        for age, success, way in (
            ("6-8", "Quieter than before.", "progress"),
            ("9-12", "The quietest hood.", "raw"),
            ("13-16", "The quietest hood for what it is made of.", "thrift"),
        )
    },
)


def draw(plan: Plan, rig: Mapping[str, float]) -> Drawing:
    """The hood from the side [mm], over the buzzer."""
    high = plan.factors.get("height_m", 0.1) * 1000
    hood = ((-60.0, 0.0), (60.0, 0.0), (60.0, high), (-60.0, high))
    buzzer = ((-15.0, 0.0), (15.0, 0.0), (15.0, 20.0), (-15.0, 20.0))
    shapes = (
        Shape(kind="polygon", points=hood, tone="gap", place="hood", label="Hood"),
        Shape(kind="polygon", points=buzzer, tone="dark"),
    )
    seen = {"hood": (0.0, high), "height_m": (60.0, high / 2)}
    return Drawing(
        "Hood",
        (
            View(
                name="from the side", window=(-80, -10, 160, high + 30), shapes=shapes, handles=(), seen=seen
            ),
        ),
    )


BUILD = Building(
    places=(PartPlace("hood", "Hood", "keeps the sound in", ("felt", "newspaper")),),
    factors=(
        Factor(
            key="height_m", label="Height of the hood", unit="centimeter", default=10, low=4, high=30, step=1
        ),
    ),
    materials=(("felt", 2), ("newspaper", 4), ("tape", 4)),
    draw=draw,
    hints=lambda plan: [] if plan.parts else ["What could stop the sound?"],
)

TEST = Testing(
    shape="turns",
    reads=(Reads(key="level_db", label="Sound level", unit="decibel", low=20, high=120, resolution=STEP_DB),),
    observations=(Observation("rattled", "The hood rattled", "What moves with the sound?"),),
    bench=Bench(
        kit=(
            Need(item="Buzzer", quantity=1, per="class", spare=0),
            Need(item="Sound level meter", quantity=1, per="class", spare=0),
        )
    ),
)


def fit(trials: Sequence[Trial]) -> list[Fitted]:
    return [Fitted(_figures(trial), {}) for trial in trials]


def _figures(trial: Trial) -> dict[str, Figure]:
    levels = [a.values["level_db"] for a in trial.fair()]
    if not levels:
        return trial.counts()
    spread = float(np.std(levels, ddof=1)) if len(levels) > 1 else 0.0
    se = max(spread / sqrt(len(levels)), STEP_DB / sqrt(12 * len(levels)))
    level = Figure(value=float(np.mean(levels)), se=se)
    taken = Figure(value=trial.conditions["bare_db"] - level.value, se=sqrt(se**2 + STEP_DB**2 / 12))
    quiet = passed(Figure(value=-level.value, se=se), -trial.conditions["quiet_db"])
    return trial.counts() | {"level": level, "taken": taken, "passed": quiet}


ANALYSIS = Analysis(
    metrics=(
        Metric(
            key="taken",
            label="Taken away",
            means="Sound level of the bare rig less that of the build.",
            unit="decibel",
            better="higher",
        ),
        Metric(
            key="level",
            label="Sound level",
            means="Mean of the levels read.",
            unit="decibel",
            better="lower",
            reads="level_db",
        ),
        passing("Quiet enough"),
        UNITS,
        IMPACT,
    ),
    headline=("taken", "level", "units"),
    prediction="level",
    fit=fit,
    repeats=each_attempt,
    compares="taken",
)


def simulate(
    plans: Sequence[Plan],
    conditions: Mapping[str, float],
    seed: int,
    choices: Mapping[str, str] | None = None,
    marks: Marks | None = None,
    attempts: int | None = None,
) -> list[Trial]:
    """Three decibels for every unit of material, read three times to whole decibels."""
    rig, dice = {**BRIEF.default_rig(), **conditions}, np.random.default_rng(seed)
    quieter = [rig["bare_db"] - 3 * sum(p.units for p in plan.parts) for plan in plans]
    return [
        Trial(
            traces={},
            conditions=rig,
            attempts=tuple(
                Attempt({"level_db": round(q + dice.normal(0, 0.7))}) for _ in range(attempts or 3)
            ),
        )
        for q in quieter
    ]


KIND = Kind(
    key="noise_stop",
    label="Noise stopper",
    brief=BRIEF,
    build=BUILD,
    test=TEST,
    analysis=ANALYSIS,
    rehearsal=Rehearsal(simulate=simulate),
    views=Views((Picture(key="levels", label="Every attempt", form="attempts", read="level_db"),)),
)
