"""Melt pair: one device melts a sample fast, one keeps it solid, beside an untouched control."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

import numpy as np

from thermion.core.judging.scoring import Term
from thermion.core.kinds.base import (
    SKIES,
    Bench,
    BriefDefault,
    Caution,
    Choice,
    Condition,
    Factor,
    Fitted,
    Kind,
    Metric,
    Observation,
    Phase,
    Picture,
    Place,
    Reads,
    RigCheck,
    Trace,
    Trial,
)
from thermion.core.kinds.melt_body import draw_melt, draw_stage, melt_hints, melt_model
from thermion.core.kinds.schools import (
    IMPACT,
    UNITS,
    green,
    passed,
    passed_then,
    passing,
    progress,
    race,
    raw,
    thrift,
)
from thermion.core.physics.melting import STAGES, Reached, protection_ratio, sooner, stage_intervals
from thermion.core.planning.kit import Need
from thermion.core.planning.rounds import even_marks
from thermion.core.plans import Plan
from thermion.core.sim import simulate_melting
from thermion.core.values import Figure, FloatArray

SEEN_FROM = (0.0, 0.06, 0.25, 0.55, 0.97)  # melted share from which each stage is seen; estimates
BETWEEN = "seen between two checks"


def fit(trials: Sequence[Trial]) -> list[Fitted]:
    """Times to the stage as intervals, and against the control, of every trial."""
    return [Fitted(_figures(trial), {}) for trial in trials]


def _reached(trace: Trace, stage: int) -> Reached | None:
    if not trace.time_s:
        return None
    return stage_intervals(trace.time_s, trace.value)[stage - 1]


def _minutes(at: Reached | None) -> Figure:
    """An interval in minutes: never a middle, never a time for what was not reached."""
    if at is None:
        return Figure(reason="no check yet")
    low = None if at.after_s is None else at.after_s / 60
    high = None if at.before_s is None else at.before_s / 60
    why = BETWEEN
    if high is None:
        why = "not reached while watched"
    elif low is None:
        why = "there at the first check"
    notes = (at.note,) if at.note else ()
    return Figure(at_least=low, at_most=high, reason=why, notes=notes)


def _figures(trial: Trial) -> dict[str, Figure]:
    figures, rig = trial.counts(), trial.conditions
    stage = round(rig.get("stage", 3))
    fast, slow = (_reached(trial.traces.get(k, Trace()), stage) for k in ("fast", "slow"))
    control = _reached(next(iter(trial.control.values()), Trace()), stage)
    if fast is None and slow is None:
        return figures
    figures["fast"], figures["slow"] = _minutes(fast), _minutes(slow)
    figures["control"] = _minutes(control)
    for key, device in (("fast_ratio", fast), ("slow_ratio", slow)):
        figures[key] = _ratio(device, control)
    figures["beats"] = _beats(fast, slow, control)
    figures["passed"] = passed(figures["beats"], rig.get("pass_beats", 2.0))
    return figures


def _ratio(device: Reached | None, control: Reached | None) -> Figure:
    if device is None or control is None:
        return Figure(reason="no control was checked" if device else "no check yet")
    found = protection_ratio(device, control)
    if found is None:
        return Figure(reason="neither it nor the control got there while watched")
    return Figure(at_least=found.low, at_most=found.high, reason=BETWEEN)


def _beats(fast: Reached | None, slow: Reached | None, control: Reached | None) -> Figure:
    """Devices that did better than the control for certain: 0, 1 or 2."""
    if control is None:
        return Figure(reason="no control was checked")
    won = (fast is not None and sooner(fast, control) == "sooner") + (
        slow is not None and sooner(slow, control) == "later"
    )
    return Figure(float(won), 0.0)


def _stages(melted: FloatArray) -> tuple[float, ...]:
    return tuple((np.searchsorted(SEEN_FROM, melted, side="right") - 1).astype(float).tolist())


def simulate(
    plans: Sequence[Plan],
    conditions: Mapping[str, float],
    seed: int,
    choices: Mapping[str, str] | None = None,
) -> list[Trial]:
    """What a class would see of these pairs and one control at the usual checks.

    The eye errs by a few percent of the melted share (seeded), and checks come a little late.
    """
    rig = {**KIND.default_rig(), **conditions}
    marks = np.array(even_marks(KIND.phases[0].until_s, KIND.phases[0].every_s))
    models = [melt_model(None, "", rig)]
    models += [melt_model(plan, device, rig) for plan in plans for device in ("fast", "slow")]
    dice = np.random.default_rng(seed)
    late = marks + dice.uniform(1, 20, marks.shape)
    late[0] = 0.0
    _, melted = simulate_melting(models, late, min(rig["start_c"], rig["solidus_c"]))
    eye = np.clip(melted + np.where(melted > 0, dice.normal(0, 0.02, melted.shape), 0), 0, 1)
    seen = [Trace(tuple(late.tolist()), _stages(np.maximum.accumulate(row))) for row in eye]
    return [
        Trial(
            {"fast": seen[1 + 2 * i], "slow": seen[2 + 2 * i]},
            rig,
            control={"stage": seen[0]},
            choices=choices or {},
            plan=plan,
        )
        for i, plan in enumerate(plans)
    ]


KIND = Kind(
    key="melt_pair",
    label="Melt pair",
    test="clocked",
    reads=(Reads("stage", "Stage", "dimensionless", 0, 4, 1, words=STAGES, whole=True),),
    devices=(("fast", "fast"), ("slow", "slow")),
    reads_air=False,
    pictures=(
        Picture(
            "intervals",
            "When it got there",
            "bars",
            metrics=("fast", "slow"),
            against="control",
            tones=("heat", "cold"),
            labels=("fast one", "slow one"),
        ),
    ),
    efficiency="slow_ratio",
    metrics=(
        Metric("fast", "Fast one got there after", "minute", "lower"),
        Metric("slow", "Slow one got there after", "minute", "higher"),
        Metric("control", "Control got there after", "minute", "none"),
        Metric("fast_ratio", "Fast, of the control's time", "dimensionless", "lower", 2),
        Metric("slow_ratio", "Slow, of the control's time", "dimensionless", "higher", 2),
        Metric("beats", "Devices that beat the control", "dimensionless", "higher", 0),
        passing("Beat the control"),
        UNITS,
        IMPACT,
    ),
    headline=("beats", "fast", "slow", "slow_ratio", "units", "impact"),
    phases=(Phase("melting", "Melting", "Start the clock", 2400.0, 120.0),),
    choices=(Choice("heat_source", "Heat source", (("sun", "Sun"), ("lamp", "Lamp"))),),
    conditions=(
        Condition("sample_kg", "One sample", "gram", 5, 0.5, 1, 200),
        Condition("start_c", "Samples at the start", "degC", 18, 2, -20, 22, actual=True),
        Condition("air_c", "Air", "degC", 28, 2, -10, 45, actual=True),
        Condition(
            "irradiance_w_m2",
            "Light on the samples",
            "watt/meter**2",
            600,
            80,
            0,
            1400,
            "a clear noon in summer is about 900",
            actual=True,
        ),
        Condition(
            "sky", "Sky", "dimensionless", 0, 0.5, 0, 3, when=("heat_source", "sun"), actual=True, words=SKIES
        ),
        Condition("solidus_c", "Sample begins to melt at", "degC", 22, 0, -10, 60),
        Condition("liquidus_c", "Sample is all melted at", "degC", 26, 0, -9, 70),
        Condition(
            "lamp_m", "Lamp above the samples", "centimeter", 30, 1, 10, 150, when=("heat_source", "lamp")
        ),
    ),
    criteria=(
        Condition("stage", "Stage that counts, 1 glossy to 4 liquid", "dimensionless", 3, 0, 1, 4),
        Condition("pass_beats", "Devices that must beat the control", "dimensionless", 2, 0, 1, 2),
    ),
    places=(
        Place("fast_base", "Fast: under the sample", "gathers heat", ("black_paper", "foil", "copy_paper")),
        Place(
            "fast_cover", "Fast: cover", "lets light in, keeps warm air in", ("cling_film", "acetate", "foil")
        ),
        Place("fast_mirror", "Fast: sides", "throw light on the sample", ("foil", "copy_paper")),
        Place(
            "slow_wrap",
            "Slow: wrap",
            "slows heat from the air",
            ("felt", "newspaper", "cotton_wool", "black_paper"),
        ),
        Place("slow_shade", "Slow: shade", "keeps the light off", ("foil", "copy_paper", "cardboard")),
    ),
    factors=(
        Factor("fast_m", "Fast tray, across", "centimeter", 10, 4, 25, 1),
        Factor("slow_m", "Slow box, across", "centimeter", 10, 4, 25, 1),
    ),
    materials=(
        ("black_paper", 2),
        ("copy_paper", 2),
        ("foil", 3),
        ("cling_film", 2),
        ("acetate", 1),
        ("newspaper", 4),
        ("felt", 2),
        ("cotton_wool", 3),
        ("sand", 3),
        ("straw", 4),
        ("cardboard", 2),
        ("tape", 4),
    ),
    schools=(
        raw(
            "Both beat the control",
            "One for each device that surely did better than the control.",
            Term("beats", "dimensionless"),
        ),
        thrift(
            "Ten for each device that beat the control, minus one for every unit used.",
            Term("beats", "dimensionless", 10.0),
        ),
        green(
            "Ten for each device that beat the control, minus impact points.",
            Term("beats", "dimensionless", 10.0),
        ),
        race("The slow device that got to the stage last.", Term("slow", "minute"), better="higher"),
        passed_then(
            "Ten for beating the control, then one for each device that did.", Term("beats", "dimensionless")
        ),
        progress(Term("beats", "dimensionless")),
    ),
    observations=(
        Observation("ground", "It stood on hot ground", "What touches the sample from below?"),
        Observation(
            "dish",
            "The control lay in a bare dish",
            "Is the control like the devices in all but what was built?",
        ),
        Observation("shadow", "A shadow fell on it", "Did every sample get the same light?"),
        Observation("shiny", "Shiny paper faced the wrong way", "Where does the light bounce to?"),
        Observation("open", "Warm air blew away", "What keeps the warmed air where it is?"),
        Observation("drip", "It ran through a hole", "Where did the liquid go, and what is left?"),
        Observation("touched", "Someone poked it", "How could you tell without touching?"),
    ),
    cautions=(
        Caution(
            "Never look at the sun or at its reflection; reflectors point away from people.",
            when=("heat_source", "sun"),
        ),
        Caution("Hot ground outdoors: shoes on; sun cream and water.", when=("heat_source", "sun")),
        Caution(
            "The lamp is hot: keep paper away, mind the cord, never leave it alone.",
            adult=True,
            when=("heat_source", "lamp"),
        ),
        Caution("Samples are not for eating; ask about allergies before choosing one.", adult=True),
        Caution("Melted fat makes floors slippery: wipe up at once."),
        Caution("Knives: an adult cuts the samples.", adult=True),
    ),
    defaults={
        "6-8": BriefDefault(
            "One cube should run, one should stay hard. Can you build a warm place and a cool place?",
            "One melts first, one melts last.",
            "progress",
            marks=2.0,
        ),
        "9-12": BriefDefault(
            "Soft and hard: from the same stock build one place that melts a cube of coconut oil "
            "fast, and one that keeps it solid.",
            "Both do better than the control.",
            "raw",
        ),
        "13-16": BriefDefault(
            "The keeper needs soft oil for the lamp and hard oil for the store. From one shared "
            "stock design both, and say by how much each beats the control.",
            "Both beat the control, at little cost.",
            "green",
            limits=0.75,
        ),
    },
    prediction="slow",
    control="a sample in a plain dish, touched by nobody",
    fit=fit,
    hints=melt_hints,
    draw=draw_melt,
    draw_word=draw_stage,
    simulate=simulate,
    bench=Bench(
        set_up_s=420,
        read_s=12,
        kit=(
            Need("Sample of coconut oil, 5 g", 2, "team", 0.2),
            Need("Sample for the control", 1, "class", 1.0),
            Need("Dish, all alike", 2),
            Need("Dish for the control", 1, "class", 0),
            Need("Tray", 1),
            Need("Stopwatch", 1, "class", 0),
        ),
        checks=(
            RigCheck("control", "The control stands in the same light and on the same ground."),
            RigCheck("samples", "All samples weigh the same.", "gram", ("lightest", "heaviest"), 0.5),
            RigCheck("cold", "All samples come from the same cold place at the same moment."),
        ),
        techniques=(
            "Agree on the five stages with one sample that nobody needs.",
            "Look from the side, do not touch.",
        ),
        waiting=("Draw where the heat comes from and which way it goes.", "Guess the order of all samples."),
    ),
)
