"""Will it fit the lessons? The strip to scale, lessons, timing, and what would help."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import datetime
from itertools import pairwise
from zoneinfo import ZoneInfo

from flask import Blueprint, Response, redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue
from werkzeug.datastructures import MultiDict

from thermion.core.physics.units import Decimal, NotANumber, parse_minutes, parse_plain
from thermion.core.planning.timetable import next_hours, next_school_day
from thermion.core.planning.week import PHASES, in_turns, round_of
from thermion.core.planning.week import test_length as length_of_test
from thermion.formats.calendar import week_calendar
from thermion.records import moments
from thermion.records.errors import Refused
from thermion.records.planning import pace, week
from thermion.records.planning.briefs import Brief, brief_of, get_challenge
from thermion.records.planning.classes import get_class, setting_of
from thermion.records.planning.timetable import holidays_of, hours_of
from thermion.records.tables import Challenge, SchoolClass
from thermion.web.access import DESKS, may
from thermion.web.answers import named
from thermion.web.components.frame import page
from thermion.web.components.sections import section_frame
from thermion.web.described import speaks
from thermion.web.payloads import answer, form_id, row_id, sent
from thermion.web.pictures.lesson_strip import strip_of
from thermion.web.places.lessons import words
from thermion.web.places.lessons.payloads import StepSent, StripDrawn
from thermion.web.sessions import open_challenge, read_session, week_plan, write_session

bp = Blueprint("lessons", __name__)
AT = "/challenges/<int:challenge_id>/brief/lessons"
SECONDS = ("read_s", "set_up_s", "fit_s", "run_s", "reset_s")
COUNTS = ("attempts", "stations", "readers")
HOURS_OFFERED = 4


@dataclass(frozen=True, kw_only=True)
class LessonFields:
    """The fields of one lesson, as kept or as typed."""

    id: int
    date: str
    time: str
    length: str
    pack_up: str


@bp.get(AT)
@may(DESKS)
def index(challenge_id: int) -> ResponseReturnValue:
    return _lessons_page(challenge_id)


def _strip_values(challenge: Challenge, brief: Brief, plan: week.WeekPlan) -> dict[str, object]:
    """The strip, whether it fits, and what would help."""
    task = plan.tasks[plan.index(challenge.id)]
    turns = in_turns(brief.kind)
    strip = strip_of(plan, challenge.id, challenge.school_class.zone)
    test_min = length_of_test(brief.kind, task.timing, task.teams, brief.marks) / 60
    longest = max((x.room_s for x in plan.lessons), default=0) / 60
    return {
        "task": task,
        "turns": turns,
        "strip": strip,
        "fit": words.fit(strip),
        "spilled": words.spilled(strip) if strip.spills and not strip.mine_fits else [],
        "too_long": words.too_long(test_min, longest, task, turns),
        "takes": words.test_takes(test_min),
        "remedies": [(r, words.remedy(r)) for r in week.remedies_of(plan, challenge.id)],
        "left_out": [p for p in PHASES if p.key not in task.lengths_s],
        "bar_said": words.bar,
    }


def _lessons_page(
    challenge_id: int, problem: Refused | None = None, typed: Mapping[str, str] | None = None
) -> ResponseReturnValue:
    challenge, brief = open_challenge(challenge_id)
    plan = week_plan(challenge.class_id)
    task, values = plan.tasks[plan.index(challenge_id)], _strip_values(challenge, brief, plan)
    sent_form = typed or {}
    found = None if in_turns(brief.kind) else round_of(task.timing, task.teams, brief.marks)
    interval = min((b - a for m in brief.marks.values() for a, b in pairwise(m)), default=0) / 60
    proposed = pace.at_pace(read_session(), plan, challenge_id, moments.now())
    at = plan.index(challenge_id)
    rows = _typed_lessons(request.form) if problem else []
    fresh, offered = _fresh(plan, challenge.school_class, rows)
    values |= {
        "pace": proposed,
        "pace_words": words.pace(proposed) if proposed else "",
        "before": plan.challenges[at - 1].title if at else "",
        "problem": problem,
        "typed": sent_form,
        "turn_words": words.turns(task),
        "round_words": words.reading_round(found, task, interval),
        "lessons": _lesson_fields(plan, challenge.school_class, rows),
        "fresh": fresh,
        "offered": offered,
        "lesson_problem": bool(problem and problem.field in ("start", "length", "pack_up")),
        "timing_problem": bool(problem and problem.field in (*SECONDS, *COUNTS)),
    }
    shown = section_frame(challenge, brief, "lessons", **values)
    return page("lessons/index.html", shown, refused=problem is not None)


def _lesson_fields(
    plan: week.WeekPlan, school_class: SchoolClass, typed: Sequence[LessonFields]
) -> list[LessonFields]:
    """The lessons that there are, each as kept or as typed."""
    zone = ZoneInfo(school_class.zone)
    by = {row.id: row for row in typed}
    return [
        by.get(number) or _fields(number, lesson.start.astimezone(zone), lesson.length_s, lesson.pack_up_s)
        for number, lesson in zip(plan.lesson_ids, plan.lessons, strict=True)
    ]


def _typed_lessons(form: MultiDict[str, str]) -> list[LessonFields]:
    """Every lesson as it was typed; of the new one the number is 0."""
    columns = [form.getlist(key) for key in ("lesson", "date", "time", "length", "pack_up")]
    columns[0] = columns[0] or ["0"] * len(columns[1])
    return [
        LessonFields(id=row_id(number), date=date, time=time, length=length, pack_up=pack_up)
        for number, date, time, length, pack_up in zip(*columns, strict=False)
    ]


def _fields(number: int, start: datetime, length_s: float, pack_up_s: float) -> LessonFields:
    return LessonFields(
        id=number,
        date=f"{start:%Y-%m-%d}",
        time=f"{start:%H:%M}",
        length=f"{length_s / 60:g}",
        pack_up=f"{pack_up_s / 60:g}",
    )


def _fresh(
    plan: week.WeekPlan, school_class: SchoolClass, typed: Sequence[LessonFields]
) -> tuple[LessonFields, list[tuple[str, LessonFields]]]:
    """The next lesson's fields, and the next hours of the timetable in words.

    As typed; else the first of those hours; else the next day of school after the last lesson, at its time.
    """
    zone = ZoneInfo(school_class.zone)
    now = datetime.now(zone)
    last = plan.lessons[-1] if plan.lessons else None
    after = max(now, last.start.astimezone(zone)) if last is not None else now
    free = holidays_of(school_class)
    hours = next_hours(hours_of(school_class), free, after, HOURS_OFFERED)
    offered = [(words.hour(at), _fields(0, at, h.length_s, h.pack_up_s)) for at, h in hours]
    mine = next((row for row in typed if not row.id), None)
    if mine is not None:
        return mine, offered
    if offered:
        return offered[0][1], offered
    if last is None:
        return _fields(0, next_school_day(now, free).replace(hour=9, minute=0), 3600.0, 300.0), []
    start = next_school_day(last.start.astimezone(zone), free)
    return _fields(0, start, last.length_s, last.pack_up_s), []


@bp.post(AT)
@may(DESKS)
def save_lesson(challenge_id: int) -> ResponseReturnValue:
    """Keep every lesson as it stands on the page; add the new one, or drop one, if that was pressed."""
    form = request.form
    try:
        with write_session() as session:
            school_class = get_challenge(session, challenge_id).school_class
            decimal, drop = setting_of(school_class).decimal, form_id("drop")
            adds = bool(form.get("add")) or "lesson" not in form
            for row in _typed_lessons(form):
                if row.id and row.id == drop:
                    week.delete_lesson(session, school_class.id, row.id)
                elif row.id or adds:
                    start = _moment(row.date, row.time, school_class.zone)
                    length, pack = (
                        _minutes(row.length, "length", decimal),
                        _minutes(row.pack_up, "pack_up", decimal),
                    )
                    week.save_lesson(session, school_class.id, start, length, pack, row.id or None)
    except Refused as refused:
        return _lessons_page(challenge_id, refused, form)
    return redirect(url_for(".index", challenge_id=challenge_id), 303)


def _moment(date: str, time: str, zone: str) -> datetime:
    try:
        return datetime.fromisoformat(f"{date}T{time}").replace(tzinfo=ZoneInfo(zone))
    except ValueError:
        raise Refused("A lesson needs a date and a time, e.g. 2026-06-01 and 09:00.", "start") from None


def _minutes(typed: str, name: str, decimal: Decimal) -> float:
    try:
        return parse_minutes(typed, decimal)
    except NotANumber as error:
        raise Refused(str(error), name) from None


@bp.post(f"{AT}/step")
@may(DESKS)
@speaks(StripDrawn, StepSent)
def move_step(challenge_id: int) -> ResponseReturnValue:
    """A step dragged or keyed to another lesson, stretched, left out or put back."""
    given = sent(StepSent)
    with write_session() as session:
        get_challenge(session, challenge_id)
        seconds = None if given.minutes is None else given.minutes * 60
        week.save_step(session, challenge_id, given.phase, length_s=seconds, not_before=given.lesson)
    challenge, brief = open_challenge(challenge_id)
    values = _strip_values(challenge, brief, week_plan(challenge.class_id))
    html = render_template(
        "lessons/strip.html", challenge=challenge, school_class=challenge.school_class, **values
    )
    return answer(StripDrawn(html=html))


@bp.post(f"{AT}/remedy")
@may(DESKS)
def remedy(challenge_id: int) -> ResponseReturnValue:
    try:
        with write_session() as session:
            challenge = get_challenge(session, challenge_id)
            plan = week.week_of(session, challenge.class_id)
            week.apply_remedy(session, plan, challenge_id, request.form.get("key", ""))
    except Refused as refused:
        return _lessons_page(challenge_id, refused)
    return redirect(url_for(".index", challenge_id=challenge_id), 303)


@bp.post(f"{AT}/beside")
@may(DESKS)
def put_beside(challenge_id: int) -> ResponseReturnValue:
    """The challenge shares its lessons with the one before, or no more."""
    with write_session() as session:
        get_challenge(session, challenge_id).beside = request.form.get("beside") == "1"
    return redirect(url_for(".index", challenge_id=challenge_id), 303)


@bp.post(f"{AT}/pace")
@may(DESKS)
def take_pace(challenge_id: int) -> ResponseReturnValue:
    """Plan the steps to come at the pace of the class."""
    with write_session() as session:
        challenge = get_challenge(session, challenge_id)
        plan = week.week_of(session, challenge.class_id)
        found = pace.at_pace(session, plan, challenge_id, moments.now())
        for phase, minutes in found.steps if found else ():
            week.save_step(session, challenge_id, phase, length_s=minutes * 60)
    return redirect(url_for(".index", challenge_id=challenge_id), 303)


@bp.post(f"{AT}/timing")
@may(DESKS)
def save_timing(challenge_id: int) -> ResponseReturnValue:
    """How the test is held: attempts, stations, readers, seconds, staggered starts."""
    form = request.form
    try:
        with write_session() as session:
            challenge = get_challenge(session, challenge_id)
            brief = brief_of(challenge)
            timing = week.timing_of(session, challenge, brief)
            seconds = {k: _number(form[k], k, brief.setting.decimal) for k in SECONDS if k in form}
            counts = {k: _whole(form[k], k, brief.setting.decimal) for k in COUNTS if k in form}
            for key, value in (seconds | counts).items():
                timing = replace(timing, **{key: value})  # type: ignore[arg-type]  # each of its own type
            if "test_form" in form:
                timing = replace(timing, stagger="stagger" in form, in_row="in_row" in form)
            week.save_timing(session, challenge_id, timing)
    except Refused as refused:
        return _lessons_page(challenge_id, refused, form)
    return redirect(url_for(".index", challenge_id=challenge_id), 303)


def _number(typed: str, key: str, decimal: Decimal) -> float:
    try:
        return parse_plain(typed, decimal)
    except NotANumber as error:
        raise Refused(str(error), key) from None


def _whole(typed: str, key: str, decimal: Decimal) -> int:
    value = _number(typed, key, decimal)
    if value != int(value):
        raise Refused(f"“{typed}” is not a whole number.", key)
    return int(value)


@bp.get("/classes/<int:class_id>/week.ics")
@may(DESKS)
def calendar(class_id: int) -> Response:
    school_class = get_class(read_session(), class_id)
    plan = week_plan(class_id)
    content = week_calendar(plan, class_id, school_class.name, moments.now())
    return named(content.decode(), "text/calendar", f"week-{class_id}.ics")
