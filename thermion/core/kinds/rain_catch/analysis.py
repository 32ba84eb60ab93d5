"""What follows from the readings of a rain catch, and how that is looked at."""

from __future__ import annotations

from collections.abc import Sequence
from math import sqrt

from thermion.core.kinds.analysis import Analysis, Metric, Varies
from thermion.core.kinds.rain_catch.body import tray_share
from thermion.core.kinds.schools import IMPACT, UNITS, passed, passing
from thermion.core.kinds.trials import Fitted, Trace, Trial, each_attempt
from thermion.core.kinds.views import Picture, Views
from thermion.core.physics.rain import capture, leak_rate
from thermion.core.reasons import Why
from thermion.core.values import Figure, Source, measured, scaled, together

STEP_M3 = 1e-6  # a measuring jug or cylinder read to 1 mL
DOSE_M3 = 6e-6  # standard uncertainty of a shower poured by hand


def fit(trials: Sequence[Trial]) -> list[Fitted]:
    """Share caught, concentration, waste and leak of every trial's fair showers."""
    return [Fitted(_figures(trial), {}) for trial in trials]


def _figures(trial: Trial) -> dict[str, Figure]:
    figures, rig = trial.counts(), trial.conditions
    showers = trial.fair()
    if not showers:
        if trial.attempts:
            only = Figure(reason=Why.HELD_BY_HAND)
            figures |= dict.fromkeys(("efficiency", "caught", "wasted"), only)
        return figures
    dose = rig.get("dose_m3", 2e-4)
    poured = [a.values.get("poured_m3", dose) for a in showers]
    caught = [a.values["caught_m3"] for a in showers]
    water_in = measured(sum(poured), _dosed(trial, len(showers)))
    water_out = measured(sum(caught), _jug(trial, sqrt(len(showers)), 1.0))
    tray = rig.get("tray_m2", 0.12)
    mouth, _ = tray_share(trial.plan, tray)
    found = capture(water_out, water_in, mouth, tray)
    figures |= {
        "caught": water_out,
        "efficiency": found.efficiency,
        "concentration": found.concentration,
        "passed": passed(found.efficiency, rig.get("pass_share", 0.2)),
        "wasted": Figure(reason=found.efficiency.reason),
    }
    if found.efficiency.value is not None:
        wasted = max(sum(poured) - sum(caught), 0.0)
        figures["wasted"] = measured(wasted, together(water_in.parts, scaled(water_out, -1.0).parts))
    return figures | _kept(trial)


def _jug(trial: Trial, times: float, by: float) -> tuple[Source, ...]:
    """What reading the jug leaves open; `times` root of how often, a cubic metre acting `by` times."""
    step = trial.step("jug", STEP_M3)
    return (
        Source("reading the jug", 0.5 * step * times * by, "try"),
        Source("the jug's step", step / sqrt(12.0) * times * by, "step"),
    )


def _dosed(trial: Trial, showers: int) -> tuple[Source, ...]:
    """What is open of the water poured [m³]: each shower from a jug has its own, a spray's volume is
    the same in all."""
    rig = trial.conditions
    if trial.choices.get("dosing") == "sprays":
        each = rig.get("squeeze_se_m3", 0.0) * rig.get("sprays", 100.0)
        return (Source("what one spray gives", each * showers, "all"),)
    return (Source("how evenly a shower is dosed", rig.get("dose_se_m3", DOSE_M3) * sqrt(showers), "try"),)


def _kept(trial: Trial) -> dict[str, Figure]:
    """What the store lost between the leak checks [m³/s], and the share it kept."""
    store = trial.traces.get("store", Trace())
    if len(store.time_s) < 2:
        return {}
    first, last = store.value[0], store.value[-1]
    seconds = store.time_s[-1] - store.time_s[0]
    kept = Figure(reason=Why.STORE_EMPTY)
    if first > 0:
        share = min(last / first, 1.0)
        kept = measured(share, _jug(trial, sqrt(1 + share**2), 1.0 / first))
    step = trial.step("jug", STEP_M3)
    leak = leak_rate(store.time_s, store.value, resolution=step)
    if leak.value is not None:
        leak = measured(leak.value, _jug(trial, sqrt(2.0), 1.0 / seconds))
    return {"leak": leak, "kept": kept}


JUG = "a millilitre of reading and splashing, over a try's twentieth"

ANALYSIS = Analysis(
    metrics=(
        Metric(
            key="efficiency",
            label="Share caught",
            means="Water caught over water put in, all showers that count together.",
            unit="percent",
            better="higher",
            digits=0,
            varies=Varies(above=10.0, why=JUG + ", of 200 mL", ends=(0.0, 100.0)),
        ),
        Metric(
            key="caught",
            label="Caught",
            means="Water caught in all showers that count.",
            unit="milliliter",
            better="higher",
            digits=0,
            varies=Varies(above=20.0, why=JUG, ends=(0.0,)),
        ),
        Metric(
            key="wasted",
            label="Not caught",
            means="Water put in less water caught.",
            unit="milliliter",
            better="lower",
            digits=0,
            varies=Varies(above=20.0, why=JUG, ends=(0.0,)),
        ),
        Metric(
            key="concentration",
            label="Caught, of what its mouth alone would get",
            means=(
                "Share caught, over the share of the tray that its mouth covers: above 1 it gathers from "
                "beyond its mouth."
            ),
            unit="dimensionless",
            better="higher",
            digits=2,
            varies=Varies(above=0.2, why=JUG, ends=(0.0,)),
        ),
        Metric(
            key="kept",
            label="Still there at the leak check",
            means="Water at the last leak check over that at the first.",
            unit="percent",
            better="higher",
            digits=0,
            varies=Varies(alike=5.0, ends=(0.0, 100.0)),
        ),
        Metric(
            key="leak",
            label="Leak",
            means="Water lost between the first and the last leak check, over the time between.",
            unit="milliliter/minute",
            better="lower",
            digits=2,
            varies=Varies(above=0.5, why=JUG, ends=(0.0,)),
        ),
        passing("Caught enough"),
        UNITS,
        IMPACT,
    ),
    headline=("efficiency", "caught", "wasted", "concentration", "kept", "units", "impact"),
    prediction="efficiency",
    fit=fit,
    repeats=each_attempt,
    compares="efficiency",
)


VIEWS = Views(
    pictures=(
        Picture(
            key="water",
            label="Caught and lost",
            form="stack",
            metrics=("caught", "wasted"),
            tones=("water", "lost"),
        ),
        Picture(key="showers", label="Every shower", form="attempts", read="caught_m3"),
    )
)
