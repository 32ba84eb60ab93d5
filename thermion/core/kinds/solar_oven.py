"""Solar oven: a box that gathers light, keeps heat, and is read while heating and cooling."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from math import sqrt

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
    Place,
    Reads,
    RigCheck,
    Trace,
    Trial,
)
from thermion.core.kinds.oven_body import draw_oven, oven_hints, oven_model
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
from thermion.core.physics.curves import (
    Approach,
    fall_after,
    first_crossing,
    fit_approach_many,
    initial_rate,
    minutes_to_fall,
    no_fit,
    peak,
    rise,
)
from thermion.core.physics.oven import (
    corrected_peak,
    efficiency,
    first_figure_of_merit,
    gathering_area,
    heat_loss_coefficient,
)
from thermion.core.planning.kit import Need
from thermion.core.planning.rounds import even_marks
from thermion.core.plans import Plan
from thermion.core.sim import observe, simulate_ovens
from thermion.core.values import Figure, FloatArray

RESOLUTION_K = 0.5
BOILING_C = 100.0  # water at sea level; further heat goes into steam


def _fit_phase(trials: Sequence[Trial], phase: str, shift: FloatArray | None) -> list[Approach]:
    """Fit one phase of all trials in one call; with `shift`, the asymptote is that air."""
    longest = max((len(t.traces.get(phase, Trace()).time_s) for t in trials), default=0)
    if longest == 0:
        return [no_fit("no readings") for _ in trials]
    time, value = np.zeros((2, len(trials), longest))
    mask = np.zeros((len(trials), longest), bool)
    for i, trial in enumerate(trials):
        trace = trial.traces.get(phase, Trace())
        n = len(trace.time_s)
        time[i, :n], value[i, :n], mask[i, :n] = trace.time_s, trace.value, True
    if shift is None:
        return fit_approach_many(time, value, mask=mask, resolution=RESOLUTION_K)
    return fit_approach_many(time, value - shift[:, None], mask=mask, asymptote=0.0, resolution=RESOLUTION_K)


def _air(trial: Trial, phase: str) -> tuple[float, float]:
    """Mean air temperature of a phase [°C] and its standard uncertainty [K]."""
    trace = trial.air.get(phase, Trace())
    if not trace.value:
        return trial.conditions.get("air_c", 20.0), 1.0
    spread = float(np.std(trace.value, ddof=1)) if len(trace.value) > 1 else RESOLUTION_K
    return float(np.mean(trace.value)), spread / sqrt(len(trace.value))


def fit(trials: Sequence[Trial]) -> list[Fitted]:
    """Figures and fitted curves of every trial; fits of the whole class run in one call."""
    air = np.array([_air(trial, "cooling")[0] for trial in trials])
    warm = _fit_phase(trials, "heating", None)
    cool = _fit_phase(trials, "cooling", air)
    return [_fitted(*row) for row in zip(trials, warm, cool, air.tolist(), strict=True)]


def _fitted(trial: Trial, warm: Approach, cool: Approach, air_c: float) -> Fitted:
    heating, cooling = (trial.traces.get(key, Trace()) for key in ("heating", "cooling"))
    figures = trial.counts()
    if heating.time_s:
        figures |= _heating_figures(trial, heating, warm)
    if cooling.time_s:
        figures |= _cooling_figures(trial, cooling, cool)
    curves = {}
    if warm.reliable:
        times = np.linspace(0.0, heating.time_s[-1], 25)
        curves["heating"] = (times.tolist(), warm.at(times).tolist())
    if cool.reliable:
        times = np.linspace(0.0, cooling.time_s[-1], 25)
        curves["cooling"] = (times.tolist(), (cool.at(times) + air_c).tolist())
    return Fitted(figures, curves)


def _heating_figures(trial: Trial, trace: Trace, warm: Approach) -> dict[str, Figure]:
    t, v = trace.time_s, trace.value
    scatter = warm.residual_sd if warm.reliable and warm.residual_sd else 0.0
    step = max(RESOLUTION_K, scatter * sqrt(12.0))  # reading scatter as an equivalent step
    top, gain = peak(t, v, resolution=step), rise(t, v, resolution=step)
    level = trial.conditions.get("level_c", 50.0)
    irradiance = trial.conditions.get("irradiance_w_m2", 0.0)
    air_c, se_air = _air(trial, "heating")
    figures = {"peak": top, "rise": gain, "rate": initial_rate(t, v)}
    figures["to_level"] = _minutes_to(t, v, level, trial.interval_s.get("heating"))
    figures["passed"] = passed(top, level)
    if warm.reliable and warm.asymptote is not None:
        figures["limit"] = Figure(warm.asymptote, warm.se_asymptote)
        figures["merit"] = first_figure_of_merit(
            warm.asymptote, air_c, irradiance, se_limit_k=warm.se_asymptote or 0.0, se_air_k=se_air
        )
    else:
        figures["limit"] = figures["merit"] = Figure(reason=warm.reason)
    hottest = t[int(np.argmax(v))]
    if gain.value is not None and trial.conditions.get("load_kg", 0) > 0:
        figures["efficiency"] = efficiency(
            trial.conditions["load_kg"],
            gain.value,
            trial.conditions.get("aperture_m2", 0.09),
            irradiance * hottest,
            se_rise_k=gain.se or 0.0,
        )
        if trial.plan.at("reflector") and "sun_deg" in trial.conditions:
            area = gathering_area(
                trial.conditions.get("aperture_m2", 0.09),
                trial.plan.factors.get("reflector_m", 0.3),
                trial.plan.factors.get("reflector_deg", 110.0),
                trial.conditions["sun_deg"],
            )
            figures["efficiency_all"] = efficiency(
                trial.conditions["load_kg"], gain.value, area, irradiance * hottest, se_rise_k=gain.se or 0.0
            )
    return figures


def _minutes_to(t: Sequence[float], v: Sequence[float], level: float, interval_s: float | None) -> Figure:
    cross = first_crossing(t, v, level, direction="up")
    if cross.time_s is None:
        if cross.before_s is not None:
            return Figure(at_most=cross.before_s / 60, reason="above the level at the first reading")
        return Figure(at_least=(cross.after_s or 0) / 60, reason="never reached while watched")
    gap = cross.gap_s or 0.0
    i = int(np.searchsorted(t, cross.time_s))
    slope = abs(v[i] - v[i - 1]) / (t[i] - t[i - 1]) if i else 0.0
    se = RESOLUTION_K / sqrt(12.0) / slope / 60 if slope else None
    wide = interval_s and gap > 2 * interval_s * 1.001
    notes = (f"leans on a gap of {gap / 60:.3g} min without readings",) if wide else ()
    return Figure(cross.time_s / 60, se, notes=notes)


def _cooling_figures(trial: Trial, trace: Trace, cool: Approach) -> dict[str, Figure]:
    t, v = trace.time_s, trace.value
    interval = trial.interval_s.get("cooling")
    figures = {
        "held": minutes_to_fall(
            t, v, trial.conditions.get("fall_k", 10.0), interval_s=interval, resolution=RESOLUTION_K
        ),
        "lost": fall_after(t, v, trial.conditions.get("lost_min", 10.0), interval_s=interval),
    }
    tau = cool.time_constant_s
    if cool.reliable and tau is not None:
        figures["tau_cool"] = Figure(tau / 60, (cool.se_time_constant_s or 0.0) / 60)
        if trial.conditions.get("load_kg", 0) > 0:
            figures["ua"] = heat_loss_coefficient(
                trial.conditions["load_kg"], tau, se_time_constant_s=cool.se_time_constant_s or 0.0
            )
    else:
        bound = cool.time_constant_at_least_s
        figures["tau_cool"] = Figure(at_least=bound and bound / 60, reason=cool.reason)
        figures["ua"] = Figure(reason=cool.reason)
    return figures


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
) -> list[Trial]:
    """What a class would read of these boxes at the usual marks, thermometer and all."""
    rig = {**KIND.default_rig(), **conditions}
    out = []
    for i, plan in enumerate(plans):
        at, traces = rig["start_c"], {}
        for n, phase in enumerate(KIND.phases):
            marks = even_marks(phase.until_s, phase.every_s)
            true = course(plan, rig, phase.key, marks, at)
            at = float(true[-1])
            read = observe(true, seed=(seed, i, n), resolution=RESOLUTION_K)
            traces[phase.key] = Trace(tuple(marks), tuple(read.tolist()))
        out.append(Trial(traces, rig, plan=plan, choices=choices or {}))
    return out


def correct(metric: str, figure: Figure, was: Mapping[str, float], to: Mapping[str, float]) -> Figure | None:
    """A peak under the other run's sun and air, where both are known."""
    needed = ("air_c", "irradiance_w_m2")
    if metric != "peak" or figure.value is None or any(not was.get(k) or not to.get(k) for k in needed):
        return None
    value = corrected_peak(
        figure.value,
        was["air_c"],
        was["irradiance_w_m2"],
        to_air_c=to["air_c"],
        to_irradiance=to["irradiance_w_m2"],
    )
    return Figure(value, figure.se, notes=("corrected for sun and air",))


