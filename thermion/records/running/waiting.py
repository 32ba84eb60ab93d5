"""What of a class waits for whoever leads it: plans, answers, values that teams typed, devices that fell silent."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta

from sqlalchemy import Select, select
from sqlalchemy.orm import Session, aliased

from thermion.records import moments
from thermion.records.acting import TEAM
from thermion.records.planning.briefs import Brief, brief_of
from thermion.records.running import runs
from thermion.records.running.devices import devices_in
from thermion.records.running.set_apart import apart_in
from thermion.records.tables import AttemptRow, Build, Challenge, Device, Entry, Reading, Run, Team, Version

SILENT = timedelta(seconds=60)  # after which a device that asked every few seconds is gone


@dataclass(frozen=True, kw_only=True)
class Waiting:
    """Plans handed in (the oldest first), drafts whose team has answered (version, team), runs with values in
    question that teams typed, runs with teams that have not read the mark that is due, and devices that are in
    and silent."""

    plans: Sequence[int]
    answered: Sequence[tuple[int, str]]
    values: Mapping[int, int]
    unread: Mapping[int, Sequence[str]]
    gone: Sequence[Device]

    @property
    def any(self) -> bool:
        return bool(self.plans or self.answered or self.values or self.unread or self.gone)


def waiting(session: Session, class_id: int, seen: Mapping[int, datetime], now: datetime) -> Waiting:
    """What waits; `seen` is when each device was last heard of, `now` is `moments.steady()`."""
    versions = (
        select(Version.id, Version.state, Version.answer, Team.name)
        .join(Version.build)
        .join(Build.team)
        .join(Build.challenge)
        .where(Challenge.class_id == class_id)
    )
    handed_in = session.execute(versions.where(Version.state == "waiting").order_by(Version.waiting_at)).all()
    answered = session.execute(
        versions.where(Version.state == "draft", Version.answer != "").order_by(Version.id)
    ).all()
    after, later = aliased(Reading), aliased(AttemptRow)
    open_questions = (
        _in_open_runs(class_id)
        .join(Reading, Reading.entry_id == Entry.id)
        .where(Reading.question != "", Reading.by.startswith(TEAM))
        .where(~select(after.id).where(after.supersedes_id == Reading.id).exists())
    )
    not_looked_at = (
        _in_open_runs(class_id)
        .join(AttemptRow, AttemptRow.entry_id == Entry.id)
        .where(Run.pads == "looked", AttemptRow.withdrawn.is_(False), AttemptRow.by.startswith(TEAM))
        .where(~select(later.id).where(later.supersedes_id == AttemptRow.id).exists())
    )
    values: dict[int, int] = {}
    for run_id in (*session.scalars(open_questions), *session.scalars(not_looked_at)):
        values[run_id] = values.get(run_id, 0) + 1
    mine = [d for d in devices_in(session, now) if d.class_id == class_id]
    return Waiting(
        plans=[row.id for row in handed_in],
        answered=[(row.id, row.name) for row in answered],
        values=values,
        unread=_unread(session, class_id),
        gone=[d for d in mine if now - seen.get(d.id, d.joined_at) > SILENT],
    )


def _in_open_runs(class_id: int) -> Select[int]:
    """The run of every row of a class's tests that are not closed."""
    return (
        select(Run.id)
        .join(Entry, Entry.run_id == Run.id)
        .join(Challenge, Challenge.id == Run.challenge_id)
        .where(Challenge.class_id == class_id, Run.closed_at.is_(None))
    )


def _unread(session: Session, class_id: int) -> dict[int, list[str]]:
    """By run, the teams that read on their own devices and are late at the mark that is due."""
    asked = _in_open_runs(class_id).where(Run.pads != "").distinct()
    out = {}
    for run_id in session.scalars(asked).all():
        run = runs.get_run(session, run_id)
        brief = brief_of(run.challenge)
        late = _late_mark(run, brief)
        if late is None:
            continue
        read, aside = runs.cells(session, run), apart_in(run, tuple(p.key for p in brief.kind.test.phases))
        asked_of = [e for e in run.entries if not e.left and aside.counts(e, *late)]
        missing = [
            e.version.build.team.name
            for e in asked_of
            if e.version is not None and _is_empty(read.get((e.id, *late)))
        ]
        if missing:
            out[run_id] = list(dict.fromkeys(missing))
    return out


def _is_empty(cell: runs.ReadCell | None) -> bool:
    return cell is None or cell.reading.value is None


def _late_mark(run: Run, brief: Brief) -> tuple[str, float] | None:
    """The phase and mark [s] that is due and has been for long enough that a hand should have read it."""
    if brief.kind.test.shape != "marks":
        return None
    going = [clock for clock in runs.clocks(run, brief) if clock.started_at is not None]
    if not going:
        return None
    elapsed = going[-1].elapsed_s(moments.now())
    for slot in going[-1].slots:
        since = elapsed - slot.mark_s
        enough = min(SILENT.total_seconds() * run.speed, (slot.due_until_s - slot.mark_s) / 2)
        if slot.state(elapsed) == "due" and since >= enough:
            return going[-1].phase, slot.mark_s
    return None
