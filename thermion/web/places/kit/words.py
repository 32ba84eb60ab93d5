"""The kit list in words."""

from __future__ import annotations

from collections.abc import Sequence

from thermion.records.building.kit import CutLine
from thermion.records.tables import SchoolClass
from thermion.web.components.words import count


def estimated(titles: Sequence[str]) -> str:
    """For which challenges plans are still missing."""
    if not titles:
        return ""
    return (
        f"Some plans are not in yet in {', '.join(titles)}: their teams count with the limits, "
        "so this is the most it can be."
    )


def cuts(found: CutLine) -> str:
    """One stock to cut."""
    plan = found.plan
    pieces = ", ".join(f"{number} of {length * 100:g} cm" for length, number in found.pieces)
    return (
        f"{pieces} out of {len(plan.stocks)} × {found.stock_m * 100:g} cm, {count(plan.cuts, 'cut')}, "
        f"{plan.waste_m * 100:.0f} cm left over ({plan.waste_share * 100:.0f} %)."
    )


def for_whom(school_class: SchoolClass) -> str:
    return (
        f"{count(len(school_class.present), 'team')}, {count(school_class.learners, 'learner')}. "
        "Ticks and packs are kept for the class, so the week's list shows them too."
    )
