"""Lessons of a class, and how each challenge's steps and tests are set into them."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from zoneinfo import ZoneInfo

from sqlalchemy import Select, inspect, select
from sqlalchemy.orm import Session, joinedload

from thermion.core.planning.difficulty import usual_setup
from thermion.core.planning.schedule import Lesson, Timeline, check_lessons
from thermion.core.planning.timetable import next_hours, next_school_day
from thermion.core.planning.week import (
    PHASES,
    Bell,
    Remedy,
    Task,
    Timing,
    bell,
    plan_week,
    remedies,
    round_remedies,
    usual_timing,
)
from thermion.core.values import Unfit
from thermion.records.database import asked_once
from thermion.records.errors import Gone, Refused
from thermion.records.planning.briefs import Brief, brief_of, load_briefs
from thermion.records.planning.marks import save_marks
from thermion.records.planning.timetable import holidays_of, hours_of
from thermion.records.tables import Challenge, LessonRow, SchoolClass, StepRow, TimingRow

LONGEST_S = 8 * 3600.0


@dataclass(frozen=True, kw_only=True)
class WeekPlan:
    """A class's week: lessons, challenges with their tasks in order, and what goes where."""

    lessons: tuple[Lesson, ...]
    lesson_ids: tuple[int, ...]
    challenges: tuple[Challenge, ...]
    tasks: tuple[Task, ...]
    timeline: Timeline
    extra: Lesson | None  # one more, in the class's next hour

    def index(self, challenge_id: int) -> int:
        return [c.id for c in self.challenges].index(challenge_id)


def lessons_of(session: Session, class_id: int) -> list[LessonRow]:
    found = select(LessonRow).where(LessonRow.class_id == class_id).order_by(LessonRow.starts_at)
    return asked_once(session, ("lessons", class_id), lambda: list(session.scalars(found)))


def _lessons(rows: Sequence[LessonRow]) -> list[Lesson]:
    return [Lesson(r.starts_at, r.length_s, r.pack_up_s) for r in rows]


def timing_of(session: Session, challenge: Challenge, brief: Brief) -> Timing:
    """How the test is held: as set, or the family's usual way with the age's attempts."""
    reading = "memory" in session.info and "timing" not in inspect(challenge).unloaded
    row = challenge.timing if reading else session.get(TimingRow, challenge.id)
    return _timing(row, challenge, brief)


def _timing(row: TimingRow | None, challenge: Challenge, brief: Brief) -> Timing:
    if row is None:
        usual = usual_setup(brief.kind, challenge.dial or challenge.age_band)
        return usual_timing(brief.kind, usual.attempts)
    return Timing(
        attempts=row.attempts,
        stations=row.stations,
        readers=row.readers,
        read_s=row.read_s,
        set_up_s=row.set_up_s,
        fit_s=row.fit_s,
        run_s=row.run_s,
        reset_s=row.reset_s,
        stagger=row.stagger,
        in_row=row.in_row,
    )


def save_timing(session: Session, challenge_id: int, timing: Timing) -> None:
    """Keep how the test is held. Refused, naming the field, when it cannot be."""
    try:
        timing.check()
    except Unfit as error:
        raise Refused(f"{str(error).capitalize()}.", error.argument) from None
    row = session.get(TimingRow, challenge_id)
    if row is None:
        row = TimingRow(challenge_id=challenge_id)
        session.add(row)
    for key, value in vars(timing).items():
        setattr(row, key, value)


def task_of(challenge: Challenge, brief: Brief, timing: Timing, rows: Sequence[StepRow]) -> Task:
    """The challenge as the core plans it; phases that were never set have their usual length."""
    mine = {r.phase: r for r in rows}
    lengths = {
        p.key: mine[p.key].length_s if p.key in mine else p.minutes * 60.0
        for p in PHASES
        if p.key not in mine or p.test or mine[p.key].length_s > 0
    }
    return Task(
        name=str(challenge.id),
        kind=brief.kind,
        timing=timing,
        teams=max(len(challenge.school_class.present), 1),
        marks=brief.marks,
        lengths_s=lengths,
        moved={r.phase: r.not_before for r in rows if r.not_before},
        beside=challenge.beside,
    )


def week_of(session: Session, class_id: int) -> WeekPlan:
    """Everything the plan of a week shows, in a fixed number of queries."""
    challenges = session.scalars(
        select(Challenge)
        .where(Challenge.class_id == class_id)
        .order_by(Challenge.position, Challenge.id)
        .options(joinedload(Challenge.school_class))
    ).all()
    load_briefs(session, challenges)
    rows = lessons_of(session, class_id)
    ids = [c.id for c in challenges]
    steps: dict[int, list[StepRow]] = {}
    for step in session.scalars(select(StepRow).where(StepRow.challenge_id.in_(ids))):
        steps.setdefault(step.challenge_id, []).append(step)
    timings = session.scalars(select(TimingRow).where(TimingRow.challenge_id.in_(ids)))
    timed = {row.challenge_id: row for row in timings}
    tasks = []
    for challenge in challenges:
        brief = brief_of(challenge)
        timing = _timing(timed.get(challenge.id), challenge, brief)
        tasks.append(task_of(challenge, brief, timing, steps.get(challenge.id, [])))
    lessons = _lessons(rows)
    return WeekPlan(
        lessons=tuple(lessons),
        lesson_ids=tuple(r.id for r in rows),
        challenges=tuple(challenges),
        tasks=tuple(tasks),
        timeline=plan_week(lessons, tasks),
        extra=next_lesson(challenges[0].school_class, lessons) if challenges else None,
    )


