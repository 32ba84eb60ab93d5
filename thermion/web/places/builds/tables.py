"""Builds as data: a row for each part of each version."""

from __future__ import annotations

from collections.abc import Iterable

from thermion.formats.tables import Column, Table
from thermion.records.tables import Build


def builds_table(found: Iterable[Build]) -> Table:
    rows = [
        (b.team.letter, b.team.name, v.number, v.state, p.place, p.material, p.form, p.units, p.reused)
        for b in found
        for v in b.versions
        for p in v.parts
    ]
    keys = ("team", "name", "version", "state", "place", "material", "form", "units", "reused")
    return Table("Builds", tuple(Column(k, k.capitalize()) for k in keys), rows)
