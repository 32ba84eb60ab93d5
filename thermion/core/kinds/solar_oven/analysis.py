"""What follows from the readings of a solar oven, and how that is looked at."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from math import exp, log, sqrt

from thermion.core.kinds.analysis import Analysis, Figures, Metric, Varies
from thermion.core.kinds.cooling import Cooled, cooled, fit_traces
from thermion.core.kinds.probes import Thermometer, air_of, crossing, hottest
from thermion.core.kinds.schools import IMPACT, UNITS, passed, passing
from thermion.core.kinds.solar_oven.body import box_heat
from thermion.core.kinds.trials import Fitted, Trace, Trial
from thermion.core.kinds.views import Views
from thermion.core.lazy import numpy as np
from thermion.core.physics.approach import Approach
from thermion.core.physics.curves import initial_rate
from thermion.core.physics.fitted import read_off
from thermion.core.physics.oven import WATER_J_KG_K, corrected_peak, efficiency, gathering_area
from thermion.core.reasons import Why
from thermion.core.values import Figure, Source, measured, scaled

RESOLUTION_K = 0.5
SUN_SHARE = 0.10  # standard uncertainty of a light that was only estimated, as a share of it


def fit(trials: Sequence[Trial]) -> list[Fitted]:
    """Figures and fitted curves of every trial; fits of the whole class run in one call."""
    warm = fit_traces([t.traces.get("heating", Trace()) for t in trials], RESOLUTION_K)
    cool = cooled(trials, "cooling", RESOLUTION_K, "cooling")
    return [_fitted(*row) for row in zip(trials, warm, cool, strict=True)]


def _fitted(trial: Trial, warm: Approach, cool: Cooled) -> Fitted:
    heating = trial.traces.get("heating", Trace())
    figures = trial.counts()
    if heating.time_s:
        figures |= _heating_figures(trial, heating, warm)
    if cool.trace.time_s:
        figures |= _cooling_figures(trial, cool)
    curves = {}
    if warm.reliable:
        times = np.linspace(0.0, heating.time_s[-1], 25)
        curves["heating"] = (times.tolist(), warm.at(times).tolist())
    if cool.fit.reliable:
        times = np.linspace(0.0, cool.trace.time_s[-1], 25)
        curves["cooling"] = (times.tolist(), (cool.fit.at(times) + cool.air.value).tolist())
    return Fitted(figures, curves)


def _heating_figures(trial: Trial, trace: Trace, warm: Approach) -> dict[str, Figure]:
    probe = Thermometer.of(trial, RESOLUTION_K)
    level = trial.conditions.get("level_c", 50.0)
    top, gain = hottest(trial, "heating", probe)
    figures = {
        "peak": top,
        "rise": gain,
        "rate": _first_climb(trace, probe),
        "to_level": crossing(trial, "heating", warm, level, probe),
        "passed": passed(top, level),
    }
    figures |= _limit(trial, trace, warm, probe)
    return figures | _efficiencies(trial, trace, gain)


def _first_climb(trace: Trace, probe: Thermometer) -> Figure:
    """Slope of the first three readings [K/min], uncertain by each reading."""
    slope = initial_rate(trace.time_s, trace.value)
    if slope.value is None:
        return slope
    minutes = np.array(trace.time_s[:3]) / 60.0
    return measured(
        slope.value, probe.readings(1.0 / float(np.sqrt(((minutes - minutes.mean()) ** 2).sum())))
    )


def _limit(trial: Trial, trace: Trace, warm: Approach, probe: Thermometer) -> dict[str, Figure]:
    """Where it would level off [°C], and that over the light (F₁) [K·m²/W]."""
    if not warm.reliable or warm.asymptote is None:
        return dict.fromkeys(("limit", "merit"), Figure(reason=warm.reason))
    end = read_off(warm, trace.time_s, lambda _start, end, _tau: end, noise=probe.reading)
    limit = measured(end.value, (Source("the readings", end.se, "try", end.dof), *probe.offset(1.0)))
    light = trial.conditions.get("irradiance_w_m2", 0.0)
    if light <= 0:
        return {"limit": limit, "merit": Figure(reason=Why.NO_LIGHT_KNOWN)}
    air = air_of(trial, "heating")
    excess = end.value - air.value
    u_light = trial.u("irradiance_w_m2", SUN_SHARE * light)
    merit = measured(
        excess / light,
        (
            Source("the readings", end.se / light, "try", end.dof),
            *probe.offset(1.0 / light),
            Source("the air's thermometer", -air.se / light, "run"),
            Source("the light", -excess / light * u_light / light, "run"),
        ),
    )
    return {"limit": limit, "merit": merit}


def _efficiencies(trial: Trial, trace: Trace, gain: Figure) -> dict[str, Figure]:
    """Share of the light kept as heat until the hottest reading."""
    load, light = trial.conditions.get("load_kg", 0.0), trial.conditions.get("irradiance_w_m2", 0.0)
    if gain.value is None or load <= 0:
        return {}
    aperture = trial.conditions.get("aperture_m2", 0.09)
    until = trace.time_s[int(np.argmax(trace.value))]
    areas = {"efficiency": aperture}
    if trial.plan.at("reflector") and "sun_deg" in trial.conditions:
        areas["efficiency_all"] = gathering_area(
            aperture,
            trial.plan.factors.get("reflector_m", 0.3),
            trial.plan.factors.get("reflector_deg", 110.0),
            trial.conditions["sun_deg"],
        )
    out = {}
    for key, area in areas.items():
        share = efficiency(load, gain.value, area, light * until)
        if share.value is None:
            out[key] = share
            continue
        by = share.value / gain.value if gain.value else 0.0
        u_light = trial.u("irradiance_w_m2", SUN_SHARE * light)
        sources = (
            *scaled(gain, by).parts,
            Source("the light", -share.value * u_light / light, "run"),
            Source("the kitchen scale", share.value * trial.weighed() / load, "all"),
        )
        out[key] = measured(share.value, sources)
    return out


def _cooling_figures(trial: Trial, cool: Cooled) -> dict[str, Figure]:
    rig = trial.conditions
    figures = cool.figures(rig.get("fall_k", 10.0), rig.get("lost_min", 10.0))
    tau = figures.pop("tau")
    figures["tau_cool"], figures["ua"] = tau, Figure(reason=tau.reason)
    load = rig.get("load_kg", 0.0)
    if load > 0 and tau.value:
        box, range_j_k = box_heat(trial.plan, rig)
        heat = load * WATER_J_KG_K + box
        ua = heat / (60 * tau.value)
        sources = (
            *scaled(tau, -ua / tau.value).parts,
            Source("the box's own warmth", ua * range_j_k / sqrt(3.0) / heat, "build"),
            Source("the kitchen scale", ua * trial.weighed() * WATER_J_KG_K / heat, "all"),
        )
        figures["ua"] = measured(ua, sources, notes=(Why.WITH_BOX_HEAT,))
    return figures


def correct(metric: str, figures: Figures, was: Mapping[str, float], to: Mapping[str, float]) -> float | None:
    """A metric under the other run's sun and air, where both are known.

    Excess temperatures over the air scale with the light (a lumped box, Duffie and Beckman, Solar
    Engineering, 4th ed., ch. 6); what is a property of the box stays.
    """
    value = figures.get(metric, Figure()).value
    if value is None or metric in ("tau_cool", "ua", "merit", "efficiency", "efficiency_all"):
        return value
    light = [rig.get("irradiance_w_m2", 0.0) for rig in (was, to)]
    if min(light) <= 0 or "air_c" not in was or "air_c" not in to:
        return None
    by = light[1] / light[0]
    if metric in ("peak", "limit"):
        return corrected_peak(value, was["air_c"], light[0], to_air_c=to["air_c"], to_irradiance=light[1])
    if metric in ("rise", "rate", "lost"):
        return value * by
    return _held_with(value, figures, was, by) if metric == "held" else None


def _held_with(held: float, figures: Figures, was: Mapping[str, float], by: float) -> float | None:
    """Minutes held had it begun hotter or cooler: the time constant stays, the excess scales."""
    tau, fall = figures.get("tau_cool", Figure()).value, was.get("fall_k", 10.0)
    if not tau:
        return None
    excess = fall / (1 - exp(-held / tau)) * by
    return -tau * log(1 - fall / excess) if excess > fall else None


READ = "a quarter of a kelvin of reading and placing, over a try's twentieth"
EXCESS = Varies(above=5.0, why=READ, zero="air_c")
WARMER, MINUTES = Varies(above=5.0, why=READ), Varies(above=2.5, why=READ + ", at two kelvin a minute")

ANALYSIS = Analysis(
    metrics=(
        Metric(
            key="peak",
            label="Hottest",
            means="Hottest reading while heating.",
            unit="degC",
            better="higher",
            reads="temp_c",
            varies=EXCESS,
        ),
        Metric(
            key="rise",
            label="Rise",
            means="Hottest reading less the first one.",
            unit="delta_degC",
            better="higher",
            varies=WARMER,
        ),
        Metric(
            key="to_level",
            label="Minutes to the level",
            means=(
                "Minutes from the start of heating until the level of the brief, by the fitted curve or "
                "between the two readings around it."
            ),
            unit="minute",
            better="lower",
            varies=MINUTES,
        ),
        Metric(
            key="held",
            label="Minutes held",
            means="Minutes of cooling until it had fallen by the set number of degrees.",
            unit="minute",
            better="higher",
            varies=MINUTES,
        ),
        Metric(
            key="lost",
            label="Lost while cooling",
            means="Fall in the set number of minutes of cooling.",
            unit="delta_degC",
            better="lower",
            varies=WARMER,
        ),
        Metric(
            key="limit",
            label="Levels off at",
            means="Temperature toward which the fitted heating curve tends.",
            unit="degC",
            better="higher",
            varies=EXCESS,
        ),
        Metric(
            key="tau_cool",
            label="Time constant of cooling",
            means=(
                "Minutes in which the excess over the air falls to 1/e (37 %) while cooling, fitted to "
                "all readings."
            ),
            unit="minute",
            better="higher",
            varies=MINUTES,
        ),
        Metric(
            key="rate",
            label="First climb",
            means="Slope of the first three readings of heating, by least squares.",
            unit="delta_degC/minute",
            better="higher",
            digits=2,
            varies=Varies(above=1.5, why=READ + ", over three readings"),
        ),
        Metric(
            key="ua",
            label="Heat loss",
            means=(
                "Heat capacity of the load (4186 J/(kg·K) × its mass) and of the box itself, over the "
                "time constant of cooling."
            ),
            unit="watt/delta_degC",
            better="lower",
            digits=2,
            varies=Varies(above=0.1, why="small beside what a fit leaves open"),
        ),
        Metric(
            key="merit",
            label="Figure of merit",
            means="First figure of merit: (levels off at − air) over the irradiance.",
            unit="delta_degC/(watt/meter**2)",
            better="higher",
            digits=3,
            varies=Varies(above=0.007, why=READ + ", at 700 W/m²"),
        ),
        Metric(
            key="efficiency",
            label="Share of light kept as heat",
            means="Heat in the load at its hottest over the light that fell on the window until then.",
            unit="dimensionless",
            better="higher",
            digits=2,
            varies=Varies(above=0.02, why=READ + ", of 100 g in half an hour"),
        ),
        Metric(
            key="efficiency_all",
            label="The same, reflector's light counted",
            means="The same over the light on window and reflector together.",
            unit="dimensionless",
            better="higher",
            digits=2,
            varies=Varies(above=0.02, why=READ + ", of 100 g in half an hour"),
        ),
        passing("Reached the level"),
        UNITS,
        IMPACT,
    ),
    headline=("peak", "rise", "to_level", "held", "tau_cool", "units", "impact"),
    prediction="peak",
    fit=fit,
    correct=correct,
    corrected_for=("irradiance_w_m2", "air_c"),
    corrected_words="corrected for sun and air",
    compares="efficiency",
)


VIEWS = Views(level="level_c")
