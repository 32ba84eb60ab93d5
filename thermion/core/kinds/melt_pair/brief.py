"""What the brief of a melt pair asks: conditions, levels, ways of scoring, cautions, stories."""

from __future__ import annotations

from thermion.core.kinds.briefing import (
    SKIES,
    BriefDefault,
    Briefing,
    Caution,
    Choice,
    Condition,
    Term,
    several_runs,
)
from thermion.core.kinds.schools import green, passed_then, progress, race, raw, thrift

BRIEF = Briefing(
    asks="One device melts a sample, the other keeps it solid. "
    "Sun, warm air or lamps; eyes that judge every five minutes.",
    choices=(
        Choice("heat_source", "Heat source", (("sun", "Sun"), ("lamp", "Lamp"))),
        Choice(
            "pair",
            "The two devices",
            (
                ("stock", "One stock for both"),
                ("own", "A stock for each"),
                ("open", "One stock, the slow one has an open side"),
                ("joined", "One stock, the two share a wall"),
            ),
        ),
        several_runs(),
    ),
    conditions=(
        Condition("sample_kg", "One sample", "gram", 5, 0.5, 1, 200, young="All cubes are the same size."),
        Condition(
            "start_c",
            "Samples at the start",
            "degC",
            18,
            2,
            -20,
            22,
            actual=True,
            young="All cubes come from the same cold place.",
        ),
        Condition("air_c", "Air", "degC", 28, 2, -10, 45, actual=True, young="All stand in the same place."),
        Condition(
            "irradiance_w_m2",
            "Light on the samples",
            "watt/meter**2",
            600,
            80,
            0,
            1400,
            "a clear noon in summer is about 900",
            actual=True,
            instead=(("heat_source", "lamp"), "Light of the lamp on the samples", "only a meter can tell"),
            older=True,
        ),
        Condition(
            "sky", "Sky", "dimensionless", 0, 0.5, 0, 3, when=("heat_source", "sun"), actual=True, words=SKIES
        ),
        Condition("solidus_c", "Sample begins to melt at", "degC", 22, 0, -10, 60),
        Condition(
            "liquidus_c",
            "Sample is all melted at",
            "degC",
            26,
            0,
            -9,
            70,
            safe={"6-8": 40, "9-12": 50, "13-16": 60},
        ),
        Condition(
            "open_sides",
            "Sides of the slow one that stay open",
            "dimensionless",
            1,
            0,
            1,
            2,
            when=("pair", "open"),
        ),
        Condition(
            "shared_walls", "Walls that the two share", "dimensionless", 1, 0, 1, 1, when=("pair", "joined")
        ),
        Condition(
            "lamp_m",
            "Lamp above the samples",
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
        Condition("stage", "Stage that counts, 1 glossy to 4 liquid", "dimensionless", 3, 0, 1, 4),
        Condition("pass_beats", "Devices that must beat the control", "dimensionless", 2, 0, 1, 2),
    ),
    schools=(
        raw(
            "Both beat the control",
            "One for each device that beat the control by more than one check.",
            Term("beats", "dimensionless"),
        ),
        thrift(
            "Ten for each device that beat the control, minus one for every unit used.",
            Term("beats", "dimensionless", 10.0),
        ),
        green(
            "Ten for each device that beat the control, minus impact points.",
            Term("beats", "dimensionless", 10.0),
        ),
        race("The slow device that got to the stage last.", Term("slow", "minute"), better="higher"),
        passed_then(
            "Ten for beating the control, then one for each device that did.", Term("beats", "dimensionless")
        ),
        progress(Term("beats", "dimensionless")),
    ),
    cautions=(
        Caution(
            "Never look at the sun or at its reflection; reflectors point away from people.",
            when=("heat_source", "sun"),
        ),
        Caution("Hot ground outdoors: shoes on; sun cream and water.", when=("heat_source", "sun")),
        Caution(
            "The lamp is hot: keep paper away, mind the cord, never leave it alone.",
            adult=True,
            when=("heat_source", "lamp"),
        ),
        Caution("Samples are not for eating; ask about allergies before choosing one.", adult=True),
        Caution("Melted fat makes floors slippery: wipe up at once."),
        Caution("Knives: an adult cuts the samples.", adult=True),
    ),
    defaults={
        "6-8": BriefDefault(
            "One cube should run, one should stay hard. Can you build a warm place and a cool place?",
            "One melts first, one melts last.",
            "progress",
            marks=2.0,
        ),
        "9-12": BriefDefault(
            "Soft and hard: from the same stock build one place that melts a cube of coconut oil "
            "fast, and one that keeps it solid.",
            "Both do better than the control.",
            "raw",
        ),
        "13-16": BriefDefault(
            "The keeper needs soft oil for the lamp and hard oil for the store. From one shared "
            "stock design both, and say by how much each beats the control.",
            "Both beat the control, at little cost.",
            "green",
            limits=0.75,
        ),
    },
    sun=("heat_source", "sun"),
)
