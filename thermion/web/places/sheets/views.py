"""Sheets to print: brief, plan, data, reflection, team cards, safety, and the plan of the week."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import timedelta
from zoneinfo import ZoneInfo

from flask import Blueprint, abort, render_template
from flask.typing import ResponseReturnValue

from thermion.core.kinds.briefing import Condition
from thermion.core.planning.safety import DEFER, cautions
from thermion.core.planning.week import PHASES
from thermion.records.judging.conclusions import known_in
from thermion.records.planning import week
from thermion.records.planning.briefs import Brief
from thermion.records.planning.classes import get_class
from thermion.records.tables import Challenge
from thermion.web.components.printed import SHEETS
from thermion.web.pictures.drawings import drawing_svg
from thermion.web.pictures.lesson_strip import strip_of
from thermion.web.places.sheets import words
from thermion.web.sessions import open_challenge, read_session, week_plan

bp = Blueprint("sheets", __name__)
Shown = dict[str, object]


@bp.get("/challenges/<int:challenge_id>/sheets/<name>")
def sheet(challenge_id: int, name: str) -> ResponseReturnValue:
    """One sheet on white paper; printing it prints just this."""
    if name not in SHEETS:
        abort(404)
    challenge, brief = open_challenge(challenge_id)
    kind, young = brief.kind, challenge.age_band == "6-8"
    more = MORE.get(name, _nothing_more)
    return render_template(
        f"sheets/{name}.html",
        challenge=challenge,
        school_class=challenge.school_class,
        brief=brief,
        kind=kind,
        setting=brief.setting,
        sheet=SHEETS[name],
        young=young,
        say=words.words_for(young, kind),
        picture=drawing_svg(kind.build.draw(kind.build.usual(), brief.rig())),
        **more(challenge, brief),
    )


def _nothing_more(_: Challenge, __: Brief) -> Shown:
    return {}


def _shown(c: Condition, brief: Brief) -> tuple[str, str]:
    digits = 0 if c.default == int(c.default) else 1
    return c.label, brief.setting.show(brief.values[c.key], c.unit, digits)


def _warned(challenge: Challenge, brief: Brief) -> list[object]:
    return list(
        cautions(brief.kind, brief.choices, challenge.age_band, challenge.tools.split(), brief.setting)
    )


def _brief_sheet(challenge: Challenge, brief: Brief) -> Shown:
    timing = week.timing_of(read_session(), challenge, brief)
    own = challenge.school == "own"
    return {
        "fixed": [_shown(c, brief) for c in brief.numbers() if not c.older or challenge.age_band == "13-16"],
        "levels": [_shown(c, brief) for c in brief.kind.brief.levels(brief.choices)],
        "school": None if own else brief.kind.brief.school(challenge.school, brief.choices),
        "known": known_in(read_session(), challenge.id),
        "offers": [words.offered(o, brief.setting) for o in brief.offers],
        "attempts_each": words.attempts_each(brief, timing.attempts),
        "warned": _warned(challenge, brief)[:4],
    }


def _plan_sheet(_: Challenge, brief: Brief) -> Shown:
    guess = brief.kind.analysis.prediction_for(brief.choices)
    return {
        "guess": words.with_unit(guess.label, guess.unit, brief.setting),
        "views": words.views_of(brief.kind),
    }


@dataclass(frozen=True)
class Grid:
    """An empty grid of builds by minutes."""

    heading: str
    minutes: list[str]


def _data_sheet(challenge: Challenge, brief: Brief) -> Shown:
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
        if test.held == "marks"
    ]
    return {
        "grids": grids,
        "columns": [words.with_unit(r.label, r.unit, setting) for r in reads],
        "attempts": range(1, timing.attempts + 1),
        "seen": words.seen(brief),
    }


def _reflection_sheet(_: Challenge, __: Brief) -> Shown:
    return {"questions": words.QUESTIONS, "young_questions": words.YOUNG_QUESTIONS}


def _safety_sheet(challenge: Challenge, brief: Brief) -> Shown:
    return {"warned": _warned(challenge, brief), "defer": DEFER}


MORE = {
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
def plan_of_week(class_id: int) -> ResponseReturnValue:
    """The whole plan on one page: lessons, what stands where, what spills."""
    school_class = get_class(read_session(), class_id)
    plan = week_plan(class_id)
    spills = strip_of(plan, 0, school_class.zone).spills
    idle = [
        words.waiting(c.title, t.kind.test.bench.waiting)
        for c, t in zip(plan.challenges, plan.tasks, strict=True)
    ]
    return render_template(
        "sheets/week.html",
        school_class=school_class,
        lessons=[_lesson(plan, i, ZoneInfo(school_class.zone)) for i in range(len(plan.lessons))],
        sheet="Plan of the week",
        spills=[f"{what}, {minutes:.0f} min" for what, minutes, _ in spills],
        challenge=None,
        waiting=[line for line in idle if line],
    )


def _lesson(plan: week.WeekPlan, number: int, zone: ZoneInfo) -> LessonPlan:
    lesson = plan.lessons[number]
    labels = {p.key: p.label for p in PHASES}
    titles = {str(c.id): c.title for c in plan.challenges}
    steps = []
    for block in plan.timeline.blocks:
        if block.lesson != number:
            continue
        owner, phase = block.step.split(":")
        at = (lesson.start + timedelta(seconds=block.start_s)).astimezone(zone)
        what = words.step(block, titles[owner], labels[phase])
        steps.append((f"{at:%H:%M}", what, f"{block.length_s / 60:.0f} min"))
    start = lesson.start.astimezone(zone)
    end = (lesson.start + timedelta(seconds=lesson.length_s)).astimezone(zone)
    return LessonPlan(words.lesson(number + 1, start, end), steps, f"{lesson.pack_up_s / 60:.0f} min")
