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
    in_short="A box gathers light and keeps its heat. "
    "Sun or a lamp for each, a thermometer in each; two half hours of reading.",
    choices=(Choice("heat_source", "Heat source", (("sun", "Sun"), ("lamp", "Lamp"))), several_runs()),
    conditions=(
        Condition(
            key="aperture_m2",
            label="Window area",
            unit="centimeter**2",
            default=900,
            tolerance=10,
            low=50,
            high=5000,
            hint="the same opening for every team",
            young="Every box has the same window.",
        ),
        Condition(
            key="load_kg",
            label="Water in the mug",
            unit="gram",
            default=150,
            tolerance=5,
            low=0,
            high=2000,
            hint="0 g for air only",
            young="Every mug has the same water.",
        ),
        Condition(
            key="start_c",
            label="Start temperature",
            unit="degC",
            default=20,
            tolerance=2,
            low=0,
            high=45,
            actual=True,
            young="All mugs start equally cool.",
        ),
        Condition(
            key="air_c",
            label="Air outside the boxes",
            unit="degC",
            default=20,
            tolerance=3,
            low=-20,
            high=45,
            actual=True,
            measured=0.5,
            estimated=1.0,
        ),
        Condition(
            key="irradiance_w_m2",
            label="Light on a level window",
            unit="watt/meter**2",
            default=800,
            tolerance=80,
            low=0,
            high=1400,
            hint="a clear noon in summer is about 900",
            actual=True,
            measured=0.05,
            estimated=0.10,
            relative=True,
            instead=(("heat_source", "lamp"), "Light of the lamp on the window", "only a meter can tell"),
            older=True,
        ),
        Condition(
            key="sun_deg",
            label="Sun above the horizon",
            unit="degree",
            default=50,
            tolerance=8,
            low=5,
            high=90,
            when=("heat_source", "sun"),
            actual=True,
            young="All boxes stand in the same sun.",
        ),
        Condition(
            key="sky",
            label="Sky",
            unit="dimensionless",
            default=0,
            tolerance=0.5,
            low=0,
            high=3,
            when=("heat_source", "sun"),
            actual=True,
            words=SKIES,
        ),
        Condition(
            key="lamp_m",
            label="Lamp above the window",
            unit="centimeter",
            default=30,
            tolerance=1,
            low=10,
            high=150,
            when=("heat_source", "lamp"),
            young="All lamps hang at the same height.",
            safe={"6-8": 30, "9-12": 25, "13-16": 20},
            safe_is="least",
        ),
    ),
    criteria=(
        Condition(
            key="level_c",
            label="Level to reach",
            unit="degC",
            default=50,
            tolerance=0,
            low=25,
            high=150,
            safe={"6-8": 60, "9-12": None},
        ),
        Condition(
            key="fall_k",
            label="Held until it has fallen by",
            unit="delta_degC",
            default=10,
            tolerance=0,
            low=1,
            high=60,
        ),
        Condition(
            key="lost_min",
            label="Loss is read after",
            unit="minute",
            default=10,
            tolerance=0,
            low=1,
            high=120,
        ),
    ),
    instruments=(
        Instrument(
            key="thermometer",
            label="Thermometer",
            unit="delta_degC",
            step=0.5,
            off=0.5,
            hint="0.5 off unless checked in one glass",
        ),
        Instrument(key="scale", label="Kitchen scale", unit="gram", step=1),
    ),
    schools=(
        raw(
            "Hottest wins", "The highest temperature counts, nothing else.", Term(metric="peak", unit="degC")
        ),
        thrift("The highest temperature minus one for every unit used.", Term(metric="peak", unit="degC")),
        green(
            "Rise plus minutes held minus impact points.",
            Term(metric="rise", unit="delta_degC"),
            Term(metric="held", unit="minute"),
        ),
        race("The fewest minutes to the level.", Term(metric="to_level", unit="minute")),
        passed_then(
            "Ten for reaching the level, then one for every minute held.", Term(metric="held", unit="minute")
        ),
        progress(Term(metric="peak", unit="degC")),
    ),
    capped_by={"held": "cooling"},
    cautions=(
        Caution(
            text="Never look at the sun or at its reflection; aim reflectors away from people.",
            when=("heat_source", "sun"),
        ),
        Caution(
            text="Shade eyes and use sun cream; the ground and metal parts get hot.",
            when=("heat_source", "sun"),
        ),
        Caution(
            text="The lamp is hot: keep paper away, mind the cord, never leave it alone.",
            adult=True,
            when=("heat_source", "lamp"),
        ),
        Caution(
            text="Hot air, mug and window when a box is opened: gloves, face to the side.",
            young="A grown-up opens the hot box.",
            adult=True,
        ),
        Caution(
            text="Knives and hot glue: an adult cuts, or stands beside; mat and metal ruler.", adult=True
        ),
        Caution(text="Food from a low-temperature oven may not be safe to eat; taste nothing raw."),
    ),
    defaults={
        "6-8": BriefDefault(
            story="The lighthouse has no power. Can a box warm the keeper's supper with light alone?",
            success="The mug gets warm.",
            school="progress",
            limits=1.0,
            marks=2.0,
        ),
        "9-12": BriefDefault(
            story="The generator is off for a week. Build a box that warms the keeper's mug of water "
            "with light alone, and keeps it warm when the light goes.",
            success="The hottest mug.",
            school="raw",
        ),
        "13-16": BriefDefault(
            story="With the generator down, the relief crew must heat water by light alone. Design "
            "a collector that reaches the level soonest, holds it longest and spends least.",
            success="Rise and holding, less what it costs the island.",
            school="green",
            limits=0.75,
        ),
    },
    sun=("heat_source", "sun"),
)
