"""What follows from the readings of a wind hoist, and how that is looked at."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace
from math import ceil, floor, sqrt

from thermion.core.kinds.analysis import Analysis, Metric, Varies
from thermion.core.kinds.luck import luck_of
from thermion.core.kinds.schools import IMPACT, UNITS, passed, passing
from thermion.core.kinds.trials import Attempt, Fitted, Trial
from thermion.core.kinds.views import Picture, Views
from thermion.core.kinds.wind_hoist.body import rotor_radius
from thermion.core.kinds.wind_hoist.brief import BRIEF
from thermion.core.physics.lift import (
    Lift,
    NextLoad,
    best_tried,
    betz_share,
    lift_power,
    lift_work,
    load_mass,
    next_load,
    power_coefficient,
    tip_speed_ratio,
    turns,
    wind_power,
)
from thermion.core.reasons import Because, Why, because
from thermion.core.values import Figure, Source, measured

RISE_STEP_M, HAND_S = 0.005, 0.2  # a ruler behind the string; a stopwatch in the hand
WIND_M_S, DENSITY = 0.15, 0.02  # standard uncertainties: of a wind read at the hub; of the air, a share
WEIGHT_KG, CUP_KG, STRING_M, SPOOL_M = 0.0001, 0.0005, 0.006, 0.0003  # of what was weighed and measured


FULL = 0.98  # share of the string from which a lift counts as all the way


def _mass(attempt: Attempt, rig: Mapping[str, float]) -> float:
    return load_mass(attempt.values["load"], rig.get("unit_kg", 0.008), rig.get("cup_kg", 0.006))


def lift_of(attempt: Attempt, rig: Mapping[str, float]) -> Lift:
    rise = attempt.values.get("rise_m", 0.0)
    full = rise >= FULL * rig.get("height_m", 0.6)
    return Lift(_mass(attempt, rig), rise, attempt.values.get("time_s"), full)


def load_after(attempts: Sequence[Attempt], rig: Mapping[str, float], choices: Mapping[str, str]) -> NextLoad:
    """What a team hangs on after these attempts: the ladder's next, or what narrows its limit down.

    A search begins with the load that passes: from one weight on, three attempts end at four, and all that
    work are equal.
    """
    results = [(a.values["load"], lift_of(a, rig).full) for a in attempts if not a.free]
    if choices.get("loads") == "ladder":
        return next_load(results, "ladder", rig["step_load"], rig["first_load"], most=rig["weights"])
    first = max(min(ceil(rig["pass_load"]), floor(rig["weights"])), 1)  # weights are whole
    return next_load(results, "search", 1.0, first, most=rig["weights"])


def fit(trials: Sequence[Trial]) -> list[Fitted]:
    """Most carried, best power and what follows from it, of each trial's fair attempts."""
    return [Fitted(_figures(trial), {}) for trial in trials]


def _figures(trial: Trial) -> dict[str, Figure]:
    rig, figures = trial.conditions, trial.counts()
    attempts = trial.fair()
    if not attempts:
        if trial.attempts:
            only = Figure(reason=Why.HELD_BY_HAND)
            figures |= dict.fromkeys(("load", "carried_kg", "power"), only)
        return figures
    lifts = [lift_of(a, rig) for a in attempts]
    loads = [(a.values["load"], x.full) for a, x in zip(attempts, lifts, strict=True)]
    found = next_load(loads, "search", 1.0, 1.0)
    most = max((load for load, full in loads if full), default=0.0)
    notes: tuple[Because, ...] = (found.note,) if found.note.why is Why.TRIES_DISAGREE else ()
    if all(full for _, full in loads):
        notes += (Why.MORE_LOAD_NOT_TRIED,)
    between = Source("the step between loads", _gap(loads, most) / sqrt(12.0), "step")
    sources = (between, *_not_tried(loads, most, rig))
    on = (
        not trial.ended
        and load_after(attempts, {**BRIEF.default_rig(), **rig}, trial.choices).load is not None
    )
    load = replace(measured(most, sources, notes=notes), partial=on)
    best = max((x for x in lifts if x.full), key=lambda x: x.mass_kg, default=None)
    unit = rig.get("unit_kg", 0.008)
    figures["load"] = load
    figures["carried_kg"] = measured(
        best.mass_kg if best else 0.0, tuple(replace(s, effect=s.effect * unit) for s in sources), notes=notes
    )
    figures["work"] = _work(trial, attempts, lifts)
    figures["time"] = _time_at(trial, attempts, lifts, rig.get("pass_load", 4.0))
    figures["passed"] = passed(load, rig.get("pass_load", 4.0))
    return figures | _power(trial, attempts, lifts)


