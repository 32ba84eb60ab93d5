"""What the board says."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from datetime import datetime

from thermion.core.ages import AgeBand, said_to
from thermion.records.planning.conduct import LessonNow
from thermion.records.tables import SchoolClass, Version
from thermion.web.components.conducted import item_words, what_is_on
from thermion.web.components.frame import clock_time, day

TO_EXPLAIN: Mapping[AgeBand, tuple[str, str]] = {
    "6-8": ("Which part is the clever part?", "What would be different outside?"),
    "9-12": ("Which part gathers, which part keeps?", "Where is the real thing different from this model?"),
    "13-16": (
        "Which part gathers, which part keeps?",
        "Where does the model differ from the real thing, and would that help or hinder?",
    ),
}


def comes_next(lesson: LessonNow, titles: dict[str, str]) -> str:
    return "" if lesson.next is None else f"Next: {item_words(lesson.next, titles, what_is_on(lesson))}"


def next_mark(mark_s: float) -> str:
    """When a test that is on is read next [s]."""
    return f"next mark: minute {mark_s / 60:g}"


def to_explain(age: AgeBand) -> tuple[str, str]:
    """What a team tells the class in its minute, beside what the record says."""
    return said_to(age, TO_EXPLAIN)


def bell(lesson: LessonNow, zone: str) -> str:
    """When the bell rings, while a lesson is on."""
    if lesson.lesson is None or not lesson.is_on:
        return ""
    ends = datetime.fromtimestamp(
        lesson.lesson.start.timestamp() + lesson.lesson.length_s, lesson.lesson.start.tzinfo
    )
    return f"Bell at {clock_time(ends, zone)}"


def idle(school_class: SchoolClass, lesson: LessonNow) -> str:
    """What stands there while nothing is on."""
    if lesson.lesson is None:
        return "No lesson is planned yet."
    if lesson.is_on:
        return "The lesson begins."
    return f"Next lesson: {day(lesson.lesson.start, school_class.zone)}"


def version_line(number: int, what: str, predicted: str, came: str) -> str:
    """What was predicted of a version, and what came out."""
    said = f"predicted {predicted}, came out {came}" if predicted else came
    return f"Version {number}, {what[:1].lower()}{what[1:]}: {said}"


def changed(version: Version) -> str:
    """What a team changed, in its own words."""
    note = version.change_note.strip()
    return f"Changed: {note}" if note else ""


def helped(names: Sequence[str]) -> str:
    return f"An idea came from {names[0]}." if names else ""
