"""Keep cold or keep warm: a jar in a jacket, with ice that melts or a drink that cools."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from math import sqrt

import numpy as np

from thermion.core.judging.plausibility import Check, check_mass_balance
from thermion.core.judging.scoring import Term
from thermion.core.kinds.base import (
    CURVES,
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
from thermion.core.kinds.jar_body import draw_jar, jar_hints, jar_ua
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
from thermion.core.physics.curves import fall_after, minutes_to_fall
from thermion.core.physics.heat import Cooling, Cup, cup_height, cup_volume, ice_run, warm_run
from thermion.core.physics.oven import WATER_J_KG_K
from thermion.core.planning.kit import Need
from thermion.core.planning.rounds import even_marks
from thermion.core.plans import Plan
from thermion.core.sim import meltwater, newton_path, observe
from thermion.core.values import Figure, FloatArray, ratio

ICE = ("measure", "volume", "height", "mass", "left")  # the ways of reading ice
DRINK = ("measure", "temp")
VOLUME_STEP_M3, HEIGHT_STEP_M, MASS_STEP_KG, TEMP_STEP_K = 1e-6, 1e-3, 1e-3, 0.5
WATER_KG_M3 = 1000.0


def fit(trials: Sequence[Trial]) -> list[Fitted]:
    """Melting or cooling figures of every trial, by what was read."""
    return [_drink(t) if "temp_c" in t.traces else Fitted(_ice(t), {}) for t in trials]


def _cup(rig: Mapping[str, float]) -> Cup:
    return Cup(
        rig.get("cup_bottom_m", 0.05) / 2, rig.get("cup_top_m", 0.07) / 2, rig.get("cup_height_m", 0.09)
    )


def _melted(
    traces: Mapping[str, Trace], rig: Mapping[str, float]
) -> tuple[Figure, float | None, float | None]:
    """Melted mass [kg], when it was read [s], and the ice left [kg] if that was weighed too."""
    left = traces["left_kg"].value[-1] if traces.get("left_kg", Trace()).value else None
    for key in ("mass_kg", "volume_m3", "height_m"):
        trace = traces.get(key, Trace())
        if not trace.value:
            continue
        value, at = trace.value[-1], trace.time_s[-1]
        if key == "mass_kg":
            return Figure(value, MASS_STEP_KG / sqrt(12.0)), at, left
        if key == "volume_m3":
            return Figure(value * WATER_KG_M3, VOLUME_STEP_M3 * WATER_KG_M3 / sqrt(12.0)), at, left
        cup = _cup(rig)
        if not 0 <= value <= cup.height_m:
            return Figure(reason="the level is beyond the rim of the cup described"), at, left
        step = min(HEIGHT_STEP_M, cup.height_m - value) or -HEIGHT_STEP_M
        slope = float(cup_volume(value + step, cup) - cup_volume(value, cup)) / step
        mass = float(cup_volume(value, cup)) * WATER_KG_M3
        return Figure(mass, slope * HEIGHT_STEP_M * WATER_KG_M3 / sqrt(12.0)), at, left
    if left is not None:
        mass = rig.get("started_kg", 0.1) - left
        if mass < 0:
            return Figure(reason="more ice is left than there was at the start"), None, left
        return Figure(mass, MASS_STEP_KG / sqrt(6.0)), traces["left_kg"].time_s[-1], None
    return Figure(reason="no reading yet"), None, None


def _ice(trial: Trial) -> dict[str, Figure]:
    figures, rig = trial.counts(), trial.conditions
    melted, at, left = _melted(trial.traces, rig)
    if melted.value is None or not at:
        if at is not None or melted.reason != "no reading yet":
            figures["melted"] = melted if at != 0 else Figure(reason="read at time zero only")
        return figures
    air, se_air = _air(trial)
    ice = ice_run(melted, at, air, rig.get("started_kg", 0.1), left_kg=left, se_air_k=se_air)
    figures |= {
        "melted": ice.melted_kg,
        "left": ice.fraction_left,
        "gain": ice.heat_gain_w,
        "ua": ice.ua_w_k,
        "resistance": ice.resistance_k_w,
        "to_all": ice.minutes_to_all,
    }
    if ice.melted_kg.value is not None:
        kept = max(rig.get("started_kg", 0.1) - ice.melted_kg.value, 0.0)
        figures["remaining"] = Figure(kept, ice.melted_kg.se)
    figures["of_control"] = _of_control(ice.heat_gain_w, trial)
    figures["passed"] = passed(ice.fraction_left, rig.get("pass_left", 0.75))
    return figures


def _of_control(gain: Figure, trial: Trial) -> Figure:
    """Heat let in over that of the jar without a jacket beside it: times differ, rates compare."""
    if not trial.control:
        return Figure(reason="no control stood beside it")
    rig = trial.conditions
    melted, at, left = _melted(trial.control, rig)
    if melted.value is None or not at:
        return Figure(reason="the control was not read")
    air, se_air = _air(trial)
    bare = ice_run(melted, at, air, rig.get("started_kg", 0.1), left_kg=left, se_air_k=se_air)
    return ratio(gain, bare.heat_gain_w)


def _air(trial: Trial) -> tuple[float, float]:
    """Mean air [°C] and its standard uncertainty [K]; measured if it was, else the brief's."""
    values = [v for trace in trial.air.values() for v in trace.value]
    if not values:
        return trial.conditions.get("air_c", 20.0), 1.0
    spread = float(np.std(values, ddof=1)) if len(values) > 1 else TEMP_STEP_K
    return float(np.mean(values)), spread / sqrt(len(values))


