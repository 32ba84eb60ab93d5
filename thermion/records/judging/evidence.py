"""Loads every trial of a challenge in a fixed number of queries and hands them to the core."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from functools import cached_property

from sqlalchemy.orm import Session

from thermion.core.judging.findings import Findings, Tried, analyse
from thermion.core.judging.fitting import fit_trials
from thermion.core.kinds.trials import Attempt, Fitted, Trace, Trial
from thermion.core.plans import tally
from thermion.core.subjects import Subject
from thermion.records.building.builds import plan_of
from thermion.records.judging.tested import tested_runs
from thermion.records.planning.briefs import Brief
from thermion.records.running.attempts import as_core, current_attempts
from thermion.records.running.rig import AIR_NUMBER
from thermion.records.running.series import NOTHING, Series, Spot, series_of
from thermion.records.tables import Entry, Run, Team, Version


def run_figures(session: Session, run: Run, brief: Brief) -> list[tuple[Tried, Fitted]]:
    """What one run says so far of each of its versions, and the figures that follow."""
    series = series_of(session, [run])
    tried = _RunReader(run, brief, series, _attempts(session, series, [run.id], brief), {}).tried()
    fitted = fit_trials(brief.kind, [t.trial for t in tried])
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
    offsets: Mapping[int, float] | None = None,
) -> Evidence:
    """Trials and findings under a school's rule; rehearsals are kept apart from real runs.

    `offsets` [K], by team number or 0 for the air, are taken off what each thermometer of a real
    run showed.
    """
    runs = tested_runs(session, challenge_id, rehearsal=rehearsal)
    series = series_of(session, runs)
    shift = {} if rehearsal else (offsets or {})
    rows = _attempts(session, series, [run.id for run in runs], brief)
    tried = tuple(t for run in runs for t in _RunReader(run, brief, series, rows, shift).tried())
    found = None
    if tried:
        found = analyse(brief.kind, tried, brief.rule_of(school), brief.tolerance, brief.better_of(school))
    return Evidence(tried, found, tuple(runs))


def _attempts(
    session: Session, series: Mapping[Spot, Series], run_ids: Sequence[int], brief: Brief
) -> dict[int, list[Attempt]]:
    """Attempts of each row, with what the probe showed during each."""
    out: dict[int, list[Attempt]] = {}
    if brief.kind.test.held == "marks":
        return out
    for row in current_attempts(session, run_ids):
        trace = series.get((row.entry_id, row.race), NOTHING).trace
        out.setdefault(row.entry_id, []).append(replace(as_core(row), trace=trace))
    return out


def subject_of(version: Version) -> Subject:
    """What findings call a version."""
    build = version.build
    return Subject(build.team.class_id, build.challenge_id, build.team_id, version.number)


def ideas_in(runs: Sequence[Run], teams: Mapping[int, Team]) -> dict[Subject, Team]:
    """For each version in these runs that another team's idea helped: that team, among those given."""
    versions = [e.version for run in runs for e in run.entries if e.version is not None]
    found = {subject_of(v): teams.get(v.idea_team_id or 0) for v in versions}
    return {subject: team for subject, team in found.items() if team is not None}


@dataclass(frozen=True)
class _RunReader:
    """Reads one run: its rows' traces and attempts, put together by version."""

    run: Run
    brief: Brief
    series: Mapping[Spot, Series]
    attempts: Mapping[int, Sequence[Attempt]]
    offsets: Mapping[int, float]

    def tried(self) -> list[Tried]:
        """What the run says of each of its versions; a version's devices belong together."""
        rows: dict[int, list[Entry]] = {}
        for entry in self.run.entries:
            if entry.version_id is not None:
                rows.setdefault(entry.version_id, []).append(entry)
        found = [self._one(entries) for entries in rows.values()]
        return [tried for tried in found if tried is not None]

    def _one(self, entries: Sequence[Entry]) -> Tried | None:
        version, run, brief = entries[0].version, self.run, self.brief
        traces = self._by_key(entries)
        attempts = tuple(a for e in entries for a in self.attempts.get(e.id, ()))
        if version is None or not (traces or attempts):
            return None
        plan = plan_of(version)
        count = tally(plan, brief.offers, brief.credit)
        trial = Trial(
            traces,
            {**brief.values, **{c.key: c.value for c in run.conditions}},
            {p: t for e in run.entries if e.is_air for p, t in self._by_phase(e).items()},
            count.units,
            count.impact,
            brief.interval_s(),
            attempts,
            control=self._by_key([e for e in run.entries if e.is_control]),
            bare=tuple(a for e in run.entries if e.is_control for a in self.attempts.get(e.id, ())),
            choices=brief.choices,
            plan=plan,
        )
        missed = tuple(m for e in entries for m in self._open(e))
        return Tried(subject_of(version), run.number, plan, trial, version.prediction, missed)

    @cached_property
    def _own(self) -> bool:
        """Each build has its own thermometer where temperatures are read at marks, and nowhere else."""
        return self.brief.kind.test.held == "marks" and self.brief.read_at(air=False).unit == "degC"

    def _trace(self, entry: Entry, phase: str) -> Trace:
        trace = self.series.get((entry.id, phase), NOTHING).trace
        off = 0.0
        if entry.is_air:
            off = self.offsets.get(AIR_NUMBER, 0.0)
        elif self._own and entry.version is not None:
            off = self.offsets.get(entry.version.build.team_id, 0.0)
        return Trace(trace.time_s, tuple(v - off for v in trace.value)) if off else trace

    def _by_phase(self, entry: Entry) -> dict[str, Trace]:
        found = {phase.key: self._trace(entry, phase.key) for phase in self.brief.kind.test.phases}
        return {key: trace for key, trace in found.items() if trace.time_s}

    def _by_key(self, entries: Sequence[Entry]) -> dict[str, Trace]:
        """The traces of rows by the key that `fit` looks for."""
        test, choices = self.brief.kind.test, self.brief.choices
        later = test.later_for(choices)
        out: dict[str, Trace] = {}
        for entry in entries:
            found = {test.trace_key(p, choices, entry.device): t for p, t in self._by_phase(entry).items()}
            if later is not None:
                found.setdefault(later.read.key, self._trace(entry, later.read.key))
            out |= {key: trace for key, trace in found.items() if trace.time_s}
        return out

    @cached_property
    def _read(self) -> dict[str, set[float]]:
        """The marks of each phase that any row of the run was read at."""
        out: dict[str, set[float]] = {}
        for entry in self.run.entries:
            for phase in self.brief.kind.test.phases:
                found = self.series.get((entry.id, phase.key), NOTHING)
                out.setdefault(phase.key, set()).update(found.marks)
        return out

    def _open(self, entry: Entry) -> list[str]:
        """Marks that others have and this row has not, and values in question, in words."""
        device = dict(self.brief.kind.test.devices).get(entry.device, "")
        out = []
        for phase in self.brief.kind.test.phases:
            found = self.series.get((entry.id, phase.key), NOTHING)
            name = f"{device} {phase.label.lower()}".strip()
            out += [f"{name} {m / 60:g} min" for m in sorted(self._read[phase.key] - found.marks)]
            out += [f"{name} {m / 60:g} min in question" for m in sorted(found.asked)]
        return out
