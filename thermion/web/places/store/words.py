"""The store in words."""

from __future__ import annotations

from thermion.core.physics.materials import MATERIALS
from thermion.records.building.store import Shelf, needs
from thermion.records.tables import Version


def wanted(version: Version) -> str:
    """What a plan takes from the store."""
    items = [f"{units:g} {MATERIALS[m].name.lower()}" for m, units in needs(version).items()]
    return ", ".join(items) or "nothing from the store"


def shortage(shelf: Shelf) -> str:
    if not shelf.short:
        return ""
    return "runs out" if shelf.free >= 0 else "short"


def amount(units: float) -> str:
    return f"{units:g}" if units else "–"
