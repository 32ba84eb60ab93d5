"""What the brief of keeping cold or warm asks: conditions, levels, ways of scoring, cautions, stories."""

from __future__ import annotations

from thermion.core.kinds.briefing import (
    BriefDefault,
    Briefing,
    Caution,
    Choice,
    Condition,
    Instrument,
    Term,
    Told,
    several_runs,
)
from thermion.core.kinds.schools import green, passed_then, progress, race, raw, thrift

ICE = ("measure", "volume", "height", "mass", "left")  # the ways of reading ice


DRINK = ("measure", "temp")
MELTED = ("measure", "volume", "height", "mass")  # the water of the ice is read
LEVEL = ("measure", "volume", "height")


BRIEF = Briefing(
    in_short="A jar wrapped so that ice stays or a drink keeps warm. "
    "Ice or warm water, a jug or thermometers; half an hour of waiting.",
    choices=(
        Choice(
            "measure",
            "What is read",
            (
                ("volume", "Ice: water drained, in mL"),
                ("height", "Ice: water level in a cup"),
                ("mass", "Ice: water weighed"),
                ("left", "Ice: ice left, weighed"),
                ("temp", "Warm drink: temperature"),
            ),
        ),
        several_runs(),
    ),
    conditions=(
        Condition(
            key="started_kg",
            label="Ice at the start",
            unit="gram",
            default=100,
            tolerance=5,
            low=5,
            high=2000,
            when=ICE,
            young="Every jar gets the same ice.",
        ),
        Condition(
            key="ice_c",
            label="Ice at the start",
            unit="degC",
            default=0,
            tolerance=1,
            low=-30,
            high=0,
            hint="0 when it is wet and drips; from the freezer about −18",
            when=ICE,
        ),
        Condition(
            key="load_kg",
            label="Drink in the jar",
            unit="gram",
            default=200,
            tolerance=5,
            low=10,
            high=2000,
            when=DRINK,
            young="Every jar gets the same drink.",
        ),
        Condition(
            key="drink_c",
            label="Drink at the start",
            unit="degC",
            default=60,
            tolerance=2,
            low=20,
            high=60,
            when=DRINK,
            actual=True,
            young="The drink is warm, never hot.",
            safe={"6-8": 45, "9-12": 50, "13-16": 60},
        ),
        Condition(
            key="air_c",
            label="Air in the room",
            unit="degC",
            default=22,
            tolerance=1.5,
            low=-20,
            high=45,
            actual=True,
            measured=0.5,
            estimated=1.0,
            young="All jars stand in the same room.",
        ),
        Condition(
            key="room_m",
            label="Most room around the jar",
            unit="centimeter",
            default=3,
            tolerance=0,
            low=0.5,
            high=15,
            young="Nobody's wrap is thicker than the ring.",
        ),
        Condition(
            key="cup_bottom_m",
            label="Cup, across the bottom inside",
            unit="millimeter",
            default=50,
            tolerance=1,
            low=10,
            high=300,
            when=("measure", "height"),
        ),
        Condition(
            key="cup_top_m",
            label="Cup, across the rim inside",
            unit="millimeter",
            default=70,
            tolerance=1,
            low=10,
            high=300,
            when=("measure", "height"),
        ),
        Condition(
            key="cup_height_m",
            label="Cup, height inside",
            unit="millimeter",
            default=90,
            tolerance=1,
            low=10,
            high=300,
            when=("measure", "height"),
        ),
    ),
    criteria=(
        Condition(
            key="pass_left",
            label="Ice to keep",
            unit="percent",
            default=75,
            tolerance=0,
            low=1,
            high=100,
            when=ICE,
        ),
        Condition(
            key="lost_min",
            label="Loss is read after",
            unit="minute",
            default=30,
            tolerance=0,
            low=1,
            high=240,
            when=DRINK,
        ),
        Condition(
            key="fall_k",
            label="Held until it has fallen by",
            unit="delta_degC",
            default=10,
            tolerance=0,
            low=1,
            high=60,
            when=DRINK,
        ),
        Condition(
            key="pass_min",
            label="Minutes to hold",
            unit="minute",
            default=20,
            tolerance=0,
            low=1,
            high=240,
            when=DRINK,
        ),
        Condition(
            key="later_min",
            label="Expected after",
            unit="minute",
            default=60,
            tolerance=0,
            low=1,
            high=600,
            when=DRINK,
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
        Instrument(key="jug", label="Measuring jug", unit="milliliter", step=1, when=("measure", "volume")),
        Instrument(key="ruler", label="Ruler", unit="millimeter", step=1, when=("measure", "height")),
        Instrument(key="scale", label="Kitchen scale", unit="gram", step=1),
    ),
    schools=(
        raw(
            "Least melted",
            "The share of the ice that is left counts.",
            Term(metric="left", unit="percent"),
            when=ICE,
        ),
        raw(
            "Least lost",
            "The fewest degrees lost in the set time.",
            Term(metric="lost", unit="delta_degC"),
            better="lower",
            when=DRINK,
        ),
        thrift(
            "The share of the ice left minus one for every unit used.",
            Term(metric="left", unit="percent"),
            when=ICE,
        ),
        thrift("Minutes held minus one for every unit used.", Term(metric="held", unit="minute"), when=DRINK),
        green(
            "The share of the ice left minus impact points.", Term(metric="left", unit="percent"), when=ICE
        ),
        green("Minutes held minus impact points.", Term(metric="held", unit="minute"), when=DRINK),
        race(
            "The last to be melted at this rate.",
            Term(metric="to_all", unit="minute"),
            better="higher",
            when=ICE,
        ),
        race(
            "The last to have fallen so far.", Term(metric="held", unit="minute"), better="higher", when=DRINK
        ),
        passed_then(
            "Ten for keeping enough, then one for every ten percent of the ice left.",
            Term(metric="left", unit="percent", weight=1.0, divisor=10.0),
            when=ICE,
        ),
        passed_then(
            "Ten for holding long enough, then one for every five minutes held.",
            Term(metric="held", unit="minute", weight=1.0, divisor=5.0),
            when=DRINK,
        ),
        progress(Term(metric="left", unit="percent"), when=ICE),
        progress(Term(metric="held", unit="minute"), when=DRINK),
    ),
    capped_by={"held": "standing"},
    cautions=(
        Caution(
            text="Hot water: an adult pours.",
            young="A grown-up pours the warm water.",
            adult=True,
            limit_of="drink_c",
            when=DRINK,
        ),
        Caution(text="Hot containers and steam: lids away from the face.", when=DRINK),
        Caution(text="Ice makes floors wet: wipe up at once.", when=ICE),
        Caution(
            text="Knives and hot glue: an adult cuts, or stands beside.",
            young="A grown-up cuts and glues.",
            adult=True,
        ),
        Caution(text="Nothing from the test is eaten or drunk."),
    ),
    defaults={
        "6-8": BriefDefault(
            story="The bait must stay cold until the boat comes. Can you wrap the jar so that the ice lasts?",
            success="There is still ice in the jar.",
            school="progress",
            marks=2.0,
        ),
        "9-12": BriefDefault(
            story="Save the bait: the cold store is off. Wrap a jar so that as little of its ice melts as can be.",
            success="The most ice left.",
            school="raw",
        ),
        "13-16": BriefDefault(
            story="The cold store is off for a week. Design a jacket, find its resistance to heat, and "
            "say how long the bait would last.",
            success="Ice left, less impact.",
            school="green",
            limits=0.75,
        ),
    },
    told=(
        (
            DRINK,
            {
                "6-8": Told(
                    story="The keeper comes home cold. Can you wrap the jar so that the drink stays warm?",
                    success="The drink is still warm.",
                ),
                "9-12": Told(
                    story="The watch is long and the stove is off. Wrap a jar so that its drink stays warm as "
                    "long as can be.",
                    success="The drink that stays warm longest.",
                ),
                "13-16": Told(
                    story="The stove is off for a week. Design a jacket, find its resistance to heat, and say "
                    "how warm the drink would be an hour later.",
                    success="Minutes held, less impact.",
                ),
            },
        ),
    ),
)
