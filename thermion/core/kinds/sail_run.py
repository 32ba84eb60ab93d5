"""Sail run: a trolley with a sail on a track before a fan; where it stopped, how fast."""

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
    each_attempt,
)
from thermion.core.kinds.sail_body import draw_sail, rolling_mass, sail_area, sail_hints, sail_model
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
from thermion.core.physics.sail import (
    GIVE,
    distance,
    net_thrust,
    start_acceleration,
    thrust_coefficient,
    thrust_per_area,
)
from thermion.core.planning.kit import Need
from thermion.core.plans import Plan
from thermion.core.sim import simulate_sails
from thermion.core.values import Figure

STOP_STEP_M, TIME_STEP_S = 0.01, 0.2


def fit(trials: Sequence[Trial]) -> list[Fitted]:
    """Distance, share of the track, speed and force from each trial's fair attempts."""
    return [Fitted(_figures(trial), {}) for trial in trials]


def _chosen(attempts: Sequence[Attempt], counts: str) -> tuple[float, Attempt]:
    """The stop that counts [m] and the attempt nearest to it: the best, or the median."""
    by_stop = sorted(attempts, key=lambda a: a.values["stop_m"])
    stops = [a.values["stop_m"] for a in by_stop]
    stop = float(np.median(stops)) if counts == "median" else stops[-1]
    quickest = sorted(
        attempts, key=lambda a: (abs(a.values["stop_m"] - stop), a.values.get("time_s") or float("inf"))
    )
    return stop, quickest[0]


def _figures(trial: Trial) -> dict[str, Figure]:
    figures, attempts = trial.counts(), trial.fair()
    if not attempts:
        if trial.attempts:
            only = Figure(reason="only hand-held attempts, which are not compared")
            figures |= dict.fromkeys(("distance", "share", "speed"), only)
        return figures
    track = trial.conditions.get("track_m", 2.4)
    stop, attempt = _chosen(attempts, trial.choices.get("counts", "best"))
    stops = [a.values["stop_m"] for a in attempts]
    spread = float(np.std(stops, ddof=1) / sqrt(len(stops))) if len(stops) > 1 else 0.0
    far = distance(stop, track, resolution=STOP_STEP_M)
    if far.value is not None:
        far = Figure(far.value, max(far.se or 0.0, spread))
    share = 1.0 if far.value is None else far.value / track
    figures |= {
        "distance": far,
        "share": Figure(share, 0.0 if far.value is None else (far.se or 0.0) / track),
        "passed": passed(far, trial.conditions.get("pass_m", 0.6)),
    }
    if "give" in attempt.values:
        figures["give"] = Figure(attempt.values["give"], 0.0)
    return figures | _pace(trial, attempt, stop, stop >= track * (1 - 1e-9))


def _pace(trial: Trial, attempt: Attempt, stop: float, at_end: bool) -> dict[str, Figure]:
    seconds = attempt.values.get("time_s")
    if stop == 0:
        still = Figure(0.0, 0.0, notes=("it did not move",))
        return {"speed": still, "end_pace": still}
    if not seconds:
        return {"speed": Figure(reason="the run was not timed")}
    speed = stop / seconds
    se = speed * sqrt((TIME_STEP_S / seconds) ** 2 + (STOP_STEP_M / stop) ** 2) / sqrt(12.0)
    figures = {
        "speed": Figure(speed, se),
        "end_pace": Figure(speed if at_end else 0.0, se if at_end else 0.0),
        "time_end": Figure(seconds, TIME_STEP_S / sqrt(12.0))
        if at_end
        else Figure(reason="the end of the track was not reached"),
    }
    if not at_end:  # it slowed down and stopped, so a = 2d/t² does not hold
        why = Figure(reason="it slowed down before it stopped: the force needs a run to the end")
        return figures | {"thrust": why, "coefficient": why}
    mass = rolling_mass(trial.plan, trial.conditions)
    thrust = net_thrust(mass, start_acceleration(stop, seconds))
    figures["thrust"] = Figure(thrust, thrust * 2 * TIME_STEP_S / seconds / sqrt(12.0))
    area, wind = sail_area(trial.plan), trial.conditions.get("wind_m_s", 0.0)
    if area > 0:
        figures["pressure"] = Figure(thrust_per_area(thrust, area))
        if wind > 0:
            figures["coefficient"] = Figure(thrust_coefficient(thrust, wind, area))
    return figures


