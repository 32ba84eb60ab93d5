"""Wind lift: a rotor winds a string and lifts a cup; attempts with rising load at one station."""

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
    Cut,
    Factor,
    Fitted,
    Kind,
    Metric,
    Observation,
    Picture,
    Place,
    Reads,
    RigCheck,
    Trial,
)
from thermion.core.kinds.rotor_body import draw_rotor, grip, rotor_hints, rotor_model, rotor_radius
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
from thermion.core.physics.lift import (
    G_M_S2,
    Lift,
    best_tried,
    betz_share,
    lift_power,
    lift_power_figure,
    lift_work,
    load_mass,
    next_load,
    power_coefficient,
    tip_speed_ratio,
    turns,
    wind_power,
)
from thermion.core.planning.kit import Need
from thermion.core.plans import Plan
from thermion.core.sim import simulate_lift, torque_curve
from thermion.core.values import Figure

RISE_STEP_M, TIME_STEP_S = 0.005, 0.2  # a ruler behind the string; a stopwatch in the hand
LADDER = ("loads", "ladder")
FULL = 0.98  # share of the string from which a lift counts as all the way


def _mass(attempt: Attempt, rig: Mapping[str, float]) -> float:
    return load_mass(attempt.values["load"], rig.get("unit_kg", 0.008), rig.get("cup_kg", 0.006))


def _lift(attempt: Attempt, rig: Mapping[str, float]) -> Lift:
    rise = attempt.values.get("rise_m", 0.0)
    full = rise >= FULL * rig.get("height_m", 0.6)
    return Lift(_mass(attempt, rig), rise, attempt.values.get("time_s"), full)


def fit(trials: Sequence[Trial]) -> list[Fitted]:
    """Most carried, best power and what follows from it, of each trial's fair attempts."""
    return [Fitted(_figures(trial), {}) for trial in trials]


def _figures(trial: Trial) -> dict[str, Figure]:
    rig, figures = trial.conditions, trial.counts()
    attempts = trial.fair()
    if not attempts:
        if trial.attempts:
            only = Figure(reason="only hand-held attempts, which are not compared")
            figures |= dict.fromkeys(("load", "carried_kg", "power"), only)
        return figures
    lifts = [_lift(a, rig) for a in attempts]
    loads = [(a.values["load"], x.full) for a, x in zip(attempts, lifts, strict=True)]
    found = next_load(loads, "search", 1.0, 1.0)
    most = max((load for load, full in loads if full), default=0.0)
    notes: tuple[str, ...] = (found.note,) if "disagree" in found.note else ()
    if all(full for _, full in loads):
        notes += ("more load was not tried",)
    load = Figure(most, 1 / sqrt(12.0), notes=notes)
    carried = 0.0 if most == 0 else max(x.mass_kg for x in lifts if x.full)
    unit = rig.get("unit_kg", 0.008)
    figures["load"] = load
    figures["carried_kg"] = Figure(carried, unit / sqrt(12.0), notes=notes)
    figures["work"] = Figure(max(lift_work(x.mass_kg, x.rise_m) for x in lifts))
    figures["time"] = _time_at(attempts, lifts, rig.get("pass_load", 4.0))
    figures["passed"] = passed(load, rig.get("pass_load", 4.0))
    return figures | _power(trial, lifts)


def _time_at(attempts: Sequence[Attempt], lifts: Sequence[Lift], load: float) -> Figure:
    """Shortest time in which the set load went all the way up [s]."""
    times = [
        x.time_s
        for a, x in zip(attempts, lifts, strict=True)
        if a.values["load"] == load and x.full and x.time_s
    ]
    if not times:
        return Figure(reason=f"the set load of {load:g} was not lifted all the way")
    return Figure(min(times), TIME_STEP_S / sqrt(12.0))


