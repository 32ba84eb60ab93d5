"""What the brief of a heat-through race asks: conditions, levels, ways of scoring, cautions, stories."""

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

SLOW, FAST = ("question", "insulator"), ("question", "conductor")


BRIEF = Briefing(
    in_short="Which material lets heat through? "
    "A heat pad, a probe and a clock; each race takes some minutes, one after another.",
    choices=(
        Choice(
            "question",
            "What are we looking for?",
            (("insulator", "What holds heat back"), ("conductor", "What lets heat through")),
        ),
        several_runs(),
    ),
    conditions=(
        Condition(
            key="source_c",
            label="Heat pad",
            unit="degC",
            default=45,
            tolerance=1,
            low=25,
            high=55,
            actual=True,
            young="The pad is warm, never hot.",
            safe={"6-8": 45, "9-12": 50, "13-16": 55},
        ),
        Condition(
            key="start_c",
            label="Common start of the probe",
            unit="degC",
            default=20,
            tolerance=0.5,
            low=0,
            high=35,
            actual=True,
            young="The thermometer starts cool every time.",
        ),
    ),
    criteria=(
        Condition(
            key="target_c", label="Target of the probe", unit="degC", default=35, tolerance=0, low=10, high=54
        ),
        Condition(
            key="pass_s", label="Mark to meet", unit="second", default=60, tolerance=0, low=1, high=600
        ),
    ),
    instruments=(
        Instrument(key="thermometer", label="Probe", unit="delta_degC", step=0.1, off=0.5),
        Instrument(key="stopwatch", label="Stopwatch in the hand", unit="second", step=0, off=0.3),
    ),
    schools=(
        raw(
            "Slowest",
            "The longest time to the target: the best insulator.",
            Term(metric="time", unit="second"),
            when=SLOW,
        ),
        raw(
            "Fastest",
            "The shortest time to the target: the best conductor.",
            Term(metric="time", unit="second"),
            better="lower",
            when=FAST,
        ),
        thrift(
            "Seconds to the target minus one for every piece used.",
            Term(metric="time", unit="second"),
            when=SLOW,
        ),
        green(
            "Times as long as bare, in tenths, minus impact points.",
            Term(metric="index", unit="dimensionless", weight=10.0),
            when=SLOW,
        ),
        race("The last probe at the target.", Term(metric="time", unit="second"), better="higher", when=SLOW),
        race("The first probe at the target.", Term(metric="time", unit="second"), when=FAST),
        passed_then(
            "Ten for meeting the mark, then one for every ten seconds.",
            Term(metric="time", unit="second", weight=1.0, divisor=10.0),
            when=SLOW,
        ),
        passed_then(
            "Ten for meeting the mark, less one for every ten seconds.",
            Term(metric="time", unit="second", weight=-1.0, divisor=10.0),
            when=FAST,
        ),
        progress(Term(metric="time", unit="second")),
    ),
    cautions=(
        Caution(text="Heat pad: not on the skin for long, never cut open, flat on the table.", adult=True),
        Caution(
            text="Cord and water apart; switch off before touching the clamp.",
            young="A grown-up switches on and off.",
            adult=True,
        ),
        Caution(
            text="Sharp edges of cut metal are taped by an adult.",
            young="Do not touch the edges of metal.",
            adult=True,
        ),
    ),
    defaults={
        "6-8": BriefDefault(
            story="Which stuff keeps the warmth away the longest? Guess first, then see.",
            success="You can say which one was slowest.",
            school="progress",
            marks=3.0,
        ),
        "9-12": BriefDefault(
            story="What lets heat through? Race the island's materials, one by one, to find what holds "
            "heat back for the keeper's oven.",
            success="The slowest sample, measured fairly.",
            school="raw",
        ),
        "13-16": BriefDefault(
            story="The oven, the bait and the lamp oil all need the right material. Measure how much "
            "longer each sample takes than the bare probe, and say how sure you are.",
            success="Times as long as bare, at little cost.",
            school="green",
        ),
    },
)
