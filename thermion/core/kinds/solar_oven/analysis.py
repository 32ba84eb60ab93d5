"""What follows from the readings of a solar oven, and how that is looked at."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from math import sqrt

from thermion.core.kinds.analysis import Analysis, Metric
from thermion.core.kinds.schools import IMPACT, UNITS, passed, passing
from thermion.core.kinds.trials import Fitted, Trace, Trial
from thermion.core.kinds.views import Views
from thermion.core.lazy import FloatArray
from thermion.core.lazy import numpy as np
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
from thermion.core.values import Figure

RESOLUTION_K = 0.5


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


ANALYSIS = Analysis(
    metrics=(
        Metric("peak", "Hottest", "degC", "higher", reads="temp_c"),
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
    prediction="peak",
    fit=fit,
    correct=correct,
    compares="efficiency",
)


VIEWS = Views(level="level_c")
