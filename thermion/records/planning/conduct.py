"""Lessons as they are held: which act is on in a class, its clock, and what it took in the end."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import datetime, timedelta

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from thermion.core.planning.acts import Act, act_of
from thermion.core.planning.conduct import (
    LONGEST_S,
    PACK,
    Item,
    StepClock,
    Turning,
    agenda,
    following,
    turning,
)
from thermion.core.planning.schedule import Lesson
from thermion.core.planning.week import PHASES
from thermion.records.database import asked_once
from thermion.records.errors import Gone, Refused
from thermion.records.planning.week import WeekPlan
from thermion.records.tables import Challenge, Conducted, SchoolClass

SOON = timedelta(minutes=30)  # before its start, a lesson is the one that is meant
FRESH = timedelta(hours=3)  # an act without a lesson that was begun longer ago is no more on
SLIP = timedelta(seconds=20)  # an act given up sooner than this was never begun
MOST_TURN = 200


@dataclass(frozen=True)
class OnNow:
    """An act that is on: its row, what it is, its clock and its turns."""

    row: Conducted
    act: Act
    clock: StepClock
    turns: Turning | None

    def turn(self, now: datetime) -> tuple[int, float] | None:
        """(which turn, seconds left in it); None without turns."""
        if self.turns is None:
            return None
        return self.turns.at(self.row.turn, self.row.turn_from_s, self.clock.elapsed_s(now))


@dataclass(frozen=True)
class Held:
    """An item of the agenda with what became of it: "" not begun, "on", "done"; what it took [s]."""

    item: Item
    state: str
    took_s: float = 0.0
    left_over: bool = False  # of an earlier lesson, where it was not reached


@dataclass(frozen=True, kw_only=True)
class LessonNow:
    """The lesson that is meant, what it holds, what is on in it, and what comes next.

    `mark` differs after anything was done: whoever acts says which state was seen.
    """

    number: int  # in the week, from 0; -1 without lessons
    lesson_id: int
    lesson: Lesson | None
    is_on: bool
    held: tuple[Held, ...]
    on: tuple[OnNow, ...]
    next: Item | None
    mark: str


@dataclass(frozen=True, kw_only=True)
class Done:
    """What was asked for, once: `seen` is the state the screen showed.

    `what`: start, next, back, end, minute (`by` +1 or −1), pause, go (on after a pause), turn
    (`by` +1 or −1), says. `row` is the act meant, 0 where there is only one.
    """

    what: str
    seen: str
    row: int = 0
    by: int = 1
    challenge: str = ""
    phase: str = ""
    act: str = ""
    says: str = ""


def clock_of(row: Conducted) -> StepClock:
    return StepClock(row.started_at, row.allowed_s, row.stood_s, row.paused_at)


def rows_of(session: Session, class_id: int) -> Sequence[Conducted]:
    def find() -> Sequence[Conducted]:
        found = select(Conducted).where(Conducted.class_id == class_id).order_by(Conducted.id)
        return session.scalars(found).all()

    return asked_once(session, ("conducted", class_id), find)


def is_fresh(row: Conducted, plan: WeekPlan, now: datetime) -> bool:
    """Whether an act that nobody ended can still be on: not long after its lesson's bell."""
    if row.lesson_id in plan.lesson_ids:
        lesson = plan.lessons[plan.lesson_ids.index(row.lesson_id)]
        ends = lesson.start + timedelta(seconds=lesson.length_s)
        if lesson.start - SOON <= row.started_at < ends:
            return now < ends + SOON  # held at another time, no bell ends it
    return now < row.started_at + FRESH


def on_now(session: Session, school_class: SchoolClass, plan: WeekPlan, now: datetime) -> list[OnNow]:
    """The acts that are on in a class, at most one of each challenge."""
    teams = len(school_class.present)
    out = []
    for row in rows_of(session, school_class.id):
        act = act_of(row.phase, row.act)
        if row.ended_at is None and act is not None and is_fresh(row, plan, now):
            out.append(OnNow(row, act, clock_of(row), turning(act, row.allowed_s, teams)))
    return out


def _meant(plan: WeekPlan, on: Sequence[OnNow], now: datetime) -> int:
    """The number of the lesson that is on or soon; else of the act that is on; else of the next one."""
    for i, lesson in enumerate(plan.lessons):
        if lesson.start - SOON <= now < lesson.start + timedelta(seconds=lesson.length_s):
            return i
    for each in on:
        if each.row.lesson_id in plan.lesson_ids:
            return plan.lesson_ids.index(each.row.lesson_id)
    later = [i for i, lesson in enumerate(plan.lessons) if lesson.start > now]
    return later[0] if later else len(plan.lessons) - 1