def simulate(
    plans: Sequence[Plan],
    conditions: Mapping[str, float],
    seed: int,
    choices: Mapping[str, str] | None = None,
) -> list[Trial]:
    """Three attempts of each sail: wind that wavers by a few percent, ruler and stopwatch."""
    rig = {**KIND.default_rig(), **conditions}
    dice = np.random.default_rng(seed)
    models = [sail_model(plan, rig) for plan in plans]
    there = [m for m in models if m is not None]
    tries: list[list[Attempt]] = [[] for _ in plans]
    for _ in range(3):
        wind = rig["wind_m_s"] * (1 + dice.normal(0, 0.03))
        runs = iter(
            simulate_sails(there, wind, rig["track_m"], hub_m=rig["hub_m"], fan_gap_m=rig["fan_m"])
            if there
            else []
        )
        for k, model in enumerate(models):
            if model is None:
                tries[k].append(Attempt({"stop_m": 0.0}))
                continue
            run = next(runs)
            stop = rig["track_m"] if run.at_end else run.stop_m + dice.normal(0, 0.005)
            stop = min(max(round(stop / STOP_STEP_M) * STOP_STEP_M, 0.0), rig["track_m"])
            values = {"stop_m": stop, "give": float(run.give)}
            if run.time_s is not None and stop > 0:
                values["time_s"] = max(round(run.time_s + dice.normal(0, 0.1), 1), 0.2)
            tries[k].append(Attempt(values, ("collapsed",) if run.give == 0 else ()))
    return [
        Trial({}, rig, attempts=tuple(a), plan=p, choices=choices or {})
        for p, a in zip(plans, tries, strict=True)
    ]