def _drink(trial: Trial) -> Fitted:
    figures, rig, trace = trial.counts(), trial.conditions, trial.traces["temp_c"]
    if not trace.value:
        return Fitted(figures, {})
    t, v = trace.time_s, trace.value
    interval = next(iter(trial.interval_s.values()), None)
    figures["lost"] = fall_after(t, v, rig.get("lost_min", 30.0), interval_s=interval)
    figures["held"] = minutes_to_fall(
        t, v, rig.get("fall_k", 10.0), interval_s=interval, resolution=TEMP_STEP_K
    )
    air, _ = _air(trial)
    if rig.get("load_kg", 0.2) <= 0:
        return Fitted(figures, {})
    run = warm_run(t, v, air, rig.get("load_kg", 0.2), resolution=TEMP_STEP_K)
    figures |= _cooling(run, rig)
    figures["passed"] = passed(figures["held"], rig.get("pass_min", 20.0))
    if not run.fit.reliable:
        return Fitted(figures, {})
    times = np.linspace(0.0, t[-1], 25)
    return Fitted(figures, {"temp_c": (times.tolist(), (run.fit.at(times) + air).tolist())})


def _cooling(run: Cooling, rig: Mapping[str, float]) -> dict[str, Figure]:
    tau = run.time_constant_s
    minutes = [None if x is None else x / 60 for x in (tau.value, tau.se, tau.at_least)]
    later, _ = run.at(rig.get("later_min", 60.0) * 60)
    return {
        "tau": Figure(minutes[0], minutes[1], minutes[2], reason=tau.reason),
        "ua": run.ua_w_k,
        "resistance": run.resistance_k_w,
        "later": later,
    }


def correct(metric: str, figure: Figure, was: Mapping[str, float], to: Mapping[str, float]) -> Figure | None:
    """Melted mass or heat gain under the other run's air: in proportion to its excess over 0 °C.

    Also a drink's loss, in proportion to its first excess over the air.
    """
    if figure.value is None:
        return None
    before, after = was.get("air_c", 0.0), to.get("air_c", 0.0)
    if metric == "lost":
        before, after = (r.get("drink_c", 60.0) - r.get("air_c", 20.0) for r in (was, to))
    elif metric not in ("melted", "gain"):
        return None
    if before <= 0 or after <= 0:
        return None
    scale = after / before
    se = None if figure.se is None else figure.se * scale
    return Figure(figure.value * scale, se, notes=("corrected for the air",))


