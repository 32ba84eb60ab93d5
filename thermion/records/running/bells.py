"""The bell in the middle of a test: it is asked once what becomes of the run."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import datetime, timedelta

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from thermion.core.planning.schedule import Lesson
from thermion.records.database import asked_once
from thermion.records.tables import Challenge, Run, RunPhase

AFTER = timedelta(minutes=30)  # so long after the bell it is still asked


def rung(lessons: Sequence[Lesson], now: datetime) -> Lesson | None:
    """The lesson in which packing up has begun, or whose bell rang a short while ago."""
    for lesson in lessons:
        since = now - lesson.start
        if timedelta(seconds=lesson.room_s) <= since < timedelta(seconds=lesson.length_s) + AFTER:
            return lesson
    return None


def run_at_the_bell(
    session: Session, class_id: int, lessons: Sequence[Lesson], now: datetime
) -> tuple[Run, str] | None:
    """A run that is still on when the lesson packs up, and its challenge's title; None when none is,
    or it was asked already. A run begun after the bell is not meant."""
    lesson = rung(lessons, now)
    if lesson is None:
        return None

    def find() -> tuple[Run, str] | None:
        found = session.execute(
            select(Run, Challenge.title)
            .join(Run.challenge)
            .join(Run.phases)
            .where(Challenge.class_id == class_id, Run.closed_at.is_(None), Run.rehearsal.is_(False))
            .where((Run.bell_at.is_(None)) | (Run.bell_at < lesson.start))
            .group_by(Run.id)
            .having(func.min(RunPhase.started_at) < lesson.start + timedelta(seconds=lesson.length_s))
            .having(func.max(RunPhase.started_at) > now - timedelta(hours=36))
            .order_by(Challenge.position, Run.number)
        ).first()
        return None if found is None else (found[0], found[1])

    return asked_once(session, ("at the bell", class_id), find)


def go_on(run: Run, now: datetime) -> None:
    """The run goes on in the next lesson: this bell is not asked about again."""
    run.bell_at = now
