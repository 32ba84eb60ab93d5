"""Runs: making one, its clocks, its rows and cells."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta

from sqlalchemy import bindparam, exists, func, inspect, select, union_all
from sqlalchemy.orm import Session, aliased, joinedload
from sqlalchemy.orm.attributes import set_committed_value

from thermion.core.kinds import get_kind, kind_for
from thermion.core.kinds.base import Kind
from thermion.core.planning.rounds import Slot, slots
from thermion.records import moments
from thermion.records.database import memory_of
from thermion.records.deleting import Removed, delete_kept
from thermion.records.errors import Gone, Refused
from thermion.records.loading import load_together
from thermion.records.planning.briefs import Brief, get_challenge, keep_safe
from thermion.records.tables import (
    CONTROL,
    AttemptRow,
    Build,
    Challenge,
    Entry,
    Reading,
    Run,
    RunCondition,
    RunPhase,
    Version,
)
from thermion.records.tables.runs import How

SPEEDS = (1.0, 30.0, 60.0)
TURNS = "turns"  # the one phase of a test at a station


@dataclass(frozen=True)
class Clock:
    """A phase's clock: it is the moment of its start, so nothing can stop or lose it."""

    phase: str
    started_at: datetime | None
    speed: float
    slots: tuple[Slot, ...]

    def elapsed_s(self, now: datetime) -> float:
        """Seconds of the test that have gone by at `now`; 0 before the start."""
        if self.started_at is None:
            return 0.0
        return (now - self.started_at).total_seconds() * self.speed


@dataclass(frozen=True)
class ReadCell:
    """The current reading of a row at a mark, and how many earlier values it has."""

    reading: Reading
    earlier: int


def _testable(
    session: Session, challenge: Challenge, version_ids: Sequence[int], rehearsal: bool
) -> Sequence[Version]:
    """These versions, if they can be tested together."""
    versions = session.scalars(
        select(Version)
        .join(Version.build)
        .where(Build.challenge_id == challenge.id, Version.id.in_(version_ids))
        .options(joinedload(Version.build).joinedload(Build.team))
    ).all()
    if not versions:
        raise Refused("Choose at least one build to test.", "versions")
    if len(versions) != len(set(version_ids)):
        raise Gone("One of these versions is no longer there. Choose again.")
    teams = [v.build.team_id for v in versions]
    if len(set(teams)) != len(teams):
        raise Refused("Each team can be in a run with one version only.", "versions")
    if not rehearsal and any(v.state != "issued" for v in versions):
        raise Refused("Only builds whose materials were issued can be tested.", "versions")
    return versions


def _keep_safe(challenge: Challenge, choices: Mapping[str, str], conditions: Mapping[str, float]) -> None:
    """Refuse a test under conditions that could hurt someone of this age."""
    kept = {row.key: row.value for row in challenge.settings} | dict(conditions)
    for condition in kind_for(challenge.kind, challenge.age_band).brief.settings(choices):
        keep_safe(condition, kept.get(condition.key, condition.si("default")), challenge)


def _may_begin(
    challenge: Challenge, kind: Kind, conditions: Mapping[str, float], *, rehearsal: bool, speed: float
) -> None:
    if challenge.cautions_seen_at is None:
        raise Refused("Read the safety cautions with the class first.", "cautions")
    choices = kind.brief.chosen({row.key: row.value for row in challenge.choices})
    if rehearsal and not kind.can_rehearse(choices):
        raise Refused("Stand-in probes read temperatures only; this test reads something else.")
    if speed not in SPEEDS or (speed != 1.0 and not rehearsal):
        raise Refused("Only a rehearsal runs faster than the clock.", "speed")
    _keep_safe(challenge, choices, conditions)


