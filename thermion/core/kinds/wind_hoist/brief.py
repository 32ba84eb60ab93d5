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
    in_short="A rotor winds up a cup of weights. "
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
        Condition(
            key="first_load",
            label="First load of the ladder",
            unit="dimensionless",
            default=1,
            tolerance=0,
            low=1,
            high=200,
            when=LADDER,
        ),
        Condition(
            key="step_load",
            label="Step of the ladder, weights",
            unit="dimensionless",
            default=2,
            tolerance=0,
            low=1,
            high=50,
            when=LADDER,
        ),
        Condition(
            key="wind_m_s",
            label="Wind at the hub",
            unit="meter/second",
            default=4.0,
            tolerance=0.3,
            low=0.5,
            high=12,
            actual=True,
            measured=0.15,
            estimated=0.3,
            young="The fan blows the same for all.",
            safe={"6-8": 6, "9-12": 8, "13-16": None},
        ),
        Condition(
            key="fan_m",
            label="Fan to rotor",
            unit="centimeter",
            default=100,
            tolerance=5,
            low=10,
            high=400,
            young="The fan stays where it is.",
            safe={"6-8": 40, "9-12": 20, "13-16": None},
            safe_is="least",
        ),
        Condition(
            key="hub_m",
            label="Hub above the bench",
            unit="centimeter",
            default=40,
            tolerance=2,
            low=5,
            high=200,
            hint="level with the middle of the fan",
        ),
        Condition(
            key="unit_kg",
            label="One weight",
            unit="gram",
            default=8.0,
            tolerance=0.2,
            low=0.2,
            high=500,
            young="All weights are the same.",
            safe={"6-8": 20, "9-12": 50, "13-16": 100},
        ),
        Condition(
            key="cup_kg", label="Cup and string", unit="gram", default=6.0, tolerance=1.0, low=0, high=500
        ),
        Condition(
            key="height_m",
            label="String to wind up",
            unit="centimeter",
            default=60,
            tolerance=1,
            low=10,
            high=300,
            young="The string is the same for all.",
        ),
        Condition(
            key="spool_m",
            label="Spool, across",
            unit="millimeter",
            default=10,
            tolerance=0.5,
            low=2,
            high=100,
        ),
        Condition(
            key="string_m",
            label="Thickness of the string",
            unit="millimeter",
            default=1,
            tolerance=0.5,
            low=0,
            high=10,
        ),
        Condition(
            key="weights",
            label="Weights we have",
            unit="dimensionless",
            default=24,
            tolerance=0,
            low=1,
            high=200,
            safe={"6-8": 40, "9-12": 60, "13-16": 100},
        ),
    ),
    criteria=(
        Condition(
            key="pass_load",
            label="Load to pass and to race with",
            unit="dimensionless",
            default=4,
            tolerance=0,
            low=1,
            high=200,
        ),
    ),
    instruments=(
        Instrument(key="ruler", label="Ruler behind the string", unit="centimeter", step=0.5),
        Instrument(key="stopwatch", label="Stopwatch in the hand", unit="second", step=0, off=0.2),
    ),
    schools=(
        raw(
            "Most carried",
            "The most weights lifted all the way count.",
            Term(metric="load", unit="dimensionless"),
        ),
        thrift(
            "The most weights lifted, minus one for every unit used.",
            Term(metric="load", unit="dimensionless"),
        ),
        green(
            "Most weights lifted and power in milliwatts, minus impact points.",
            Term(metric="load", unit="dimensionless"),
            Term(metric="power", unit="milliwatt", weight=0.5),
        ),
        race("The shortest time with the set load.", Term(metric="time", unit="second")),
        passed_then(
            "Ten for lifting the set load, then one for every weight lifted and one for "
            "every ten milliwatts.",
            Term(metric="load", unit="dimensionless"),
            Term(metric="power", unit="milliwatt", weight=1.0, divisor=10.0),
        ),
        progress(Term(metric="load", unit="dimensionless")),
    ),
    cautions=(
        Caution(
            text="Eye protection on while the rotor turns; stand to its side, tips covered, hair tied back.",
            adult=True,
        ),
        Caution(text="Fan: guard on, cord out of the way, never near water; intake free."),
        Caution(text="Power off before anyone touches the rig."),
        Caution(
            text="Knives and hot glue: an adult cuts, or stands beside; mat and metal ruler.", adult=True
        ),
        Caution(text="Dowel ends are covered; keep feet away from under the load."),
    ),
    defaults={
        "6-8": BriefDefault(
            story="The relief boat has brought stores, and the crane has no motor. Can the wind hoist a "
            "cup for you?",
            success="The cup goes up.",
            school="progress",
            attempts=2,
        ),
        "9-12": BriefDefault(
            story="Stores lie on the jetty and the generator is off. Build a rotor that winds up the "
            "string and lifts as many steel washers as it can.",
            success="The most washers lifted to the top.",
            school="raw",
        ),
        "13-16": BriefDefault(
            story="With the generator down, the jetty crane must run on wind. Design a rotor, find its "
            "limit, and say how much of the wind's power it takes.",
            success="Load and power, less what it costs the island.",
            school="green",
            limits=0.75,
            attempts=4,
        ),
    },
)