def doubt_later(
    value: float,
    before: Sequence[float],
    last: float | None,
    rig: Mapping[str, float],
    choices: Mapping[str, str],
) -> Check:
    """Ice left and water melted make up the ice of the start; over 5 % off is asked about."""
    key = {"volume": "volume_m3", "height": "height_m", "mass": "mass_kg"}[choices["measure"]]
    if last is None:
        return Check("ok")
    melted, _, _ = _melted({key: Trace((0.0,), (last,))}, rig)
    if melted.value is None:
        return Check("ok")
    return check_mass_balance(melted.value, value, rig.get("started_kg", 0.1))


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
) -> list[Trial]:
    """What a class would read of these jars by the measure chosen."""
    chosen = {"measure": "volume", **(choices or {})}
    rig = {**KIND.default_rig(), **conditions}
    marks = even_marks(KIND.phases[0].until_s, KIND.phases[0].every_s)
    uas = np.array([jar_ua(plan, rig) for plan in plans])
    melted = meltwater(np.array(marks), uas[:, None], rig["air_c"], rig["started_kg"])
    out = []
    for i, plan in enumerate(plans):
        traces = _read(plan, rig, chosen["measure"], marks, melted[i], (seed, i))
        out.append(Trial(traces, rig, choices=chosen, plan=plan))
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
        true = course(plan, rig, KIND.phases[0].key, marks, rig["drink_c"])
        return {"temp_c": _trace(marks, observe(true, seed=seed, resolution=TEMP_STEP_K))}
    if measure == "height":
        cup = _cup(rig)
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


