"""What follows from the readings of a sail run, and how that is looked at."""

from __future__ import annotations

from collections.abc import Sequence
from math import sqrt

from thermion.core.kinds.analysis import Analysis, Metric
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


ANALYSIS = Analysis(
    metrics=(
        Metric("distance", "Distance", "centimeter", "higher", 0, reads="stop_m"),
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
    prediction="distance",
    fit=fit,
    repeats=each_attempt,
    compares="share",
)


VIEWS = Views(pictures=(Picture("stops", "Every attempt", "attempts", read="stop_m"),))