def lesson_now(session: Session, school_class: SchoolClass, plan: WeekPlan, now: datetime) -> LessonNow:
    """The lesson that is on, or the one that comes next, as it is held."""
    rows = rows_of(session, school_class.id)
    on = on_now(session, school_class, plan, now)
    at = _meant(plan, on, now)
    mark = f"{rows[-1].id if rows else 0}-{sum(r.changes for r in rows)}"
    if at < 0:
        return LessonNow(
            number=-1, lesson_id=0, lesson=None, is_on=False, held=(), on=tuple(on), next=None, mark=mark
        )
    lesson, lesson_id = plan.lessons[at], plan.lesson_ids[at]
    mine = [r for r in rows if r.lesson_id == lesson_id or any(r is each.row for each in on)]
    took: dict[tuple[str, str, str], float] = {}
    for row in mine:
        took[_key(row)] = took.get(_key(row), 0.0) + took_s(row, now)
    going = {_key(each.row) for each in on}
    planned = [Held(i, "") for i in agenda(plan.lessons, plan.timeline, plan.tasks, at)]
    items = _with_put_in([*_left_over(plan, rows, at), *planned], mine)
    held = [
        replace(
            h,
            state="on" if h.item.key in going else "done" if h.item.key in took else "",
            took_s=took.get(h.item.key, 0.0),
        )
        for h in items
    ]
    last = _key(mine[-1]) if mine else ("", "", "")
    follows = following([h.item for h in held], {k for k in took if k not in going} | going, last)
    is_on = lesson.start <= now < lesson.start + timedelta(seconds=lesson.length_s)
    return LessonNow(
        number=at,
        lesson_id=lesson_id,
        lesson=lesson,
        is_on=is_on,
        held=tuple(held),
        on=tuple(on),
        next=follows,
        mark=mark,
    )


def _key(row: Conducted) -> tuple[str, str, str]:
    return str(row.challenge_id or ""), row.phase, row.act


def _item(row: Conducted) -> Item:
    """An act that was held, as one of the plan."""
    challenge, phase, act = _key(row)
    return Item(challenge=challenge, phase=phase, act=act, start_s=0.0, length_s=row.planned_s)


def took_s(row: Conducted, now: datetime) -> float:
    """Seconds an act has taken."""
    clock = clock_of(row)
    return clock.elapsed_s(row.ended_at or now)


def _with_put_in(items: list[Held], rows: Sequence[Conducted]) -> list[Held]:
    """The items with what this lesson was not planned for, each after the one that was on before."""
    out, at = list(items), 0
    for row in rows:
        keys = [h.item.key for h in out]
        if _key(row) not in keys:
            out.insert(at, Held(_item(row), ""))
            at += 1
        else:
            at = keys.index(_key(row)) + 1
    return out


def _left_over(plan: WeekPlan, rows: Sequence[Conducted], at: int) -> list[Held]:
    """What was not reached in the lesson before, if that one was held by these clocks."""
    if at < 1:
        return []
    before = [r for r in rows if r.lesson_id == plan.lesson_ids[at - 1]]
    if not before:
        return []
    began = {_key(r) for r in rows}
    items = agenda(plan.lessons, plan.timeline, plan.tasks, at - 1)
    planned_now = {i.key for i in agenda(plan.lessons, plan.timeline, plan.tasks, at)}
    return [
        Held(i, "", left_over=True)
        for i in items
        if i.phase != PACK and i.key not in began and i.key not in planned_now
    ]


def carry_out(session: Session, school_class: SchoolClass, plan: WeekPlan, done: Done, now: datetime) -> str:
    """Do what a screen asked for; a word when it was not done, because another screen was first.

    Refused for what cannot be; nothing is changed then.
    """
    lesson = lesson_now(session, school_class, plan, now)
    own_words = done.what == "says" and done.row  # of one step, whatever else was done meanwhile
    if done.seen != lesson.mark and not own_words:
        return "Another screen was first: this is what is on now."
    match done.what:
        case "start":
            _start(session, school_class, plan, lesson, _wanted(plan, lesson, done), now)
        case "next":
            if lesson.next is None:
                _end(_meant_row(lesson, done), now)
            else:
                _start(session, school_class, plan, lesson, lesson.next, now)
        case "back":
            _back(session, school_class, lesson, now)
        case "end":
            _end(_meant_row(lesson, done), now)
        case _:
            _adjust(_meant_row(lesson, done), lesson, done, now)
    session.flush()
    return ""


def _meant_row(lesson: LessonNow, done: Done) -> Conducted:
    found = next((o.row for o in lesson.on if done.row in (0, o.row.id)), None)
    if found is None:
        raise Gone("Nothing is on any more. Start the next step.")
    return found


def _wanted(plan: WeekPlan, lesson: LessonNow, done: Done) -> Item:
    """The act asked for: as the lesson holds it, or any other with its usual length."""
    key = (done.challenge, done.phase, done.act)
    found = next((h.item for h in lesson.held if h.item.key == key), None)
    if found is not None:
        return found
    act = act_of(done.phase, done.act)
    task = next((t for t in plan.tasks if t.name == done.challenge), None)
    if act is None or (task is None and done.phase != PACK):
        raise Gone("This step is no longer there. It may have been changed in another tab.")
    usual = next((p.minutes for p in PHASES if p.key == done.phase), 5) * 60.0 * act.share
    if task is not None and act.turns:
        usual = task.teams * act.turn_s[1]
    return Item(
        challenge=done.challenge, phase=done.phase, act=done.act, start_s=0.0, length_s=usual or 300.0
    )