KIND = Kind(
    key="solar_oven",
    label="Solar oven",
    test="clocked",
    reads=(Reads("temp_c", "Temperature", "degC", -20.0, 200.0, RESOLUTION_K),),
    metrics=(
        Metric("peak", "Hottest", "degC", "higher"),
        Metric("rise", "Rise", "delta_degC", "higher"),
        Metric("to_level", "Minutes to the level", "minute", "lower"),
        Metric("held", "Minutes held", "minute", "higher"),
        Metric("lost", "Lost while cooling", "delta_degC", "lower"),
        Metric("limit", "Levels off at", "degC", "higher"),
        Metric("tau_cool", "Time constant of cooling", "minute", "higher"),
        Metric("rate", "First climb", "delta_degC/minute", "higher", 2),
        Metric("ua", "Heat loss", "watt/delta_degC", "lower", 2),
        Metric("merit", "Figure of merit", "delta_degC/(watt/meter**2)", "higher", 3),
        Metric("efficiency", "Share of light kept as heat", "dimensionless", "higher", 2),
        Metric("efficiency_all", "The same, reflector's light counted", "dimensionless", "higher", 2),
        passing("Reached the level"),
        UNITS,
        IMPACT,
    ),
    headline=("peak", "rise", "to_level", "held", "tau_cool", "units", "impact"),
    phases=(
        Phase("heating", "Heating", "Start heating", 1800.0, 300.0),
        Phase("cooling", "Cooling", "Start cooling", 1200.0, 300.0),
    ),
    choices=(Choice("heat_source", "Heat source", (("sun", "Sun"), ("lamp", "Lamp"))),),
    conditions=(
        Condition(
            "aperture_m2",
            "Window area",
            "centimeter**2",
            900,
            10,
            50,
            5000,
            "the same opening for every team",
        ),
        Condition("load_kg", "Water in the mug", "gram", 150, 5, 0, 2000, "0 g for air only"),
        Condition("start_c", "Start temperature", "degC", 20, 2, 0, 45, actual=True),
        Condition("air_c", "Air outside the boxes", "degC", 20, 3, -20, 45, actual=True),
        Condition(
            "irradiance_w_m2",
            "Light on a level window",
            "watt/meter**2",
            800,
            80,
            0,
            1400,
            "a clear noon in summer is about 900",
            actual=True,
        ),
        Condition(
            "sun_deg",
            "Sun above the horizon",
            "degree",
            50,
            8,
            5,
            90,
            when=("heat_source", "sun"),
            actual=True,
        ),
        Condition(
            "sky", "Sky", "dimensionless", 0, 0.5, 0, 3, when=("heat_source", "sun"), actual=True, words=SKIES
        ),
        Condition(
            "lamp_m", "Lamp above the window", "centimeter", 30, 1, 10, 150, when=("heat_source", "lamp")
        ),
    ),
    criteria=(
        Condition("level_c", "Level to reach", "degC", 50, 0, 25, 150),
        Condition("fall_k", "Held until it has fallen by", "delta_degC", 10, 0, 1, 60),
        Condition("lost_min", "Loss is read after", "minute", 10, 0, 1, 120),
    ),
    places=(
        Place("window", "Window", "lets light in, keeps air in", ("cling_film", "acetate", "bubble_wrap")),
        Place("absorber", "Dark lining", "turns light into heat", ("black_paper", "foil", "newspaper")),
        Place("wall", "Walls", "keep heat in", ("newspaper", "straw", "felt", "bubble_wrap")),
        Place("floor", "Floor", "keeps heat in", ("newspaper", "straw", "felt", "cardboard")),
        Place("reflector", "Reflector", "throws more light in", ("foil", "black_paper")),
        Place("seal", "Seal", "closes the joints", ("tape",)),
    ),
    factors=(
        Factor("height_m", "Inner height", "centimeter", 12, 6, 30, 1),
        Factor("gap_m", "Gap in the walls", "centimeter", 4, 1, 8, 0.5),
        Factor("reflector_m", "Reflector length", "centimeter", 30, 10, 45, 1),
        Factor("reflector_deg", "Reflector angle", "degree", 110, 60, 170, 5),
    ),
    materials=(
        ("newspaper", 8),
        ("cardboard", 4),
        ("foil", 3),
        ("cling_film", 2),
        ("bubble_wrap", 2),
        ("black_paper", 4),
        ("felt", 3),
        ("straw", 10),
        ("tape", 6),
    ),
    schools=(
        raw("Hottest wins", "The highest temperature counts, nothing else.", Term("peak", "degC")),
        thrift("The highest temperature minus one for every unit used.", Term("peak", "degC")),
        green(
            "Rise plus minutes held minus impact points.", Term("rise", "delta_degC"), Term("held", "minute")
        ),
        race("The fewest minutes to the level.", Term("to_level", "minute")),
        passed_then("Ten for reaching the level, then one for every minute held.", Term("held", "minute")),
        progress(Term("peak", "degC")),
    ),
    capped_by={"held": "cooling"},
    cautions=(
        Caution(
            "Never look at the sun or at its reflection; aim reflectors away from people.",
            when=("heat_source", "sun"),
        ),
        Caution(
            "Shade eyes and use sun cream; the ground and metal parts get hot.", when=("heat_source", "sun")
        ),
        Caution(
            "The lamp is hot: keep paper away, mind the cord, never leave it alone.",
            adult=True,
            when=("heat_source", "lamp"),
        ),
        Caution("Hot air, mug and window when a box is opened: gloves, face to the side.", adult=True),
        Caution("Knives and hot glue: an adult cuts, or stands beside; mat and metal ruler.", adult=True),
        Caution("Food from a low-temperature oven may not be safe to eat; taste nothing raw."),
    ),
    observations=(
        Observation("leak", "Air slips out at a joint", "Where is the warm air going?"),
        Observation(
            "fog", "The window fogs", "Where does the water come from, and what does it do to the light?"
        ),
        Observation("aim", "The reflector lights the wall", "Where does the bright patch fall?"),
        Observation("bright", "Nothing dark inside", "Where does light turn into heat?"),
        Observation("opened", "The door was opened to read", "What left when the door opened?"),
        Observation("cloud", "A cloud passed", "What does the curve show at that moment?"),
        Observation("sag", "The window sags", "How thick is the still air now?"),
    ),
    defaults={
        "6-8": BriefDefault(
            "The lighthouse has no power. Can a box warm the keeper's supper with light alone?",
            "The mug gets warm.",
            "raw",
            limits=1.0,
            marks=2.0,
        ),
        "9-12": BriefDefault(
            "The generator is off for a week. Build a box that warms the keeper's mug of water "
            "with light alone, and keeps it warm when the light goes.",
            "The hottest mug, made with the fewest units.",
            "thrift",
        ),
        "13-16": BriefDefault(
            "With the generator down, the relief crew must heat water by light alone. Design "
            "a collector that reaches the level soonest, holds it longest and spends least.",
            "Rise and holding, less what it costs the island.",
            "green",
            limits=0.75,
        ),
    },
    efficiency="efficiency",
    prediction="peak",
    level="level_c",
    fit=fit,
    hints=oven_hints,
    draw=draw_oven,
    course=course,
    simulate=simulate,
    correct=correct,
    bench=Bench(
        set_up_s=420,
        read_s=10,
        kit=(
            Need("Cardboard box with lid flap", 1, spare=0),
            Need("Mug, all alike", 1),
            Need("Water, 150 g", 1, spare=0),
            Need("Thermometer", 1),
            Need("Kitchen scale", 1, "class", 0),
            Need("Stopwatch", 1, "class", 0),
            Need("Gloves", 2, "class", 0),
        ),
        checks=(
            RigCheck(
                "agree",
                "The thermometers read the same in one glass of water.",
                "degC",
                ("each thermometer",),
                1.0,
            ),
            RigCheck("probe", "Every probe is in the mug and stays there until the end."),
            RigCheck(
                "lamps",
                "All lamps hang equally high above the windows.",
                "centimeter",
                ("lowest", "highest"),
                1.0,
                when=("heat_source", "lamp"),
            ),
            RigCheck(
                "shade", "No shadow will reach the place before the last mark.", when=("heat_source", "sun")
            ),
        ),
        techniques=(
            "Stretch film over a window without a crease: tape opposite sides first.",
            "Aim a reflector by its bright patch, standing beside it.",
        ),
        waiting=("Draw the ways by which heat leaves your box.", "Predict the next reading of your box."),
    ),
)
