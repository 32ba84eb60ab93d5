"""Findings as data: every figure of every version with its uncertainty, in the class's units."""

from __future__ import annotations

from thermion.core.judging.standings import Standing
from thermion.core.kinds.analysis import Metric
from thermion.core.physics.units import Setting
from thermion.core.reasons import Why
from thermion.core.subjects import Subject
from thermion.core.values import Figure
from thermion.formats.tables import Column, Table, plain_key
from thermion.records.judging.evidence import Evidence
from thermion.records.planning.briefs import Brief
from thermion.records.tables import Challenge

HEAD = (
    Column("team", "Team"),
    Column("name", "Name"),
    Column("version", "Version"),
    Column("place", "Place"),
    Column("score", "Score"),
    Column("typical", "Typical try"),
    Column("typical_half_width", "Typical try, 95 % half width"),
    Column("place_first", "Place, from"),
    Column("place_last", "Place, to"),
    Column("chance_best", "Chance of being best"),
)


def findings_table(evidence: Evidence, brief: Brief, challenge: Challenge) -> Table:
    metrics, found = brief.kind.analysis.metrics, evidence.findings
    columns = [*HEAD, *(c for m in metrics for c in _columns(m, brief.setting.label(m.unit)))]
    teams = {t.id: t for t in challenge.school_class.teams}
    standings = {p.key: p for p in found.places} if found else {}
    rows = []
    for v in found.versions if found else ():
        team = teams[v.subject.team_id]
        row: list[object] = [team.letter, team.name, v.subject.version]
        row += [found.facts.get(v.subject) if found else None, v.score.total]
        row += _claimed(standings.get(v.subject))
        for m in metrics:
            row += _cells(v.figures.get(m.key, Figure(reason=Why.NOT_READ)), m, brief.setting)
        rows.append(tuple(row))
    return Table(f"Findings of {challenge.title}", tuple(columns), rows)


def _claimed(standing: Standing[Subject] | None) -> list[object]:
    if standing is None:
        return [None] * 5
    return [standing.value, standing.half_width, standing.first, standing.last, standing.chance_best]


def _columns(m: Metric, unit: str) -> tuple[Column, ...]:
    key = plain_key(m.key)
    return (
        Column(key, m.label, unit),
        Column(f"{key}_se", f"{m.label} s.e.", unit),
        Column(f"{key}_at_least", f"{m.label}, at least", unit),
        Column(f"{key}_at_most", f"{m.label}, at most", unit),
        Column(f"{key}_reason", f"{m.label}, why not known"),
    )


def _cells(f: Figure, m: Metric, setting: Setting) -> list[object]:
    def shown(value: float | None) -> float | None:
        return None if value is None else setting.from_si(value, m.unit)

    se = None if f.se is None else setting.from_si(f.se, m.unit) - setting.from_si(0.0, m.unit)
    return [shown(f.value), se, shown(f.at_least), shown(f.at_most), f.reason]
