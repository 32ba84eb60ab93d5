"""What is on in the lesson, and what comes next: its line on every page, and its own page."""

from __future__ import annotations

import logging

from flask import Blueprint, Response, render_template, url_for
from flask.typing import ResponseReturnValue
from sqlalchemy.orm import Session

from thermion.core.ages import USUAL
from thermion.core.kinds import get_kind
from thermion.core.planning.boards import Put
from thermion.core.planning.conduct import stands_at
from thermion.records import moments
from thermion.records.database import touches
from thermion.records.errors import Gone
from thermion.records.judging.earlier import relearn
from thermion.records.planning import boards, conduct, pace
from thermion.records.planning.classes import get_class
from thermion.records.planning.conduct import Done
from thermion.records.planning.week import WeekPlan, week_of
from thermion.records.running import bells, runs
from thermion.records.stamps import of_challenge, shows_lesson
from thermion.records.tables import SchoolClass, Team
from thermion.web.access import DESKS, HELPERS, may
from thermion.web.answers import unless_same
from thermion.web.components.conducted import LineShown, line_shown, order_of, step_shown
from thermion.web.components.frame import page
from thermion.web.described import speaks
from thermion.web.payloads import answer, sent
from thermion.web.places.conduct import words
from thermion.web.places.conduct.payloads import BellDone, BellSent, BoardDone, BoardSent, DoneSent, LineDrawn
from thermion.web.sessions import read_session, week_plan, write_session

bp = Blueprint("conduct", __name__)
log = logging.getLogger("thermion.lesson")


def _titles(plan: WeekPlan) -> dict[str, str]:
    return {str(c.id): c.title for c in plan.challenges}


def _line(session: Session, school_class: SchoolClass, plan: WeekPlan) -> LineShown:
    now = moments.now()
    lesson = conduct.lesson_now(session, school_class, plan, now)
    asked = bells.run_at_the_bell(session, school_class.id, plan.lessons, now)
    bell = ("", 0)
    if asked is not None:
        kinds = {c.id: c.kind for c in plan.challenges}
        run, title = asked
        bell = (words.bell(title, get_kind(kinds[run.challenge_id]).test.shape), run.id)
    return line_shown(school_class, lesson, _titles(plan), now, bell)


def _drawn(line: LineShown, said: str = "") -> LineDrawn:
    html = "" if line.empty else render_template("components/line.html", line=line)
    return LineDrawn(html=html, mark=line.mark, said=said, now=line.now)


