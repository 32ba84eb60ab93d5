"""What follows from the readings of keeping cold or warm, and how that is looked at."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace
from math import exp, log, sqrt

from thermion.core.kinds.analysis import Analysis, Figures, Metric, Varies
from thermion.core.kinds.cooling import Cooled, cooled
from thermion.core.kinds.keep_temp.brief import DRINK, ICE
from thermion.core.kinds.probes import air_of
from thermion.core.kinds.schools import IMPACT, UNITS, passed, passing
from thermion.core.kinds.trials import Fitted, Trace, Trial
from thermion.core.kinds.views import CURVES, Picture, Views
from thermion.core.lazy import numpy as np
from thermion.core.physics.heat import Cup, Ice, cup_volume, ice_run
from thermion.core.physics.oven import WATER_J_KG_K
from thermion.core.reasons import Why, because
from thermion.core.values import Figure, Source, measured, ratio, scaled

VOLUME_STEP_M3, HEIGHT_STEP_M, MASS_STEP_KG, TEMP_STEP_K = 1e-6, 1e-3, 1e-3, 0.5
HALF = 0.5  # of a step: how well a jug, a ruler in a cup and a scale are read, beside rounding


WATER_KG_M3 = 1000.0


def fit(trials: Sequence[Trial]) -> list[Fitted]:
    """Melting or cooling figures of every trial, by what was read."""
    warm = [t for t in trials if "temp_c" in t.traces]
    drinks = iter([_drink(c) for c in cooled(warm, "temp_c", TEMP_STEP_K)])
    return [next(drinks) if "temp_c" in t.traces else Fitted(_ice(t), {}) for t in trials]


def cup_of(rig: Mapping[str, float]) -> Cup:
    return Cup(
        rig.get("cup_bottom_m", 0.05) / 2, rig.get("cup_top_m", 0.07) / 2, rig.get("cup_height_m", 0.09)
    )


def _read_to(step: float, off: float, by: float, name: str) -> tuple[Source, ...]:
    """Sources of what was read on an instrument, `by` the mass for one of its unit [kg]."""
    return (
        Source(f"reading {name}", HALF * step * by, "try"),
        Source(f"the step of {name}", step / sqrt(12.0) * by, "step"),
        Source(name, off * by, "all"),
    )


# of 0 to 3 mL that run down the jar's walls and stay there [kg]; nothing is added for it
STAYS = Source("what stays in the jar", 0.003 / sqrt(3.0), "try")


def _melted(key: str, value: float, trial: Trial) -> Figure:
    """Melted mass [kg] from what was weighed [kg], measured [m³], or read as a height [m]."""
    if key == "mass_kg":
        return measured(value, _read_to(*_scale(trial), 1.0, "the scale"))
    if key == "volume_m3":
        step, off = trial.step("jug", VOLUME_STEP_M3), trial.off("jug", 0.0)
        return measured(value * WATER_KG_M3, (*_read_to(step, off, WATER_KG_M3, "the jug"), STAYS))
    cup = cup_of(trial.conditions)
    if not 0 <= value <= cup.height_m:
        return Figure(reason=Why.BEYOND_RIM)
    step = min(1e-4, cup.height_m - value) or -1e-4
    slope = float(cup_volume(value + step, cup) - cup_volume(value, cup)) / step * WATER_KG_M3
    mass = float(cup_volume(value, cup)) * WATER_KG_M3
    ruler = _read_to(trial.step("ruler", HEIGHT_STEP_M), trial.off("ruler", 0.0), slope, "the ruler")
    return measured(mass, (*ruler, *_cup_itself(trial, value)))


def _cup_itself(trial: Trial, value: float) -> tuple[Source, ...]:
    """What a millimetre more across the cup, measured with the same ruler, does to the mass [kg]."""
    rig, u = trial.conditions, trial.step("ruler", HEIGHT_STEP_M) / sqrt(12.0)
    plain = float(cup_volume(value, cup_of(rig))) * WATER_KG_M3
    wide = {**rig, "cup_top_m": rig.get("cup_top_m", 0.07) + u}
    return (
        Source("the cup's own size", float(cup_volume(value, cup_of(wide))) * WATER_KG_M3 - plain, "all"),
    )


def _scale(trial: Trial) -> tuple[float, float]:
    return trial.step("scale", MASS_STEP_KG), trial.off("scale", 0.0)


def melted_mass(traces: Mapping[str, Trace], trial: Trial) -> tuple[Figure, float | None, float | None]:
    """Melted mass [kg], when it was read [s], and the ice left [kg] if that was weighed too."""
    left = traces["left_kg"].value[-1] if traces.get("left_kg", Trace()).value else None
    for key in ("mass_kg", "volume_m3", "height_m"):
        trace = traces.get(key, Trace())
        if trace.value:
            return _melted(key, trace.value[-1], trial), trace.time_s[-1], left
    if left is not None:
        mass = trial.conditions.get("started_kg", 0.1) - left
        if mass < 0:
            return Figure(reason=Why.MORE_ICE_THAN_AT_START), None, left
        weighed = _read_to(*_scale(trial), -1.0, "the scale")
        begun = Source("the ice weighed at the start", _weighing(trial), "try")
        return measured(mass, (*weighed, begun)), traces["left_kg"].time_s[-1], None
    return Figure(reason=Why.NOT_READ), None, None


def _weighing(trial: Trial) -> float:
    """Standard uncertainty of a mass weighed once [kg]."""
    step, off = _scale(trial)
    return sqrt((HALF * step) ** 2 + step**2 / 12.0 + off**2)


def _ice(trial: Trial) -> dict[str, Figure]:
    figures, rig = trial.counts(), trial.conditions
    melted, at, left = melted_mass(trial.traces, trial)
    if melted.value is None or not at:
        if at is not None or melted.reason is not Why.NOT_READ:
            figures["melted"] = melted if at != 0 else Figure(reason=Why.READ_AT_ZERO_ONLY)
        return figures
    if any(trial.broke_off(key) for key in trial.traces):
        seen = scaled(melted, 1.0)
        low = (seen.value or 0.0) - 2 * (seen.se or 0.0)
        why = because(Why.BROKE_OFF, minutes=at / 60)
        figures["melted"] = Figure(at_least=max(low, 0.0), reason=why, partial=True)
        return figures
    ice, on = _run(trial, melted, at, left), any(trial.unfinished(key) for key in trial.traces)
    figures |= {
        "melted": replace(ice.melted_kg, partial=on),
        "left": replace(ice.fraction_left, partial=on),
        "gain": ice.heat_gain_w,
        "ua": ice.ua_w_k,
        "resistance": ice.resistance_k_w,
        "to_all": ice.minutes_to_all,
    }
    if ice.melted_kg.value is not None:
        kept = max(rig.get("started_kg", 0.1) - ice.melted_kg.value, 0.0)
        begun = Source("the ice weighed at the start", _weighing(trial), "try")
        figures["remaining"] = measured(kept, (*scaled(ice.melted_kg, -1.0).parts, begun))
        if "left_kg" in trial.traces and left is None:  # it is what was weighed
            figures["remaining"] = measured(kept, _read_to(*_scale(trial), 1.0, "the scale"))
    figures["of_control"] = _of_control(ice.heat_gain_w, trial)
    figures["passed"] = passed(ice.fraction_left, rig.get("pass_left", 0.75))
    return figures


def _run(trial: Trial, melted: Figure, at_s: float, left: float | None) -> Ice:
    rig, air = trial.conditions, air_of(trial)
    return ice_run(
        melted,
        at_s,
        air.value,
        rig.get("started_kg", 0.1),
        left_kg=left,
        se_air_k=air.se,
        se_started_kg=_weighing(trial),
        ice_c=rig.get("ice_c", 0.0),
        se_ice_k=trial.u("ice_c", 0.0),
    )


def _of_control(gain: Figure, trial: Trial) -> Figure:
    """Heat let in over that of the jar without a jacket beside it: times differ, rates compare."""
    if not trial.control:
        return Figure(reason=Why.NO_CONTROL)
    melted, at, left = melted_mass(trial.control, trial)
    if melted.value is None or not at:
        return Figure(reason=Why.CONTROL_NOT_READ)
    return ratio(gain, _run(trial, melted, at, left).heat_gain_w)


def _drink(run: Cooled) -> Fitted:
    trial = run.trial
    figures, rig = trial.counts(), trial.conditions
    if not run.trace.value:
        return Fitted(figures, {})
    figures |= run.figures(rig.get("fall_k", 10.0), rig.get("lost_min", 30.0))
    figures |= _losses(run, figures["tau"])
    figures["passed"] = passed(figures["held"], rig.get("pass_min", 20.0))
    if not run.fit.reliable:
        return Fitted(figures, {})
    times = np.linspace(0.0, run.trace.time_s[-1], 25)
    return Fitted(figures, {"temp_c": (times.tolist(), (run.fit.at(times) + run.air.value).tolist())})


def _losses(run: Cooled, tau: Figure) -> dict[str, Figure]:
    """UA = m·c/τ and R from the time constant [min], and the temperature expected later [°C]."""
    rig = run.trial.conditions
    load, later_s = rig.get("load_kg", 0.2), rig.get("later_min", 60.0) * 60
    if not tau.value or load <= 0:
        return dict.fromkeys(("ua", "resistance", "later"), Figure(reason=tau.reason))
    notes = (Why.JAR_NEGLECTED,)
    ua = load * WATER_J_KG_K / (60 * tau.value)
    weighing = Source("the kitchen scale", ua / load * _weighing(run.trial), "try")
    loss = measured(ua, (*scaled(tau, -ua / tau.value).parts, weighing), notes=notes)
    return {
        "ua": loss,
        "resistance": measured(1 / ua, scaled(loss, -1.0 / ua**2).parts, notes=notes),
        "later": run.read(lambda start, _, tau: start * exp(-later_s / tau), absolute=True),
    }


def correct(metric: str, figures: Figures, was: Mapping[str, float], to: Mapping[str, float]) -> float | None:
    """A metric under the other run's air.

    What melts is in proportion to the air's excess over 0 °C; a drink's loss to its own first excess
    over the air; what is a property of the jacket stays.
    """
    value = figures.get(metric, Figure()).value
    if value is None or metric in ("of_control", "ua", "resistance", "tau"):
        return value
    airs = [rig.get("air_c") for rig in (was, to)]
    if airs[0] is None or airs[1] is None:
        return None
    if metric in ("lost", "held"):
        excess = [rig.get("drink_c", 60.0) - (air or 0.0) for rig, air in zip((was, to), airs, strict=True)]
        return _drink_with(metric, value, figures, was, excess[1] / excess[0]) if min(excess) > 0 else None
    if min(a or 0.0 for a in airs) <= 0:
        return None
    return _ice_with(metric, value, was, airs[1] / airs[0])


def _ice_with(metric: str, value: float, was: Mapping[str, float], by: float) -> float | None:
    started = was.get("started_kg", 0.1)
    if metric in ("melted", "gain"):
        return value * by
    if metric == "to_all":
        return value / by
    if metric == "left":
        return 1 - (1 - value) * by
    return started - (started - value) * by if metric == "remaining" else None


def _drink_with(
    metric: str, value: float, figures: Figures, was: Mapping[str, float], by: float
) -> float | None:
    if metric == "lost":
        return value * by
    tau, fall = figures.get("tau", Figure()).value, was.get("fall_k", 10.0)
    if not tau:
        return None
    excess = fall / (1 - exp(-value / tau)) * by
    return -tau * log(1 - fall / excess) if excess > fall else None


JUG = "half a millilitre or gram of reading, over a try's twentieth"
READ = "a quarter of a kelvin of reading, over a try's twentieth"

ANALYSIS = Analysis(
    metrics=(
        Metric(
            key="melted",
            label="Melted",
            means=(
                "Mass of the ice that has melted by the last reading: weighed, or from the water's volume "
                "or height in the cup at 1 g/mL, or from what is left."
            ),
            unit="gram",
            better="lower",
            when=ICE,
            varies=Varies(above=10.0, why=JUG),
        ),
        Metric(
            key="left",
            label="Ice left",
            means="Ice not yet melted, over the ice at the start.",
            unit="percent",
            better="higher",
            digits=0,
            when=ICE,
            varies=Varies(above=10.0, why=JUG + ", of 100 g", zero=100.0, ends=(0.0, 100.0)),
        ),
        Metric(
            key="gain",
            label="Heat let in",
            means="Melted mass × 333.55 kJ/kg, over the time it stood: mean power let in.",
            unit="watt",
            better="lower",
            digits=2,
            when=ICE,
            varies=Varies(above=1.2, why=JUG + ", in 45 min"),
        ),
        Metric(
            key="remaining",
            label="Ice left",
            means="Mass of the ice not yet melted at the last reading.",
            unit="gram",
            better="higher",
            digits=0,
            when=ICE,
            varies=Varies(above=10.0, why=JUG, zero="started_kg", ends=(0.0,)),
        ),
        Metric(
            key="of_control",
            label="Heat let in, of the bare jar",
            means="Heat let in, over that of the bare jar beside it.",
            unit="percent",
            better="lower",
            digits=0,
            when=ICE,
            varies=Varies(above=10.0, why=JUG),
        ),
        Metric(
            key="to_all",
            label="Minutes until all is melted",
            means="Minutes until all is melted, at the mean rate so far.",
            unit="minute",
            better="higher",
            digits=0,
            when=ICE,
            varies=Varies(above=10.0, why=JUG),
        ),
        Metric(
            key="lost",
            label="Lost in the set time",
            means="Fall in the set number of minutes, by the fitted curve or between readings.",
            unit="delta_degC",
            better="lower",
            when=DRINK,
            varies=Varies(above=5.0, why=READ),
        ),
        Metric(
            key="held",
            label="Minutes held",
            means=(
                "Minutes until it had fallen by the set number of degrees, by the fitted curve or between "
                "readings."
            ),
            unit="minute",
            better="higher",
            when=DRINK,
            varies=Varies(above=2.5, why=READ),
        ),
        Metric(
            key="tau",
            label="Time constant of cooling",
            means="Minutes in which the excess over the air falls to 1/e (37 %), fitted to all readings.",
            unit="minute",
            better="higher",
            when=DRINK,
            varies=Varies(above=3.0, why=READ),
        ),
        Metric(
            key="later",
            label="Expected later",
            means="Temperature at the set later time, by the fitted curve.",
            unit="degC",
            better="higher",
            when=DRINK,
            varies=Varies(above=5.0, why=READ, zero="air_c"),
        ),
        Metric(
            key="ua",
            label="Heat loss",
            means=(
                "Power that passes for each degree between inside and air: mean heat let in over that "
                "difference (ice), or mass of the drink × 4186 J/(kg·K) over the time constant."
            ),
            unit="watt/delta_degC",
            better="lower",
            digits=3,
            varies=Varies(above=0.03, why=JUG),
        ),
        Metric(
            key="resistance",
            label="Resistance to heat",
            means="One over the heat loss.",
            unit="delta_degC/watt",
            better="higher",
            varies=Varies(above=1.0, why=JUG),
        ),
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
    corrected_for=("air_c",),
    corrected_words="corrected for the air",
    compares="resistance",
)


VIEWS = Views(
    pictures=(
        Picture(
            key="ice",
            label="Ice left",
            form="stack",
            metrics=("remaining", "melted"),
            tones=("cold", "lost"),
            when=ICE,
        ),
        CURVES,
    )
)
