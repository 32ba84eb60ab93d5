"""Loads every trial of a challenge in a fixed number of queries and hands them to the core."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

from sqlalchemy import select
from sqlalchemy.orm import Session, aliased, joinedload, selectinload

from thermion.core.judging.findings import Findings, Tried, analyse
from thermion.core.kinds.trials import Attempt, Fitted, Trace, Trial
from thermion.core.plans import tally
from thermion.records.building.builds import plan_of
from thermion.records.planning.briefs import Brief
from thermion.records.running.attempts import as_core, current_attempts
from thermion.records.running.rig import AIR
from thermion.records.tables import Build, Entry, Reading, Run, Version


def run_figures(session: Session, run: Run, brief: Brief) -> list[tuple[Tried, Fitted]]:
    """What one run says so far of each of its versions, and the figures that follow."""
    traces = _traces(session, [run.id])
    tried = _tried(run, traces, brief, {}, _attempts(session, traces, [run.id], brief))
    fitted = brief.kind.analysis.fit([t.trial for t in tried])
    return list(zip(tried, fitted, strict=True))


@dataclass(frozen=True)
class Evidence:
    """A challenge's trials and what follows from them under one rule."""

    tried: tuple[Tried, ...]
    findings: Findings | None
    runs: tuple[Run, ...]


def load_evidence(
    session: Session,
    challenge_id: int,
    brief: Brief,
    *,
    school: str,
    rehearsal: bool = False,
    offsets: Mapping[str, float] | None = None,
) -> Evidence:
    """Trials and findings under a school's rule; rehearsals are kept apart from real runs.

    `offsets` [K], by team letter or `air`, are taken off what each thermometer of a real run
    showed.
    """
    runs = session.scalars(
        select(Run)
        .where(Run.challenge_id == challenge_id, Run.rehearsal == rehearsal)
        .order_by(Run.number)
        .options(
            selectinload(Run.conditions),
            selectinload(Run.phases),
            selectinload(Run.entries)
            .joinedload(Entry.version)
            .options(
                joinedload(Version.build).joinedload(Build.team),
                selectinload(Version.parts),
                selectinload(Version.factors),
            ),
        )
    ).all()
    traces = _traces(session, [run.id for run in runs])
    shift = {} if rehearsal else (offsets or {})
    rows = _attempts(session, traces, [run.id for run in runs], brief)
    tried = tuple(t for run in runs for t in _tried(run, traces, brief, shift, rows))
    found = None
    if tried:
        found = analyse(brief.kind, tried, brief.rule_of(school), brief.tolerance, brief.better_of(school))
    return Evidence(tried, found, tuple(runs))


def _attempts(
    session: Session, traces: _Traces, run_ids: Sequence[int], brief: Brief
) -> dict[int, list[Attempt]]:
    """Attempts of each row, with what the probe showed during each."""
    out: dict[int, list[Attempt]] = {}
    if brief.kind.test.held == "marks":
        return out
    for row in current_attempts(session, run_ids):
        times, values, _, _ = traces.get((row.entry_id, row.race), _NOTHING)
        trace = Trace(tuple(times), tuple(values))
        out.setdefault(row.entry_id, []).append(replace(as_core(row), trace=trace))
    return out


_Traces = dict[tuple[int, str], tuple[list[float], list[float], set[float], set[float]]]


_NOTHING: tuple[list[float], list[float], set[float], set[float]] = ([], [], set(), set())


def _traces(session: Session, run_ids: Sequence[int]) -> _Traces:
    """(entry, phase) -> times taken, values, marks read, marks in question.

    Two readings of one moment are averaged.
    """
    successor = aliased(Reading)
    rows = session.execute(
        select(
            Reading.entry_id, Reading.phase, Reading.time_s, Reading.value, Reading.mark_s, Reading.question
        )
        .join(Entry, Entry.id == Reading.entry_id)
        .outerjoin(successor, successor.supersedes_id == Reading.id)
        .where(Entry.run_id.in_(run_ids), successor.id.is_(None), Reading.value.is_not(None))
        .order_by(Reading.entry_id, Reading.phase, Reading.time_s)
    )
    out: _Traces = {}
    for entry_id, phase, time_s, value, mark_s, question in rows:
        if value is None:
            continue
        times, values, marks, asked = out.setdefault((entry_id, phase), ([], [], set(), set()))
        if times and times[-1] == time_s:
            values[-1] = (values[-1] + value) / 2
        else:
            times.append(time_s)
            values.append(value)
        if mark_s is not None:
            marks.add(mark_s)
            if question:
                asked.add(mark_s)
    return out


