"""Loads every trial of a challenge in a fixed number of queries and hands them to the core."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from functools import cached_property

from sqlalchemy import select
from sqlalchemy.orm import Session

from thermion.core.judging.findings import Findings, Tried, analyse
from thermion.core.judging.fitting import fit_trials
from thermion.core.kinds.probes import checked_off
from thermion.core.kinds.trials import Attempt, Fitted, Trace, Trial
from thermion.core.plans import tally
from thermion.core.subjects import Subject
from thermion.records.building.builds import plan_of
from thermion.records.judging.criteria import JudgesMarks, criteria_of, said_of
from thermion.records.judging.lent import earlier_spreads
from thermion.records.judging.tested import tested_runs
from thermion.records.planning.briefs import Brief, get_challenge
from thermion.records.running.attempts import as_core, current_attempts
from thermion.records.running.rig import AIR_NUMBER, Thermometers, checks_of, thermometers
from thermion.records.running.runs import load_runs
from thermion.records.running.series import NOTHING, Series, Spot, series_of
from thermion.records.running.set_apart import Apart, apart_in
from thermion.records.tables import Challenge, Entry, Run, Team, Version


def run_figures(session: Session, run: Run, brief: Brief) -> list[tuple[Tried, Fitted]]:
    """What one run says so far of each of its versions, and the figures that follow."""
    tried = _read(session, get_challenge(session, run.challenge_id), brief, [run]).tried
    return list(zip(tried, fit_trials(brief.kind, [t.trial for t in tried]), strict=True))


@dataclass(frozen=True)
class Evidence:
    """A challenge's trials and what follows from them under one rule; `glass` is what the check in one
    glass said of the thermometers, which is taken off already."""

    tried: tuple[Tried, ...]
    findings: Findings | None
    runs: tuple[Run, ...]
    glass: Thermometers


def load_evidence(
    session: Session, challenge: Challenge, brief: Brief, *, school: str, rehearsal: bool = False
) -> Evidence:
    """Trials and findings under a school's rule; rehearsals are kept apart from real runs.

    The one way from what is stored to figures and findings: every face shows what it gives. What the
    check in one glass said is taken off what each thermometer of a real run showed; how much a try varies
    may be lent by earlier challenges; what was set apart is left out.
    """
    read = _read(session, challenge, brief, tested_runs(session, challenge.id, rehearsal=rehearsal))
    found = None
    if read.tried:
        rule, better = brief.rule_of(school), brief.better_of(school)
        prior = {} if rehearsal else earlier_spreads(session, challenge, brief)
        found = analyse(brief.kind, read.tried, rule, brief.tolerance, better, prior)
    return replace(read, findings=found)


def closed_tries(session: Session, challenge: Challenge, brief: Brief) -> tuple[Tried, ...]:
    """What the closed real runs of a challenge say, without what was set apart."""
    runs = session.scalars(
        select(Run)
        .where(Run.challenge_id == challenge.id, Run.rehearsal.is_(False), Run.closed_at.is_not(None))
        .order_by(Run.number)
    ).all()
    if not runs:
        return ()
    load_runs(session, runs)
    return _read(session, challenge, brief, runs).tried


def _read(session: Session, challenge: Challenge, brief: Brief, runs: Sequence[Run]) -> Evidence:
    """What these runs say of each of their versions."""
    series = series_of(session, runs)
    glass = thermometers(checks_of(session, challenge, brief), challenge)
    rows = _attempts(session, series, [run.id for run in runs], brief)
    said = said_of(session, challenge.id, brief)
    tried = tuple(
        t
        for run in runs
        for t in _RunReader(
            run=run,
            brief=brief,
            series=series,
            attempts=rows,
            glass=None if run.rehearsal else glass,
            said=said,
        ).tried()
    )
    return Evidence(tried, None, tuple(runs), glass)


def _attempts(
    session: Session, series: Mapping[Spot, Series], run_ids: Sequence[int], brief: Brief
) -> dict[int, list[Attempt]]:
    """Attempts of each row, with what the probe showed during each."""
    out: dict[int, list[Attempt]] = {}
    if brief.kind.test.shape == "marks":
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


@dataclass(frozen=True, kw_only=True)
class _RunReader:
    """Reads one run: its rows' traces and attempts, put together by version."""

    run: Run
    brief: Brief
    series: Mapping[Spot, Series]
    attempts: Mapping[int, Sequence[Attempt]]
    glass: Thermometers | None
    said: JudgesMarks

    def tried(self) -> list[Tried]:
        """What the run says of each of its versions; a version's devices belong together."""
        rows: dict[int, list[Entry]] = {}
        for entry in self.run.entries:
            if entry.version_id is not None and not self._apart.leaves_out(entry):
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
            traces=traces,
            conditions={
                **brief.values,
                **{c.key: c.value for c in run.conditions},
                **self._glass_of(version, entries),
            },
            air={p: t for e in run.entries if e.is_air for p, t in self._by_phase(e).items()},
            units_used=count.units,
            impact_points=count.impact,
            interval_s=brief.interval_s(),
            attempts=attempts,
            control=self._by_key([e for e in run.entries if e.is_control and not self._apart.leaves_out(e)]),
            bare=tuple(a for e in run.entries if e.is_control for a in self.attempts.get(e.id, ())),
            choices=brief.choices,
            plan=plan,
            uncertain=self._uncertain,
            until_s=self._until(entries),
            ended=run.closed_at is not None or bool(self._apart.cuts),
            judged=self.said.figures(version.id, criteria_of(brief)),
        )
        missed = tuple(m for e in entries for m in self._open(e))
        return Tried(
            subject=subject_of(version),
            run=run.number,
            plan=plan,
            trial=trial,
            prediction=version.prediction,
            missed=missed,
        )

    @cached_property
    def _own(self) -> bool:
        """Each build has its own thermometer where temperatures are read at marks, and nowhere else."""
        return self.brief.kind.test.shape == "marks" and self.brief.read_at(air=False).unit == "degC"

    @cached_property
    def _apart(self) -> Apart:
        return apart_in(self.run, tuple(p.key for p in self.brief.kind.test.phases))

    def _until(self, entries: Sequence[Entry]) -> dict[str, float]:
        """The last planned mark of each phase [s], by the key that its readings have."""
        test, choices = self.brief.kind.test, self.brief.choices
        return {
            test.trace_key(p, choices, e.device): marks[-1]
            for e in entries
            for p, marks in self.brief.marks.items()
            if marks
        }

    @cached_property
    def _uncertain(self) -> dict[str, float]:
        """How uncertain this run's conditions are, by how they were obtained."""
        values = {**self.brief.values, **{c.key: c.value for c in self.run.conditions}}
        return self.brief.uncertain(values, {c.key: c.how for c in self.run.conditions if c.how})

    def _glass_of(self, version: Version, entries: Sequence[Entry]) -> dict[str, float]:
        """What a check in one glass leaves open of what a build was read with: the team's thermometer,
        probes; nothing is known when any of it was in no glass."""
        by = {source for e in entries for source in self._sources.get(e.id, ())}
        hand = self._own and self.glass is not None and version.build.team_id in self.glass.checked
        probed = all(e.probe_checked for e in entries if "probe" in self._sources.get(e.id, ()))
        known = {"hand": hand, "probe": probed}
        if not by or not all(known.get(source, False) for source in by):
            return {}
        return {"u_thermometer": checked_off(self.brief.values.get("step_thermometer", 0.5))}

    @cached_property
    def _sources(self) -> dict[int, set[str]]:
        """Who read in each row: a hand, a probe, a file."""
        out: dict[int, set[str]] = {}
        for (entry_id, _), found in self.series.items():
            out.setdefault(entry_id, set()).update(found.sources)
        return out

    def _trace(self, entry: Entry, phase: str) -> Trace:
        trace = self._apart.trace(entry, phase, self.series.get((entry.id, phase), NOTHING).trace)
        off, known = 0.0, {} if self.glass is None else self.glass.off
        if entry.is_air:
            off = known.get(AIR_NUMBER, 0.0)
        elif self._own and entry.version is not None:
            off = known.get(entry.version.build.team_id, 0.0)
        if not off:
            return trace
        hand = self.series.get((entry.id, phase), NOTHING).by_hand  # a probe or logger is another thermometer
        return Trace(
            trace.time_s,
            tuple(v - off if t in hand else v for t, v in zip(trace.time_s, trace.value, strict=True)),
        )

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
