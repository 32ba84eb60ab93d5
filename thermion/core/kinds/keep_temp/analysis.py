"""What follows from the readings of keeping cold or warm, and how that is looked at."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from math import sqrt

from thermion.core.kinds.analysis import Analysis, Metric
from thermion.core.kinds.keep_temp.brief import DRINK, ICE
from thermion.core.kinds.schools import IMPACT, UNITS, passed, passing
from thermion.core.kinds.trials import Fitted, Trace, Trial
from thermion.core.kinds.views import CURVES, Picture, Views
from thermion.core.lazy import numpy as np
from thermion.core.physics.curves import fall_after, minutes_to_fall
from thermion.core.physics.heat import Cooling, Cup, cup_volume, ice_run, warm_run
from thermion.core.values import Figure, ratio

VOLUME_STEP_M3, HEIGHT_STEP_M, MASS_STEP_KG, TEMP_STEP_K = 1e-6, 1e-3, 1e-3, 0.5


WATER_KG_M3 = 1000.0


def fit(trials: Sequence[Trial]) -> list[Fitted]:
    """Melting or cooling figures of every trial, by what was read."""
    return [_drink(t) if "temp_c" in t.traces else Fitted(_ice(t), {}) for t in trials]


def cup_of(rig: Mapping[str, float]) -> Cup:
    return Cup(
        rig.get("cup_bottom_m", 0.05) / 2, rig.get("cup_top_m", 0.07) / 2, rig.get("cup_height_m", 0.09)
    )


def _melted(key: str, value: float, rig: Mapping[str, float]) -> Figure:
    """Melted mass [kg] from what was weighed [kg], measured [m³], or read as a height [m]."""
    if key == "mass_kg":
        return Figure(value, MASS_STEP_KG / sqrt(12.0))
    if key == "volume_m3":
        return Figure(value * WATER_KG_M3, VOLUME_STEP_M3 * WATER_KG_M3 / sqrt(12.0))
    cup = cup_of(rig)
    if not 0 <= value <= cup.height_m:
        return Figure(reason="the level is beyond the rim of the cup described")
    step = min(HEIGHT_STEP_M, cup.height_m - value) or -HEIGHT_STEP_M
    slope = float(cup_volume(value + step, cup) - cup_volume(value, cup)) / step
    mass = float(cup_volume(value, cup)) * WATER_KG_M3
    return Figure(mass, slope * HEIGHT_STEP_M * WATER_KG_M3 / sqrt(12.0))


def melted_mass(
    traces: Mapping[str, Trace], rig: Mapping[str, float]
) -> tuple[Figure, float | None, float | None]:
    """Melted mass [kg], when it was read [s], and the ice left [kg] if that was weighed too."""
    left = traces["left_kg"].value[-1] if traces.get("left_kg", Trace()).value else None
    for key in ("mass_kg", "volume_m3", "height_m"):
        trace = traces.get(key, Trace())
        if trace.value:
            return _melted(key, trace.value[-1], rig), trace.time_s[-1], left
    if left is not None:
        mass = rig.get("started_kg", 0.1) - left
        if mass < 0:
            return Figure(reason="more ice is left than there was at the start"), None, left
        return Figure(mass, MASS_STEP_KG / sqrt(6.0)), traces["left_kg"].time_s[-1], None
    return Figure(reason="no reading yet"), None, None


def _ice(trial: Trial) -> dict[str, Figure]:
    figures, rig = trial.counts(), trial.conditions
    melted, at, left = melted_mass(trial.traces, rig)
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
    melted, at, left = melted_mass(trial.control, rig)
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


ANALYSIS = Analysis(
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
    prediction="left",
    fit=fit,
    correct=correct,
    compares="resistance",
)


VIEWS = Views(
    pictures=(
        Picture(
            "ice", "Ice left", "stack", metrics=("remaining", "melted"), tones=("cold", "lost"), when=ICE
        ),
        CURVES,
    )
)
