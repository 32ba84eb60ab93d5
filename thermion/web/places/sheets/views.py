"""Sheets to print: brief, plan, data, reflection, team cards, safety, and the plan of the week."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import timedelta
from zoneinfo import ZoneInfo

from flask import Blueprint, abort, render_template, request
from flask.typing import ResponseReturnValue

from thermion.core.ages import AgeBand, reader, said_to
from thermion.core.kinds.testing import Reads
from thermion.core.kinds.when import applying
from thermion.core.planning.rungs import RUNGS
from thermion.core.planning.safety import DEFER
from thermion.core.planning.week import PHASES
from thermion.records import moments
from thermion.records.building.kit import kit_of
from thermion.records.judging.conclusions import known_in
from thermion.records.judging.how_far import paths
from thermion.records.planning import week
from thermion.records.planning.briefs import Brief
from thermion.records.planning.classes import get_class
from thermion.records.planning.own import cautions_of
from thermion.records.planning.rungs import set_rungs, teams_on_rungs
from thermion.records.running import devices
from thermion.records.tables import Challenge
from thermion.web.access import DESKS, may
from thermion.web.components.printed import SHEETS
from thermion.web.components.words import condition_words, rule_words
from thermion.web.pictures.codes import code_shown
from thermion.web.pictures.drawings import PAPER, names_svg
from thermion.web.pictures.lesson_strip import strip_of
from thermion.web.places.sheets import words
from thermion.web.places.sheets.of_lesson import ideas_sheet, lesson_sheet, walk_sheet
from thermion.web.sessions import open_challenge, read_session, week_plan

bp = Blueprint("sheets", __name__)
Shown = dict[str, object]
TEAMS_OWN = ("brief", "plan", "ideas", "data", "reflection", "safety")  # sheets that a team has of its own


@bp.get("/challenges/<int:challenge_id>/sheets/<name>")
@may(DESKS)
def sheet(challenge_id: int, name: str) -> ResponseReturnValue:
    """One sheet on white paper; printing it prints just this."""
    if name not in SHEETS:
        abort(404)
    challenge, brief = open_challenge(challenge_id)
    rung, age = None, challenge.age_band
    for_teams = teams_on_rungs(challenge, brief)
    if request.args.get("rung", "") in for_teams:
        rung = set_rungs(challenge)[next(key for key in RUNGS if key == request.args["rung"])]
        brief, age = brief.on_rung(rung), rung.words
    kind, more = brief.kind, MORE.get(name, _nothing_more)
    return render_template(
        f"sheets/{name}.html",
        challenge=challenge,
        name=name,
        rung=rung,
        for_teams=for_teams if name in TEAMS_OWN else {},
        school_class=challenge.school_class,
        brief=brief,
        kind=kind,
        setting=brief.setting,
        sheet=SHEETS[name],
        young=reader(age).plain,
        oldest=reader(age).symbols,
        say=said_to(age, words.WORDS),
        **more(challenge, brief, age),
    )


def _nothing_more(_: Challenge, __: Brief, ___: AgeBand) -> Shown:
    return {}


def _fixed(brief: Brief, age: AgeBand) -> Shown:
    """What is held fixed: in numbers, and in a child's words."""
    older = reader(age).symbols
    numbers = brief.numbers()
    return {
        "fixed": [condition_words(c, brief) for c in numbers if older or not c.older],
        "same": [c.young for c in numbers if c.young],
    }


def _brief_sheet(challenge: Challenge, brief: Brief, age: AgeBand) -> Shown:
    timing = week.timing_of(read_session(), challenge, brief)
    own = challenge.school == "own"
    school = None if own else brief.kind.brief.school(challenge.school, brief.choices)
    return {
        **_fixed(brief, age),
        "picture": names_svg(brief, PAPER),
        "levels": [condition_words(c, brief) for c in brief.kind.brief.levels(brief.choices)],
        "looked_at": words.looked_at(school, age),
        "rule": rule_words(brief.rule, brief),
        "known": known_in(read_session(), challenge.id),
        "offers": [words.offered(o, brief.setting) for o in brief.offers],
        "attempts_each": words.attempts_each(brief, timing.attempts),
        "warned": cautions_of(read_session(), challenge, brief, age)[: 3 if reader(age).symbols else 4],
    }


