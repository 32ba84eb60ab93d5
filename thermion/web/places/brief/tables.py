"""The brief's numbers as data."""

from __future__ import annotations

from thermion.core.kinds.when import difference_unit
from thermion.formats.tables import Column, Table
from thermion.records.planning.briefs import Brief


def brief_table(brief: Brief) -> Table:
    """Conditions with tolerance, levels, marks, what is on offer, and all that the score is made of."""
    setting = brief.setting
    rows: list[tuple[object, ...]] = []
    for c in (*brief.numbers(), *brief.kind.brief.levels(brief.choices)):
        tolerance = brief.tolerance.get(c.key)
        within = None if tolerance is None else setting.from_si(tolerance, difference_unit(c.unit))
        rows.append(
            ("condition", c.key, setting.from_si(brief.values[c.key], c.unit), within, setting.label(c.unit))
        )
    rows += [("mark", phase, m / 60, None, "min") for phase, ms in brief.marks.items() for m in ms]
    rows += [("limit", o.material, o.limit, None, "units") for o in brief.offers]
    rows += [("impact", o.material, o.points, None, "points") for o in brief.offers]
    rows.append(("impact", "credit for a reused unit", brief.credit, None, "points"))
    rows = [(*row, None, None) for row in rows]
    rows += [("score", t.metric, t.weight, None, t.unit, t.divisor, t.cap) for t in brief.rule]
    keys = ("what", "key", "value", "tolerance", "unit", "divisor", "cap")
    return Table("Brief", tuple(Column(k, k.capitalize()) for k in keys), rows)
