"""What follows from the readings of a sail run, and how that is looked at."""

from __future__ import annotations

from collections.abc import Sequence
from math import sqrt

from thermion.core.kinds.analysis import Analysis, Metric, Varies
from thermion.core.kinds.sail_run.body import rolling_mass, sail_area
from thermion.core.kinds.schools import IMPACT, UNITS, passed, passing
from thermion.core.kinds.trials import Attempt, Fitted, Trial, each_attempt
from thermion.core.kinds.views import Picture, Views
from thermion.core.lazy import numpy as np
from thermion.core.physics.sail import (
    distance,
    net_thrust,
    start_acceleration,
    thrust_coefficient,
    thrust_per_area,
)
from thermion.core.reasons import Why
from thermion.core.values import Figure, Source, measured, scaled

STOP_STEP_M, HAND_S = 0.01, 0.2  # a rule beside the track; a stopwatch in the hand
WIND_M_S, TROLLEY_KG = 0.15, 0.002  # standard uncertainties of the wind read, and of what rolls


def fit(trials: Sequence[Trial]) -> list[Fitted]:
    """Distance, share of the track, speed and force from each trial's fair attempts."""
    return [Fitted(_figures(trial), {}) for trial in trials]


def _chosen(attempts: Sequence[Attempt], counts: str) -> tuple[float, Attempt]:
    """The stop that counts [m] and the attempt nearest to it: the best, the median or the last."""
    if counts == "last":
        return attempts[-1].values["stop_m"], attempts[-1]
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
            only = Figure(reason=Why.HELD_BY_HAND)
            figures |= dict.fromkeys(("distance", "share", "speed"), only)
        return figures
    track = trial.conditions.get("track_m", 2.4)
    stop, attempt = _chosen(attempts, trial.choices.get("counts", "best"))
    far = distance(stop, track)
    if far.value is not None:
        far = measured(stop, _where(trial, 1.0))
    share = 1.0 if far.value is None else far.value / track
    figures |= {
        "distance": far,
        "share": measured(share, () if far.value is None else _where(trial, 1.0 / track)),
        "passed": passed(far, trial.conditions.get("pass_m", 0.6)),
    }
    if "give" in attempt.values:
        figures["give"] = Figure(value=attempt.values["give"], se=0.0)
    return figures | _pace(trial, attempt, stop, stop >= track * (1 - 1e-9))


def _where(trial: Trial, by: float) -> tuple[Source, Source]:
    """What reading where it stopped leaves open, a metre acting `by` times."""
    step = trial.step("rule", STOP_STEP_M)
    return (
        Source("reading where it stopped", 0.5 * step * by, "try"),
        Source("the rule's step", step / sqrt(12.0) * by, "step"),
    )


def _pace(trial: Trial, attempt: Attempt, stop: float, at_end: bool) -> dict[str, Figure]:
    seconds = attempt.values.get("time_s")
    if stop == 0:
        still = Figure(value=0.0, se=0.0, notes=(Why.DID_NOT_MOVE,))
        return {"speed": still, "end_pace": still}
    if not seconds:
        return {"speed": Figure(reason=Why.RUN_NOT_TIMED)}
    hand = trial.off("stopwatch", HAND_S)
    speed = stop / seconds
    timed = Source("the stopwatch", -speed * hand / seconds, "try")
    pace = measured(speed, (timed, *(() if at_end else _where(trial, 1.0 / seconds))))
    why = Figure(reason=Why.TRACK_END_NOT_REACHED)
    figures = {
        "speed": pace,
        "end_pace": pace if at_end else Figure(value=0.0, se=0.0),
        "time_end": measured(seconds, (Source("the stopwatch", hand, "try"),)) if at_end else why,
    }
    return figures | _forces(trial, stop, seconds, hand, at_end)