def _tried(
    run: Run,
    traces: _Traces,
    brief: Brief,
    offsets: Mapping[str, float],
    attempts: Mapping[int, Sequence[Attempt]],
) -> list[Tried]:
    """What a run says of each of its versions; a version's devices belong together."""
    kind, later = brief.kind, brief.kind.test.later_for(brief.choices)
    phases = [p.key for p in kind.test.phases]
    letters = {e.id: e.version.build.team.letter for e in run.entries if e.version is not None}
    # each build has its own thermometer where temperatures are read at marks, and nowhere else
    own = kind.test.held == "marks" and brief.read_at(air=False).unit == "degC"

    def trace(entry: Entry, phase: str) -> Trace:
        if (entry.id, phase) not in traces:
            return Trace()
        times, values, _, _ = traces[entry.id, phase]
        thermometer = AIR if entry.is_air else letters.get(entry.id, "")
        off = offsets.get(thermometer, 0.0) if entry.is_air or own else 0.0
        return Trace(tuple(times), tuple(v - off for v in values))

    def of(entry: Entry) -> dict[str, Trace]:
        """The traces of a row by the key that `fit` looks for."""
        found = {kind.test.trace_key(p, brief.choices, entry.device): trace(entry, p) for p in phases}
        if later is not None:
            found.setdefault(later.read.key, trace(entry, later.read.key))
        return {key: t for key, t in found.items() if t.time_s}

    conditions = {**brief.values, **{c.key: c.value for c in run.conditions}}
    air = {p: t for e in run.entries if e.is_air for p in phases if (t := trace(e, p)).time_s}
    control = {key: t for e in run.entries if e.is_control for key, t in of(e).items()}
    bare = tuple(a for e in run.entries if e.is_control for a in attempts.get(e.id, ()))
    read: dict[str, set[float]] = {}
    for entry in run.entries:
        for phase in phases:
            read.setdefault(phase, set()).update(traces.get((entry.id, phase), _NOTHING)[2])
    rows: dict[int, list[Entry]] = {}
    for entry in run.entries:
        if entry.version_id is not None:
            rows.setdefault(entry.version_id, []).append(entry)
    out = []
    for entries in rows.values():
        mine = {key: t for e in entries for key, t in of(e).items()}
        taken = tuple(a for e in entries for a in attempts.get(e.id, ()))
        version = entries[0].version
        if version is None or not (mine or taken):
            continue
        plan = plan_of(version)
        count = tally(plan, brief.offers, brief.credit)
        missed = tuple(m for e in entries for m in _open(e, read, traces, brief))
        trial = Trial(
            mine,
            conditions,
            air,
            count.units,
            count.impact,
            brief.interval_s(),
            attempts=taken,
            control=control,
            bare=bare,
            choices=brief.choices,
            plan=plan,
        )
        out.append(
            Tried(
                version.build.team.letter, version.number, run.number, plan, trial, version.prediction, missed
            )
        )
    return out


def _open(entry: Entry, read: Mapping[str, set[float]], traces: _Traces, brief: Brief) -> list[str]:
    """Marks that others have and this row has not, and values in question, in words."""
    device = dict(brief.kind.test.devices).get(entry.device, "")
    out = []
    for phase in brief.kind.test.phases:
        _, _, mine, asked = traces.get((entry.id, phase.key), _NOTHING)
        name = f"{device} {phase.label.lower()}".strip()
        missing = sorted(read.get(phase.key, set()) - mine)
        out += [f"{name} {m / 60:g} min" for m in missing]
        out += [f"{name} {m / 60:g} min in question" for m in sorted(asked)]
    return out