def create_run(
    session: Session,
    challenge: Challenge,
    *,
    version_ids: Sequence[int],
    conditions: Mapping[str, float],
    how: Mapping[str, How] | None = None,
    rehearsal: bool = False,
    speed: float = 1.0,
    note: str = "",
    now: datetime | None = None,
    apart_s: float = 0.0,
    control: bool = False,
) -> Run:
    """A run of these versions, rows in room order with the control and the air first.

    `how` each condition was obtained decides how sure corrections for it are. A team with several
    devices has a row for each. `control` gives a row to what stands
    untouched beside the builds, where the family has one. `apart_s` staggers the starts: each
    build's own clock begins that much after the one before.

    Refused before the cautions were acknowledged, without builds, with a version twice or of
    another challenge, or (outside a rehearsal) with one whose materials were not issued.
    """
    kind = get_kind(challenge.kind)
    _may_begin(challenge, kind, conditions, rehearsal=rehearsal, speed=speed)
    versions = _testable(session, challenge, version_ids, rehearsal)
    number = session.scalar(
        select(func.coalesce(func.max(Run.number), 0)).where(Run.challenge_id == challenge.id)
    )
    run = Run(
        challenge_id=challenge.id,
        number=(number or 0) + 1,
        speed=speed,
        rehearsal=rehearsal,
        note=note.strip(),
        created_at=now or moments.now(),
    )
    run.seed = 1000 * challenge.id + run.number
    obtained = how or {}
    run.conditions = [RunCondition(key=k, value=v, how=obtained.get(k, "")) for k, v in conditions.items()]
    if kind.test.shape != "marks":  # it begins when it is made: there is no clock to start
        run.phases = [RunPhase(phase=TURNS, started_at=run.created_at)]
    run.entries = _rows(kind, versions, apart_s=apart_s, control=control)
    session.add(run)
    session.flush()
    return run


def _rows(kind: Kind, versions: Sequence[Version], *, apart_s: float, control: bool) -> list[Entry]:
    """The control, the air, and the builds in the order of the room, a row for each device."""
    rows = []
    if control and kind.test.control:
        rows.append(Entry(version=None, device=CONTROL))
    if kind.test.shape == "marks" and kind.test.reads_air:
        rows.append(Entry(version=None))
    devices = [key for key, _ in kind.test.devices] or [""]
    ordered = sorted(versions, key=lambda v: v.build.team.position)
    for i, version in enumerate(ordered):
        rows += [Entry(version=version, device=device, offset_s=i * apart_s) for device in devices]
    for i, row in enumerate(rows):
        row.position = i
    return rows


def noted_counts(session: Session, challenge_id: int) -> dict[int, int]:
    """How many values and attempts stand in each run of a challenge, replaced ones not counted."""
    reading, attempt = aliased(Reading), aliased(AttemptRow)
    rows = session.execute(
        union_all(
            select(Entry.run_id, func.count(Reading.id))
            .join(Reading, Reading.entry_id == Entry.id)
            .join(Run, Run.id == Entry.run_id)
            .where(Run.challenge_id == challenge_id)
            .group_by(Entry.run_id),
            # what was replaced, and what was taken back for good, is not counted again
            select(Entry.run_id, -func.count())
            .join(Reading, Reading.entry_id == Entry.id)
            .join(Run, Run.id == Entry.run_id)
            .where(Run.challenge_id == challenge_id, Reading.supersedes_id.is_not(None))
            .group_by(Entry.run_id),
            select(Entry.run_id, -func.count())
            .join(Reading, Reading.entry_id == Entry.id)
            .join(Run, Run.id == Entry.run_id)
            .outerjoin(reading, reading.supersedes_id == Reading.id)
            .where(
                Run.challenge_id == challenge_id,
                Reading.supersedes_id.is_not(None),
                Reading.value.is_(None),
                reading.id.is_(None),
            )
            .group_by(Entry.run_id),
            select(Entry.run_id, func.count())
            .join(AttemptRow, AttemptRow.entry_id == Entry.id)
            .join(Run, Run.id == Entry.run_id)
            .outerjoin(attempt, attempt.supersedes_id == AttemptRow.id)
            .where(Run.challenge_id == challenge_id, attempt.id.is_(None), AttemptRow.withdrawn.is_(False))
            .group_by(Entry.run_id),
        )
    )
    out: dict[int, int] = {}
    for run_id, count in rows:
        out[run_id] = out.get(run_id, 0) + count
    return out