@bp.get("/classes/<int:class_id>/line")
@may(HELPERS)
@speaks(LineDrawn)
def line(class_id: int) -> Response:
    """What is on, for the line of every page; 304 while nothing was stored and no minute passed."""

    def shown() -> ResponseReturnValue:
        school_class = get_class(read_session(), class_id)
        return answer(_drawn(_line(read_session(), school_class, week_plan(class_id))))

    now = moments.now()
    of = shows_lesson(class_id)
    return unless_same(shown, int(now.timestamp()) // 5, of=of)  # lessons begin, turns go on by themselves


@bp.post("/classes/<int:class_id>/line")
@may(DESKS)
@speaks(LineDrawn, DoneSent)
def act(class_id: int) -> Response:
    """A key of the line. What another screen did first stays, and is shown."""
    given = sent(DoneSent)
    with write_session(("lesson", class_id)) as session:
        school_class = get_class(session, class_id)
        plan = week_of(session, class_id)
        done = Done(
            what=given.what,
            seen=given.seen,
            row=given.row,
            by=given.by,
            challenge=given.challenge,
            phase=given.phase,
            act=given.act,
            says=given.says,
        )
        said = conduct.carry_out(session, school_class, plan, done, moments.now())
    if done.what in ("start", "next", "back", "end") and not said:
        log.info(
            "lesson of class %s: %s", class_id, " ".join(filter(None, (done.what, done.phase, done.act)))
        )
    session = read_session()
    return answer(_drawn(_line(session, get_class(session, class_id), week_plan(class_id)), said))


@bp.post("/classes/<int:class_id>/line/bell")
@may(DESKS)
@speaks(BellDone, BellSent)
def bell(class_id: int) -> Response:
    """The bell rang in a test: stop here, go on next lesson, or set it apart."""
    given = sent(BellSent)
    to = ""
    with write_session() as session:
        run = runs.get_run(session, given.run)
        touches(session, *of_challenge(run.challenge_id, class_id))
        if run.challenge.class_id != class_id:
            raise Gone("This run is of another class.")
        if given.how == "on":
            bells.go_on(run, moments.now())
        elif given.how == "apart":
            bells.go_on(run, moments.now())
            to = url_for("apart.index", run_id=run.id)
        elif run.closed_at is None:
            runs.close_run(run)
            session.flush()
            relearn(session, run.challenge_id)
    return answer(BellDone(to=to))


@bp.get("/classes/<int:class_id>/lesson")
@may(HELPERS)
def index(class_id: int) -> ResponseReturnValue:
    """The lesson's own page: its steps, what is on, and the board."""
    session = read_session()
    school_class = get_class(session, class_id)
    plan, now = week_plan(class_id), moments.now()
    lesson = conduct.lesson_now(session, school_class, plan, now)
    titles = _titles(plan)
    put = boards.what_is_put(session, class_id)
    tested = runs.tested_challenges(session, class_id)
    values = {
        "school_class": school_class,
        "lesson": lesson,
        "title": words.lesson_title(lesson.number, lesson.lesson, school_class.zone, now),
        "groups": words.groups(lesson, titles),
        "others": words.other_steps(lesson, titles),
        "several": len({h.item.challenge for h in lesson.held if h.item.challenge}) > 1,
        "on": [_on(each, school_class, plan) for each in lesson.on],
        "pace": words.pace(pace.pace_of(session, class_id, now)),
        "put": put,
        "put_words": words.put_words(
            put.shows if put else "", {c.id: c.title for c in plan.challenges}, put.challenge_id if put else 0
        ),
        "tested": [c for c in plan.challenges if c.id in tested],
        "plan_at": plan.challenges[0].id if plan.challenges else 0,
    }
    return page("conduct/index.html", values)


def _where(challenge_id: int | None, phase: str, turns: str, class_id: int) -> str:
    """The page on which the work of a step is done; "" where there is none."""
    place = "ideas.walk" if turns == "walk" else words.PLACES.get(phase, "")
    if not place or challenge_id is None:
        return ""
    if place == "store.index":
        return url_for(place, class_id=class_id)
    return url_for(place, challenge_id=challenge_id)


def _on(each: conduct.OnNow, school_class: SchoolClass, plan: WeekPlan) -> dict[str, object]:
    """An act that is on, as its own page shows it."""
    now = moments.now()
    ages = {c.id: c.age_band for c in plan.challenges}
    age = ages.get(each.row.challenge_id or 0, USUAL)
    turn = each.turn(now)
    teams: list[Team] = order_of(each, school_class.present)
    at: list[tuple[Team, Team]] = []
    if each.act.turns == "walk" and turn is not None:
        mine = list(school_class.present)
        at = [(team, mine[stands_at(i, turn[0], len(mine))]) for i, team in enumerate(mine)]
    return {
        "step": step_shown(each, school_class, _titles(plan), now),
        "says": each.row.says or each.act.said(age),
        "own": bool(each.row.says),
        "row": each.row,
        "teams": teams if each.act.turns == "report" else [],
        "turn": turn[0] if turn else 0,
        "at": at,
        "go": _where(each.row.challenge_id, each.row.phase, each.act.turns, school_class.id),
        "alone": each.act.turns == "walk" and each.turns is None,
    }


@bp.post("/classes/<int:class_id>/board/show")
@may(DESKS)
@speaks(BoardDone, BoardSent)
def show(class_id: int) -> Response:
    """Put something on the board, or let it follow by itself."""
    given = sent(BoardSent)
    with write_session(("lesson", class_id)) as session:
        get_class(session, class_id)
        put = Put(given.shows, given.challenge, step=given.step) if given.shows else None
        boards.put_on(session, class_id, put)
    return answer(BoardDone(shows=given.shows, step=given.step))