KIND = Kind(
    key="keep_temp",
    label="Keep cold, keep warm",
    test="clocked",
    reads=(
        Reads("volume_m3", "Water drained", "milliliter", 0, 2000, 1, when=("measure", "volume")),
        Reads("height_m", "Water level in the cup", "millimeter", 0, 300, 1, when=("measure", "height")),
        Reads("mass_kg", "Water weighed", "gram", 0, 2000, 1, when=("measure", "mass")),
        Reads("left_kg", "Ice left", "gram", 0, 2000, 1, when=("measure", "left")),
        Reads("temp_c", "Temperature", "degC", -5, 100, TEMP_STEP_K, when=DRINK),
    ),
    metrics=(
        Metric("melted", "Melted", "gram", "lower", when=ICE),
        Metric("left", "Ice left", "percent", "higher", 0, when=ICE),
        Metric("gain", "Heat let in", "watt", "lower", 2, when=ICE),
        Metric("remaining", "Ice left", "gram", "higher", 0, when=ICE),
        Metric("of_control", "Heat let in, of the bare jar", "percent", "lower", 0, when=ICE),
        Metric("to_all", "Minutes until all is melted", "minute", "higher", 0, when=ICE),
        Metric("lost", "Lost in the set time", "delta_degC", "lower", when=DRINK),
        Metric("held", "Minutes held", "minute", "higher", when=DRINK),
        Metric("tau", "Time constant of cooling", "minute", "higher", when=DRINK),
        Metric("later", "Expected later", "degC", "higher", when=DRINK),
        Metric("ua", "Heat loss", "watt/delta_degC", "lower", 3),
        Metric("resistance", "Resistance to heat", "delta_degC/watt", "higher"),
        passing("Kept enough"),
        UNITS,
        IMPACT,
    ),
    headline=(
        "melted",
        "left",
        "of_control",
        "to_all",
        "lost",
        "held",
        "tau",
        "resistance",
        "units",
        "impact",
    ),
    phases=(Phase("standing", "Standing", "Start the clock", 2400.0, 600.0),),
    choices=(
        Choice(
            "measure",
            "What is read",
            (
                ("volume", "Ice: water drained, in mL"),
                ("height", "Ice: water level in a cup"),
                ("mass", "Ice: water weighed"),
                ("left", "Ice: ice left, weighed"),
                ("temp", "Warm drink: temperature"),
            ),
        ),
    ),
    conditions=(
        Condition("started_kg", "Ice at the start", "gram", 100, 5, 5, 2000, when=ICE),
        Condition("load_kg", "Drink in the jar", "gram", 200, 5, 10, 2000, when=DRINK),
        Condition(
            "drink_c",
            "Drink at the start",
            "degC",
            60,
            2,
            20,
            90,
            "45 °C or less for ages 6 to 8",
            when=DRINK,
            actual=True,
        ),
        Condition("air_c", "Air in the room", "degC", 22, 1.5, -20, 45, actual=True),
        Condition("room_m", "Most room around the jar", "centimeter", 3, 0, 0.5, 15),
        Condition(
            "cup_bottom_m",
            "Cup, across the bottom inside",
            "millimeter",
            50,
            1,
            10,
            300,
            when=("measure", "height"),
        ),
        Condition(
            "cup_top_m",
            "Cup, across the rim inside",
            "millimeter",
            70,
            1,
            10,
            300,
            when=("measure", "height"),
        ),
        Condition(
            "cup_height_m", "Cup, height inside", "millimeter", 90, 1, 10, 300, when=("measure", "height")
        ),
    ),
    criteria=(
        Condition("pass_left", "Ice to keep", "percent", 75, 0, 1, 100, when=ICE),
        Condition("lost_min", "Loss is read after", "minute", 30, 0, 1, 240, when=DRINK),
        Condition("fall_k", "Held until it has fallen by", "delta_degC", 10, 0, 1, 60, when=DRINK),
        Condition("pass_min", "Minutes to hold", "minute", 20, 0, 1, 240, when=DRINK),
        Condition("later_min", "Expected after", "minute", 60, 0, 1, 600, when=DRINK),
    ),
    places=(
        Place(
            "wall",
            "Jacket",
            "slows heat through the sides",
            ("newspaper", "bubble_wrap", "felt", "cotton_wool", "foil", "wool"),
        ),
        Place("floor", "Under the jar", "slows heat from below", ("foam", "newspaper", "felt", "cardboard")),
        Place("lid", "Lid", "slows heat from above", ("foam", "bubble_wrap", "felt", "cling_film")),
        Place("seal", "Seal", "stops draughts", ("tape",)),
    ),
    factors=(Factor("jacket_m", "Jacket, thickness", "centimeter", 3, 0.5, 10, 0.5),),
    materials=(
        ("newspaper", 6),
        ("bubble_wrap", 2),
        ("foil", 2),
        ("cotton_wool", 4),
        ("felt", 2),
        ("wool", 4),
        ("straw", 6),
        ("foam", 2),
        ("cling_film", 2),
        ("cardboard", 2),
        ("tape", 4),
    ),
    schools=(
        raw("Least melted", "The share of the ice that is left counts.", Term("left", "percent"), when=ICE),
        raw(
            "Least lost",
            "The fewest degrees lost in the set time.",
            Term("lost", "delta_degC"),
            better="lower",
            when=DRINK,
        ),
        thrift("The share of the ice left minus one for every unit used.", Term("left", "percent"), when=ICE),
        thrift("Minutes held minus one for every unit used.", Term("held", "minute"), when=DRINK),
        green("The share of the ice left minus impact points.", Term("left", "percent"), when=ICE),
        green("Minutes held minus impact points.", Term("held", "minute"), when=DRINK),
        race("The last to be melted at this rate.", Term("to_all", "minute"), better="higher", when=ICE),
        race("The last to have fallen so far.", Term("held", "minute"), better="higher", when=DRINK),
        passed_then(
            "Ten for keeping enough, then one for every ten percent of the ice left.",
            Term("left", "percent", 1.0, 10.0),
            when=ICE,
        ),
        passed_then(
            "Ten for holding long enough, then one for every five minutes held.",
            Term("held", "minute", 1.0, 5.0),
            when=DRINK,
        ),
        progress(Term("left", "percent"), when=ICE),
        progress(Term("held", "minute"), when=DRINK),
    ),
    capped_by={"held": "standing"},
    observations=(
        Observation("lid", "The lid stood open", "Which way did the heat come in?"),
        Observation("wet", "The wrap got wet", "What fills the gaps when water does, not air?"),
        Observation("pressed", "The filling was squashed", "Where did the air go?"),
        Observation("sun", "It stood in the sun", "Was it warmer there than at the others' place?"),
        Observation("table", "It stood on a cold or hot table", "What touches the jar below?"),
        Observation("opened", "It was opened to look", "What came in when it was opened?"),
        Observation(
            "full",
            "A fuller cup looked like a winner",
            "More water in the cup: was the ice kept better or worse?",
        ),
    ),
    cautions=(
        Caution(
            "Hot water: an adult pours, not above what suits the age (45 °C at 6 to 8).",
            adult=True,
            when=DRINK,
        ),
        Caution("Hot containers and steam: lids away from the face.", when=DRINK),
        Caution("Ice makes floors wet: wipe up at once.", when=ICE),
        Caution("Knives and hot glue: an adult cuts, or stands beside.", adult=True),
        Caution("Nothing from the test is eaten or drunk."),
    ),
    defaults={
        "6-8": BriefDefault(
            "The bait must stay cold until the boat comes. Can you wrap the jar so that the ice lasts?",
            "There is still ice in the jar.",
            "progress",
            marks=2.0,
        ),
        "9-12": BriefDefault(
            "Save the bait: the cold store is off. Wrap a jar so that as little of its ice melts as can be.",
            "The most ice left, with the fewest units.",
            "thrift",
        ),
        "13-16": BriefDefault(
            "The cold store is off for a week. Design a jacket, find its resistance to heat, and "
            "say how long the bait would last.",
            "Ice left, less impact.",
            "green",
            limits=0.75,
        ),
    },
    prediction="left",
    pictures=(
        Picture(
            "ice", "Ice left", "stack", metrics=("remaining", "melted"), tones=("cold", "lost"), when=ICE
        ),
        CURVES,
    ),
    efficiency="resistance",
    doubt_later=doubt_later,
    later=Reads(
        "left_kg",
        "Ice left at the end",
        "gram",
        0,
        2000,
        1,
        limit="started_kg",
        when=("measure", "volume", "height", "mass"),
    ),
    control="a jar without a jacket",
    fit=fit,
    hints=jar_hints,
    draw=draw_jar,
    course=course,
    simulate=simulate,
    correct=correct,
    bench=Bench(
        set_up_s=420,
        read_s=15,
        kit=(
            Need("Jar with lid", 1),
            Need("Cup, all alike", 1),
            Need("Ice, 100 g", 1, "team", 0.2),
            Need("Kitchen scale", 1, "class", 0),
            Need("Measuring jug", 1, "class", 0),
            Need("Thermometer", 1),
            Need("Tray", 1),
            Need("Cloth", 1),
        ),
        checks=(
            RigCheck(
                "agree",
                "The thermometers read the same in one glass of water.",
                "degC",
                ("each thermometer",),
                1.0,
            ),
            RigCheck(
                "scale", "The scale shows zero, and the same mass twice.", "gram", ("first", "again"), 1.0
            ),
            RigCheck("alike", "All pieces of ice come from one freezer and one mould."),
            RigCheck("shade", "All jars stand in the same shade, on the same kind of table."),
        ),
        techniques=(
            "Drain every jar the same way: tilt, count to ten.",
            "Read a level at the bottom of its curve, eyes level with the water.",
        ),
        waiting=(
            "Guess which jar will be worst, and say why.",
            "Feel foil and felt: which feels warmer, which is warmer?",
        ),
    ),
)