def get_run(session: Session, run_id: int) -> Run:
    """A run with phases, conditions, and entries with version, build and team."""
    found = session.get(Run, run_id)
    if found is None:
        raise Gone("This run is no longer there. It may have been deleted in another tab.")
    set_committed_value(found, "challenge", get_challenge(session, found.challenge_id))
    if "entries" in inspect(found).unloaded:
        load_runs(session, [found])
    return found


def load_runs(session: Session, runs: Sequence[Run]) -> None:
    """Phases, conditions and rows of all these runs, with the plans that they test, in two queries."""
    version = joinedload(Entry.version).joinedload(Version.build).joinedload(Build.team)
    load_together(session, runs, Run.phases, Run.conditions, Run.aparts, Run.entries, options=[version])
    versions = {e.version_id: e.version for r in runs for e in r.entries if e.version is not None}
    load_together(session, list(versions.values()), Version.parts, Version.factors)


def runs_of(session: Session, challenge_id: int) -> Sequence[Run]:
    found = session.scalars(select(Run).where(Run.challenge_id == challenge_id).order_by(Run.number)).all()
    load_together(session, found, Run.phases, Run.entries, Run.conditions, Run.aparts)
    return found


def clocks(run: Run, brief: Brief) -> list[Clock]:
    """The clock of every phase, in order."""
    started = {p.phase: p.started_at for p in run.phases}
    return [
        Clock(p.key, started.get(p.key), run.speed, tuple(slots(brief.marks[p.key])))
        for p in brief.kind.test.phases
        if brief.marks.get(p.key)
    ]


def start_phase(session: Session, run: Run, brief: Brief, phase: str, now: datetime | None = None) -> None:
    """Start a phase's clock. Starting it again is harmless; phases go in order."""
    if run.closed_at is not None:
        raise Refused("This run is closed.")
    order = [c.phase for c in clocks(run, brief)]
    started = {p.phase for p in run.phases}
    if phase in started:
        return
    if phase not in order or any(p not in started for p in order[: order.index(phase)]):
        raise Refused("The phase before it has not been started.")
    before = [p.started_at for p in run.phases]  # a clock that was set back begins none before another
    run.phases.append(RunPhase(phase=phase, started_at=max([now or moments.now(), *before])))
    session.flush()


def close_run(run: Run, now: datetime | None = None) -> None:
    """No further marks or turns are expected; what was noted can still be corrected."""
    if not run.phases:
        raise Refused("This run has not been started.")
    if run.closed_at is None:
        run.closed_at = max(now or moments.now(), run.created_at)


def reopen_run(run: Run) -> None:
    """More turns after all. A clocked run keeps its clock, so it can be opened again too."""
    run.closed_at = None


def delete_run(session: Session, run: Run) -> Removed:
    """Drop a rehearsal, or a run that was never started; it can be brought back. Real readings stay."""
    if run.phases and not run.rehearsal:
        raise Refused("This run has been started; its readings stay in the record.")
    what = "rehearsal" if run.rehearsal else "run"
    return delete_kept(session, run, "run", f"{run.challenge.title}, {what} {run.number}")


def tested_challenges(session: Session, class_id: int) -> list[int]:
    """The challenges of a class that have real runs which were begun, the newest run first."""
    found = (
        select(Run.challenge_id)
        .join(Run.challenge)
        .join(Run.phases)
        .where(Challenge.class_id == class_id, Run.rehearsal.is_(False))
        .group_by(Run.challenge_id)
        .order_by(func.max(RunPhase.started_at).desc())
    )
    return list(session.scalars(found))


def open_runs_of(session: Session, challenge_id: int) -> Sequence[int]:
    """The tests of a challenge that are not closed, the one made last at the end."""
    found = select(Run.id).where(Run.challenge_id == challenge_id, Run.closed_at.is_(None))
    return session.scalars(found.order_by(Run.id)).all()


