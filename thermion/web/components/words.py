"""Sentences that many pages say."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import timedelta

from thermion.core.kinds.briefing import Condition, Term
from thermion.core.physics.units import unit_label
from thermion.records.planning.briefs import Brief
from thermion.records.running.clock_set import ClockQuestion
from thermion.records.running.runs import Going

STATES = {"draft": "draft", "waiting": "waits for check", "signed": "signed off", "issued": "issued"}

RUNG_NAMES = {"easier": "easier", "harder": "harder"}
RUNG_SHARES: Mapping[float, str] = {
    0.5: "half as many",
    0.75: "three quarters",
    1.0: "as many",
    1.5: "half as many again",
    2.0: "twice as many",
}

# Sentences of the tray; what stands in braces is filled in there, of two the first is for one.
TRAY: Mapping[str, str | list[str]] = {
    "away": [
        "No connection: {n} entry waits on this device and will be sent. Go on.",
        "No connection: {n} entries wait on this device and will be sent. Go on.",
    ],
    "away_only": "No connection to Thermion. Go on: what you type waits on this device. Clocks go on.",
    "trouble": [
        "Thermion is there but could not store: {n} entry waits on this device. {said}",
        "Thermion is there but could not store: {n} entries wait on this device. {said}",
    ],
    "trouble_only": "Thermion is there, but something is wrong. {said}",
    "door": [
        "This device has to join again with a code: {n} entry waits here until then.",
        "This device has to join again with a code: {n} entries wait here until then.",
    ],
    "door_only": "This device has to join again with a code.",
    "refused": [
        "{where}: “{typed}” was not stored. {why}",
        "{n} entries were not stored. {where}: “{typed}”. {why}",
    ],
    "foreign": [
        "{n} entry on this device belongs to other data than those at this address; it is not sent here.",
        "{n} entries on this device belong to other data than those at this address; they are not sent here.",
    ],
    "blocked": (
        "This browser keeps nothing (a private window, or its storage is full): what you type is sent at once. "
        "Leave this page open while there is no connection."
    ),
    "waits": "Waits to be sent.",
}


def count(number: float, one: str, many: str = "") -> str:
    """“1 turn”, “2 turns”: a number with the thing counted."""
    shown = f"{number:g}"
    return f"{shown} {one}" if number == 1 else f"{shown} {many or one + 's'}"


def listed(names: Sequence[str], last: str = " and ") -> str:
    """“A”, “A and B”, “A, B and C”."""
    return names[0] if len(names) == 1 else f"{', '.join(names[:-1])}{last}{names[-1]}"


def units_words(units: float, unit: str) -> str:
    """“2 strips of 50 cm”: so many units of a material; nothing where its unit has no name."""
    one, _, rest = unit.partition(" ")
    return count(units, unit, f"{one}s {rest}".strip()) if unit else ""


def minutes(number: int) -> str:
    return f"{number} min"


def bell_ends(time: str, class_name: str) -> str:
    """When the bell rings; with the class on a page that is not of it."""
    return f"to the bell at {time}{f' ({class_name})' if class_name else ''}"


def clock_off(off: timedelta) -> str:
    """What to know when this computer's clock was set while a run is on; "" when it was not."""
    seconds = abs(off.total_seconds())
    if not seconds:
        return ""
    by = f"{seconds:.0f} s" if seconds < 90 else f"{seconds / 60:.0f} min"
    if seconds > 3 * 3600:
        by = f"{seconds / 3600:.1f} hours"
    way = "ahead of" if off.total_seconds() > 0 else "behind"
    return f"This computer's clock is {by} {way} the clock of the runs, which go on as before."


@dataclass(frozen=True)
class ClockAsked:
    """A question about a clock that was set, and its answers: (what is sent, its key's label)."""

    asks: str
    ways: tuple[tuple[str, str], ...]


def clock_asked(found: ClockQuestion) -> ClockAsked:
    """For how long has the test been on?"""
    ways = [("went", on_for(found.went_s))]
    if found.stood_s is not None and on_for(found.stood_s) != on_for(found.went_s):
        ways.append(("stood", on_for(found.stood_s)))
    return ClockAsked(f"If it is right now: how long has {found.title} been on?", tuple(ways))


def on_for(seconds: float) -> str:
    """“11 min”, “1 h 11 min”."""
    hours, rest = divmod(int(seconds // 60), 60)
    return f"{hours} h {rest} min" if hours else f"{rest} min"


def still_fits(fits: str) -> str:
    return f"until packing up; {fits}" if fits else "until packing up"


def going(run: Going) -> str:
    """A run that goes on elsewhere."""
    if run.shape == "marks":
        return f"{run.title}, minute {int(run.since_s // 60)}"
    return f"{run.title}, turns"


def not_stored(fields: int) -> str:
    """Above a form with fields to look at again."""
    return f"Not stored yet: {count(fields, 'field needs', 'fields need')} another look. What you typed is still here."


def condition_words(condition: Condition, brief: Brief) -> tuple[str, str]:
    """A condition of a brief and its value."""
    shown = brief.setting.typed(brief.values[condition.key], condition.unit, 2)
    return condition.label, f"{shown} {brief.setting.label(condition.unit)}".rstrip()


def rule_words(terms: Sequence[Term], brief: Brief) -> str:
    """A rule as a sum of what it counts."""
    out = ""
    for term in terms:
        name = brief.kind.analysis.metric(term.metric).label.lower()
        most = f" (at most {brief.setting.typed(term.cap, 'dimensionless')})" if term.cap else ""
        sign = "− " if term.weight < 0 else ("+ " if out else "")
        out += f"{sign}{name} in {unit_label(term.unit)}{most} "
    return out.strip()
