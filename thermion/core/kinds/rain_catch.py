"""Rain catch: a collector on a tray; water in by showers, water caught after each, leaks later."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from math import sqrt

import numpy as np

from thermion.core.judging.plausibility import Check
from thermion.core.judging.scoring import Term
from thermion.core.kinds.base import (
    Attempt,
    Bench,
    BriefDefault,
    Caution,
    Choice,
    Condition,
    Factor,
    Fitted,
    Kind,
    Metric,
    Observation,
    Picture,
    Place,
    Reads,
    RigCheck,
    Trace,
    Trial,
    each_attempt,
)
from thermion.core.kinds.rain_body import collector_model, draw_rain, rain_hints, tray_share
from thermion.core.kinds.schools import (
    IMPACT,
    UNITS,
    green,
    passed,
    passed_then,
    passing,
    progress,
    race,
    raw,
    thrift,
)
from thermion.core.physics.rain import capture, leak_rate, squeeze_volume
from thermion.core.planning.kit import Need
from thermion.core.plans import Plan
from thermion.core.sim import simulate_showers
from thermion.core.values import Figure

STEP_M3 = 1e-6  # a measuring jug or cylinder read to 1 mL
LEAK_CHECKS_S = (0.0, 300.0, 600.0)
SPRAYS = ("dosing", "sprays")
SQUEEZES = 10  # in each fill of the check that tells what one spray gives
STORED = Reads("store", "Leak check: water in the store", "milliliter", 0, 5000, 1)


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


def complete(values: Mapping[str, float], conditions: Mapping[str, float]) -> dict[str, float]:
    """Counted sprays are water: their number times what one gives [m³]."""
    out = dict(values)
    if "sprays" in out:
        out["poured_m3"] = out["sprays"] * conditions.get("squeeze_m3", 2e-6)
    return out


def calibrate(sets: str, readings: Sequence[float]) -> dict[str, float]:
    """What one spray gives [m³] from fills of ten sprays each [m³], and its uncertainty."""
    if sets != "squeeze_m3" or not readings or min(readings) <= 0:
        return {}
    found = squeeze_volume(readings, SQUEEZES, resolution=STEP_M3)
    return {"squeeze_m3": found.value or 0.0, "squeeze_se_m3": found.se or 0.0}


def doubt_later(
    value: float,
    before: Sequence[float],
    last: float | None,
    rig: Mapping[str, float],
    choices: Mapping[str, str],
) -> Check:
    """A store does not fill by itself: more water than before is asked about."""
    if before and value > before[-1] + 2 * STEP_M3:
        return Check("ask", "More water than at the check before. Read again?", code="jump")
    return Check("ok")


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


def simulate(
    plans: Sequence[Plan],
    conditions: Mapping[str, float],
    seed: int,
    choices: Mapping[str, str] | None = None,
) -> list[Trial]:
    """Three showers on each collector, a hand that doses within 3 %, and a leak check."""
    rig = {**KIND.default_rig(), **conditions}
    dice = np.random.default_rng(seed)
    out = []
    for i, plan in enumerate(plans):
        model = collector_model(plan, rig)
        doses = np.maximum(rig["dose_m3"] * (1 + dice.normal(0, 0.03, 3)), 1e-5)
        if model is None:
            attempts = tuple(Attempt({"poured_m3": rig["dose_m3"], "caught_m3": 0.0}) for _ in doses)
            out.append(Trial({}, rig, attempts=attempts, choices=choices or {}, plan=plan))
            continue
        showers = simulate_showers(model, doses.tolist(), rig["tray_m2"], seed=seed * 1000 + i)
        attempts = tuple(
            Attempt(
                {
                    "poured_m3": rig["dose_m3"],
                    "caught_m3": min(max(_read(s.caught_m3, dice), 0.0), rig["dose_m3"]),
                }
            )
            for s in showers
        )
        later = [showers[-1].stored_m3 * float(np.exp(-model.leak_per_s * t)) for t in LEAK_CHECKS_S]
        store = Trace(LEAK_CHECKS_S, tuple(_read(v, dice) for v in later))
        out.append(Trial({"store": store}, rig, attempts=attempts, choices=choices or {}, plan=plan))
    return out


def suggest(
    attempts: Sequence[Attempt], conditions: Mapping[str, float], choices: Mapping[str, str]
) -> tuple[dict[str, float], str]:
    """Each shower is dosed like the one before, or as the brief says."""
    last = attempts[-1].values if attempts else {}
    sprays = last.get("sprays", conditions.get("sprays", 100.0))
    return {"poured_m3": last.get("poured_m3", conditions.get("dose_m3", 2e-4)), "sprays": sprays}, ""


def _read(true_m3: float, dice: np.random.Generator) -> float:
    return max(round((true_m3 + dice.normal(0, 5e-7)) / STEP_M3) * STEP_M3, 0.0)


KIND = Kind(
    key="rain_catch",
    label="Rain catch",
    test="turns",
    reads=(
        Reads("poured_m3", "Water in", "milliliter", 1, 5000, 1, when=("dosing", "jug")),
        Reads(
            "sprays",
            "Sprays",
            "dimensionless",
            1,
            2000,
            1,
            whole=True,
            things=("spray", "sprays"),
            when=SPRAYS,
        ),
        Reads("caught_m3", "Water caught", "milliliter", 0, 5000, 1, scale="jug", limit="dose_m3", zero=True),
    ),
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
    choices=(Choice("dosing", "A shower is", (("jug", "Poured from a jug"), ("sprays", "Counted sprays"))),),
    conditions=(
        Condition("tray_m2", "Tray", "centimeter**2", 1200, 20, 100, 20000),
        Condition("dose_m3", "Water in one shower", "milliliter", 200, 10, 10, 5000),
        Condition(
            "dose_se_m3", "Uncertainty of a shower", "milliliter", 4, 0, 0, 500, when=("dosing", "jug")
        ),
        Condition("sprays", "Sprays in one shower", "dimensionless", 100, 0, 1, 2000, when=SPRAYS),
        Condition(
            "squeeze_m3",
            "One spray gives",
            "milliliter",
            2,
            0.1,
            0.01,
            50,
            "from the rig check: fills of ten sprays",
            when=SPRAYS,
        ),
        Condition("squeeze_se_m3", "Uncertainty of one spray", "milliliter", 0.05, 0, 0, 10, when=SPRAYS),
        Condition("drop_m", "Sprayer above the tray", "centimeter", 60, 5, 5, 300),
    ),
    criteria=(Condition("pass_share", "Share to catch", "percent", 20, 0, 1, 100),),
    places=(
        Place("funnel", "Funnel", "leads drops into the store", ("wax_paper", "plastic_bag", "foil", "card")),
        Place("apron", "Apron", "gathers from beside the mouth", ("cling_film", "foil", "plastic_bag")),
        Place("store", "Store", "keeps the water", ("bottle_plastic", "plastic_bag", "card")),
        Place("lining", "Lining", "keeps the store from soaking", ("cling_film", "plastic_bag")),
        Place("seal", "Seal", "closes the joints", ("clear_tape", "clay")),
    ),
    factors=(
        Factor("mouth_m", "Mouth, across", "centimeter", 12, 4, 30, 1),
        Factor("apron_m", "Apron, width", "centimeter", 6, 0, 20, 1),
        Factor("slope_deg", "Slope", "degree", 30, 0, 60, 5),
        Factor("rim_m", "Rim", "centimeter", 2, 0, 8, 0.5),
        Factor("store_m", "Store, across", "centimeter", 8, 3, 20, 1),
        Factor("deep_m", "Store, depth", "centimeter", 6, 2, 20, 1),
    ),
    materials=(
        ("bottle_plastic", 2),
        ("plastic_bag", 2),
        ("cling_film", 2),
        ("foil", 2),
        ("card", 2),
        ("wax_paper", 2),
        ("cotton", 1),
        ("leaves", 4),
        ("moss", 4),
        ("craft_stick", 6),
        ("clay", 2),
        ("clear_tape", 4),
    ),
    schools=(
        raw("Most caught", "The share of all water that was caught counts.", Term("efficiency", "percent")),
        thrift("The share caught minus one for every unit used.", Term("efficiency", "percent")),
        green("The share caught minus impact points.", Term("efficiency", "percent")),
        race("The least water lost past the collector.", Term("wasted", "milliliter")),
        passed_then(
            "Ten for catching enough, then one for every ten percent still there at the leak check.",
            Term("kept", "percent", 1.0, 10.0),
        ),
        progress(Term("efficiency", "percent")),
    ),
    observations=(
        Observation("splash", "Drops jumped out", "What did the drop hit, and which way did it go?"),
        Observation("beside", "Water fell beside it", "What could lead it in?"),
        Observation("soaked", "It soaked up the water", "Where is the water now?"),
        Observation("leaked", "It leaked", "Where did the first drop come out?"),
        Observation("overflow", "It ran over", "What is larger, what comes in or what it holds?"),
        Observation("sagged", "It sagged under the water", "How heavy is the water in it?"),
        Observation("toppled", "It toppled", "Where is its weight when it is half full?"),
    ),
    cautions=(
        Caution("Wet floors are slippery: wipe up at once.", adult=True),
        Caution("Water that stood in a collector is not for drinking."),
        Caution("Keep water away from fans, lamps and cords."),
        Caution("Knives and cut plastic edges: an adult cuts, edges are taped.", adult=True),
    ),
    defaults={
        "6-8": BriefDefault(
            "The cistern is nearly empty and a shower is coming. Can you catch the rain?",
            "There is water in your store.",
            "progress",
            attempts=2,
        ),
        "9-12": BriefDefault(
            "Fill the cistern: build a collector that gathers as much of a shower as it can and keeps it.",
            "The largest share of the shower.",
            "raw",
        ),
        "13-16": BriefDefault(
            "A week without rain is forecast after tomorrow's showers. Design a collector, say "
            "what share it gathers, from how far beyond its mouth, and what it loses.",
            "Share caught, less impact.",
            "green",
            limits=0.75,
        ),
    },
    prediction="efficiency",
    suggest=suggest,
    pictures=(
        Picture("water", "Caught and lost", "stack", metrics=("caught", "wasted"), tones=("water", "lost")),
        Picture("showers", "Every shower", "strips", read="caught_m3"),
    ),
    efficiency="efficiency",
    later=STORED,
    doubt_later=doubt_later,
    complete=complete,
    calibrate=calibrate,
    fit=fit,
    hints=rain_hints,
    draw=draw_rain,
    simulate=simulate,
    repeats=each_attempt,
    bench=Bench(
        fit_s=30,
        run_s=60,
        reset_s=60,
        kit=(
            Need("Tray, 30 cm by 40 cm", 1, "class", 0),
            Need("Sprayer", 1, "class", 1.0),
            Need("Measuring cylinder, 250 mL", 1, "class", 1.0),
            Need("Cloth", 2, "class", 0),
            Need("Bucket", 1, "class", 0),
        ),
        checks=(
            RigCheck(
                "dose",
                "The jug gives the same water twice.",
                "milliliter",
                ("first", "again"),
                5.0,
                when=("dosing", "jug"),
            ),
            RigCheck(
                "sprays",
                "Ten sprays into the cylinder give the same water each time.",
                "milliliter",
                ("first ten", "next ten", "last ten"),
                2.0,
                sets="squeeze_m3",
                when=SPRAYS,
            ),
            RigCheck("level", "The tray stands level."),
            RigCheck("cords", "No cord or plug within reach of the water."),
        ),
        techniques=(
            "Spray evenly over the whole tray: rows, then columns.",
            "Read the cylinder at the bottom of the curve, eyes level with it.",
        ),
        waiting=(
            "Draw where each drop goes after it lands.",
            "Predict the share that the next collector will catch.",
        ),
    ),
)