def all_readings(session: Session, run_id: int) -> Sequence[Reading]:
    """Every reading of a run in the order of entry, replaced ones too."""
    return session.scalars(
        select(Reading).join(Entry).where(Entry.run_id == run_id).order_by(Reading.id)
    ).all()


# asked with every poll of a test that goes on, and so built once
_ADDED = (
    select(Reading)
    .where(Reading.entry_id.in_(bindparam("rows", expanding=True)), Reading.id > bindparam("last"))
    .where(Reading.mark_s.is_not(None))
    .order_by(Reading.id)
)
_LOOSE = select(
    exists().where(Reading.entry_id.in_(bindparam("rows", expanding=True)), Reading.mark_s.is_(None))
)


def has_loose(session: Session, run: Run) -> bool:
    """Whether a run has readings between its marks, as probes and loggers make them.

    Once it has, it always will: they are only ever added.
    """
    memory, key = memory_of(session), ("loose", run.id)
    if memory.find(key, run.created_at):
        return True
    found = bool(session.scalar(_LOOSE, {"rows": [e.id for e in run.entries]}))
    if found:
        memory.keep(key, run.created_at, True)
    return found


def cells(session: Session, run: Run) -> dict[tuple[int, str, float], ReadCell]:
    """The current reading at each (entry, phase, mark), with the count of earlier values.

    A cell whose reading was taken back is there with a reading of None. Readings are only ever added, so
    a session that reads asks for what came since the last time.
    """
    memory, key = memory_of(session), ("cells", run.id)
    last, known = memory.find(key, run.created_at) or (0, {})
    rows = session.scalars(_ADDED, {"rows": [e.id for e in run.entries], "last": last}).all()
    if not rows:
        return known
    found = dict(known)  # others may be reading the one that is known
    for row in rows:
        if row.mark_s is None:
            continue
        spot = row.entry_id, row.phase, row.mark_s
        before = found.get(spot)
        corrects = row.supersedes_id is not None and before is not None
        found[spot] = ReadCell(row, before.earlier + 1 if corrects and before else 0)
    memory.keep(key, run.created_at, (rows[-1].id, found))
    return found


def history(session: Session, run: Run, reading_id: int) -> list[Reading]:
    """A reading of this run and the earlier values it replaced, newest first.

    Gone when there is none of this number in this run.
    """
    rows = {e.id for e in run.entries}
    out = []
    at = session.get(Reading, reading_id)
    if at is None or at.entry_id not in rows:
        raise Gone("This reading is not in this run.")
    while at is not None:
        out.append(at)
        at = session.get(Reading, at.supersedes_id) if at.supersedes_id else None
    return out


@dataclass(frozen=True, kw_only=True)
class Going:
    """A run that is going: its challenge, since when [s], and the shape of its test."""

    run_id: int
    number: int
    challenge_id: int
    title: str
    since_s: float
    shape: str


def going_runs(session: Session, class_id: int, now: datetime) -> list[Going]:
    """The runs of this class that are going, in the order of the challenges.

    Several clocked tests and stations can be on in one class at once.
    """
    rows = session.execute(
        select(
            Run.id,
            Run.number,
            Challenge.id,
            Challenge.title,
            Challenge.kind,
            Run.speed,
            func.max(RunPhase.started_at),
        )
        .join(Run.challenge)
        .join(Run.phases)
        .where(Challenge.class_id == class_id, Run.closed_at.is_(None), Run.paper.is_(False))
        .group_by(Run.id)
        .having(func.max(RunPhase.started_at) > now - timedelta(hours=6))
        .order_by(Challenge.position, Run.number)
    ).all()
    return [
        Going(
            run_id=run_id,
            number=number,
            challenge_id=challenge_id,
            title=title,
            since_s=(now - started).total_seconds() * speed,
            shape=get_kind(kind).test.shape,
        )
        for run_id, number, challenge_id, title, kind, speed, started in rows
    ]