def _power(trial: Trial, lifts: Sequence[Lift]) -> dict[str, Figure]:
    rig = trial.conditions
    best, power = best_tried(lifts)
    if best is None or best.time_s is None:
        why = power.reason or "nothing was lifted"
        idle = Figure(reason=why)
        return {"power": power, "cp": idle, "tip_speed": idle}
    full = lift_power_figure(
        best.mass_kg,
        best.rise_m,
        best.time_s,
        se_height_m=RISE_STEP_M / sqrt(12.0),
        se_time_s=TIME_STEP_S / sqrt(12.0),
    )
    radius, wind = rotor_radius(trial.plan), rig.get("wind_m_s", 0.0)
    figures = {"power": Figure(full.value, full.se, notes=power.notes)}
    if wind <= 0:
        idle = Figure(reason="the wind was not measured")
        return figures | {"cp": idle, "tip_speed": idle}
    figures["cp"] = power_coefficient(full, wind_power(wind, radius))
    figures["betz"] = betz_share(figures["cp"])
    turned = turns(best.rise_m, rig.get("spool_m", 0.01), rig.get("string_m", 0.0))
    figures["tip_speed"] = Figure(tip_speed_ratio(turned, best.time_s, radius, wind))
    return figures


def point(attempt: Attempt, conditions: Mapping[str, float]) -> float | None:
    """Power of one attempt [W]; 0 when nothing rose, None when it was not timed."""
    lift = _lift(attempt, conditions)
    if lift.rise_m <= 0:
        return 0.0
    return lift_power(lift.mass_kg, lift.rise_m, lift.time_s) if lift.time_s else None


def simulate(
    plans: Sequence[Plan],
    conditions: Mapping[str, float],
    seed: int,
    choices: Mapping[str, str] | None = None,
) -> list[Trial]:
    """Attempts of each rotor as a class would make them, searching for the limit."""
    rig = {**KIND.default_rig(), **conditions}
    dice = np.random.default_rng(seed)
    return [
        Trial({}, rig, attempts=_search(plan, rig, dice), plan=plan, choices=choices or {}) for plan in plans
    ]


def _search(plan: Plan, rig: Mapping[str, float], dice: np.random.Generator) -> tuple[Attempt, ...]:
    model, wind, height = rotor_model(plan, rig), rig["wind_m_s"], rig["height_m"]
    curve = None if model is None else torque_curve(model, wind)
    out: list[Attempt] = []
    results: list[tuple[float, bool]] = []
    for _ in range(12):
        step = next_load(results, "search", 1.0, 1.0, most=rig["weights"])
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
        results.append((step.load, values["rise_m"] >= FULL * height))
        out.append(Attempt(values, seen))
    return tuple(out)


def suggest(
    attempts: Sequence[Attempt], conditions: Mapping[str, float], choices: Mapping[str, str]
) -> tuple[dict[str, float], str]:
    """The load to try next, on the class's ladder or searching; words give the bracket so far."""
    rig = {**KIND.default_rig(), **conditions}
    results = [(a.values["load"], _lift(a, rig).full) for a in attempts if not a.free]
    if choices.get("loads") == "ladder":
        found = next_load(results, "ladder", rig["step_load"], rig["first_load"], most=rig["weights"])
    else:
        found = next_load(results, "search", 1.0, 1.0, most=rig["weights"])
    lifts = "nothing yet" if found.lifts is None else f"{found.lifts:g}"
    words = f"lifts {lifts}" + ("" if found.fails is None else f", not {found.fails:g}")
    if found.load is None:
        return {"load": found.lifts or 1.0}, f"{words}: {found.note}"
    return {"load": found.load}, f"try {found.load:g} ({words})"


