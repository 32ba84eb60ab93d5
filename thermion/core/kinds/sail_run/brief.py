"""What the brief of a sail run asks: conditions, levels, ways of scoring, cautions, stories."""

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

BRIEF = Briefing(
    asks="A sail drives a trolley along a track. One fan, a track of two metres, a ruler; a turn takes a minute.",
    choices=(
        Choice(
            "counts",
            "Of the attempts in one test, what counts is",
            (("best", "the best"), ("median", "the middle one"), ("last", "the last")),
            scores=True,
        ),
        several_runs("best"),
    ),
    conditions=(
        Condition(
            "wind_m_s",
            "Wind at the start line",
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
            "fan_m", "Fan to the start line", "centimeter", 40, 2, 5, 300, young="The fan stays where it is."
        ),
        Condition("hub_m", "Middle of the fan above the track", "centimeter", 15, 2, 0, 150),
        Condition("track_m", "Track", "centimeter", 240, 1, 50, 2000, young="Everyone uses the same track."),
        Condition(
            "trolley_kg",
            "Trolley without sail",
            "gram",
            150,
            5,
            10,
            5000,
            young="Everyone uses the same trolley.",
            safe={"6-8": 500, "9-12": 1000, "13-16": 2000},
        ),
    ),
    criteria=(Condition("pass_m", "Line to cross", "centimeter", 60, 0, 10, 2000),),
    instruments=(
        Instrument("rule", "Rule beside the track", "centimeter", 1),
        Instrument("stopwatch", "Stopwatch in the hand", "second", 0, 0.2),
    ),
    schools=(
        raw(
            "Furthest",
            "The share of the track counts. All at the end stop share the place: Race tells them by time.",
            Term("share", "percent"),
        ),
        thrift("The share of the track minus one for every unit used.", Term("share", "percent")),
        green("The share of the track minus impact points.", Term("share", "percent")),
        race("The shortest time to the end stop.", Term("time_end", "second")),
        passed_then(
            "Ten for crossing the line, then one for every ten percent of the track.",
            Term("share", "percent", 1.0, 10.0),
        ),
        progress(Term("share", "percent")),
    ),
    cautions=(
        Caution("Fan: guard on, cord out of the way, never near water; intake free."),
        Caution("Stand behind the line: nobody beside the track while it runs.", adult=True),
        Caution("Scissors and hot glue: an adult helps, or stands beside.", adult=True),
        Caution("Power off before anyone touches the rig."),
    ),
    defaults={
        "6-8": BriefDefault(
            "The causeway is flooded and the mail trolley has only the wind. Which sail takes it across?",
            "The trolley goes further than before.",
            "progress",
            attempts=2,
        ),
        "9-12": BriefDefault(
            "Cross the causeway: fit the mail trolley with a sail that takes it as far along the "
            "rail as the wind will.",
            "The furthest along the rail.",
            "raw",
        ),
        "13-16": BriefDefault(
            "The causeway trolley must cross on wind alone. Design the sail, measure its thrust, "
            "and weigh it against what it costs the island.",
            "Share of the track, less impact.",
            "green",
            limits=0.75,
        ),
    },
)