def _forces(trial: Trial, stop: float, seconds: float, hand: float, at_end: bool) -> dict[str, Figure]:
    """Net thrust of a run to the end as if it sped up evenly, for each area of sail, and against the
    wind's pressure."""
    if not at_end:  # it slowed down and stopped, so a = 2d/t² does not hold
        why = Figure(reason=Why.SLOWED_DOWN)
        return {"thrust": why, "coefficient": why}
    mass = rolling_mass(trial.plan, trial.conditions)
    force = net_thrust(mass, start_acceleration(stop, seconds))
    thrust = measured(
        force,
        (
            Source("the stopwatch", -2 * force * hand / seconds, "try"),
            Source("what rolls, weighed", force * trial.u("trolley_kg", TROLLEY_KG) / mass, "all"),
        ),
    )
    figures = {"thrust": thrust}
    area, wind = sail_area(trial.plan), trial.conditions.get("wind_m_s", 0.0)
    if area > 0:
        figures["pressure"] = scaled(thrust, thrust_per_area(force, area) / force) if force else thrust
        if wind > 0 and force:
            drag = thrust_coefficient(force, wind, area)
            by_wind = Source("the wind speed", -2 * drag * trial.u("wind_m_s", WIND_M_S) / wind, "run")
            figures["coefficient"] = measured(drag, (*scaled(thrust, drag / force).parts, by_wind))
    return figures


RULE = "a centimetre of reading where it stopped, over a try's twelfth"
HAND = "two tenths of a second of a stopwatch, over a try's sixteenth"

ANALYSIS = Analysis(
    metrics=(
        Metric(
            key="distance",
            label="Distance",
            means=(
                "Where it stopped on the track, from the start: the best, the middle or the last of its "
                "attempts, as the brief says. At the end stop only a least value."
            ),
            unit="centimeter",
            better="higher",
            digits=0,
            reads="stop_m",
            varies=Varies(above=12.0, why=RULE, ends=(0.0, "track_m"), share=0.08),
        ),
        Metric(
            key="share",
            label="Share of the track",
            means="Distance over the length of the track, 1 at the end stop.",
            unit="percent",
            better="higher",
            digits=0,
            varies=Varies(above=5.0, why=RULE, ends=(0.0, 100.0), share=0.08),
        ),
        Metric(
            key="speed",
            label="Mean speed",
            means="Distance over time of the attempt that counts.",
            unit="centimeter/second",
            better="higher",
            varies=Varies(above=5.0, why=HAND, ends=(0.0,)),
        ),
        Metric(
            key="time_end",
            label="Time to the end stop",
            means="Time to the end stop.",
            unit="second",
            better="lower",
            varies=Varies(above=3.0, why=HAND),
        ),
        Metric(
            key="end_pace",
            label="Pace at the end stop",
            means="Length of the track over the time to the end stop; 0 for what did not get there.",
            unit="centimeter/second",
            better="higher",
            varies=Varies(above=10.0, why=HAND, ends=(0.0,)),
        ),
        Metric(
            key="thrust",
            label="Net thrust",
            means="Mass of all that rolls × 2d/t², of a run to the end stop from rest.",
            unit="millinewton",
            better="higher",
            varies=Varies(above=10.0, why=HAND),
        ),
        Metric(
            key="pressure",
            label="Thrust for each area of sail",
            means="Net thrust over the area of the sail.",
            unit="newton/meter**2",
            better="higher",
            digits=2,
            varies=Varies(above=0.5, why=HAND),
        ),
        Metric(
            key="coefficient",
            label="Thrust coefficient",
            means="Net thrust over (half the air's density × wind speed² × area of the sail).",
            unit="dimensionless",
            better="higher",
            digits=2,
            varies=Varies(above=0.1, why=HAND),
        ),
        Metric(
            key="give",
            label="How the sail stood, 0 to 2",
            means=(
                "What was seen of the sail in the attempt that counts: 0 it collapsed, 1 it leaned, 2 it "
                "held."
            ),
            unit="dimensionless",
            better="higher",
            digits=0,
        ),
        passing("Crossed the line"),
        UNITS,
        IMPACT,
    ),
    headline=("distance", "speed", "time_end", "thrust", "units", "impact"),
    prediction="distance",
    fit=fit,
    repeats=each_attempt,
    compares="share",
)


VIEWS = Views(pictures=(Picture(key="stops", label="Every attempt", form="attempts", read="stop_m"),))
