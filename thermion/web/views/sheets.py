"""Sheets to print: brief, plan, data, reflection, team cards, safety, and the plan of the week."""

from __future__ import annotations

from datetime import timedelta
from typing import Any
from zoneinfo import ZoneInfo

from flask import Blueprint, render_template
from flask.typing import ResponseReturnValue

from thermion.core.planning.safety import DEFER, cautions
from thermion.core.planning.week import PHASES
from thermion.core.plans import Plan
from thermion.records.judging.conclusions import known_in
from thermion.records.planning import week
from thermion.records.planning.briefs import Brief
from thermion.records.planning.classes import get_class
from thermion.records.tables import Challenge
from thermion.web.page import open_challenge, reading
from thermion.web.pictures import drawing_svg
from thermion.web.strip import strip_of

bp = Blueprint("sheets", __name__)
SHEETS = {
    "brief": "Brief",
    "plan": "Plan sheet",
    "data": "Data sheet",
    "reflection": "Reflection sheet",
    "teams": "Team cards",
    "safety": "Safety sheet",
}


@bp.get("/challenges/<int:challenge_id>/sheets/<any(brief,plan,data,reflection,teams,safety):name>")
def sheet(challenge_id: int, name: str) -> ResponseReturnValue:
    """One sheet on white paper; printing it prints just this."""
    challenge, brief = open_challenge(challenge_id)
    factors = {f.key: f.si("default") for f in brief.kind.build.factors}
    return render_template(
        f"sheets/{name}.html",
        challenge=challenge,
        school_class=challenge.school_class,
        brief=brief,
        kind=brief.kind,
        setting=brief.setting,
        sheet=SHEETS[name],
        young=challenge.age_band == "6-8",
        picture=drawing_svg(brief.kind.build.draw(Plan((), factors), brief.rig())),
        **MORE.get(name, lambda *_: {})(challenge, brief),
    )


def _brief_sheet(challenge: Challenge, brief: Brief) -> dict[str, Any]:
    fixed = [c for c in brief.kind.brief.settings(brief.choices) if not c.words]
    task = week.timing_of(reading(), challenge, brief)
    return {
        "fixed": [
            (c.label, brief.setting.show(brief.values[c.key], c.unit, _digits(c.default))) for c in fixed
        ],
        "levels": [
            (c.label, brief.setting.show(brief.values[c.key], c.unit, _digits(c.default)))
            for c in brief.kind.brief.levels(brief.choices)
        ],
        "school": brief.kind.brief.school(challenge.school, brief.choices)
        if challenge.school != "own"
        else None,
        "known": known_in(reading(), challenge.id),
        "timing": task,
        "warned": _warned(challenge, brief),
    }


def _digits(value: float) -> int:
    return 0 if value == int(value) else 1


def _warned(challenge: Challenge, brief: Brief) -> list[Any]:
    return cautions(brief.kind, brief.choices, challenge.age_band, challenge.tools.split())


def _data_sheet(challenge: Challenge, brief: Brief) -> dict[str, Any]:
    """The grid in the order of the entry grid: the air first, then the teams as they stand."""
    timing = week.timing_of(reading(), challenge, brief)
    marks = [(p, [f"{m / 60:g}" for m in brief.marks.get(p.key, ())]) for p in brief.kind.test.phases]
    reads = brief.kind.test.attempt_reads(brief.choices) or brief.kind.test.reads_for(brief.choices)
    if brief.kind.test.held != "marks":
        marks = []
    return {"marks": marks, "reads": reads, "attempts": range(1, timing.attempts + 1)}


MORE = {
    "brief": _brief_sheet,
    "data": _data_sheet,
    "safety": lambda c, b: {"warned": _warned(c, b), "defer": DEFER},
}


@bp.get("/classes/<int:class_id>/week")
def plan_of_week(class_id: int) -> ResponseReturnValue:
    """The whole plan on one page: lessons, what stands where, what spills."""
    school_class = get_class(reading(), class_id)
    plan = week.week_of(reading(), class_id)
    zone = ZoneInfo(school_class.zone)
    labels = {p.key: p.label for p in PHASES}
    titles = {str(c.id): c.title for c in plan.challenges}
    rows = []
    for i, lesson in enumerate(plan.lessons):
        blocks = [
            {
                "at": (lesson.start + timedelta(seconds=b.start_s)).astimezone(zone),
                "minutes": b.length_s / 60,
                "what": labels[b.step.split(":")[1]],
                "title": titles[b.step.split(":")[0]],
                "goes_on": b.goes_on,
            }
            for b in plan.timeline.blocks
            if b.lesson == i
        ]
        end = (lesson.start + timedelta(seconds=lesson.length_s)).astimezone(zone)
        rows.append({"lesson": lesson, "start": lesson.start.astimezone(zone), "end": end, "blocks": blocks})
    return render_template(
        "sheets/week.html",
        school_class=school_class,
        rows=rows,
        sheet="Plan of the week",
        spills=strip_of(plan, 0, school_class.zone).spills,
        challenge=None,
        waiting=[
            (c.title, t.kind.test.bench.waiting) for c, t in zip(plan.challenges, plan.tasks, strict=True)
        ],
    )
