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
    in_short="A collector gathers sprinkled water and keeps it. "
    "A sprayer, a tray, a jug; wet hands and a turn of three minutes.",
    choices=(
        Choice("dosing", "A shower is", (("jug", "Poured from a jug"), ("sprays", "Counted sprays"))),
        several_runs(),
    ),
    conditions=(
        Condition(
            key="tray_m2",
            label="Tray",
            unit="centimeter**2",
            default=1200,
            tolerance=20,
            low=100,
            high=20000,
            young="Everyone has the same tray.",
        ),
        Condition(
            key="dose_m3",
            label="Water in one shower",
            unit="milliliter",
            default=200,
            tolerance=10,
            low=10,
            high=5000,
            young="Everyone gets the same rain.",
        ),
        Condition(
            key="dose_se_m3",
            label="Uncertainty of a shower",
            unit="milliliter",
            default=6,
            tolerance=0,
            low=0,
            high=500,
            when=("dosing", "jug"),
            older=True,
        ),
        Condition(
            key="sprays",
            label="Sprays in one shower",
            unit="dimensionless",
            default=100,
            tolerance=0,
            low=1,
            high=2000,
            when=SPRAYS,
            young="Everyone gets the same number of sprays.",
        ),
        Condition(
            key="squeeze_m3",
            label="One spray gives",
            unit="milliliter",
            default=2,
            tolerance=0.1,
            low=0.01,
            high=50,
            hint="from the rig check: fills of ten sprays",
            when=SPRAYS,
        ),
        Condition(
            key="squeeze_se_m3",
            label="Uncertainty of one spray",
            unit="milliliter",
            default=0.05,
            tolerance=0,
            low=0,
            high=10,
            when=SPRAYS,
            older=True,
        ),
        Condition(
            key="drop_m",
            label="Sprayer or jug above the tray",
            unit="centimeter",
            default=60,
            tolerance=5,
            low=5,
            high=300,
            young="The rain falls from the same height.",
            safe={"6-8": 120, "9-12": 150, "13-16": 200},
        ),
    ),
    criteria=(
        Condition(
            key="pass_share", label="Share to catch", unit="percent", default=20, tolerance=0, low=1, high=100
        ),
    ),
    instruments=(Instrument(key="jug", label="Measuring jug", unit="milliliter", step=1),),
    schools=(
        raw(
            "Most caught",
            "The share of all water that was caught counts.",
            Term(metric="efficiency", unit="percent"),
        ),
        thrift("The share caught minus one for every unit used.", Term(metric="efficiency", unit="percent")),
        green("The share caught minus impact points.", Term(metric="efficiency", unit="percent")),
        race("The least water lost past the collector.", Term(metric="wasted", unit="milliliter")),
        passed_then(
            "Ten for catching enough, then one for every ten percent still there at the leak check.",
            Term(metric="kept", unit="percent", weight=1.0, divisor=10.0),
        ),
        progress(Term(metric="efficiency", unit="percent")),
    ),
    cautions=(
        Caution(text="Wet floors are slippery: wipe up at once.", young="Wipe up water at once.", adult=True),
        Caution(text="Water that stood in a collector is not for drinking."),
        Caution(text="Keep water away from fans, lamps and cords."),
        Caution(
            text="Knives and cut plastic edges: an adult cuts, edges are taped.",
            young="A grown-up cuts the plastic.",
            adult=True,
        ),
    ),
    defaults={
        "6-8": BriefDefault(
            story="The cistern is nearly empty and a shower is coming. Can you catch the rain?",
            success="There is water in your store.",
            school="progress",
            attempts=2,
        ),
        "9-12": BriefDefault(
            story="Fill the cistern: build a collector that gathers as much of a shower as it can and keeps it.",
            success="The largest share of the shower.",
            school="raw",
        ),
        "13-16": BriefDefault(
            story="A week without rain is forecast after tomorrow's showers. Design a collector, say "
            "what share it gathers, from how far beyond its mouth, and what it loses.",
            success="Share caught, less impact.",
            school="green",
            limits=0.75,
        ),
    },
)
