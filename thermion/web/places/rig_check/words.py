"""What a check of the rig found."""

from __future__ import annotations

from collections.abc import Mapping

from thermion.core.kinds.when import difference_unit
from thermion.records.planning.briefs import Brief
from thermion.records.running.rig import AIR, AIR_NUMBER, Checked
from thermion.records.tables import Challenge


def apart(found: Checked, brief: Brief) -> str:
    """By how much the readings differ, and by how much they may."""
    if found.apart is None:
        return ""
    check = found.check
    shown = brief.setting.show(found.apart, difference_unit(check.unit), 1)
    return f"{shown} apart; should be within {check.agree:g} {brief.setting.label(check.unit)}."


def follows(found: Checked, brief: Brief) -> list[str]:
    """Conditions that the brief takes from the readings of a check."""
    if found.check.sets is None or not found.values:
        return []
    keys = found.check.sets(list(found.values.values()))
    return [
        f"{c.label} {brief.setting.show(brief.values[c.key], c.unit, 2)}: the brief counts with it."
        for c in brief.kind.brief.settings(brief.choices)
        if c.key in keys
    ]


def taken_off(found: Checked, offsets: Mapping[int, float], challenge: Challenge, brief: Brief) -> str:
    """What is taken off the readings of each thermometer."""
    if not offsets or not found.check.of_thermometers:
        return ""
    numbers = {t.letter: t.id for t in challenge.school_class.teams} | {AIR: AIR_NUMBER}
    said = [
        f"{label} {brief.setting.show(offsets[numbers[spot]], 'delta_degC', 1)}"
        for spot, label in found.spots
        if numbers.get(spot) in offsets
    ]
    return f"Taken off every reading of a run: {', '.join(said)}."


def done(checks: list[Checked]) -> str:
    return f"{sum(c.state == 'done' for c in checks)} of {len(checks)} done"
