"""Heat-through race: a sample between a heat pad and a probe, timed to a target temperature."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from math import sqrt

import numpy as np

from thermion.core.judging.scoring import Term
from thermion.core.kinds.base import (
    Attempt,
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
    each_attempt,
)
from thermion.core.kinds.race_body import draw_race, race_constant, race_hints
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
from thermion.core.physics.curves import first_crossing
from thermion.core.physics.heat import heat_let_through, time_to_target, to_common_start
from thermion.core.physics.materials import MATERIALS
from thermion.core.planning.kit import Need
from thermion.core.planning.rounds import even_marks
from thermion.core.plans import Plan
from thermion.core.sim import newton_path, observe
from thermion.core.values import Figure, FloatArray, ratio

RESOLUTION_K = 0.1  # a probe on a logger or a digital thermometer
REACTION_S = 0.3  # standard uncertainty of a stopwatch in the hand; an estimate
SLOW, FAST = ("question", "insulator"), ("question", "conductor")


def fit(trials: Sequence[Trial]) -> list[Fitted]:
    """Time to the target, index against the bare control and heat let through, of every trial."""
    return [Fitted(_figures(trial), {}) for trial in trials]


def _time(trace: Trace, rig: Mapping[str, float]) -> Figure:
    """Seconds from the common start to the target, from the readings of one race."""
    target, common = rig.get("target_c", 35.0), rig.get("start_c", 20.0)
    seconds = time_to_target(trace.time_s, trace.value, target, resolution=RESOLUTION_K)
    source = rig.get("source_c")
    return to_common_start(seconds, trace.value[0], target, source, common, resolution=RESOLUTION_K)


def _race(attempt: Attempt, rig: Mapping[str, float]) -> Figure:
    """Seconds of one race: from its readings where they cross the target, else the stopwatch."""
    read = _time(attempt.trace, rig) if len(attempt.trace.time_s) > 1 else Figure()
    seconds = attempt.values.get("time_s", 0.0)
    if read.value is not None or seconds <= 0:
        return read if len(attempt.trace.time_s) > 1 else Figure(reason="it was not stopped")
    common = rig.get("start_c", 20.0)
    return to_common_start(
        Figure(seconds, REACTION_S),
        attempt.values.get("start_c", common),
        rig.get("target_c", 35.0),
        rig.get("source_c"),
        common,
        resolution=RESOLUTION_K,
    )


def _middle(times: Sequence[Figure]) -> Figure:
    """The median of several races; a bound only where no race arrived.

    Its standard error is √(π/2) times that of the mean, asymptotically, for normal spread.
    """
    known = [f for f in times if f.value is not None]
    if len(known) < 2:
        return known[0] if known else times[0]
    values = np.array([f.value for f in known])
    own = sqrt(sum((f.se or 0.0) ** 2 for f in known)) / len(known)
    spread = float(values.std(ddof=1)) * sqrt(np.pi / 2 / len(known))
    notes = tuple(dict.fromkeys(n for f in known for n in f.notes))
    return Figure(float(np.median(values)), max(spread, own), notes=notes)


def _seen(attempt: Attempt, rig: Mapping[str, float]) -> Trace:
    """The readings of a race; at the stop the probe showed the target, so that is one too."""
    trace, stop = attempt.trace, attempt.values.get("time_s", 0.0)
    if not trace.time_s or stop <= trace.time_s[-1]:
        return trace
    return Trace((*trace.time_s, stop), (*trace.value, rig.get("target_c", 35.0)))


def _races(
    trace: Trace, attempts: Sequence[Attempt], rig: Mapping[str, float]
) -> tuple[Figure, Trace] | None:
    """Time of a sample, or of the control, over its races, and the readings of the last one."""
    every = [*([Attempt({}, trace=trace)] if trace.time_s else []), *attempts]
    if not every:
        return None
    read = [t for t in (_seen(a, rig) for a in every) if len(t.time_s) > 1]
    return _middle([_race(a, rig) for a in every]), read[-1] if read else Trace()


def _figures(trial: Trial) -> dict[str, Figure]:
    figures, rig = trial.counts(), trial.conditions
    mine = _races(trial.traces.get("race", Trace()), trial.fair(), rig)
    bare = _races(trial.control.get("race", Trace()), trial.bare, rig)
    if mine is None:
        return figures
    time, seen = mine
    figures["time"] = time
    level = rig.get("pass_s", 60.0)
    faster = trial.choices.get("question") == "conductor"
    figures["passed"] = passed(time, level, below=faster)
    if bare is None:
        figures["index"] = figures["through"] = Figure(reason="the bare control was not run")
        return figures
    figures["control"] = bare[0]
    figures["index"] = ratio(time, bare[0])
    figures["through"] = _through(seen, bare[1], rig.get("target_c", 35.0))
    return figures


def _through(mine: Trace, bare: Trace, target_c: float) -> Figure:
    """Heat let through until the control was at the target [share of the control's rise]."""
    if len(mine.time_s) < 3 or not bare.time_s:  # a start and a stop are no curve
        return Figure(reason="a stopwatch alone does not tell")
    cross = first_crossing(bare.time_s, bare.value, target_c, direction="up")
    if cross.time_s is None:
        return Figure(reason="the bare control did not reach the target")
    since = cross.time_s - bare.time_s[0]
    if mine.time_s[-1] - mine.time_s[0] < since:
        return Figure(reason="watched for less time than the control took")
    reached = float(np.interp(since + mine.time_s[0], mine.time_s, mine.value))
    share = heat_let_through(reached - mine.value[0], target_c - bare.value[0], resolution=RESOLUTION_K)
    if share.value is None:
        return share
    return Figure(share.value / 100, None if share.se is None else share.se / 100)


def caption(plan: Plan) -> str:
    """What is raced: the materials of the sample."""
    return " + ".join(dict.fromkeys(MATERIALS[p.material].name for p in plan.at("sample")))


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
) -> list[Trial]:
    """A race of each sample and one of the bare control; starts differ by a few tenths."""
    rig = {**KIND.default_rig(), **conditions}
    marks = np.array(even_marks(KIND.phases[0].until_s, KIND.phases[0].every_s))
    constants = [race_constant(None), *(race_constant(plan) for plan in plans)]
    dice = np.random.default_rng(seed)
    runs = []
    for i, tau in enumerate(constants):
        start = rig["start_c"] + abs(dice.normal(0, 0.3)) * (i > 0)
        true = newton_path(marks, start, rig["source_c"], tau)
        seen = observe(true, seed=(seed, i), resolution=RESOLUTION_K, noise_k=0.05)
        runs.append(Trace(tuple(marks.tolist()), tuple(seen.tolist())))
    return [
        Trial({"race": run}, rig, control={"race": runs[0]}, choices=choices or {}, plan=plan)
        for plan, run in zip(plans, runs[1:], strict=True)
    ]


