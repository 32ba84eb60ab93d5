"""The rows of a package's tables, one challenge at a time."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from datetime import datetime
from functools import cached_property
from typing import Any

from sqlalchemy.orm import Session

from thermion.core.judging.observed import quantity_of
from thermion.core.kinds.testing import Reads
from thermion.core.physics.units import stored_unit
from thermion.core.plans import tally
from thermion.records.building.builds import builds_of, plan_of
from thermion.records.judging.evidence import Evidence, load_evidence
from thermion.records.planning.briefs import Brief, brief_of, get_challenge
from thermion.records.running import attempts, runs
from thermion.records.running.set_apart import apart_in
from thermion.records.tables import Build, Challenge, Entry, Run, Team

Row = tuple[Any, ...]


@dataclass(frozen=True)
class One:
    """A challenge as the tables read it, asked of the record once."""

    session: Session
    challenge: Challenge
    brief: Brief

    @classmethod
    def of(cls, session: Session, challenge_id: int) -> One:
        challenge = get_challenge(session, challenge_id)
        return cls(session, challenge, brief_of(challenge))

    @cached_property
    def builds(self) -> list[Build]:
        return list(builds_of(self.session, self.challenge.id))

    @cached_property
    def runs(self) -> list[Run]:
        found = list(runs.runs_of(self.session, self.challenge.id))
        runs.load_runs(self.session, found)
        return found

    @cached_property
    def evidence(self) -> Evidence:
        return load_evidence(self.session, self.challenge, self.brief, school=self.challenge.school)


def _stamp(moment: datetime | None) -> str | None:
    return None if moment is None else moment.isoformat(timespec="milliseconds").replace("+00:00", "Z")


def challenge(one: One) -> Iterator[Row]:
    c, crew = one.challenge, one.challenge.school_class
    yield (
        c.id,
        crew.id,
        c.lineage or None,
        c.kind,
        c.title,
        c.age_band,
        c.school,
        crew.temp_unit,
        crew.zone,
        _stamp(c.created_at),
    )


def teams(one: One) -> Iterator[Row]:
    for team in one.challenge.school_class.teams:
        yield one.challenge.id, team.letter, team.name, team.shape, team.colour


def versions(one: One) -> Iterator[Row]:
    metric = one.brief.kind.analysis.prediction_for(one.brief.choices)
    for build in one.builds:
        for v in build.versions:
            count = tally(plan_of(v), one.brief.offers, one.brief.credit)
            yield (
                one.challenge.id,
                build.team.letter,
                v.number,
                v.state,
                count.units,
                count.impact,
                v.prediction,
                metric.key,
                metric.si_unit,
                _stamp(v.issued_at),
                v.change_note,
                v.worked,
                v.failed,
            )


def parts(one: One) -> Iterator[Row]:
    for build in one.builds:
        for v in build.versions:
            for p in v.parts:
                yield (
                    one.challenge.id,
                    build.team.letter,
                    v.number,
                    p.place,
                    p.material,
                    p.form,
                    p.units,
                    p.reused,
                )


def factors(one: One) -> Iterator[Row]:
    units = {f.key: stored_unit(f.unit) for f in one.brief.kind.build.factors}
    for build in one.builds:
        for v in build.versions:
            for f in v.factors:
                yield one.challenge.id, build.team.letter, v.number, f.key, f.value, units.get(f.key, "")


def tests(one: One) -> Iterator[Row]:
    for r in one.runs:
        yield (
            one.challenge.id,
            r.number,
            r.rehearsal,
            r.speed,
            _stamp(r.created_at),
            _stamp(r.closed_at),
            r.note,
        )


def conditions(one: One) -> Iterator[Row]:
    units = {c.key: stored_unit(c.unit) for c in one.brief.kind.brief.settings(one.brief.choices)}
    for r in one.runs:
        for c in r.conditions:
            yield one.challenge.id, r.number, c.key, c.value, units.get(c.key, ""), c.how or None


def _who(entry: Entry) -> tuple[str, int | None, str]:
    """What a row of a run is: kind, team's letter or "", version."""
    if entry.version is None:
        return ("control" if entry.is_control else "air"), None, ""
    return "build", entry.version.number, entry.version.build.team.letter


def values(one: One) -> Iterator[Row]:
    """Every value of every run: readings of clocked tests, each number of an attempt."""
    test, choices = one.brief.kind.test, one.brief.choices
    later = test.later_for(choices)
    for run in one.runs:
        entries = {e.id: e for e in run.entries}
        found = runs.all_readings(one.session, run.id)
        replaced = {r.supersedes_id for r in found}
        apart = apart_in(run, tuple(p.key for p in test.phases))
        for r in found:
            entry = entries[r.entry_id]
            read = one.brief.read_at(entry.is_air)
            read = later.read if later is not None and r.phase == later.read.key else read
            state = "taken back" if r.value is None else ("replaced" if r.id in replaced else "counts")
            if state == "counts" and not apart.counts(entry, r.phase, r.time_s):
                state = "set apart"
            yield _row(
                one,
                run,
                entry,
                None,
                phase=r.phase,
                mark_s=r.mark_s,
                time_s=r.time_s,
                read=read,
                value=r.value,
                source=r.source,
                state=state,
            )
        every = attempts.all_attempts(one.session, [run.id])
        followed = {a.supersedes_id for a in every}
        counts: dict[int, int] = {}
        for a in every:
            if a.supersedes_id is None:
                counts[a.entry_id] = counts.get(a.entry_id, 0) + 1
            state = "taken back" if a.withdrawn else ("replaced" if a.id in followed else "counts")
            if state == "counts" and apart.leaves_out(entries[a.entry_id]):
                state = "set apart"
            reads = {r.key: r for r in test.attempt_reads(choices)}
            for key, value in a.values.items():
                if key in reads:
                    number = counts.get(a.entry_id, 1)
                    yield _row(
                        one,
                        run,
                        entries[a.entry_id],
                        number,
                        phase=None,
                        mark_s=None,
                        time_s=None,
                        read=reads[key],
                        value=value,
                        source="probe" if key in a.machine.split() else "hand",
                        state=state,
                    )


def _row(
    one: One,
    run: Run,
    entry: Entry,
    attempt: int | None,
    phase: str | None,
    mark_s: float | None,
    time_s: float | None,
    read: Reads,
    value: float | None,
    source: str,
    state: str,
) -> Row:
    row, version, letter = _who(entry)
    quantity = quantity_of(read)
    return (
        one.challenge.id,
        run.number,
        row,
        letter or None,
        version,
        entry.device or None,
        attempt,
        phase,
        mark_s,
        time_s,
        quantity.key,
        value,
        stored_unit(quantity.unit),
        source,
        state,
    )


def figures(one: One) -> Iterator[Row]:
    found = one.evidence.findings
    if found is None:
        return
    teams: dict[int, Team] = {t.id: t for t in one.challenge.school_class.teams}
    units = one.brief.kind.analysis.metric_units()
    for v in found.versions:
        for key, figure in v.figures.items():
            if key not in units:
                continue
            yield (
                one.challenge.id,
                teams[v.subject.team_id].letter,
                v.subject.version,
                key,
                figure.value,
                figure.se if figure.value is not None else None,
                figure.at_least,
                figure.at_most,
                units[key],
                figure.reason,
            )
