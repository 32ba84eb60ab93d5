"""The parts of a brief in the order in which a teacher works through them, and their frame."""

from __future__ import annotations

from dataclasses import dataclass

from flask import url_for

from thermion.records.planning.briefs import Brief
from thermion.records.tables import Challenge
from thermion.web.components.frame import frame

FORMS = {
    "task": "Task",
    "rig": "Rig and levels",
    "marks": "Marks",
    "materials": "Materials",
    "rungs": "Easier, harder",
    "score": "Score",
    "safety": "Safety",
}
PAGES = {
    "lessons": ("Lessons", "lessons.index"),
    "kit": ("Kit", "kit.index"),
    "sun": ("Sun", "sun.index"),
    "try": ("Try out", "tryout.index"),
}
ORDER = ("task", "rig", "marks", "materials", "score", "try", "lessons", "kit", "sun", "safety", "rungs")
ASIDE = ("rungs",)  # nobody has to pass through these


@dataclass(frozen=True)
class Section:
    """A part of the brief: its key, what it is called, and where it is."""

    key: str
    label: str
    url: str


def sections_of(brief: Brief, challenge_id: int) -> list[Section]:
    """The parts that this brief has."""
    return [_section(key, challenge_id) for key in ORDER if _has(key, brief)]


def _has(key: str, brief: Brief) -> bool:
    if key == "marks":
        return bool(brief.kind.test.phases)
    return key != "sun" or brief.kind.brief.under_the_sun(brief.choices)


def _section(key: str, challenge_id: int) -> Section:
    if key in FORMS:
        return Section(key, FORMS[key], url_for("brief.section", challenge_id=challenge_id, section=key))
    label, endpoint = PAGES[key]
    return Section(key, label, url_for(endpoint, challenge_id=challenge_id))


def url_after(sections: list[Section], key: str, challenge_id: int) -> str:
    """Where to go on: the part that follows, after the last the builds."""
    if key not in ASIDE:
        path = [section for section in sections if section.key not in ASIDE]
        at = [section.key for section in path].index(key) + 1
        if at < len(path):
            return path[at].url
    return url_for("builds.index", challenge_id=challenge_id)


def section_frame(challenge: Challenge, brief: Brief, key: str, **values: object) -> dict[str, object]:
    """Template values of a page of the brief: the frame, the parts, and where to go on."""
    sections = sections_of(brief, challenge.id)
    following = url_after(sections, key, challenge.id)
    return frame(challenge, "brief", section=key, sections=sections, following=following, **values)
