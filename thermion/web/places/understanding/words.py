"""Marks and what there is to look at beside them."""

from __future__ import annotations

from collections.abc import Mapping

from thermion.records.planning.briefs import Brief
from thermion.records.tables import Version

SIGNS: Mapping[str, str] = {"": "", "seen": "✓", "not yet": "○"}
MARKS: Mapping[str, str] = {"": "not looked at", "seen": "seen", "not yet": "not yet"}


def evidence(version: Version | None, brief: Brief) -> str:
    """What a team's newest version says: its prediction and what it changed."""
    if version is None:
        return "no plan yet"
    said = []
    if version.prediction is not None:
        metric = brief.kind.analysis.prediction_for(brief.choices)
        said.append(f"predicts {brief.setting.show(version.prediction, metric.unit, metric.digits)}")
    if version.change_note.strip():
        said.append(f"“{version.change_note.strip()[:60]}”")
    return ", ".join(said) or f"version {version.number}"
