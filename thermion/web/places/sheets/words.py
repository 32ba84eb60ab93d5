"""What stands on the sheets; for the young in few and simple words."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime

from thermion.core.ages import AgeBand, in_order, reader, said_to
from thermion.core.judging.findings import Findings
from thermion.core.judging.scoring import TermValue
from thermion.core.kinds.base import Kind
from thermion.core.kinds.briefing import School
from thermion.core.kinds.testing import Reads
from thermion.core.physics.materials import MATERIALS, alike, unit_beside
from thermion.core.physics.units import Setting
from thermion.core.planning.kit import Line
from thermion.core.planning.schedule import Block
from thermion.core.plans import Offer
from thermion.core.values import Figure
from thermion.records.planning.briefs import Brief
from thermion.web.components.words import count, units_words
from thermion.web.pictures.figures import figure_words

YOUNG = {
    "success": "You did it when",
    "aim": "And also",
    "known": "We know",
    "fixed": "The same for all",
    "score": "How we look at it",
    "materials": "You may use",
    "most": "So many",
    "plan": "Our idea",
    "arrows": "Draw an arrow to each part. What is it made of?",
    "prediction": "What will happen?",
    "because": "I think so because",
    "reflection": "What we learned",
    "safety": "Stay safe",
    "parts": "Its parts",
    "data": "What happened",
}
OLDER = {
    "success": "Success",
    "aim": "One aim more",
    "known": "Found before",
    "fixed": "Held fixed for everyone",
    "score": "Score",
    "materials": "Materials",
    "most": "At most",
    "plan": "Plan",
    "arrows": "Arrows name the material and its form (flat, folded, rolled, crumpled, shredded) at each place.",
    "prediction": "Prediction",
    "because": "Because",
    "reflection": "Reflection",
    "safety": "Safety",
    "parts": "Its parts and their names",
    "data": "Data",
}
OLDEST = {
    **OLDER,
    "fixed": "Held constant",
    "because": "Because (which transfer, gain or loss)",
    "arrows": "Label material, form and dimension at each place; say what each is for.",
}
WORDS = in_order((YOUNG, OLDER, OLDEST))


def circumstances(brief: Brief) -> str:
    """What is written at the top of a sheet for readings: the sky only where it matters."""
    return "Sky, place" if brief.kind.brief.under_the_sun(brief.choices) else "Anything unusual"


QUESTIONS = (
    ("What was predicted, and what happened?", 3),
    ("Which part of the build does what: gathers, keeps, carries?", 3),
    ("What was changed, one thing at a time, and what did it do?", 3),
    ("Who gave the idea that helped (a team)?", 2),
    ("Which question did the test leave open?", 2),
    ("Where does the classroom model differ from the real thing?", 2),
)
OLDEST_QUESTIONS = (
    ("Prediction and result, with units. How many times your uncertainty apart are they?", 3),
    ("Write out the arithmetic of your score.", 3),
    ("What was changed since the version before, what did it do, and how sure is that?", 3),
    ("Where did most of the energy (or water) go that you did not get? How do you know?", 3),
    ("What in the test was not held constant, and which way does it push the result?", 2),
    ("Where does the model differ from the real thing when it is ten times as large?", 2),
)
YOUNG_QUESTIONS = ("This worked", "This did not work", "Next time we will")


@dataclass(frozen=True, kw_only=True)
class Offered:
    """A material on the sheet: its name, unit, how much of it, and points for one."""

    name: str
    unit: str
    most: str
    points: str
    swatch: str
    dots: str


def offered(offer: Offer, setting: Setting) -> Offered:
    material = MATERIALS[offer.material]
    most = "free" if offer.limit is None else setting.typed(offer.limit, "dimensionless")
    points = setting.typed(offer.points, "dimensionless")
    unit = unit_beside(material.name, material.unit)
    return Offered(
        name=material.name, unit=unit, most=most, points=points, swatch=material.swatch, dots=dots(offer)
    )


def questions(age: AgeBand) -> tuple[tuple[str, int], ...]:
    """What a team thinks about afterwards, and lines to write on; the young draw."""
    return OLDEST_QUESTIONS if reader(age).symbols else QUESTIONS


def looked_at(school: School | None, age: AgeBand) -> str:
    """How it is scored, as that age reads it."""
    if reader(age).plain:
        return "We look at what each team made better."
    return school.sentence if school else "By our own rule, see the board."


def dots(offer: Offer) -> str:
    """So many of it, to be counted with a finger."""
    if offer.limit is None:
        return "as you like"
    return (
        "●" * int(offer.limit)
        if offer.limit <= 12 and offer.limit == int(offer.limit)
        else f"{offer.limit:g}"
    )


def round_steps(brief: Brief, minutes: Sequence[str]) -> list[str]:
    """How a test goes, step by step, for whoever stands at it."""
    if brief.kind.test.shape == "marks":
        read = brief.kind.test.grid_read(brief.choices)
        by_eye = "Look from the side. Nothing is touched or moved."
        probe = "The probe goes in before the first mark and is not moved again."
        alike = "Every build is read in the same way, by the same hand."
        how = by_eye if read and read.words else probe if read and read.unit == "degC" else alike
        return [
            "One carries, one reads, one writes.",
            how,
            "Read the builds in the order in which they stand, each at its mark.",
            f"Marks at minute {', '.join(minutes)}." if minutes else "Marks as on the data sheet.",
            "A missed mark stays empty. A doubtful value is read again at once.",
        ]
    if brief.kind.test.shape == "races":
        return [
            "Cool the probe and dry it.",
            "Wait until it shows the common start.",
            "Put it on the sample: that moment starts the clock.",
            "Stop at the target. Write the time down at once.",
            "A false start is no race: cool the probe and begin again.",
        ]
    return [
        "The next team fits its build; the one after makes ready.",
        "Clear the air: nobody stands beside or behind.",
        "Run it once. Nothing is touched until it has stopped.",
        "Write the result down, and what was seen. Nothing moved is a 0, not a blank.",
        "Ask one question, then the next team.",
    ]


def instead(offer: Offer) -> tuple[str, str]:
    """A material and what would do at home."""
    material = MATERIALS[offer.material]
    return material.name, " or ".join(m.name.lower() for m in alike(material.key))


def stands(item: Line) -> str:
    """Something of the kit, with how many."""
    amount = units_words(round(item.needed), item.unit) if item.unit else f"{item.needed:.0f}"
    return f"{item.item}: {amount}"


def views_of(kind: Kind) -> list[str]:
    """From where a build is drawn."""
    return [view.name for view in kind.build.draw(kind.build.usual(), kind.brief.default_rig()).views][:2]


def attempts_each(brief: Brief, attempts: int) -> str:
    return "" if brief.kind.test.shape == "marks" else f"{count(attempts, 'attempt')} each."


def with_unit(label: str, unit: str, setting: Setting) -> str:
    shown = setting.label(unit)
    return f"{label} ({shown})" if shown else label


def ringed(label: str) -> str:
    return f"{label}: put a ring round it"


def reading_heading(phase: str, read: Reads, setting: Setting) -> str:
    """Above a grid: what is read at which minute."""
    if read.words:
        scale = ", ".join(f"{i} {word}" for i, word in enumerate(read.words))
        return f"{phase} at minute: {scale}"
    unit = setting.label(read.unit)
    return f"{phase}: {read.label.lower()}{f' in {unit}' if unit else ''} at minute"


def seen(brief: Brief) -> str:
    said = ", ".join(o.seen.lower() for o in brief.kind.test.observations if o.offered)
    return f"Seen: {said}. A build that did nothing gets a 0, not a blank."


def lesson(number: int, start: datetime, end: datetime) -> str:
    return f"Lesson {number}: {start:%A} {start.day} {start:%B}, {start:%H:%M}–{end:%H:%M}"


def step(block: Block, title: str, label: str) -> str:
    """A step in the plan of the week."""
    line = f"{title}: {label.lower()}"
    return f"{line} (goes on next lesson)" if block.goes_on else line


def waiting(title: str, lines: Sequence[str]) -> str:
    return f"{title}: {lines[0]}" if lines else ""


LOOK_FOR: Mapping[AgeBand, tuple[str, ...]] = {
    "6-8": ("Which part is clever?", "What would you ask?", "What would you change?", "What is new for you?"),
    "9-12": (
        "Which part gathers, which part keeps?",
        "Where is a joint that could be better?",
        "Which material would you not have thought of?",
        "What would you try next with it?",
    ),
    "13-16": (
        "Which factor differs most from yours, and did it matter?",
        "Where does this design lose most?",
        "What does its score hide?",
        "Which single change would tell most?",
    ),
}


def look_for(place: int, age: AgeBand) -> str:
    """One thing to look for at a place: another one at the next."""
    asks = said_to(age, LOOK_FOR)
    return asks[place % len(asks)]


def on_offer(offer: Offer) -> str:
    """A material to tick on a half-sheet."""
    return MATERIALS[offer.material].name


def card_lines(found: Findings | None, team_id: int, brief: Brief, *, young: bool) -> list[str]:
    """What came out of a team's newest tested version, and how its score adds up."""
    newest = found.latest().get(team_id) if found is not None else None
    if newest is None:
        return ["Not tested yet."]
    metric = brief.kind.analysis.headline_for(brief.choices)[0]
    out = [f"{metric.label}: {figure_words(newest.figures.get(metric.key, Figure()), metric, brief)}"]
    if not young and newest.score.total is not None and len(newest.score.terms) > 1:
        terms = " ".join(_counted(line, brief) for line in newest.score.terms)
        out.append(f"{terms.removeprefix('+ ')} = {brief.setting.write(newest.score.total, 1)} points")
    return out


def _counted(line: TermValue, brief: Brief) -> str:
    """A term of a score as it is added: “− 6.0 material units”."""
    sign = "−" if (line.contribution or 0.0) < 0 else "+"
    label = brief.kind.analysis.metric(line.term.metric).label.lower()
    return f"{sign} {brief.setting.write(abs(line.contribution or 0.0), 1)} ({label})"
