"""What follows from the readings of a rain catch, and how that is looked at."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from math import sqrt

from thermion.core.kinds.analysis import Analysis, Metric
from thermion.core.kinds.rain_catch.body import tray_share
from thermion.core.kinds.schools import IMPACT, UNITS, passed, passing
from thermion.core.kinds.trials import Fitted, Trace, Trial, each_attempt
from thermion.core.kinds.views import Picture, Views
from thermion.core.lazy import numpy as np
from thermion.core.physics.rain import capture, leak_rate
from thermion.core.values import Figure

STEP_M3 = 1e-6  # a measuring jug or cylinder read to 1 mL


def fit(trials: Sequence[Trial]) -> list[Fitted]:
    """Share caught, concentration, waste and leak of every trial's fair showers."""
    return [Fitted(_figures(trial), {}) for trial in trials]


def _figures(trial: Trial) -> dict[str, Figure]:
    figures, rig = trial.counts(), trial.conditions
    showers = trial.fair()
    if not showers:
        if trial.attempts:
            only = Figure(reason="only hand-held attempts, which are not compared")
            figures |= dict.fromkeys(("efficiency", "caught", "wasted"), only)
        return figures
    dose = rig.get("dose_m3", 2e-4)
    poured = [a.values.get("poured_m3", dose) for a in showers]
    caught = [a.values["caught_m3"] for a in showers]
    step = STEP_M3 / sqrt(12.0)
    se_in = _dose_se(rig, trial.choices) * len(showers)
    water_in = Figure(sum(poured), sqrt(len(showers)) * step + se_in)
    water_out = Figure(sum(caught), sqrt(len(showers)) * step)
    tray = rig.get("tray_m2", 0.12)
    mouth, _ = tray_share(trial.plan, tray)
    found = capture(water_out, water_in, mouth, tray)
    figures |= {
        "caught": water_out,
        "efficiency": _with_spread(found.efficiency, poured, caught),
        "concentration": found.concentration,
        "passed": passed(found.efficiency, rig.get("pass_share", 0.2)),
    }
    if found.efficiency.value is not None:
        wasted = max(sum(poured) - sum(caught), 0.0)
        figures["wasted"] = Figure(wasted, sqrt(2.0 * len(showers)) * step)
    else:
        figures["wasted"] = Figure(reason=found.efficiency.reason)
    return figures | _kept(trial.traces.get("store", Trace()))


def _dose_se(rig: Mapping[str, float], choices: Mapping[str, str]) -> float:
    """Standard uncertainty of one shower [m³]: of the jug, or of one spray times their number."""
    if choices.get("dosing") == "sprays":
        return rig.get("squeeze_se_m3", 0.0) * rig.get("sprays", 100.0)
    return rig.get("dose_se_m3", 0.0)


def _with_spread(share: Figure, poured: Sequence[float], caught: Sequence[float]) -> Figure:
    """Several showers show how much a share varies; the larger uncertainty stays."""
    if share.value is None or len(poured) < 2:
        return share
    each = [b / a for a, b in zip(poured, caught, strict=True) if a > 0]
    spread = float(np.std(each, ddof=1)) / sqrt(len(each))
    return Figure(share.value, max(spread, share.se or 0.0), notes=share.notes)


def _kept(store: Trace) -> dict[str, Figure]:
    """What the store lost between the leak checks [m³/s], and the share it kept."""
    if len(store.time_s) < 2:
        return {}
    first, last = store.value[0], store.value[-1]
    kept = Figure(reason="the store was empty")
    if first > 0:
        kept = Figure(min(last / first, 1.0), STEP_M3 / sqrt(6.0) / first)
    return {"leak": leak_rate(store.time_s, store.value, resolution=STEP_M3), "kept": kept}


ANALYSIS = Analysis(
    metrics=(
        Metric("efficiency", "Share caught", "percent", "higher", 0),
        Metric("caught", "Caught", "milliliter", "higher", 0),
        Metric("wasted", "Not caught", "milliliter", "lower", 0),
        Metric("concentration", "Caught, of what its mouth alone would get", "dimensionless", "higher", 2),
        Metric("kept", "Still there at the leak check", "percent", "higher", 0),
        Metric("leak", "Leak", "milliliter/minute", "lower", 2),
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
        Picture("water", "Caught and lost", "stack", metrics=("caught", "wasted"), tones=("water", "lost")),
        Picture("showers", "Every shower", "attempts", read="caught_m3"),
    )
)
