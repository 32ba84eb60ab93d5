"""What the brief says of itself."""

from __future__ import annotations

from thermion.core.kinds.briefing import Instrument
from thermion.records.planning.briefs import Brief
from thermion.records.running.rig import EACH
from thermion.records.tables import Challenge
from thermion.web.components.frame import day
from thermion.web.components.words import count


def readings_each(marks: int) -> str:
    return f"{count(marks, 'reading')} of each build"


def safety_read(challenge: Challenge, zone: str) -> str:
    """Whether the cautions were read with the class, and when."""
    if challenge.cautions_seen_at is None:
        return "Not yet read with the class."
    return f"Read with the class on {day(challenge.cautions_seen_at, zone)}."


def safety_go(challenge: Challenge) -> str:
    return "Seen, on to the builds" if challenge.cautions_seen_at else "Read with the class"


def instrument_hint(instrument: Instrument, brief: Brief) -> str:
    """What the check of the rig puts in its place."""
    shared = any(check.readings == (EACH,) for check in brief.kind.test.checks_for(brief.choices))
    if instrument.key == "thermometer" and shared:
        return "after the check in one glass, what that found counts instead"
    return brief.setting.in_class(instrument.hint)


def yardstick(brief: Brief) -> str:
    """What makes second versions comparable with first ones, however the days differ."""
    either = " or the control" if brief.kind.test.control else ""
    return (
        f"For second versions: let one build{either} stay unchanged and run it beside the new ones. What the day "
        "itself did is then taken out of every gain."
    )