KIND = Kind(
    key="sail_run",
    label="Sail run",
    test="turns",
    reads=(
        Reads(
            "stop_m", "Where it stopped", "centimeter", 0, 2000, 1, scale="track", limit="track_m", zero=True
        ),
        Reads("time_s", "Time", "second", 0, 300, 0.2, optional=True),
        Reads("give", "How the sail stood", "dimensionless", 0, 2, 1, words=GIVE, whole=True, optional=True),
    ),
    metrics=(
        Metric("distance", "Distance", "centimeter", "higher", 0),
        Metric("share", "Share of the track", "percent", "higher", 0),
        Metric("speed", "Mean speed", "centimeter/second", "higher"),
        Metric("time_end", "Time to the end stop", "second", "lower"),
        Metric("end_pace", "Pace at the end stop", "centimeter/second", "higher"),
        Metric("thrust", "Net thrust", "millinewton", "higher"),
        Metric("pressure", "Thrust for each area of sail", "newton/meter**2", "higher", 2),
        Metric("coefficient", "Thrust coefficient", "dimensionless", "higher", 2),
        Metric("give", "How the sail stood, 0 to 2", "dimensionless", "higher", 0),
        passing("Crossed the line"),
        UNITS,
        IMPACT,
    ),
    headline=("distance", "speed", "time_end", "thrust", "units", "impact"),
    choices=(
        Choice("counts", "Of several attempts counts", (("best", "the best"), ("median", "the median"))),
    ),
    conditions=(
        Condition("wind_m_s", "Wind at the start line", "meter/second", 4.0, 0.3, 0.5, 12, actual=True),
        Condition("fan_m", "Fan to the start line", "centimeter", 40, 2, 5, 300),
        Condition("hub_m", "Middle of the fan above the track", "centimeter", 15, 2, 0, 150),
        Condition("track_m", "Track", "centimeter", 240, 1, 50, 2000),
        Condition("trolley_kg", "Trolley without sail", "gram", 150, 5, 10, 5000),
    ),
    criteria=(Condition("pass_m", "Line to cross", "centimeter", 60, 0, 10, 2000),),
    places=(
        Place(
            "sail",
            "Sail",
            "takes the push of the wind",
            ("copy_paper", "card", "plastic_bag", "cotton", "nylon", "foam_plate"),
        ),
        Place("mast", "Mast", "keeps the sail up", ("craft_stick", "balsa")),
        Place("stay", "Stays", "keep the mast from leaning", ("tape",)),
    ),
    factors=(
        Factor("width_m", "Sail width", "centimeter", 18, 4, 40, 1),
        Factor("height_m", "Sail height", "centimeter", 18, 4, 40, 1),
        Factor("belly", "Belly, of the width", "percent", 10, 0, 60, 5),
        Factor("rake_deg", "Rake, leaning away from the wind", "degree", 0, -30, 60, 5),
        Factor("low_m", "Lower edge above the deck", "centimeter", 4, 0, 30, 1),
        Factor("turned_deg", "Turned off the wind", "degree", 0, -80, 80, 5),
    ),
    materials=(
        ("copy_paper", 3),
        ("card", 2),
        ("plastic_bag", 1),
        ("cotton", 1),
        ("nylon", 1),
        ("foil", 1),
        ("foam_plate", 1),
        ("craft_stick", 6),
        ("balsa", 2),
        ("tape", 4),
    ),
    schools=(
        raw(
            "Furthest",
            "The share of the track, and for those at the end stop their pace too.",
            Term("share", "percent"),
            Term("end_pace", "centimeter/second"),
        ),
        thrift("The share of the track minus one for every unit used.", Term("share", "percent")),
        green("The share of the track minus impact points.", Term("share", "percent")),
        race("The shortest time to the end stop.", Term("time_end", "second")),
        passed_then(
            "Ten for crossing the line, then one for every ten percent of the track.",
            Term("share", "percent", 1.0, 10.0),
        ),
        progress(Term("share", "percent")),
    ),
    observations=(
        Observation("collapsed", "The sail folded up", "Which part gave first?"),
        Observation("leaned", "The mast leaned", "What could hold it from the other side?"),
        Observation("flapped", "The sail flapped", "Where does the air leave the sail?"),
        Observation("toppled", "It toppled", "Where is the push, and where are the wheels?"),
        Observation(
            "under",
            "The wind passed above or below",
            "How high is the middle of the fan, and how high the sail?",
        ),
        Observation("turned", "It turned off course", "Is the push in the middle of the trolley?"),
        Observation("stuck", "It stuck on the track", "What touched what?"),
        Observation("people", "Someone stood in the wind", "What does a body do to the wind?"),
    ),
    cautions=(
        Caution("Fan: guard on, cord out of the way, never near water; intake free."),
        Caution("Stand behind the line: nobody beside the track while it runs.", adult=True),
        Caution("Scissors and hot glue: an adult helps, or stands beside.", adult=True),
        Caution("Power off before anyone touches the rig."),
    ),
    defaults={
        "6-8": BriefDefault(
            "The causeway is flooded and the mail trolley has only the wind. Which sail takes it across?",
            "The trolley goes further than before.",
            "progress",
            attempts=2,
        ),
        "9-12": BriefDefault(
            "Cross the causeway: fit the mail trolley with a sail that takes it as far along the "
            "rail as the wind will.",
            "The furthest along the rail.",
            "raw",
        ),
        "13-16": BriefDefault(
            "The causeway trolley must cross on wind alone. Design the sail, measure its thrust, "
            "and weigh it against what it costs the island.",
            "Share of the track, less impact.",
            "green",
            limits=0.75,
        ),
    },
    prediction="distance",
    pictures=(Picture("stops", "Every attempt", "strips", read="stop_m"),),
    efficiency="share",
    fit=fit,
    hints=sail_hints,
    draw=draw_sail,
    simulate=simulate,
    repeats=each_attempt,
    bench=Bench(
        fit_s=30,
        run_s=30,
        reset_s=30,
        kit=(
            Need("Trolley", 1, "class", 0.5),
            Need("Rail or line for the track", 2, "class", 0),
            Need("Fan with guard", 1, "class", 0),
            Need("Tape measure", 1, "class", 0),
            Need("Stopwatch", 1, "class", 0),
            Need("Mast, 30 cm dowel", 1),
        ),
        cuts=(Cut("Mast dowel", 0.30, 0.90),),
        checks=(
            RigCheck(
                "apart", "The rails are equally far apart at both ends.", "millimeter", ("start", "end"), 2.0
            ),
            RigCheck("level", "The rails are level.", "millimeter", ("start", "end"), 3.0),
            RigCheck("rolls", "The bare trolley rolls the whole track when pushed."),
            RigCheck(
                "wind",
                "The wind at the start line is the same twice.",
                "meter/second",
                ("first", "again"),
                0.3,
            ),
            RigCheck("clear", "Nobody and nothing stands beside the track."),
        ),
        techniques=(
            "Roll a paper tube tightly and tape it along its whole length.",
            "Fix a mast so that it does not turn: a foot, and a stay on each side.",
        ),
        waiting=(
            "Mark on your drawing where the wind will leave your sail.",
            "Predict where the next trolley will stop.",
            "Hold your sail in front of you and walk: which way does it give?",
        ),
    ),
)
