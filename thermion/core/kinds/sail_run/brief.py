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
    in_short="A sail drives a trolley along a track. One fan, a track of two metres, a ruler; a turn takes a minute.",
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
            key="wind_m_s",
            label="Wind at the start line",
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
            label="Fan to the start line",
            unit="centimeter",
            default=40,
            tolerance=2,
            low=5,
            high=300,
            young="The fan stays where it is.",
        ),
        Condition(
            key="hub_m",
            label="Middle of the fan above the track",
            unit="centimeter",
            default=15,
            tolerance=2,
            low=0,
            high=150,
        ),
        Condition(
            key="track_m",
            label="Track",
            unit="centimeter",
            default=240,
            tolerance=1,
            low=50,
            high=2000,
            young="Everyone uses the same track.",
        ),
        Condition(
            key="trolley_kg",
            label="Trolley without sail",
            unit="gram",
            default=150,
            tolerance=5,
            low=10,
            high=5000,
            young="Everyone uses the same trolley.",
            safe={"6-8": 500, "9-12": 1000, "13-16": 2000},
        ),
    ),
    criteria=(
        Condition(
            key="pass_m", label="Line to cross", unit="centimeter", default=60, tolerance=0, low=10, high=2000
        ),
    ),
    instruments=(
        Instrument(key="rule", label="Rule beside the track", unit="centimeter", step=1),
        Instrument(key="stopwatch", label="Stopwatch in the hand", unit="second", step=0, off=0.2),
    ),
    schools=(
        raw(
            "Furthest",
            "The share of the track counts. All at the end stop share the place: Race tells them by time.",
            Term(metric="share", unit="percent"),
        ),
        thrift("The share of the track minus one for every unit used.", Term(metric="share", unit="percent")),
        green("The share of the track minus impact points.", Term(metric="share", unit="percent")),
        race("The shortest time to the end stop.", Term(metric="time_end", unit="second")),
        passed_then(
            "Ten for crossing the line, then one for every ten percent of the track.",
            Term(metric="share", unit="percent", weight=1.0, divisor=10.0),
        ),
        progress(Term(metric="share", unit="percent")),
    ),
    cautions=(
        Caution(text="Fan: guard on, cord out of the way, never near water; intake free."),
        Caution(
            text="Stand behind the line: nobody beside the track while it runs.",
            young="Stand behind the line.",
            adult=True,
        ),
        Caution(
            text="Scissors and hot glue: an adult helps, or stands beside.",
            young="A grown-up helps with scissors and glue.",
            adult=True,
        ),
        Caution(text="Power off before anyone touches the rig."),
    ),
    defaults={
        "6-8": BriefDefault(
            story="The causeway is flooded and the mail trolley has only the wind. Which sail takes it across?",
            success="The trolley goes further than before.",
            school="progress",
            attempts=2,
        ),
        "9-12": BriefDefault(
            story="Cross the causeway: fit the mail trolley with a sail that takes it as far along the "
            "rail as the wind will.",
            success="The furthest along the rail.",
            school="raw",
        ),
        "13-16": BriefDefault(
            story="The causeway trolley must cross on wind alone. Design the sail, measure its thrust, "
            "and weigh it against what it costs the island.",
            success="Share of the track, less impact.",
            school="green",
            limits=0.75,
        ),
    },
)