def _plan_sheet(_: Challenge, brief: Brief, __: AgeBand) -> Shown:
    guess = brief.kind.analysis.prediction_for(brief.choices)
    return {
        "guess": words.with_unit(guess.label, guess.unit, brief.setting),
        "views": words.views_of(brief.kind),
        "places": [place.label for place in brief.kind.build.places],
    }


@dataclass(frozen=True)
class Grid:
    """An empty grid of builds by minutes."""

    heading: str
    minutes: list[str]


@dataclass(frozen=True)
class LineToMark:
    """A line on which a child marks where it ended; numbers along it."""

    heading: str
    ticks: list[str]


def _line_to_mark(read: Reads, brief: Brief) -> LineToMark:
    setting = brief.setting
    top = setting.from_si(brief.values[read.limit], read.unit) if read.limit in brief.values else read.high
    ticks = [setting.write(top * i / 4, 0) for i in range(5)]
    return LineToMark(words.with_unit(read.label, read.unit, setting), ticks)


def _data_sheet(challenge: Challenge, brief: Brief, age: AgeBand) -> Shown:
    """The grid in the order of the entry grid: the air first, then the teams as they stand."""
    test, setting = brief.kind.test, brief.setting
    timing = week.timing_of(read_session(), challenge, brief)
    reads = test.attempt_reads(brief.choices) or test.reads_for(brief.choices)
    grids = [
        Grid(
            words.reading_heading(p.label, reads[0], setting),
            [f"{m / 60:g}" for m in brief.marks.get(p.key, ())],
        )
        for p in test.phases
        if test.shape == "marks"
    ]
    return {
        "grids": grids,
        "circumstances": words.circumstances(brief),
        "columns": [words.with_unit(r.label, r.unit, setting) for r in reads],
        "attempts": range(1, timing.attempts + 1),
        "lines": [_line_to_mark(r, brief) for r in reads if r.scale],
        "ringed": [(r.words, words.ringed(r.label)) for r in reads if r.words],
        "seen": words.seen(brief),
    }


def _reflection_sheet(_: Challenge, __: Brief, age: AgeBand) -> Shown:
    return {"questions": words.questions(age), "young_questions": words.YOUNG_QUESTIONS}


def _safety_sheet(challenge: Challenge, brief: Brief, age: AgeBand) -> Shown:
    return {"warned": cautions_of(read_session(), challenge, brief, age), "defer": DEFER}


def _station_sheet(challenge: Challenge, brief: Brief, age: AgeBand) -> Shown:
    """What whoever stands at the test needs: how it goes, what is the same, what was seen and what to ask."""
    test = brief.kind.test
    begin = test.phases[0].key if test.phases else ""
    minutes = [f"{m / 60:g}" for m in brief.marks.get(begin, ())]
    return {
        **_fixed(brief, age),
        "picture": names_svg(brief, PAPER),
        "steps": words.round_steps(brief, minutes),
        "checks": [c.text for c in applying(test.bench.checks, brief.choices)],
        "asks": [(o.seen, o.ask) for o in test.observations if o.offered],
        "techniques": test.bench.techniques_for(brief.choices),
        "waiting": test.bench.waiting,
    }


def _colleague_sheet(challenge: Challenge, brief: Brief, age: AgeBand) -> Shown:
    """For who takes over: where we are, what happens when, what is needed and where, what to watch."""
    session, zone = read_session(), ZoneInfo(challenge.school_class.zone)
    plan = week_plan(challenge.class_id)
    mine = [_lesson(plan, i, zone, challenge.id) for i in range(len(plan.lessons))]
    now = moments.now()
    ahead = [
        shown
        for shown, lesson in zip(mine, plan.lessons, strict=True)
        if shown.steps and lesson.start + timedelta(seconds=lesson.length_s) > now
    ]
    path = paths(session, [challenge])[challenge.id]
    kit = kit_of(session, challenge.school_class, [challenge])
    return {
        **_station_sheet(challenge, brief, age),
        "next_step": path.next_step,
        "lessons": (ahead or [x for x in mine if x.steps])[:3],
        "kit": [words.stands(line.line) for line in kit.lines][:18],
        "warned": cautions_of(read_session(), challenge, brief, age),
        "teams": challenge.school_class.teams,
        "defer": DEFER,
    }