KIND = Kind(
    key="heat_through",
    label="Heat-through race",
    test="clocked",
    reads=(Reads("temp_c", "Probe", "degC", -10.0, 80.0, RESOLUTION_K),),
    metrics=(
        Metric("time", "Time to the target", "second", "none"),
        Metric("control", "Bare probe took", "second", "none"),
        Metric("index", "Times as long as bare", "dimensionless", "none", 2),
        Metric("through", "Heat let through, of bare", "percent", "none", 0),
        passing("Met the mark"),
        UNITS,
        IMPACT,
    ),
    headline=("time", "control", "index", "through", "units", "impact"),
    phases=(Phase("race", "Race", "Probe on the sample", 300.0, 10.0),),
    choices=(
        Choice(
            "question",
            "What are we looking for?",
            (("insulator", "What holds heat back"), ("conductor", "What lets heat through")),
        ),
    ),
    conditions=(
        Condition(
            "source_c", "Heat pad", "degC", 45, 1, 25, 55, "not above 45 °C for ages 6 to 8", actual=True
        ),
        Condition("start_c", "Common start of the probe", "degC", 20, 0.5, 0, 35, actual=True),
    ),
    criteria=(
        Condition("target_c", "Target of the probe", "degC", 35, 0, 10, 54),
        Condition("pass_s", "Mark to meet", "second", 60, 0, 1, 600),
    ),
    places=(Place("sample", "Sample", "stands between pad and probe"),),
    factors=(Factor("clamp_m", "Clamp opening", "millimeter", 10, 1, 30, 1),),
    materials=(
        ("foil", 4),
        ("copy_paper", 4),
        ("newspaper", 4),
        ("cardboard", 2),
        ("bubble_wrap", 2),
        ("felt", 2),
        ("fleece", 2),
        ("cork", 2),
        ("foam", 1),
        ("cotton_wool", 1),
        ("wool", 1),
        ("copper_sheet", 2),
        ("steel_sheet", 2),
        ("acetate", 2),
        ("balsa", 2),
        ("clay_tile", 1),
        ("rubber", 1),
    ),
    schools=(
        raw(
            "Slowest",
            "The longest time to the target: the best insulator.",
            Term("time", "second"),
            when=SLOW,
        ),
        raw(
            "Fastest",
            "The shortest time to the target: the best conductor.",
            Term("time", "second"),
            better="lower",
            when=FAST,
        ),
        thrift("Seconds to the target minus one for every piece used.", Term("time", "second"), when=SLOW),
        green(
            "Times as long as bare, in tenths, minus impact points.",
            Term("index", "dimensionless", 10.0),
            when=SLOW,
        ),
        race("The last probe at the target.", Term("time", "second"), better="higher", when=SLOW),
        race("The first probe at the target.", Term("time", "second"), when=FAST),
        passed_then(
            "Ten for meeting the mark, then one for every ten seconds.",
            Term("time", "second", 1.0, 10.0),
            when=SLOW,
        ),
        passed_then(
            "Ten for meeting the mark, less one for every ten seconds.",
            Term("time", "second", -1.0, 10.0),
            when=FAST,
        ),
        progress(Term("time", "second")),
    ),
    observations=(
        Observation("warm", "The probe was still warm", "Where did it start, and where did the others?"),
        Observation("gap", "The probe did not lie flat", "What is between probe and sample?"),
        Observation("squashed", "The sample was squashed", "Where did the air go?"),
        Observation("edge", "Heat came round the edge", "Which way is the easiest for heat?"),
        Observation("pad", "The pad had cooled", "Was the pad as warm as for the first sample?"),
        Observation("shiny", "It was chosen for its shine", "Does shine matter where the pad touches?"),
        Observation(
            "feel",
            "It felt warm in the hand",
            "Is it warm, or does it only take little warmth from your hand?",
        ),
    ),
    cautions=(
        Caution("Heat pad: not on the skin for long, never cut open, flat on the table.", adult=True),
        Caution("Cord and water apart; switch off before touching the clamp.", adult=True),
        Caution("Sharp edges of cut metal are taped by an adult.", adult=True),
    ),
    defaults={
        "6-8": BriefDefault(
            "Which stuff keeps the warmth away the longest? Guess first, then see.",
            "You can say which one was slowest.",
            "progress",
            marks=3.0,
        ),
        "9-12": BriefDefault(
            "What lets heat through? Race the island's materials, one by one, to find what holds "
            "heat back for the keeper's oven.",
            "The slowest sample, measured fairly.",
            "raw",
        ),
        "13-16": BriefDefault(
            "The oven, the bait and the lamp oil all need the right material. Measure how much "
            "longer each sample takes than the bare probe, and say how sure you are.",
            "Times as long as bare, at little cost.",
            "green",
        ),
    },
    prediction="time",
    reads_air=False,
    pictures=(
        Picture("times", "Times against the bare probe", "bars", metrics=("time",), against="control"),
    ),
    efficiency="index",
    caption=caption,
    level="target_c",
    one_by_one=True,
    control="the probe on the bare pad",
    fit=fit,
    hints=race_hints,
    draw=draw_race,
    course=course,
    simulate=simulate,
    repeats=each_attempt,
    bench=Bench(
        set_up_s=300,
        read_s=10,
        fit_s=30,
        run_s=180,
        reset_s=60,
        kit=(
            Need("Heat pad", 1, "class", 0),
            Need("Probe or thermometer", 1, "class", 1.0),
            Need("Clamp or book as weight", 1, "class", 0),
            Need("Stopwatch", 1, "class", 0),
            Need("Glass of cool water for the probe", 1, "class", 0),
            Need("Square template, 5 cm", 1),
        ),
        checks=(
            RigCheck(
                "agree",
                "The thermometers read the same in one glass of water.",
                "degC",
                ("each thermometer",),
                0.5,
            ),
            RigCheck(
                "pad",
                "The pad shows the same temperature before and after the control.",
                "degC",
                ("before", "after"),
                1.0,
            ),
            RigCheck("bare", "The bare control was run first."),
        ),
        techniques=(
            "Cool the probe in the glass and dry it before every race.",
            "Press every sample with the same weight.",
        ),
        waiting=(
            "Order all samples by guess, slowest first.",
            "Touch wood and metal: same room, same temperature?",
        ),
    ),
)