def save_lesson(
    session: Session,
    class_id: int,
    starts_at: datetime,
    length_s: float,
    pack_up_s: float,
    lesson_id: int | None = None,
) -> LessonRow:
    """Add or change a lesson. Refused when it is too short, too long, or overlaps another."""
    if not 0 < length_s <= LONGEST_S:
        raise Refused("A lesson lasts between 1 minute and 8 hours.", "length")
    if not 0 <= pack_up_s < length_s:
        raise Refused("Packing up takes less than the whole lesson.", "pack_up")
    row = session.get(LessonRow, lesson_id) if lesson_id else None
    if lesson_id and (row is None or row.class_id != class_id):
        raise Gone("This lesson is no longer there. It may have been deleted in another tab.")
    if row is None:
        row = LessonRow(class_id=class_id)
    others = [r for r in lessons_of(session, class_id) if r.id != lesson_id]
    new = Lesson(starts_at, length_s, pack_up_s)
    try:
        check_lessons(sorted([*_lessons(others), new], key=lambda x: x.start))
    except ValueError:
        raise Refused("This lesson overlaps another one of the class.", "start") from None
    row.starts_at, row.length_s, row.pack_up_s = starts_at, length_s, pack_up_s
    session.add(row)
    session.flush()
    return row


def delete_lesson(session: Session, class_id: int, lesson_id: int) -> None:
    """Drop a lesson; steps that were moved past it come one lesson earlier."""
    rows = lessons_of(session, class_id)
    at = next((i for i, r in enumerate(rows) if r.id == lesson_id), None)
    if at is None:
        return
    session.delete(rows[at])
    moved = session.scalars(
        select(StepRow)
        .join(Challenge, Challenge.id == StepRow.challenge_id)
        .where(Challenge.class_id == class_id, StepRow.not_before > at)
    )
    for step in moved:
        step.not_before -= 1


def save_step(
    session: Session,
    challenge_id: int,
    phase: str,
    *,
    length_s: float | None = None,
    not_before: int | None = None,
) -> None:
    """Stretch a step, leave it out (length 0), or move it to a lesson (0: as early as it goes)."""
    known = {p.key: p for p in PHASES}
    if phase not in known:
        raise Refused("There is no such step.", phase)
    row = session.scalar(select(StepRow).where(StepRow.challenge_id == challenge_id, StepRow.phase == phase))
    if row is None:
        row = StepRow(
            challenge_id=challenge_id, phase=phase, length_s=known[phase].minutes * 60.0, not_before=0
        )
        session.add(row)
    if length_s is not None:
        if not 0 <= length_s <= LONGEST_S:
            raise Refused("A step lasts up to 8 hours; 0 leaves it out.", phase)
        row.length_s = length_s
    if not_before is not None:
        row.not_before = max(not_before, 0)
    session.flush()


def remedies_of(plan: WeekPlan, challenge_id: int) -> list[Remedy]:
    """What would help this challenge: its reading round first, then what of it spills.

    When only later challenges spill, this one is left as it is.
    """
    at = plan.index(challenge_id)
    mine = any(key.startswith(f"{challenge_id}:") for key, _ in plan.timeline.spills)
    out = round_remedies(plan.tasks[at])
    return [*out, *remedies(plan.lessons, plan.tasks, at, extra=plan.extra)] if mine else out


def next_lesson(school_class: SchoolClass, lessons: Sequence[Lesson]) -> Lesson | None:
    """One more lesson after the last one, at the class's own clock: its next hour in the timetable, else the
    same time on the next day of school. None without a lesson."""
    if not lessons:
        return None
    last, free = lessons[-1], holidays_of(school_class)
    local = last.start.astimezone(ZoneInfo(school_class.zone))
    hours = next_hours(hours_of(school_class), free, local, 1)
    if hours:
        at, hour = hours[0]
        return Lesson(at, hour.length_s, hour.pack_up_s)
    return Lesson(next_school_day(local, free), last.length_s, last.pack_up_s)


def apply_remedy(session: Session, plan: WeekPlan, challenge_id: int, key: str) -> None:
    """Carry a remedy out; Refused when it does not help any more."""
    found = next((r for r in remedies_of(plan, challenge_id) if r.key == key), None)
    if found is None:
        raise Refused("This no longer helps: the plan has changed meanwhile.")
    challenge = plan.challenges[plan.index(challenge_id)]
    if found.lesson is not None:
        lesson = found.lesson
        save_lesson(session, challenge.class_id, lesson.start, lesson.length_s, lesson.pack_up_s)
    if found.task is not None:
        save_timing(session, challenge_id, found.task.timing)
        save_marks(session, challenge, {p: list(m) for p, m in found.task.marks.items()})


def bell_of(session: Session, class_id: int, now: datetime) -> tuple[Bell, Lesson] | None:
    """The lesson that is on in this class, if one is."""
    rows = asked_once(session, ("lessons", class_id), lambda: lessons_of(session, class_id))
    lessons = _lessons(rows)
    found = bell(lessons, now)
    return None if found is None else (found, lessons[found.lesson])


def class_in_lesson(session: Session, now: datetime) -> SchoolClass | None:
    """A class that has a lesson on at a moment, if one has."""
    rows = asked_once(session, "lessons that are on", lambda: session.scalars(_begun_before(now)).all())
    for row in rows:
        if row.starts_at + timedelta(seconds=row.length_s) > now:
            return session.get(SchoolClass, row.class_id)
    return None


def _begun_before(now: datetime) -> Select[LessonRow]:
    """Lessons that may be on, the one begun last first."""
    return (
        select(LessonRow)
        .join(SchoolClass)
        .where(LessonRow.starts_at <= now, LessonRow.starts_at > now - timedelta(seconds=LONGEST_S))
        .where(SchoolClass.put_away_at.is_(None))
        .order_by(LessonRow.starts_at.desc())
    )
