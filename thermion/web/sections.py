"""The parts of a brief in the order in which a teacher works through them."""

from __future__ import annotations

from thermion.records.planning.briefs import Brief

FORMS = {
    "task": "Task",
    "rig": "Rig and levels",
    "marks": "Marks",
    "materials": "Materials",
    "score": "Score",
    "safety": "Safety",
}
PAGES = {"lessons": "Lessons", "kit": "Kit", "sun": "Sun", "try": "Try out"}
ORDER = ("task", "rig", "marks", "materials", "score", "try", "lessons", "kit", "sun", "safety")


def sections_of(brief: Brief) -> list[tuple[str, str, str]]:
    """(key, label, endpoint) of the parts that this brief has."""
    out = []
    for key in ORDER:
        if key == "marks" and not brief.kind.test.phases:
            continue
        if key == "sun" and not brief.kind.brief.under_the_sun(brief.choices):
            continue
        endpoint = "brief.section" if key in FORMS else ENDPOINTS.get(key, f"planning.{key}")
        out.append((key, (FORMS | PAGES)[key], endpoint))
    return out


ENDPOINTS = {"try": "tryout.index"}


def after(brief: Brief, section: str) -> tuple[str, str] | None:
    """(key, endpoint) of the part that follows; None after the last."""
    found = sections_of(brief)
    keys = [key for key, _, _ in found]
    at = keys.index(section) + 1
    return (found[at][0], found[at][2]) if at < len(found) else None
