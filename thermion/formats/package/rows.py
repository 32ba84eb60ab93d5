"""The rows of a package's tables, one challenge at a time."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator, Mapping
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
from thermion.records.running.set_apart import Apart, apart_in
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
    for run in one.runs:
        apart = apart_in(run, tuple(p.key for p in one.brief.kind.test.phases))
        entries = {e.id: e for e in run.entries}
        yield from _of_readings(one, run, entries, apart)
        yield from _of_attempts(one, run, entries, apart)


def _of_readings(one: One, run: Run, entries: Mapping[int, Entry], apart: Apart) -> Iterator[Row]:
    later = one.brief.kind.test.later_for(one.brief.choices)
    found = runs.all_readings(one.session, run.id)
    replaced = {r.supersedes_id for r in found}
    for r in found:
        entry = entries[r.entry_id]
        read = one.brief.read_at(entry.is_air)
        if later is not None and r.phase == later.read.key:
            read = later.read
        counts = apart.counts(entry, r.phase, r.time_s)
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
            state=_state(back=r.value is None, replaced=r.id in replaced, counts=counts),
        )


def _of_attempts(one: One, run: Run, entries: Mapping[int, Entry], apart: Apart) -> Iterator[Row]:
    """Each number of each attempt, counted as its team counts them: a correction is no attempt more."""
    every = attempts.all_attempts(one.session, [run.id])
    followed = {a.supersedes_id for a in every}
    reads = {r.key: r for r in one.brief.kind.test.attempt_reads(one.brief.choices)}
    tried: Counter[int] = Counter()
    for a in every:
        tried[a.entry_id] += a.supersedes_id is None
        counts = not apart.leaves_out(entries[a.entry_id])
        by_machine = a.machine.split()
        for key, value in a.values.items():
            if key not in reads:
                continue
            yield _row(
                one,
                run,
                entries[a.entry_id],
                tried[a.entry_id] or 1,
                phase=None,
                mark_s=None,
                time_s=None,
                read=reads[key],
                value=value,
                source="probe" if key in by_machine else "hand",
                state=_state(back=a.withdrawn, replaced=a.id in followed, counts=counts),
            )


def _state(*, back: bool, replaced: bool, counts: bool) -> str:
    if back:
        return "taken back"
    if replaced:
        return "replaced"
    return "counts" if counts else "set apart"


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
