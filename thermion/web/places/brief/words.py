"""What the brief says of itself."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

from thermion.core.ages import reader
from thermion.core.kinds.briefing import Instrument
from thermion.core.physics.materials import MATERIALS
from thermion.core.planning.difficulty import Setup
from thermion.core.plans import Offer
from thermion.records.planning.briefs import Brief
from thermion.records.tables import Challenge
from thermion.web.components.frame import day
from thermion.web.components.words import count


def readings_each(marks: int) -> str:
    return f"{count(marks, 'reading')} of each build"


@dataclass(frozen=True)
class Turned:
    """One thing that a turn of the dial changes."""

    what: str
    now: str
    then: str


def turned(now: Setup, then: Setup, brief: Brief) -> list[Turned]:
    """What would be different, in the order of the brief."""
    write, kind = brief.setting.typed, brief.kind
    schools = {s.key: s.label for s in kind.brief.schools_for(brief.choices)}
    rows = [
        Turned("Words and sheets", reader(now.words).words, reader(then.words).words),
        Turned("Story", now.story, then.story),
        Turned("Success", now.success, then.success),
        Turned("Attempts each", str(now.attempts), str(then.attempts))
        if kind.test.shape != "marks"
        else None,
        *(
            Turned(
                f"Read: {p.label.lower()}",
                *(readings_each(len(m.get(p.key, ()))) for m in (now.marks, then.marks)),
            )
            for p in kind.test.phases
        ),
        Turned("Score", schools.get(now.school, "own rule"), schools.get(then.school, "own rule")),
        *(
            Turned(MATERIALS[m].name, *(_most(x[m], write) for x in (now.limits, then.limits)))
            for m in now.limits
        ),
        *(
            Turned(c.label, *(brief.setting.show(x[c.key], c.unit) for x in (now.rig, then.rig)))
            for c in (*kind.brief.settings(brief.choices), *kind.brief.levels(brief.choices))
            if c.key in now.rig
        ),
    ]
    return [row for row in rows if row is not None and row.now != row.then]


def _most(limit: float | None, write: Callable[[float, str], str]) -> str:
    return "as they like" if limit is None else f"at most {write(limit, 'dimensionless')}"


def on_rung(offers: Sequence[Offer], then: Sequence[Offer]) -> list[str]:
    """What teams on a rung may use instead, as it is kept now."""
    changed = [(a, b) for a, b in zip(offers, then, strict=True) if a.limit != b.limit]
    return [f"{MATERIALS[a.material].name}: {b.limit:g} instead of {a.limit:g}" for a, b in changed]


def same_for_all(brief: Brief) -> str:
    """What no rung touches, so that results stay on one scale."""
    read = "the minutes at which it is read" if brief.kind.test.shape == "marks" else "the attempts"
    return f"The test is the same for all: what is held fixed, {read}, and what is better. Results stay comparable."


def safety_read(challenge: Challenge, zone: str) -> str:
    """Whether the cautions were read with the class, and when."""
    if challenge.cautions_seen_at is None:
        return "Not yet read with the class."
    return f"Read with the class on {day(challenge.cautions_seen_at, zone)}."


def safety_go(challenge: Challenge) -> str:
    return "Seen, on to the builds" if challenge.cautions_seen_at else "I have read this with my class"


def instrument_hint(instrument: Instrument, brief: Brief) -> str:
    """What the check of the rig puts in its place."""
    shared = any(check.of_thermometers for check in brief.kind.test.checks_for(brief.choices))
    if instrument.key == "thermometer" and shared:
        return "replaced by the check in one glass of water once you have done it"
    return brief.setting.in_class(instrument.hint)


def yardstick(brief: Brief) -> str:
    """What makes second versions comparable with first ones, however the days differ."""
    either = " or the control" if brief.kind.test.control else ""
    return (
        f"For second versions: let one build{either} stay unchanged and run it beside the new ones. What the day "
        "itself did is then taken out of every gain."
    )
