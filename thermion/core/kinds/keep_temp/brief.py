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
    several_runs,
)
from thermion.core.kinds.schools import green, passed_then, progress, race, raw, thrift

ICE = ("measure", "volume", "height", "mass", "left")  # the ways of reading ice


DRINK = ("measure", "temp")


BRIEF = Briefing(
    asks="A jar wrapped so that ice stays or a drink keeps warm. "
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
            "started_kg",
            "Ice at the start",
            "gram",
            100,
            5,
            5,
            2000,
            when=ICE,
            young="Every jar gets the same ice.",
        ),
        Condition(
            "ice_c",
            "Ice at the start",
            "degC",
            0,
            1,
            -30,
            0,
            "0 when it is wet and drips; from the freezer about −18",
            when=ICE,
        ),
        Condition(
            "load_kg",
            "Drink in the jar",
            "gram",
            200,
            5,
            10,
            2000,
            when=DRINK,
            young="Every jar gets the same drink.",
        ),
        Condition(
            "drink_c",
            "Drink at the start",
            "degC",
            60,
            2,
            20,
            60,
            when=DRINK,
            actual=True,
            young="The drink is warm, never hot.",
            safe={"6-8": 45, "9-12": 50, "13-16": 60},
        ),
        Condition(
            "air_c",
            "Air in the room",
            "degC",
            22,
            1.5,
            -20,
            45,
            actual=True,
            measured=0.5,
            estimated=1.0,
            young="All jars stand in the same room.",
        ),
        Condition(
            "room_m",
            "Most room around the jar",
            "centimeter",
            3,
            0,
            0.5,
            15,
            young="Nobody's wrap is thicker than the ring.",
        ),
        Condition(
            "cup_bottom_m",
            "Cup, across the bottom inside",
            "millimeter",
            50,
            1,
            10,
            300,
            when=("measure", "height"),
        ),
        Condition(
            "cup_top_m",
            "Cup, across the rim inside",
            "millimeter",
            70,
            1,
            10,
            300,
            when=("measure", "height"),
        ),
        Condition(
            "cup_height_m", "Cup, height inside", "millimeter", 90, 1, 10, 300, when=("measure", "height")
        ),
    ),
    criteria=(
        Condition("pass_left", "Ice to keep", "percent", 75, 0, 1, 100, when=ICE),
        Condition("lost_min", "Loss is read after", "minute", 30, 0, 1, 240, when=DRINK),
        Condition("fall_k", "Held until it has fallen by", "delta_degC", 10, 0, 1, 60, when=DRINK),
        Condition("pass_min", "Minutes to hold", "minute", 20, 0, 1, 240, when=DRINK),
        Condition("later_min", "Expected after", "minute", 60, 0, 1, 600, when=DRINK),
    ),
    instruments=(
        Instrument(
            "thermometer", "Thermometer", "delta_degC", 0.5, 0.5, hint="0.5 off unless checked in one glass"
        ),
        Instrument("jug", "Measuring jug", "milliliter", 1, when=("measure", "volume")),
        Instrument("ruler", "Ruler", "millimeter", 1, when=("measure", "height")),
        Instrument("scale", "Kitchen scale", "gram", 1),
    ),
    schools=(
        raw("Least melted", "The share of the ice that is left counts.", Term("left", "percent"), when=ICE),
        raw(
            "Least lost",
            "The fewest degrees lost in the set time.",
            Term("lost", "delta_degC"),
            better="lower",
            when=DRINK,
        ),
        thrift("The share of the ice left minus one for every unit used.", Term("left", "percent"), when=ICE),
        thrift("Minutes held minus one for every unit used.", Term("held", "minute"), when=DRINK),
        green("The share of the ice left minus impact points.", Term("left", "percent"), when=ICE),
        green("Minutes held minus impact points.", Term("held", "minute"), when=DRINK),
        race("The last to be melted at this rate.", Term("to_all", "minute"), better="higher", when=ICE),
        race("The last to have fallen so far.", Term("held", "minute"), better="higher", when=DRINK),
        passed_then(
            "Ten for keeping enough, then one for every ten percent of the ice left.",
            Term("left", "percent", 1.0, 10.0),
            when=ICE,
        ),
        passed_then(
            "Ten for holding long enough, then one for every five minutes held.",
            Term("held", "minute", 1.0, 5.0),
            when=DRINK,
        ),
        progress(Term("left", "percent"), when=ICE),
        progress(Term("held", "minute"), when=DRINK),
    ),
    capped_by={"held": "standing"},
    cautions=(
        Caution("Hot water: an adult pours.", adult=True, limit_of="drink_c", when=DRINK),
        Caution("Hot containers and steam: lids away from the face.", when=DRINK),
        Caution("Ice makes floors wet: wipe up at once.", when=ICE),
        Caution("Knives and hot glue: an adult cuts, or stands beside.", adult=True),
        Caution("Nothing from the test is eaten or drunk."),
    ),
    defaults={
        "6-8": BriefDefault(
            "The bait must stay cold until the boat comes. Can you wrap the jar so that the ice lasts?",
            "There is still ice in the jar.",
            "progress",
            marks=2.0,
        ),
        "9-12": BriefDefault(
            "Save the bait: the cold store is off. Wrap a jar so that as little of its ice melts as can be.",
            "The most ice left, with the fewest units.",
            "thrift",
        ),
        "13-16": BriefDefault(
            "The cold store is off for a week. Design a jacket, find its resistance to heat, and "
            "say how long the bait would last.",
            "Ice left, less impact.",
            "green",
            limits=0.75,
        ),
    },
)
