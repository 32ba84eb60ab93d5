"""A class's board: where it is to look, the step that is on, and what stands there between lessons."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta

from flask import Blueprint, Response, redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue

from thermion.core.ages import USUAL, AgeBand
from thermion.core.planning.boards import TESTS, Put, by_itself
from thermion.core.planning.conduct import stands_at
from thermion.records import moments
from thermion.records.building import builds
from thermion.records.judging.evidence import load_evidence
from thermion.records.planning import boards, conduct
from thermion.records.planning.briefs import Brief, brief_of, get_challenge
from thermion.records.planning.classes import get_class
from thermion.records.planning.conduct import LessonNow, OnNow
from thermion.records.planning.week import WeekPlan
from thermion.records.running import runs
from thermion.records.stamps import shows_lesson
from thermion.records.tables import Challenge, SchoolClass, Team, Version
from thermion.web.access import BOARDS, may
from thermion.web.answers import unless_same
from thermion.web.components.conducted import StepShown, order_of, step_shown
from thermion.web.described import speaks
from thermion.web.payloads import Answer, answer
from thermion.web.pictures.drawings import board_svg
from thermion.web.pictures.figures import figure_words
from thermion.web.places.board import words
from thermion.web.places.board.content import Content, content_of
from thermion.web.sessions import read_session, week_plan

bp = Blueprint("board", __name__)


class Where(Answer):
    """The address that the board is to show."""

    to: str


@dataclass(frozen=True)
class Facts:
    """A team's minute: its build, what was predicted, what came of it, what was changed."""

    picture: str
    lines: tuple[str, ...]
    to_explain: tuple[str, str]


@dataclass(frozen=True)
class StandsHere:
    """A place of the walk and the team that stands there."""

    place: Team
    team: Team


@dataclass(frozen=True, kw_only=True)
class OnBoard:
    """An act that is on, as the class sees it."""

    step: StepShown
    title: str
    says: str
    waiting: str
    order: Sequence[Team]
    turn: int
    facts: Facts | None
    walk: Sequence[StandsHere]
    alone: bool
    content: Content | None


def light() -> str:
    return "dark" if request.args.get("light") == "dark" else "light"


def _put(school_class: SchoolClass, lesson: LessonNow) -> Put:
    """What the board shows: as the Desk put it, while that is still there; else what is going on."""
    session = read_session()
    put = boards.what_is_put(session, school_class.id)
    if put is not None and (put.shows != "step" or lesson.on):
        return put
    going = runs.going_runs(session, school_class.id, moments.now())
    steps = [(each.row.challenge_id or 0, each.row.phase) for each in lesson.on]
    return by_itself(steps, [(g.challenge_id, g.run_id) for g in going])


def _address(school_class: SchoolClass, put: Put) -> str:
    """Where that is shown."""
    dark = "dark" if light() == "dark" else None
    mine = school_class.id
    match put.shows:
        case "run":
            return url_for("runs.board", run_id=put.run_id, follow=mine, light=dark)
        case "results":
            shown = put.challenge_id
            return url_for(
                "results.results_board", challenge_id=shown, step=put.step, follow=mine, light=dark
            )
        case "findings":
            return url_for("results.findings_board", challenge_id=put.challenge_id, follow=mine, light=dark)
        case "codes":
            return url_for("codes_board.shown", class_id=mine, follow=mine, light=dark)
        case _:
            return url_for(".of_class", class_id=mine, light=dark)


def _lesson(school_class: SchoolClass) -> tuple[WeekPlan, LessonNow]:
    plan = week_plan(school_class.id)
    return plan, conduct.lesson_now(read_session(), school_class, plan, moments.now())