def _start(
    session: Session, school_class: SchoolClass, plan: WeekPlan, lesson: LessonNow, item: Item, now: datetime
) -> None:
    """Begin an act. What is on of the same challenge ends; beside others it goes on.

    When only one challenge is on, it ends too: classes do one thing at a time unless a challenge
    is planned beside another.
    """
    beside = _goes_beside(session, school_class, item.challenge)
    for each in lesson.on:
        mine = str(each.row.challenge_id or "")
        if mine == item.challenge or mine not in beside or item.phase == PACK:
            _end(each.row, now)
    for row in rows_of(session, school_class.id):  # nobody ended these: their bell did
        if row.ended_at is None and not any(row is each.row for each in lesson.on):
            _cut(row, plan)
    session.add(
        Conducted(
            class_id=school_class.id,
            challenge_id=int(item.challenge) if item.challenge else None,
            lesson_id=lesson.lesson_id if lesson.number >= 0 else None,
            phase=item.phase,
            act=item.act,
            planned_s=item.length_s,
            allowed_s=item.length_s,
            started_at=now,
        )
    )


def _goes_beside(session: Session, school_class: SchoolClass, challenge: str) -> set[str]:
    """The challenges that share lessons with this one, side by side."""
    rows = session.scalars(
        select(Challenge)
        .where(Challenge.class_id == school_class.id)
        .order_by(Challenge.position, Challenge.id)
    )
    groups: list[list[str]] = []
    for row in rows:
        if row.beside and groups:
            groups[-1].append(str(row.id))
        else:
            groups.append([str(row.id)])
    return next((set(g) for g in groups if challenge in g), set())


def _end(row: Conducted, now: datetime) -> None:
    if row.paused_at is not None:
        row.stood_s += (now - row.paused_at).total_seconds()
        row.paused_at = None
    row.ended_at = now
    row.changes += 1


def _cut(row: Conducted, plan: WeekPlan) -> None:
    """An act that nobody ended ends with its lesson, and tells nothing of how long it takes."""
    ends = row.started_at
    if row.lesson_id in plan.lesson_ids:
        lesson = plan.lessons[plan.lesson_ids.index(row.lesson_id)]
        ends = max(ends, lesson.start + timedelta(seconds=lesson.length_s))
    _end(row, max(ends, row.paused_at or ends))
    row.cut = True


def _back(session: Session, school_class: SchoolClass, lesson: LessonNow, now: datetime) -> None:
    """Go back to the act before: its clock goes on where it stood when it was left."""
    rows = list(rows_of(session, school_class.id))
    going = [o.row for o in lesson.on]
    now_on = going[-1] if going else None
    past = [r for r in rows if r not in going and r.lesson_id == (lesson.lesson_id or None)]
    if now_on is not None:
        past = [r for r in past if r.id < now_on.id and r.challenge_id in (now_on.challenge_id, None)] or [
            r for r in past if r.id < now_on.id
        ]
    if not past:
        raise Refused("This is the first step of the lesson.")
    before = past[-1]
    if now_on is not None:
        if now - now_on.started_at < SLIP:
            session.delete(now_on)
        else:
            _end(now_on, now)
    if before.ended_at is not None:
        before.stood_s += (now - before.ended_at).total_seconds()
    before.ended_at, before.cut = None, False
    before.changes += 2 + (now_on.changes if now_on is not None else 0)  # differs although a row may be gone
    session.info.get("memory", {}).pop(("conducted", school_class.id), None)


def _adjust(row: Conducted, lesson: LessonNow, done: Done, now: datetime) -> None:
    each = next(o for o in lesson.on if o.row is row)
    match done.what:
        case "minute":
            elapsed = each.clock.elapsed_s(now)
            wanted = row.allowed_s + 60.0 * done.by
            if done.by > 0 and each.clock.left_s(now) < 0:
                wanted = elapsed + 60.0 * done.by  # a minute from now
            row.allowed_s = min(max(wanted, 0.0), LONGEST_S)
        case "pause" if row.paused_at is None:
            row.paused_at = now
        case "go" if row.paused_at is not None:
            row.stood_s += (now - row.paused_at).total_seconds()
            row.paused_at = None
        case "turn":
            found = each.turn(now)
            if each.turns is None or found is None:
                raise Refused("This step has no turns.")
            row.turn = min(max(found[0] + done.by, 0), each.turns.count - 1)
            row.turn_from_s = each.clock.elapsed_s(now)
        case "says":
            row.says = done.says.strip()[:200]
        case "pause" | "go":
            return
        case _:
            raise Refused("This cannot be done.")
    row.changes += 1


def reports_before(session: Session, class_id: int, before_id: int) -> int:
    """How many reports in turn this class has had before this one: another team begins each time."""
    found = select(func.count(Conducted.id)).where(
        Conducted.class_id == class_id, Conducted.act == "report", Conducted.id < before_id
    )
    return session.scalar(found) or 0
