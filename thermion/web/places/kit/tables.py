"""The kit list as data."""

from __future__ import annotations

from thermion.formats.tables import Column, Table
from thermion.records.building.kit import Kit


def kit_table(found: Kit) -> Table:
    rows = [
        (
            x.line.item,
            x.line.needed,
            x.line.unit,
            x.pack,
            x.line.packs,
            x.line.total,
            x.line.cost,
            x.have,
            ", ".join(x.wanted_by),
        )
        for x in found.lines
    ]
    keys = ("item", "needed", "unit", "pack", "packs", "total", "cost", "have", "for")
    return Table("Kit", tuple(Column(k, k.capitalize()) for k in keys), rows)