@bp.get("/board/classes/<int:class_id>/where.json")
@may(BOARDS)
@speaks(Where)
def where(class_id: int) -> Response:
    """Which address the board is to show now; boards ask every second or two."""

    def shown() -> ResponseReturnValue:
        school_class = get_class(read_session(), class_id)
        _, lesson = _lesson(school_class)
        return answer(Where(to=_address(school_class, _put(school_class, lesson))))

    return unless_same(shown, light(), int(moments.now().timestamp()) // 20, of=shows_lesson(class_id))


@bp.get("/board/classes/<int:class_id>")
@may(BOARDS)
def of_class(class_id: int) -> ResponseReturnValue:
    """The step that is on with its clock and its sentence; leads to a test or results while those are on."""

    def shown() -> ResponseReturnValue:
        school_class = get_class(read_session(), class_id)
        plan, lesson = _lesson(school_class)
        put = _put(school_class, lesson)
        if put.shows not in ("step", "idle"):
            return redirect(_address(school_class, put), 303)
        now = moments.now()
        titles = {str(c.id): c.title for c in plan.challenges}
        values = {
            "school_class": school_class,
            "light": light(),
            "on": [_on(each, school_class, plan, now) for each in lesson.on],
            "next": words.comes_next(lesson, titles),
            "bell": words.bell(lesson, school_class.zone),
            "idle": words.idle(school_class, lesson),
            "tests": _tests(school_class, now),
        }
        return render_template("board/of_class.html", **values)

    return unless_same(shown, light(), int(moments.now().timestamp()) // 5)


@dataclass(frozen=True)
class TestOn:
    """A test that goes on while another step leads: since when its clock runs, and which mark is next."""

    title: str
    since: str
    next: str


def _tests(school_class: SchoolClass, now: datetime) -> list[TestOn]:
    """Every test of a class that has marks to come."""
    session = read_session()
    out = []
    for going in runs.going_runs(session, school_class.id, now):
        if going.shape != "marks":
            continue
        run = runs.get_run(session, going.run_id)
        clock = [c for c in runs.clocks(run, brief_of(run.challenge)) if c.started_at is not None][-1]
        ahead = [slot.mark_s for slot in clock.slots if slot.mark_s > going.since_s]
        since = now - timedelta(seconds=going.since_s / run.speed)
        if ahead:
            out.append(TestOn(going.title, since.isoformat(), words.next_mark(min(ahead))))
    return out


def _on(each: OnNow, school_class: SchoolClass, plan: WeekPlan, now: datetime) -> OnBoard:
    challenge = next((c for c in plan.challenges if c.id == each.row.challenge_id), None)
    age = challenge.age_band if challenge else USUAL
    titles = {str(c.id): c.title for c in plan.challenges}
    found = each.turn(now)
    turn = found[0] if found else 0
    order = order_of(each, school_class.present) if each.act.turns == "report" else []
    teams, walk = list(school_class.present), []
    if each.act.turns == "walk" and found is not None:
        walk = [StandsHere(teams[stands_at(i, turn, len(teams))], team) for i, team in enumerate(teams)]
        walk.sort(key=lambda here: here.place.position)
    facts = None
    if order and challenge is not None and each.row.phase in ("show", "findings"):
        facts = _facts(challenge.id, order[turn], age)
    waiting = ""
    if challenge is not None and each.row.phase in TESTS:
        lines = brief_of(challenge).kind.test.bench.waiting
        waiting = f"While you wait: {lines[each.row.id % len(lines)]}" if lines else ""
    alone = each.act.turns == "walk" and found is None
    content = None
    if challenge is not None and found is None:
        whole = get_challenge(read_session(), challenge.id)
        content = content_of(each.row.phase, each.act.key, whole, brief_of(whole), each.row.id)
    return OnBoard(
        step=step_shown(each, school_class, titles, now),
        title=titles.get(str(each.row.challenge_id or ""), ""),
        says=each.row.says or each.act.said(age),
        waiting=waiting,
        order=order,
        turn=turn,
        facts=facts,
        walk=walk,
        alone=alone,
        content=content,
    )


def _facts(challenge_id: int, team: Team, age: AgeBand) -> Facts | None:
    """What the record says of a team's newest build that was handed out."""
    session = read_session()
    challenge = get_challenge(session, challenge_id)
    brief = brief_of(challenge)
    build = next((b for b in builds.builds_of(session, challenge_id) if b.team_id == team.id), None)
    built = [v for v in build.versions if v.state == "issued"] if build else []
    if not built:
        return None
    builds.load_plans(session, built)
    newest = built[-1]
    lines = [*_results(challenge, brief, team, built), words.changed(newest)]
    if newest.idea_team_id:
        teams = {t.id: t.name for t in challenge.school_class.teams}
        lines.append(words.helped([teams[newest.idea_team_id]] if newest.idea_team_id in teams else []))
    told = tuple(line for line in lines if line)
    return Facts(board_svg(builds.plan_of(newest), brief, names_only=True), told, words.to_explain(age))


def _results(challenge: Challenge, brief: Brief, team: Team, built: Sequence[Version]) -> list[str]:
    """What was predicted and came out, version by version."""
    evidence = load_evidence(read_session(), challenge, brief, school=challenge.school)
    if evidence.findings is None:
        return []
    metric = brief.kind.analysis.prediction_for(brief.choices)
    out = []
    numbers = {v.number: v for v in built}
    for found in sorted(evidence.findings.versions, key=lambda v: v.subject):
        if found.subject.team_id != team.id or metric.key not in found.figures:
            continue
        version = numbers.get(found.subject.version)
        typed = ""
        if version is not None and version.prediction is not None:
            typed = brief.setting.show(version.prediction, metric.unit, metric.digits)
        came = figure_words(found.figures[metric.key], metric, brief)
        out.append(words.version_line(found.subject.version, metric.label, typed, came))
    return out