def _home_sheet(challenge: Challenge, brief: Brief, age: AgeBand) -> Shown:
    """The same challenge with what there is at home; an adult agrees first."""
    guess = brief.kind.analysis.prediction_for(brief.choices)
    return {
        **_fixed(brief, age),
        "picture": names_svg(brief, PAPER),
        "instead": [words.instead(o) for o in brief.offers[:12]],
        "guess": words.with_unit(guess.label, guess.unit, brief.setting),
        "warned": cautions_of(read_session(), challenge, brief, age),
        "defer": DEFER,
        "looks": [o.seen for o in brief.kind.test.observations if o.offered],
    }


def _team_cards(challenge: Challenge, brief: Brief, age: AgeBand) -> Shown:
    """Each card with its team's code, while the door is open."""
    del brief, age
    session, now = read_session(), moments.steady()
    found = devices.good_team_codes(session, challenge.class_id, now) if devices.is_open(session, now) else {}
    teams = challenge.school_class.present
    return {"squares": {t.id: code_shown(t.name, found[t.id], team=t) for t in teams if t.id in found}}


MORE = {
    "teams": _team_cards,
    "ideas": ideas_sheet,
    "walk": walk_sheet,
    "lesson": lesson_sheet,
    "station": _station_sheet,
    "colleague": _colleague_sheet,
    "home": _home_sheet,
    "brief": _brief_sheet,
    "plan": _plan_sheet,
    "data": _data_sheet,
    "reflection": _reflection_sheet,
    "safety": _safety_sheet,
}


@dataclass(frozen=True)
class LessonPlan:
    """A lesson of the plan of the week: its heading, steps (when, what, minutes) and packing up."""

    heading: str
    steps: list[tuple[str, str, str]]
    pack_up: str


@bp.get("/classes/<int:class_id>/week")
@may(DESKS)
def plan_of_week(class_id: int) -> ResponseReturnValue:
    """The whole plan on one page: lessons, what stands where, what spills."""
    school_class = get_class(read_session(), class_id)
    plan = week_plan(class_id)
    strip = strip_of(plan, 0, school_class.zone)
    idle = [
        words.waiting(c.title, t.kind.test.bench.waiting)
        for c, t in zip(plan.challenges, plan.tasks, strict=True)
    ]
    return render_template(
        "sheets/week.html",
        school_class=school_class,
        lessons=[_lesson(plan, i, ZoneInfo(school_class.zone)) for i in range(len(plan.lessons))],
        sheet="Plan of the week",
        strip=strip,
        spills=[f"{what}, {minutes:.0f} min" for what, minutes, _ in strip.spills],
        challenge=None,
        waiting=[line for line in idle if line],
    )


def _lesson(plan: week.WeekPlan, number: int, zone: ZoneInfo, only: int | None = None) -> LessonPlan:
    """A lesson with its steps, of all challenges or of one."""
    lesson = plan.lessons[number]
    labels = {p.key: p.label for p in PHASES}
    titles = {str(c.id): c.title for c in plan.challenges}
    steps = []
    for block in plan.timeline.blocks:
        if block.lesson != number:
            continue
        owner, phase = block.step.split(":")
        if only is not None and owner != str(only):
            continue
        at = (lesson.start + timedelta(seconds=block.start_s)).astimezone(zone)
        what = words.step(block, titles[owner], labels[phase])
        steps.append((f"{at:%H:%M}", what, f"{block.length_s / 60:.0f} min"))
    start = lesson.start.astimezone(zone)
    end = (lesson.start + timedelta(seconds=lesson.length_s)).astimezone(zone)
    return LessonPlan(words.lesson(number + 1, start, end), steps, f"{lesson.pack_up_s / 60:.0f} min")
