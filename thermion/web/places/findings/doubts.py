"""Numbers to look at again, in words, each with the way to where it stands."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from flask import url_for

from thermion.core.judging.findings import Findings
from thermion.records.judging.doubted import Doubted, DoubtedReading
from thermion.records.planning.briefs import Brief
from thermion.records.running.logged import row_name
from thermion.records.tables import Entry, Run, Team
from thermion.web.places.findings.scores import in_score

Teams = Mapping[int, Team]  # by number


@dataclass(frozen=True)
class Look:
    """What is to be looked at again, and where it stands."""

    said: str
    href: str


def looks(
    doubted: Sequence[Doubted], found: Findings, runs: Sequence[Run], teams: Teams, brief: Brief
) -> list[Look]:
    """Single numbers that all others contradict, then tries that lie far from the others of their build."""
    out = [Look(_said(d, brief), _where(d)) for d in doubted]
    named = {(_team(d.entry), d.run.number) for d in doubted}
    by_number = {run.number: run for run in runs}
    latest = found.latest()
    for t in found.score.strange if found.score is not None else ():
        team = t.subject.team_id
        if team not in teams or (team, t.run) in named:
            continue
        value = in_score(t.value, latest[team].score, brief)
        said = f"{teams[team].name} in run {t.run}: {value} is far from its other tries."
        out.append(Look(said, url_for("runs.run", run_id=by_number[t.run].id)))
    return out


def _team(entry: Entry) -> int | None:
    return None if entry.version is None else entry.version.build.team_id


def _name(entry: Entry) -> str:
    """A row, at the beginning of a sentence."""
    name = row_name(entry)
    return name[0].upper() + name[1:]


def _said(d: Doubted, brief: Brief) -> str:
    show, read = brief.setting.show, d.read
    value = show(d.value, read.unit, read.digits)
    if not isinstance(d, DoubtedReading):
        return f"{_name(d.entry)} in run {d.run.number}, {read.label.lower()} {value}. {d.question}"
    expected = show(d.expected, read.unit, 0)
    return (
        f"{_name(d.entry)} in run {d.run.number}, minute {d.mark_s / 60:g}: {value}. "
        f"Its other readings make it about {expected}."
    )


def _where(d: Doubted) -> str:
    if isinstance(d, DoubtedReading):
        cell = f"at-{d.entry.id}-{d.phase}-{d.mark_s:g}"
        return url_for("runs.run", run_id=d.run.id, _anchor=cell)
    return url_for("runs.run", run_id=d.run.id, correct=d.attempt_id)
