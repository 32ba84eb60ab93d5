"""What the brief of a solar oven asks: conditions, levels, ways of scoring, cautions, stories."""

from __future__ import annotations

from thermion.core.kinds.briefing import (
    SKIES,
    BriefDefault,
    Briefing,
    Caution,
    Choice,
    Condition,
    Instrument,
    Term,
    several_runs,
)
from thermion.core.kinds.schools import green, passed_then, progress, race, raw, thrift

BRIEF = Briefing(
    asks="A box gathers light and keeps its heat. "
    "Sun or a lamp for each, a thermometer in each; two half hours of reading.",
    choices=(Choice("heat_source", "Heat source", (("sun", "Sun"), ("lamp", "Lamp"))), several_runs()),
    conditions=(
        Condition(
            "aperture_m2",
            "Window area",
            "centimeter**2",
            900,
            10,
            50,
            5000,
            "the same opening for every team",
            young="Every box has the same window.",
        ),
        Condition(
            "load_kg",
            "Water in the mug",
            "gram",
            150,
            5,
            0,
            2000,
            "0 g for air only",
            young="Every mug has the same water.",
        ),
        Condition(
            "start_c",
            "Start temperature",
            "degC",
            20,
            2,
            0,
            45,
            actual=True,
            young="All mugs start equally cool.",
        ),
        Condition(
            "air_c", "Air outside the boxes", "degC", 20, 3, -20, 45, actual=True, measured=0.5, estimated=1.0
        ),
        Condition(
            "irradiance_w_m2",
            "Light on a level window",
            "watt/meter**2",
            800,
            80,
            0,
            1400,
            "a clear noon in summer is about 900",
            actual=True,
            measured=0.05,
            estimated=0.10,
            relative=True,
            instead=(("heat_source", "lamp"), "Light of the lamp on the window", "only a meter can tell"),
            older=True,
        ),
        Condition(
            "sun_deg",
            "Sun above the horizon",
            "degree",
            50,
            8,
            5,
            90,
            when=("heat_source", "sun"),
            actual=True,
            young="All boxes stand in the same sun.",
        ),
        Condition(
            "sky", "Sky", "dimensionless", 0, 0.5, 0, 3, when=("heat_source", "sun"), actual=True, words=SKIES
        ),
        Condition(
            "lamp_m",
            "Lamp above the window",
            "centimeter",
            30,
            1,
            10,
            150,
            when=("heat_source", "lamp"),
            young="All lamps hang at the same height.",
            safe={"6-8": 30, "9-12": 25, "13-16": 20},
            safe_is="least",
        ),
    ),
    criteria=(
        Condition("level_c", "Level to reach", "degC", 50, 0, 25, 150, safe={"6-8": 60}),
        Condition("fall_k", "Held until it has fallen by", "delta_degC", 10, 0, 1, 60),
        Condition("lost_min", "Loss is read after", "minute", 10, 0, 1, 120),
    ),
    instruments=(
        Instrument(
            "thermometer", "Thermometer", "delta_degC", 0.5, 0.5, hint="0.5 off unless checked in one glass"
        ),
        Instrument("scale", "Kitchen scale", "gram", 1),
    ),
    schools=(
        raw("Hottest wins", "The highest temperature counts, nothing else.", Term("peak", "degC")),
        thrift("The highest temperature minus one for every unit used.", Term("peak", "degC")),
        green(
            "Rise plus minutes held minus impact points.", Term("rise", "delta_degC"), Term("held", "minute")
        ),
        race("The fewest minutes to the level.", Term("to_level", "minute")),
        passed_then("Ten for reaching the level, then one for every minute held.", Term("held", "minute")),
        progress(Term("peak", "degC")),
    ),
    capped_by={"held": "cooling"},
    cautions=(
        Caution(
            "Never look at the sun or at its reflection; aim reflectors away from people.",
            when=("heat_source", "sun"),
        ),
        Caution(
            "Shade eyes and use sun cream; the ground and metal parts get hot.", when=("heat_source", "sun")
        ),
        Caution(
            "The lamp is hot: keep paper away, mind the cord, never leave it alone.",
            adult=True,
            when=("heat_source", "lamp"),
        ),
        Caution("Hot air, mug and window when a box is opened: gloves, face to the side.", adult=True),
        Caution("Knives and hot glue: an adult cuts, or stands beside; mat and metal ruler.", adult=True),
        Caution("Food from a low-temperature oven may not be safe to eat; taste nothing raw."),
    ),
    defaults={
        "6-8": BriefDefault(
            "The lighthouse has no power. Can a box warm the keeper's supper with light alone?",
            "The mug gets warm.",
            "raw",
            limits=1.0,
            marks=2.0,
        ),
        "9-12": BriefDefault(
            "The generator is off for a week. Build a box that warms the keeper's mug of water "
            "with light alone, and keeps it warm when the light goes.",
            "The hottest mug, made with the fewest units.",
            "thrift",
        ),
        "13-16": BriefDefault(
            "With the generator down, the relief crew must heat water by light alone. Design "
            "a collector that reaches the level soonest, holds it longest and spends least.",
            "Rise and holding, less what it costs the island.",
            "green",
            limits=0.75,
        ),
    },
    sun=("heat_source", "sun"),
)
