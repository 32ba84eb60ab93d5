"""The store in words."""

from __future__ import annotations

from thermion.core.physics.materials import MATERIALS
from thermion.records.building.store import Counted, Shelf


def goes_out(version: Counted) -> str:
    """What is to be handed out for a plan: what its team does not have yet."""
    items = [f"{units:g} {MATERIALS[m].name.lower()}" for m, units in version.goes_out.items()]
    more = "more: " if version.has and items else ""
    nothing = "nothing more: the team has it all" if version.has else "nothing from the store"
    return more + ", ".join(items) if items else nothing


def whose(team: str, title: str, number: int) -> str:
    """A version by its team and challenge."""
    return f"{team}, {title} v{number}"


def shortage(shelf: Shelf) -> str:
    if not shelf.short:
        return ""
    return "runs out" if shelf.free >= 0 else "short"


def amount(units: float) -> str:
    return f"{units:g}" if units else "–"
