"""How a rain catch is tested: what is read, what is seen and asked, kit and checks."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from thermion.core.kinds.rain_catch.analysis import STEP_M3
from thermion.core.kinds.rain_catch.brief import SPRAYS
from thermion.core.kinds.testing import (
    COUNTER,
    Bench,
    Gauge,
    Need,
    Observation,
    ReadLater,
    Reads,
    RigCheck,
    Technique,
    Testing,
)
from thermion.core.kinds.trials import Attempt
from thermion.core.physics.heat import MELTWATER_KG_M3
from thermion.core.physics.rain import squeeze_volume
from thermion.core.values import Check

SQUEEZES = 10  # in each fill of the check that tells what one spray gives


STORED = Reads(
    key="store", label="Leak check: water in the store", unit="milliliter", low=0, high=5000, resolution=1
)


def complete(values: Mapping[str, float], conditions: Mapping[str, float]) -> dict[str, float]:
    """Counted sprays are water: their number times what one gives [m³]."""
    out = dict(values)
    if "sprays" in out:
        out["poured_m3"] = out["sprays"] * conditions.get("squeeze_m3", 2e-6)
    return out


def squeeze_of(readings: Sequence[float]) -> dict[str, float]:
    """What one spray gives [m³] from fills of ten sprays each [m³], and its uncertainty."""
    if not readings or min(readings) <= 0:
        return {}
    found = squeeze_volume(readings, SQUEEZES, resolution=STEP_M3)
    return {"squeeze_m3": found.value or 0.0, "squeeze_se_m3": found.se or 0.0}


def weighed_water(mass_kg: float, _: Mapping[str, float]) -> float:
    """Water [m³] by its mass: 1 g is 1 mL."""
    return mass_kg / MELTWATER_KG_M3


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


def suggest(
    attempts: Sequence[Attempt], conditions: Mapping[str, float], choices: Mapping[str, str]
) -> tuple[dict[str, float], str]:
    """Each shower is dosed like the one before, or as the brief says."""
    last = attempts[-1].values if attempts else {}
    sprays = last.get("sprays", conditions.get("sprays", 100.0))
    return {"poured_m3": last.get("poured_m3", conditions.get("dose_m3", 2e-4)), "sprays": sprays}, ""


TEST = Testing(
    shape="turns",
    reads=(
        Reads(
            key="poured_m3",
            label="Water in",
            unit="milliliter",
            low=1,
            high=5000,
            resolution=1,
            when=("dosing", "jug"),
        ),
        Reads(
            key="sprays",
            label="Sprays",
            unit="dimensionless",
            low=1,
            high=2000,
            resolution=1,
            whole=True,
            things=("spray", "sprays"),
            gauges=(COUNTER,),
            when=SPRAYS,
        ),
        Reads(
            key="caught_m3",
            label="Water caught",
            unit="milliliter",
            low=0,
            high=5000,
            resolution=1,
            scale="jug",
            limit="dose_m3",
            within="poured_m3",
            zero=True,
            gauges=(
                Gauge(label="balance", unit="kilogram", of=weighed_water),
                Gauge(label="measure", unit="meter**3"),
            ),
        ),
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
    suggest=suggest,
    later=ReadLater(STORED, doubt_later),
    complete=complete,
    bench=Bench(
        fit_s=30,
        run_s=60,
        reset_s=60,
        kit=(
            Need(item="Tray, 30 cm by 40 cm", quantity=1, per="class", spare=0),
            Need(item="Sprayer", quantity=1, per="class", spare=1.0, when=SPRAYS),
            Need(item="Jug to pour from", quantity=1, per="class", spare=0, when=("dosing", "jug")),
            Need(item="Measuring cylinder, 250 mL", quantity=1, per="class", spare=1.0),
            Need(item="Cloth", quantity=2, per="class", spare=0),
            Need(item="Bucket", quantity=1, per="class", spare=0),
        ),
        checks=(
            RigCheck(
                key="dose",
                text="The jug gives the same water twice.",
                unit="milliliter",
                readings=("first", "again"),
                agree=5.0,
                when=("dosing", "jug"),
            ),
            RigCheck(
                key="sprays",
                text="Ten sprays into the cylinder give the same water each time.",
                unit="milliliter",
                readings=("first ten", "next ten", "last ten"),
                agree=2.0,
                sets=squeeze_of,
                when=SPRAYS,
            ),
            RigCheck(key="level", text="The tray stands level."),
            RigCheck(key="cords", text="No cord or plug within reach of the water."),
        ),
        techniques=(
            Technique("Spray evenly over the whole tray: rows, then columns."),
            Technique("Read the cylinder at the bottom of the curve, eyes level with it."),
        ),
        waiting=(
            "Draw where each drop goes after it lands.",
            "Predict the share that the next collector will catch.",
        ),
    ),
)
