"""Somebody set the computer's clock right while a test was on: the record's moments follow it."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime, timedelta

from sqlalchemy import select
from sqlalchemy.orm import Session, joinedload, selectinload

from thermion.records import moments
from thermion.records.errors import Refused
from thermion.records.tables import AttemptRow, Conducted, Entry, Reading, Run


@dataclass(frozen=True)
class ClockQuestion:
    """The test that was begun last, and for how long it has been on: as its clock went on, and as the
    computer's clock says now (None where that was before its start)."""

    title: str
    went_s: float
    stood_s: float | None


def _open_runs(session: Session) -> list[Run]:
    found = session.scalars(
        select(Run)
        .where(Run.closed_at.is_(None), Run.phases.any())
        .options(selectinload(Run.phases), joinedload(Run.challenge))
    )
    return sorted(found, key=lambda run: max(p.started_at for p in run.phases))


def asked(session: Session) -> ClockQuestion | None:
    """What is asked when the clock was set; None when it was not, or no test is on."""
    if not moments.clock_off(session):
        return None
    runs = _open_runs(session)
    if not runs:
        return None
    run = runs[-1]
    started = max(p.started_at for p in run.phases)
    wall_s = (moments.OWN.wall() - started).total_seconds() * run.speed
    went_s = (moments.now() - started).total_seconds() * run.speed
    return ClockQuestion(run.challenge.title, went_s, wall_s if wall_s >= 0 else None)


def follow(session: Session, *, went: bool) -> timedelta:
    """Let the open tests and steps go by the computer's clock, which is right now; by how much it was set.

    `went`: their clocks went on rightly, only all moments were written by a wrong hour, and move with it.
    Otherwise the clock was wrong only since the server was started with it: what began before that stands
    where it was, and what was written since is moved, with the times of its readings. The caller calls
    `moments.OWN.follow()` once this is stored.
    """
    off, wall = moments.OWN.off(), moments.OWN.wall()
    if not off:
        raise Refused("The clocks agree. Nothing was changed.")
    for run in _open_runs(session):
        _move_run(session, run, off, None if went else wall)
    for step in session.scalars(select(Conducted).where(Conducted.ended_at.is_(None))):
        if went or step.started_at > wall:
            step.started_at += off
        if step.paused_at is not None and (went or step.paused_at > wall):
            step.paused_at += off
        step.changes += 1
    session.flush()
    return off


def _move_run(session: Session, run: Run, off: timedelta, wall: datetime | None) -> None:
    """Move a run's moments by `off`; with `wall`, only those that lie after it."""
    moved = {p.phase for p in run.phases if wall is None or p.started_at > wall}
    for phase in run.phases:
        if phase.phase in moved:
            phase.started_at += off
    mine = select(Entry.id).where(Entry.run_id == run.id)
    for reading in session.scalars(select(Reading).where(Reading.entry_id.in_(mine))):
        if wall is not None and reading.arrived_at <= wall:
            continue
        reading.entered_at, reading.arrived_at = reading.entered_at + off, reading.arrived_at + off
        if reading.phase not in moved and reading.timed:
            reading.time_s = max(reading.time_s + off.total_seconds() * run.speed, 0.0)
    for attempt in session.scalars(select(AttemptRow).where(AttemptRow.entry_id.in_(mine))):
        if wall is None or attempt.at > wall:
            attempt.at += off
