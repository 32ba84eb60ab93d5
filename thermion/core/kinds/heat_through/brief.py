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
    asks="Which material lets heat through? "
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
            "source_c",
            "Heat pad",
            "degC",
            45,
            1,
            25,
            55,
            actual=True,
            young="The pad is warm, never hot.",
            safe={"6-8": 45, "9-12": 50, "13-16": 55},
        ),
        Condition(
            "start_c",
            "Common start of the probe",
            "degC",
            20,
            0.5,
            0,
            35,
            actual=True,
            young="The thermometer starts cool every time.",
        ),
    ),
    criteria=(
        Condition("target_c", "Target of the probe", "degC", 35, 0, 10, 54),
        Condition("pass_s", "Mark to meet", "second", 60, 0, 1, 600),
    ),
    instruments=(
        Instrument("thermometer", "Probe", "delta_degC", 0.1, 0.5),
        Instrument("stopwatch", "Stopwatch in the hand", "second", 0, 0.3),
    ),
    schools=(
        raw(
            "Slowest",
            "The longest time to the target: the best insulator.",
            Term("time", "second"),
            when=SLOW,
        ),
        raw(
            "Fastest",
            "The shortest time to the target: the best conductor.",
            Term("time", "second"),
            better="lower",
            when=FAST,
        ),
        thrift("Seconds to the target minus one for every piece used.", Term("time", "second"), when=SLOW),
        green(
            "Times as long as bare, in tenths, minus impact points.",
            Term("index", "dimensionless", 10.0),
            when=SLOW,
        ),
        race("The last probe at the target.", Term("time", "second"), better="higher", when=SLOW),
        race("The first probe at the target.", Term("time", "second"), when=FAST),
        passed_then(
            "Ten for meeting the mark, then one for every ten seconds.",
            Term("time", "second", 1.0, 10.0),
            when=SLOW,
        ),
        passed_then(
            "Ten for meeting the mark, less one for every ten seconds.",
            Term("time", "second", -1.0, 10.0),
            when=FAST,
        ),
        progress(Term("time", "second")),
    ),
    cautions=(
        Caution("Heat pad: not on the skin for long, never cut open, flat on the table.", adult=True),
        Caution("Cord and water apart; switch off before touching the clamp.", adult=True),
        Caution("Sharp edges of cut metal are taped by an adult.", adult=True),
    ),
    defaults={
        "6-8": BriefDefault(
            "Which stuff keeps the warmth away the longest? Guess first, then see.",
            "You can say which one was slowest.",
            "progress",
            marks=3.0,
        ),
        "9-12": BriefDefault(
            "What lets heat through? Race the island's materials, one by one, to find what holds "
            "heat back for the keeper's oven.",
            "The slowest sample, measured fairly.",
            "raw",
        ),
        "13-16": BriefDefault(
            "The oven, the bait and the lamp oil all need the right material. Measure how much "
            "longer each sample takes than the bare probe, and say how sure you are.",
            "Times as long as bare, at little cost.",
            "green",
        ),
    },
)
