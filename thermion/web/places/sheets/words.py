"""What stands on the sheets; for the young in few and simple words."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime

from thermion.core.kinds.base import Kind
from thermion.core.kinds.testing import Reads
from thermion.core.physics.materials import MATERIALS, unit_beside
from thermion.core.physics.units import Setting
from thermion.core.planning.schedule import Block
from thermion.core.plans import Offer
from thermion.records.planning.briefs import Brief
from thermion.web.components.words import count

YOUNG = {
    "success": "You did it when",
    "known": "We know",
    "fixed": "The same for all",
    "score": "How we score",
    "materials": "You may use",
    "most": "So many",
    "plan": "Our idea",
    "arrows": "Draw an arrow to each part. What is it made of?",
    "prediction": "What will happen?",
    "because": "I think so because",
    "reflection": "What did we learn?",
    "safety": "Stay safe",
}
OLDER = {
    "success": "Success",
    "known": "Found before",
    "fixed": "Held fixed for everyone",
    "score": "Score",
    "materials": "Materials",
    "most": "At most",
    "plan": "Plan",
    "arrows": "Arrows name the material and its form (flat, folded, rolled, crumpled, shredded) at each place: ",
    "prediction": "Prediction",
    "because": "Because",
    "reflection": "Reflection",
    "safety": "Safety",
}
QUESTIONS = (
    ("What was predicted, and what happened?", 3),
    ("Which part of the build does what: gathers, keeps, carries?", 3),
    ("What was changed, one thing at a time, and what did it do?", 3),
    ("Who gave the idea that helped (a team)?", 2),
    ("Which question did the test leave open?", 2),
    ("Where does the classroom model differ from the real thing?", 2),
)
YOUNG_QUESTIONS = ("This worked", "This did not work", "Next time we will")


@dataclass(frozen=True)
class Offered:
    """A material on the sheet: its name, unit, how much of it, and points for one."""

    name: str
    unit: str
    most: str
    points: str


def offered(offer: Offer, setting: Setting) -> Offered:
    material = MATERIALS[offer.material]
    most = "free" if offer.limit is None else setting.typed(offer.limit, "dimensionless")
    points = setting.typed(offer.points, "dimensionless")
    return Offered(material.name, unit_beside(material.name, material.unit), most, points)


def words_for(young: bool, kind: Kind) -> dict[str, str]:
    """The words of the sheets for an age."""
    if young:
        return YOUNG
    places = ", ".join(place.label for place in kind.build.places).lower()
    return {**OLDER, "arrows": f"{OLDER['arrows']}{places}."}


def views_of(kind: Kind) -> tuple[str, str]:
    """From where a build is drawn."""
    return ("From the front" if kind.test.held == "turns" else "From above"), "From the side"


def attempts_each(brief: Brief, attempts: int) -> str:
    return "" if brief.kind.test.held == "marks" else f"{count(attempts, 'attempt')} each."


def with_unit(label: str, unit: str, setting: Setting) -> str:
    shown = setting.label(unit)
    return f"{label} ({shown})" if shown else label


def reading_heading(phase: str, read: Reads, setting: Setting) -> str:
    """Above a grid: what is read at which minute."""
    if read.words:
        scale = ", ".join(f"{i} {word}" for i, word in enumerate(read.words))
        return f"{phase} at minute: {scale}"
    unit = setting.label(read.unit)
    return f"{phase}: {read.label.lower()}{f' in {unit}' if unit else ''} at minute"


def seen(brief: Brief) -> str:
    said = ", ".join(o.seen.lower() for o in brief.kind.test.observations)
    return f"Seen: {said}. A build that did nothing gets a 0, not a blank."


def lesson(number: int, start: datetime, end: datetime) -> str:
    return f"Lesson {number}: {start:%A} {start.day} {start:%B}, {start:%H:%M}–{end:%H:%M}"


def step(block: Block, title: str, label: str) -> str:
    """A step in the plan of the week."""
    line = f"{title}: {label.lower()}"
    return f"{line} (goes on next lesson)" if block.goes_on else line


def waiting(title: str, lines: Sequence[str]) -> str:
    return f"{title}: {lines[0]}" if lines else ""
