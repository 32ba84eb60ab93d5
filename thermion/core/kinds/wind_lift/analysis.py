"""What follows from the readings of a wind lift, and how that is looked at."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from math import sqrt

from thermion.core.kinds.analysis import Analysis, Metric
from thermion.core.kinds.schools import IMPACT, UNITS, passed, passing
from thermion.core.kinds.trials import Attempt, Fitted, Trial
from thermion.core.kinds.views import Picture, Views
from thermion.core.kinds.wind_lift.body import rotor_radius
from thermion.core.physics.lift import (
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
from thermion.core.values import Figure

RISE_STEP_M, TIME_STEP_S = 0.005, 0.2  # a ruler behind the string; a stopwatch in the hand


FULL = 0.98  # share of the string from which a lift counts as all the way


def _mass(attempt: Attempt, rig: Mapping[str, float]) -> float:
    return load_mass(attempt.values["load"], rig.get("unit_kg", 0.008), rig.get("cup_kg", 0.006))


def lift_of(attempt: Attempt, rig: Mapping[str, float]) -> Lift:
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
    lifts = [lift_of(a, rig) for a in attempts]
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
    lift = lift_of(attempt, conditions)
    if lift.rise_m <= 0:
        return 0.0
    return lift_power(lift.mass_kg, lift.rise_m, lift.time_s) if lift.time_s else None


ANALYSIS = Analysis(
    metrics=(
        Metric("load", "Most carried, weights", "dimensionless", "higher", 0, reads="load"),
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
    prediction="load",
    fit=fit,
    compares="cp",
)


VIEWS = Views(
    pictures=(
        Picture("power", "Power against load", "points", read="load", metrics=("power",)),
        Picture("loads", "Every attempt", "attempts", read="load"),
    ),
    point=point,
)