def _gap(loads: Sequence[tuple[float, bool]], most: float) -> float:
    """Between the most that was lifted and the least above it that was not, in weights; 1 if unknown."""
    above = [load for load, full in loads if not full and load > most]
    return min(above) - most if above else 1.0


def _not_tried(
    loads: Sequence[tuple[float, bool]], most: float, rig: Mapping[str, float]
) -> tuple[Source, ...]:
    """What a build that never failed may carry beyond what it was given: up to all weights there are."""
    more = rig.get("weights", 24.0) - most
    if more <= 0 or not all(full for _, full in loads):
        return ()
    return (Source("more load was not tried", more / sqrt(12.0), "build"),)


def _mass_sources(trial: Trial, attempt: Attempt, by: float) -> list[Source]:
    """What one kilogram acts `by` times on: weights and cup as they were weighed."""
    return [
        Source("the weights", by * attempt.values["load"] * trial.u("unit_kg", WEIGHT_KG), "all"),
        Source("the cup", by * trial.u("cup_kg", CUP_KG), "all"),
    ]


def _height_source(trial: Trial, lift: Lift, by: float) -> Source:
    """What one metre acts `by` times on: the string's length, or the ruler behind a partial rise."""
    if lift.full:
        return Source("the string's length", by * trial.u("height_m", STRING_M), "all")
    step = trial.step("ruler", RISE_STEP_M)
    return Source("the ruler", by * sqrt(step**2 / 12.0 + (0.4 * step) ** 2), "try")


def _work(trial: Trial, attempts: Sequence[Attempt], lifts: Sequence[Lift]) -> Figure:
    attempt, best = max(
        zip(attempts, lifts, strict=True), key=lambda pair: lift_work(pair[1].mass_kg, pair[1].rise_m)
    )
    work = lift_work(best.mass_kg, best.rise_m)
    by_mass, by_height = lift_work(1.0, best.rise_m), lift_work(best.mass_kg, 1.0)
    return measured(work, (*_mass_sources(trial, attempt, by_mass), _height_source(trial, best, by_height)))


def _time_at(trial: Trial, attempts: Sequence[Attempt], lifts: Sequence[Lift], load: float) -> Figure:
    """Shortest time in which the set load went all the way up [s]."""
    times = [
        x.time_s
        for a, x in zip(attempts, lifts, strict=True)
        if a.values["load"] == load and x.full and x.time_s
    ]
    if not times:
        tried = any(a.values["load"] == load for a in attempts)
        return Figure(reason=because(Why.LOAD_NOT_LIFTED if tried else Why.LOAD_NOT_TRIED, load=load))
    hand = trial.off("stopwatch", HAND_S)
    luck = luck_of([-t for t in times], hand)
    return measured(min(times), (Source("the stopwatch", hand * luck, "try"),))


def _power(trial: Trial, attempts: Sequence[Attempt], lifts: Sequence[Lift]) -> dict[str, Figure]:
    rig = trial.conditions
    best, power = best_tried(lifts)
    if best is None or best.time_s is None or power.value is None:
        why = power.reason or Why.NOTHING_LIFTED
        idle = Figure(reason=why)
        return {"power": power, "cp": idle, "tip_speed": idle}
    attempt = next(a for a, x in zip(attempts, lifts, strict=True) if x is best)
    hand = trial.off("stopwatch", HAND_S)
    powers = [lift_power(x.mass_kg, x.rise_m, x.time_s) for x in lifts if x.rise_m > 0 and x.time_s]
    luck = luck_of(powers, power.value / best.time_s * hand)
    full = measured(
        power.value,
        (
            *_mass_sources(trial, attempt, lift_power(1.0, best.rise_m, best.time_s)),
            _height_source(trial, best, lift_power(best.mass_kg, 1.0, best.time_s)),
            Source("the stopwatch", -power.value / best.time_s * hand * luck, "try"),
        ),
        notes=power.notes,
    )
    return {"power": full} | _against_wind(trial, full, best, rig.get("wind_m_s", 0.0), hand * luck)


