"""What the brief of a wind hoist asks: conditions, levels, ways of scoring, cautions, stories."""

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

LADDER = ("loads", "ladder")


BRIEF = Briefing(
    asks="A rotor winds up a cup of weights. "
    "One fan, one stand, a stopwatch; a turn takes two minutes, the others wait.",
    choices=(
        Choice(
            "loads",
            "Loads to try",
            (("search", "Search for the limit"), ("ladder", "The same ladder for all")),
        ),
        several_runs("best"),
    ),
    conditions=(
        Condition("first_load", "First load of the ladder", "dimensionless", 1, 0, 1, 200, when=LADDER),
        Condition("step_load", "Step of the ladder, weights", "dimensionless", 2, 0, 1, 50, when=LADDER),
        Condition(
            "wind_m_s",
            "Wind at the hub",
            "meter/second",
            4.0,
            0.3,
            0.5,
            12,
            actual=True,
            measured=0.15,
            estimated=0.3,
            young="The fan blows the same for all.",
            safe={"6-8": 6, "9-12": 8},
        ),
        Condition(
            "fan_m",
            "Fan to rotor",
            "centimeter",
            100,
            5,
            10,
            400,
            young="The fan stays where it is.",
            safe={"6-8": 40, "9-12": 20},
            safe_is="least",
        ),
        Condition(
            "hub_m", "Hub above the bench", "centimeter", 40, 2, 5, 200, "level with the middle of the fan"
        ),
        Condition(
            "unit_kg",
            "One weight",
            "gram",
            8.0,
            0.2,
            0.2,
            500,
            young="All weights are the same.",
            safe={"6-8": 20, "9-12": 50, "13-16": 100},
        ),
        Condition("cup_kg", "Cup and string", "gram", 6.0, 1.0, 0, 500),
        Condition(
            "height_m",
            "String to wind up",
            "centimeter",
            60,
            1,
            10,
            300,
            young="The string is the same for all.",
        ),
        Condition("spool_m", "Spool, across", "millimeter", 10, 0.5, 2, 100),
        Condition("string_m", "String, thickness", "millimeter", 1, 0.5, 0, 10),
        Condition(
            "weights",
            "Weights there are",
            "dimensionless",
            24,
            0,
            1,
            200,
            safe={"6-8": 40, "9-12": 60, "13-16": 100},
        ),
    ),
    criteria=(Condition("pass_load", "Load to pass and to race with", "dimensionless", 4, 0, 1, 200),),
    instruments=(
        Instrument("ruler", "Ruler behind the string", "centimeter", 0.5),
        Instrument("stopwatch", "Stopwatch in the hand", "second", 0, 0.2),
    ),
    schools=(
        raw("Most carried", "The most weights lifted all the way count.", Term("load", "dimensionless")),
        thrift("The most weights lifted, minus one for every unit used.", Term("load", "dimensionless")),
        green(
            "Most weights lifted and power in milliwatts, minus impact points.",
            Term("load", "dimensionless"),
            Term("power", "milliwatt", 0.5),
        ),
        race("The shortest time with the set load.", Term("time", "second")),
        passed_then(
            "Ten for lifting the set load, then one for every weight lifted and one for "
            "every ten milliwatts.",
            Term("load", "dimensionless"),
            Term("power", "milliwatt", 1.0, 10.0),
        ),
        progress(Term("load", "dimensionless")),
    ),
    cautions=(
        Caution(
            "Eye protection on while the rotor turns; stand to its side, tips covered, hair tied back.",
            adult=True,
        ),
        Caution("Fan: guard on, cord out of the way, never near water; intake free."),
        Caution("Power off before anyone touches the rig."),
        Caution("Knives and hot glue: an adult cuts, or stands beside; mat and metal ruler.", adult=True),
        Caution("Dowel ends are covered; keep feet away from under the load."),
    ),
    defaults={
        "6-8": BriefDefault(
            "The relief boat has brought stores, and the crane has no motor. Can the wind hoist a "
            "cup for you?",
            "The cup goes up.",
            "progress",
            attempts=2,
        ),
        "9-12": BriefDefault(
            "Stores lie on the jetty and the generator is off. Build a rotor that winds up the "
            "string and lifts as many steel washers as it can.",
            "The most washers lifted to the top.",
            "raw",
        ),
        "13-16": BriefDefault(
            "With the generator down, the jetty crane must run on wind. Design a rotor, find its "
            "limit, and say how much of the wind's power it takes.",
            "Load and power, less what it costs the island.",
            "green",
            limits=0.75,
            attempts=4,
        ),
    },
)
