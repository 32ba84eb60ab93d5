"""The store in words."""

from __future__ import annotations

from thermion.core.physics.materials import MATERIALS, unit_beside
from thermion.records.building.store import Counted, Shelf
from thermion.web.components.words import count, units_words


def goes_out(version: Counted) -> str:
    """What is to be handed out for a plan: what its team does not have yet."""
    items = [f"{units:g} {MATERIALS[m].name.lower()}" for m, units in version.goes_out.items()]
    more = "more: " if version.has and items else ""
    nothing = "the team has all of it" if version.has else "nothing from the store"
    return more + ", ".join(items) if items else nothing


def whose(team: str, title: str, number: int) -> str:
    """A version by its team and challenge."""
    return f"{team}, {title} v{number}"


def amount_of(material: str, units: float) -> str:
    """“3 sheets”, or “3” where the name says the unit."""
    unit = unit_beside(MATERIALS[material].name, MATERIALS[material].unit)
    return units_words(units, unit) or f"{units:g}"


def handed_out(plans: int) -> str:
    return f"Handed out for {count(plans, 'plan')}."


def shortage(shelf: Shelf) -> str:
    if not shelf.short:
        return ""
    return "runs out" if shelf.free >= 0 else "short"


def amount(units: float) -> str:
    return f"{units:g}" if units else "–"