def _against_wind(trial: Trial, full: Figure, best: Lift, wind: float, hand_s: float) -> dict[str, Figure]:
    """Share of the wind's power, of the Betz limit, and the tip's speed over the wind's."""
    if wind <= 0 or best.time_s is None:
        idle = Figure(reason=Why.WIND_NOT_MEASURED)
        return {"cp": idle, "tip_speed": idle}
    rig, radius, u_wind = trial.conditions, rotor_radius(trial.plan), trial.u("wind_m_s", WIND_M_S)
    cp = power_coefficient(
        full, wind_power(wind, radius), speed_m_s=wind, se_speed_m_s=u_wind, se_density=DENSITY
    )
    spool, string = rig.get("spool_m", 0.01), rig.get("string_m", 0.0)
    ratio = tip_speed_ratio(turns(best.rise_m, spool, string), best.time_s, radius, wind)
    sources = (
        Source("the stopwatch", -ratio * hand_s / best.time_s, "try"),
        Source("the wind speed", -ratio * u_wind / wind, "run"),
        Source("the spool", -ratio * trial.u("spool_m", SPOOL_M) / (spool + string), "all"),
        _height_source(trial, best, ratio / best.rise_m),
    )
    return {"cp": cp, "betz": betz_share(cp), "tip_speed": measured(ratio, sources)}


def point(attempt: Attempt, conditions: Mapping[str, float]) -> float | None:
    """Power of one attempt [W]; 0 when nothing rose, None when it was not timed."""
    lift = lift_of(attempt, conditions)
    if lift.rise_m <= 0:
        return 0.0
    return lift_power(lift.mass_kg, lift.rise_m, lift.time_s) if lift.time_s else None


STEP = "a third of a weight more or less, over a try's tenth"
HAND = "two tenths of a second of a stopwatch, over a try's fifteenth"

ANALYSIS = Analysis(
    metrics=(
        Metric(
            key="load",
            label="Most carried, weights",
            means="Most weights in the cup that went all the way up.",
            unit="dimensionless",
            better="higher",
            digits=0,
            reads="load",
            varies=Varies(above=3.0, why=STEP, ends=(0.0, "weights"), share=0.1),
        ),
        Metric(
            key="carried_kg",
            label="Most carried, with cup",
            means="Mass of the most that went all the way up, with the cup.",
            unit="gram",
            better="higher",
            varies=Varies(above=20.0, why=STEP, share=0.1),
        ),
        Metric(
            key="power",
            label="Best power tried",
            means="Load's mass × 9.80665 m/s² × height over time: the best of all attempts that were timed.",
            unit="milliwatt",
            better="higher",
            varies=Varies(above=2.0, why=HAND),
        ),
        Metric(
            key="time",
            label="Time with the set load",
            means="Shortest time in which the set load went all the way up.",
            unit="second",
            better="lower",
            varies=Varies(above=3.0, why=HAND),
        ),
        Metric(
            key="work",
            label="Most work done",
            means="Load's mass × 9.80665 m/s² × height: the most of all attempts.",
            unit="joule",
            better="higher",
            digits=2,
            varies=Varies(above=0.02, why=STEP, ends=(0.0,), share=0.1),
        ),
        Metric(
            key="cp",
            label="Share of the wind's power",
            means=(
                "Best power over the wind's power through the disc of the blades (half the air's density "
                "× area × wind speed³)."
            ),
            unit="percent",
            better="higher",
            digits=2,
            varies=Varies(above=0.5, why=HAND),
        ),
        Metric(
            key="betz",
            label="Share of the Betz limit",
            means="Share of the wind's power over the most that any rotor can take of it, 16/27.",
            unit="percent",
            better="higher",
            digits=1,
            varies=Varies(above=0.8, why=HAND),
        ),
        Metric(
            key="tip_speed",
            label="Tip speed over wind speed",
            means="Speed of the blades' tips in the attempt of best power over the wind speed.",
            unit="dimensionless",
            better="none",
            digits=2,
            varies=Varies(above=0.2, why=HAND),
        ),
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
        Picture(key="power", label="Power against load", form="points", read="load", metrics=("power",)),
        Picture(key="loads", label="Every attempt", form="attempts", read="load"),
    ),
    point=point,
)