KIND = Kind(
    key="wind_lift",
    label="Wind lift",
    test="turns",
    reads=(
        Reads(
            "load",
            "Load, weights in the cup",
            "dimensionless",
            0,
            200,
            1,
            whole=True,
            limit="weights",
            things=("weight", "weights"),
        ),
        Reads("rise_m", "Rise", "centimeter", 0, 300, 0.5, scale="string", limit="height_m", zero=True),
        Reads("time_s", "Time", "second", 0, 600, 0.2, optional=True),
    ),
    metrics=(
        Metric("load", "Most carried, weights", "dimensionless", "higher", 0),
        Metric("carried_kg", "Most carried, with cup", "gram", "higher"),
        Metric("power", "Best power tried", "milliwatt", "higher"),
        Metric("time", "Time with the set load", "second", "lower"),
        Metric("work", "Most work done", "joule", "higher", 2),
        Metric("cp", "Share of the wind's power", "percent", "higher", 2),
        Metric("betz", "Share of the Betz limit", "percent", "higher", 1),
        Metric("tip_speed", "Tip speed over wind speed", "dimensionless", "none", 2),
        passing("Lifted the set load"),
        UNITS,
        IMPACT,
    ),
    headline=("load", "power", "time", "cp", "units", "impact"),
    choices=(
        Choice(
            "loads",
            "Loads to try",
            (("search", "Search for the limit"), ("ladder", "The same ladder for all")),
        ),
    ),
    conditions=(
        Condition("first_load", "First load of the ladder", "dimensionless", 1, 0, 1, 200, when=LADDER),
        Condition("step_load", "Step of the ladder, weights", "dimensionless", 2, 0, 1, 50, when=LADDER),
        Condition("wind_m_s", "Wind at the hub", "meter/second", 4.0, 0.3, 0.5, 12, actual=True),
        Condition("fan_m", "Fan to rotor", "centimeter", 100, 5, 10, 400),
        Condition(
            "hub_m", "Hub above the bench", "centimeter", 40, 2, 5, 200, "level with the middle of the fan"
        ),
        Condition("unit_kg", "One weight", "gram", 8.0, 0.2, 0.2, 500),
        Condition("cup_kg", "Cup and string", "gram", 6.0, 1.0, 0, 500),
        Condition("height_m", "String to wind up", "centimeter", 60, 1, 10, 300),
        Condition("spool_m", "Spool, across", "millimeter", 10, 0.5, 2, 100),
        Condition("string_m", "String, thickness", "millimeter", 1, 0.5, 0, 10),
        Condition("weights", "Weights there are", "dimensionless", 24, 0, 1, 200),
    ),
    criteria=(Condition("pass_load", "Load to pass and to race with", "dimensionless", 4, 0, 1, 200),),
    places=(
        Place(
            "blade",
            "Blades",
            "turn the wind aside",
            ("card", "copy_paper", "bottle_plastic", "balsa", "foam_plate"),
        ),
        Place("spar", "Stiffening", "keeps blades from bending", ("craft_stick", "balsa")),
        Place("hub", "Hub", "holds the blades at their angle", ("cork", "clay", "cardboard")),
        Place("fix", "Fixing", "makes the shaft turn with the hub", ("tape", "clay")),
    ),
    factors=(
        Factor("blades", "Blades", "dimensionless", 4, 2, 12, 1),
        Factor("length_m", "Blade length", "centimeter", 12, 4, 25, 1),
        Factor("chord_m", "Blade width", "centimeter", 4, 1, 12, 0.5),
        Factor("tip_share", "Tip width, of the root's", "percent", 100, 20, 160, 10),
        Factor("pitch_deg", "Pitch", "degree", 30, 0, 80, 5),
        Factor("opposed", "Blades folded the other way", "dimensionless", 0, 0, 6, 1),
    ),
    materials=(
        ("card", 3),
        ("copy_paper", 4),
        ("foam_plate", 2),
        ("bottle_plastic", 3),
        ("balsa", 4),
        ("craft_stick", 8),
        ("cork", 1),
        ("clay", 1),
        ("cardboard", 1),
        ("tape", 4),
    ),
    schools=(
        raw("Most carried", "The most weights lifted all the way count.", Term("load", "dimensionless")),
        thrift("The most weights lifted, minus one for every unit used.", Term("load", "dimensionless")),
        green(
            "Most weights lifted and power in milliwatts, minus impact points.",
            Term("load", "dimensionless"),
            Term("power", "milliwatt", 0.5),
        ),
        race("The shortest time with the set load.", Term("time", "second")),
        passed_then(
            "Ten for lifting the set load, then one for every weight lifted and one for "
            "every ten milliwatts.",
            Term("load", "dimensionless"),
            Term("power", "milliwatt", 1.0, 10.0),
        ),
        progress(Term("load", "dimensionless")),
    ),
    observations=(
        Observation("string", "String slid off the spool", "What would keep the string in place?"),
        Observation(
            "slipped", "Hub slipped on the shaft", "What turned, the rotor or the shaft? Watch both."
        ),
        Observation("jammed", "Shaft jammed", "Where does the shaft touch, and how hard?"),
        Observation(
            "opposed",
            "Blades work against each other",
            "Which way would each blade turn it if it were alone?",
        ),
        Observation("limp", "Blades bent back", "What does the wind do to the blade's angle?"),
        Observation("stalled", "Started, then stopped", "What grew while it was turning?"),
        Observation("wobble", "It wobbles", "Are the blades equally heavy and equally spaced?"),
        Observation("beside", "The wind went past", "Where is the fan's wind strongest?"),
    ),
    cautions=(
        Caution(
            "Eye protection on while the rotor turns; stand to its side, tips covered, hair tied back.",
            adult=True,
        ),
        Caution("Fan: guard on, cord out of the way, never near water; intake free."),
        Caution("Power off before anyone touches the rig."),
        Caution("Knives and hot glue: an adult cuts, or stands beside; mat and metal ruler.", adult=True),
        Caution("Dowel ends are covered; keep feet away from under the load."),
    ),
    defaults={
        "6-8": BriefDefault(
            "The relief boat has brought stores, and the crane has no motor. Can the wind lift a "
            "cup for you?",
            "The cup goes up.",
            "progress",
            attempts=2,
        ),
        "9-12": BriefDefault(
            "Stores lie on the jetty and the generator is off. Build a rotor that winds up the "
            "string and lifts as many steel washers as it can.",
            "The most washers lifted to the top.",
            "raw",
        ),
        "13-16": BriefDefault(
            "With the generator down, the jetty crane must run on wind. Design a rotor, find its "
            "limit, and say how much of the wind's power it takes.",
            "Load and power, less what it costs the island.",
            "green",
            limits=0.75,
            attempts=4,
        ),
    },
    prediction="load",
    suggest=suggest,
    pictures=(
        Picture("power", "Power against load", "points", read="load", metrics=("power",)),
        Picture("loads", "Every attempt", "strips", read="load"),
    ),
    efficiency="cp",
    point=point,
    fit=fit,
    hints=rotor_hints,
    draw=draw_rotor,
    simulate=simulate,
    bench=Bench(
        fit_s=40,
        run_s=40,
        reset_s=30,
        kit=(
            Need("Dowel for the shaft, 30 cm", 1),
            Need("Straw or tube as bearing", 2),
            Need("Spool", 1),
            Need("String, 90 cm", 1),
            Need("Cup with handle", 1),
            Need("Fan with guard", 1, "class", 0),
            Need("Clamp stand", 2, "class", 0),
            Need("Stopwatch", 1, "class", 0),
            Need("Ruler, 1 m", 1, "class", 0),
            Need("Washers of 8.0 g", 24, "class"),
            Need("Eye protection", 1, "learner", 0.0),
        ),
        cuts=(Cut("Dowel", 0.30, 0.90), Cut("String", 0.90, 10.0)),
        checks=(
            RigCheck(
                "level",
                "The hub stands level with the middle of the fan.",
                "centimeter",
                ("hub", "middle of the fan"),
                1.0,
            ),
            RigCheck("room", "The cup hangs clear of the floor and of the bench."),
            RigCheck("turns", "The bare shaft turns freely and stops slowly."),
            RigCheck(
                "wind", "The wind at the hub is the same twice.", "meter/second", ("first", "again"), 0.3
            ),
            RigCheck("weights", "Ten weights weigh ten times one.", "gram", ("ten", "ten times one"), 1.0),
        ),
        techniques=(
            "Fix a hub so that it does not slip: push, tape, pull the tape tight.",
            "Wind the string from the middle of the spool, in one direction.",
            "Set all blades to one angle with a folded paper gauge.",
        ),
        waiting=(
            "Predict the limit of the team now at the station.",
            "Turn the rotor by hand: which blades push the same way?",
            "Draw where the air goes after a blade.",
        ),
    ),
)
