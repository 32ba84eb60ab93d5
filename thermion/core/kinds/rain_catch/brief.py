"""What the brief of a rain catch asks: conditions, levels, ways of scoring, cautions, stories."""

from __future__ import annotations

from thermion.core.kinds.briefing import (
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

SPRAYS = ("dosing", "sprays")


BRIEF = Briefing(
    asks="A collector gathers sprinkled water and keeps it. "
    "A sprayer, a tray, a jug; wet hands and a turn of three minutes.",
    choices=(
        Choice("dosing", "A shower is", (("jug", "Poured from a jug"), ("sprays", "Counted sprays"))),
        several_runs(),
    ),
    conditions=(
        Condition(
            "tray_m2", "Tray", "centimeter**2", 1200, 20, 100, 20000, young="Everyone has the same tray."
        ),
        Condition(
            "dose_m3",
            "Water in one shower",
            "milliliter",
            200,
            10,
            10,
            5000,
            young="Everyone gets the same rain.",
        ),
        Condition(
            "dose_se_m3",
            "Uncertainty of a shower",
            "milliliter",
            6,
            0,
            0,
            500,
            when=("dosing", "jug"),
            older=True,
        ),
        Condition(
            "sprays",
            "Sprays in one shower",
            "dimensionless",
            100,
            0,
            1,
            2000,
            when=SPRAYS,
            young="Everyone gets the same number of sprays.",
        ),
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
        Condition(
            "squeeze_se_m3", "Uncertainty of one spray", "milliliter", 0.05, 0, 0, 10, when=SPRAYS, older=True
        ),
        Condition(
            "drop_m",
            "Sprayer above the tray",
            "centimeter",
            60,
            5,
            5,
            300,
            young="The rain falls from the same height.",
            safe={"6-8": 120, "9-12": 150, "13-16": 200},
        ),
    ),
    criteria=(Condition("pass_share", "Share to catch", "percent", 20, 0, 1, 100),),
    instruments=(Instrument("jug", "Measuring jug", "milliliter", 1),),
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
)
