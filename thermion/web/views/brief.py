"""Brief: what are we trying to do, under which rules, with what?"""

from __future__ import annotations

from collections.abc import Callable

from flask import Blueprint, redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue
from wtforms import BooleanField, Field

from thermion.core.kinds.briefing import AGE_BANDS, Condition, Term
from thermion.core.physics.materials import MATERIALS
from thermion.core.physics.units import NotANumber, parse_minutes_list, parse_plain
from thermion.core.planning.safety import DEFER, TOOLS, cautions
from thermion.core.plans import Offer, Plan
from thermion.formats.tables import Column, Table
from thermion.records.errors import Refused
from thermion.records.judging.conclusions import known_in
from thermion.records.planning import briefs
from thermion.records.planning.briefs import Brief, brief_of, get_challenge
from thermion.records.tables import Challenge
from thermion.web.forms import QuantityField, condition_field, form_of, long_text, pick, text, tolerance_field
from thermion.web.page import data_page, frame, open_challenge, reading, writing
from thermion.web.pictures import drawing_svg
from thermion.web.sections import after, sections_of

bp = Blueprint("brief", __name__, url_prefix="/challenges/<int:challenge_id>/brief")
data = Blueprint("brief_data", __name__)


@data.get("/challenges/<int:challenge_id>/brief.<any(csv,json):ending>")
def as_data(challenge_id: int, ending: str) -> ResponseReturnValue:
    """The brief's numbers: conditions with tolerance, levels, marks, what is on offer."""
    _, brief = open_challenge(challenge_id)
    setting = brief.setting
    rows: list[tuple[object, ...]] = []
    for c in (*_numbers(brief), *brief.kind.brief.levels(brief.choices)):
        tolerance = brief.tolerance.get(c.key)
        unit = "delta_degC" if c.unit == "degC" else c.unit
        rows.append(
            (
                "condition",
                c.key,
                setting.from_si(brief.values[c.key], c.unit),
                None if tolerance is None else setting.from_si(tolerance, unit),
                setting.label(c.unit),
            )
        )
    rows += [("mark", phase, m / 60, None, "min") for phase, ms in brief.marks.items() for m in ms]
    rows += [("limit", o.material, o.limit, None, "units") for o in brief.offers]
    rows += [("impact", o.material, o.points, None, "points") for o in brief.offers]
    rows += [("score", t.metric, t.weight, None, t.unit) for t in brief.rule]
    columns = tuple(Column(k, k.capitalize()) for k in ("what", "key", "value", "tolerance", "unit"))
    return data_page(
        ending, "", lambda: Table("Brief", columns, rows), f"brief-{challenge_id}", {"setting": setting}
    )


@bp.get("")
def index(challenge_id: int) -> ResponseReturnValue:
    return redirect(url_for(".section", challenge_id=challenge_id, section="task"))


@bp.route("/<any(task,rig,marks,materials,score,safety):section>", methods=["GET", "POST"])
def section(challenge_id: int, section: str) -> ResponseReturnValue:
    challenge, brief = open_challenge(challenge_id)
    if section not in {key for key, _, _ in sections_of(brief)}:
        return redirect(url_for(".index", challenge_id=challenge_id))
    form = form_of(FIELDS[section](challenge, brief))
    problem: Refused | None = None
    if request.method == "POST" and form.validate():
        try:
            with writing() as session:
                mine = get_challenge(session, challenge_id)
                SAVE[section](session, mine, brief_of(mine), form)
            if request.form.get("only_tools"):
                return redirect(url_for(".section", challenge_id=challenge_id, section=section), 303)
            return redirect(_after(challenge_id, section), 303)
        except Refused as refused:
            problem = refused
    status = 422 if problem or form.errors else 200
    more = MORE[section](challenge, brief, form) if section in MORE else {}
    if section == "task":
        more = {**more, "known": known_in(reading(), challenge_id)}
    values = frame(
        challenge, "brief", form=form, problem=problem, section=section, sections=sections_of(brief), **more
    )
    return render_template(f"brief/{section}.html", **values), status


@bp.post("/delete")
def delete(challenge_id: int) -> ResponseReturnValue:
    """Drop a challenge that nobody has built for yet."""
    with writing() as session:
        briefs.delete_challenge(session, get_challenge(session, challenge_id))
    return redirect(url_for("classes.home"), 303)


def _after(challenge_id: int, section: str) -> str:
    _, brief = open_challenge(challenge_id)
    following = after(brief, section)
    if following is None:
        return url_for("builds.index", challenge_id=challenge_id)
    key, endpoint = following
    more = {"section": key} if endpoint == "brief.section" else {}
    return url_for(endpoint, challenge_id=challenge_id, **more)


def _task_fields(challenge: Challenge, brief: Brief) -> dict[str, Field]:
    fields: dict[str, Field] = {
        "title": text("Title", 80, needed="Give the challenge a title.", default=challenge.title),
        "age_band": pick("Age", [(a, a.replace("-", "–")) for a in AGE_BANDS], challenge.age_band),
        "story": long_text("Story", 2000, challenge.story),
        "success": long_text("How success is measured, in the class's words", 1000, challenge.success),
    }
    for choice in brief.kind.brief.choices:
        fields[choice.key] = pick(choice.label, choice.options, brief.choices[choice.key])
    return fields


def _save_task(session, challenge, brief, form) -> None:
    challenge.title = form["title"].data.strip()
    challenge.age_band = form["age_band"].data
    challenge.story, challenge.success = form["story"].data or "", form["success"].data or ""
    chosen = {c.key: form[c.key].data for c in brief.kind.brief.choices}
    if chosen != dict(brief.choices):
        challenge.cautions_seen_at = None  # other cautions apply now
    briefs.save_settings(challenge, {}, chosen)


def _numbers(brief: Brief) -> list[Condition]:
    """Conditions that are set beforehand; those in words are noted at the run."""
    return [c for c in brief.kind.brief.settings(brief.choices) if not c.words]


def _rig_fields(challenge: Challenge, brief: Brief) -> dict[str, Field]:
    fields: dict[str, Field] = {}
    for c in _numbers(brief):
        fields[c.key] = condition_field(c, brief.setting, brief.values[c.key])
        fields[f"tol_{c.key}"] = tolerance_field(c, brief.setting, brief.tolerance[c.key])
    for c in brief.kind.brief.levels(brief.choices):
        fields[c.key] = condition_field(c, brief.setting, brief.values[c.key])
    return fields


def _save_rig(session, challenge, brief, form) -> None:
    values = {}
    for c in (*_numbers(brief), *brief.kind.brief.levels(brief.choices)):
        tolerance = form[f"tol_{c.key}"].data if f"tol_{c.key}" in form else 0.0
        values[c.key] = (form[c.key].data, tolerance)
    briefs.save_settings(challenge, values, {})


def _rig_more(challenge: Challenge, brief: Brief, form) -> dict:
    factors = {f.key: f.si("default") for f in brief.kind.build.factors}
    return {
        "numbers": _numbers(brief),
        "levels": brief.kind.brief.levels(brief.choices),
        "picture": drawing_svg(brief.kind.build.draw(Plan((), factors), brief.rig())),
    }


def _marks_fields(challenge: Challenge, brief: Brief) -> dict[str, Field]:
    return {
        p.key: text(
            f"{p.label}: read at these minutes",
            400,
            needed="At least the mark at 0.",
            default=brief.setting.minutes(brief.marks[p.key]),
        )
        for p in brief.kind.test.phases
    }


def _save_marks(session, challenge, brief, form) -> None:
    marks = {}
    for p in brief.kind.test.phases:
        try:
            marks[p.key] = parse_minutes_list(form[p.key].data, brief.setting.decimal)
        except NotANumber as error:
            raise Refused(str(error), p.key) from None
        if not marks[p.key] or marks[p.key][0] != 0:
            raise Refused("The first reading is at minute 0.", p.key)
        if len(marks[p.key]) > 40 or marks[p.key][-1] > 6 * 3600:
            raise Refused("At most 40 marks within 6 hours.", p.key)
    briefs.save_marks(session, challenge, marks)


def _materials_fields(challenge: Challenge, brief: Brief) -> dict[str, Field]:
    offers = {o.material: o for o in brief.offers}
    fields: dict[str, Field] = {
        "credit": QuantityField(
            "Credit for each reused unit",
            unit="point",
            low=0,
            high=50,
            setting=brief.setting,
            default=challenge.credit,
        )
    }
    for key, material in MATERIALS.items():
        offer = offers.get(key)
        fields[f"on_{key}"] = BooleanField(material.name, default=offer is not None)
        fields[f"limit_{key}"] = QuantityField(
            f"Limit of {material.name.lower()}",
            unit="count",
            low=0,
            high=999,
            optional=True,
            setting=brief.setting,
            default=offer.limit if offer else None,
        )
        fields[f"points_{key}"] = QuantityField(
            f"Points of {material.name.lower()}",
            unit="point",
            low=0,
            high=999,
            setting=brief.setting,
            default=offer.points if offer else material.points,
        )
    return fields


def _save_materials(session, challenge, brief, form) -> None:
    offers = [
        Offer(key, form[f"limit_{key}"].data, form[f"points_{key}"].data)
        for key in MATERIALS
        if form[f"on_{key}"].data
    ]
    if not offers:
        raise Refused("Offer at least one material.", "offers")
    briefs.save_offers(session, challenge, offers)
    challenge.credit = form["credit"].data


def _score_fields(challenge: Challenge, brief: Brief) -> dict[str, Field]:
    options = [(s.key, s.label) for s in brief.kind.brief.schools_for(brief.choices)] + [
        ("own", "Our own rule")
    ]
    return {"school": pick("Score", options, challenge.school)}


def _typed_terms(brief: Brief) -> list[dict[str, str]]:
    """Rows of the rule editor as typed, or the current rule."""
    keys = ("metric", "weight", "divisor", "cap")
    if request.method == "POST":
        columns = [request.form.getlist(f"term_{k}") for k in keys]
        return [dict(zip(keys, row, strict=True)) for row in zip(*columns, strict=False)]
    write = brief.setting.typed
    return [
        {
            "metric": t.metric,
            "weight": write(t.weight, "dimensionless"),
            "divisor": write(t.divisor, "dimensionless"),
            "cap": write(t.cap, "dimensionless"),
        }
        for t in brief.rule
    ]


def _save_score(session, challenge, brief, form) -> None:
    if form["school"].data != "own":
        briefs.use_school(challenge, form["school"].data)
        return
    rule = []
    for i, row in enumerate(_typed_terms(brief)):
        numbers: dict[str, float | None] = {}
        for key, fallback in (("weight", None), ("divisor", 1.0), ("cap", None)):
            typed = row[key].strip()
            try:
                numbers[key] = parse_plain(typed, brief.setting.decimal) if typed else fallback
            except NotANumber as error:
                raise Refused(str(error), f"term-{i}-{key}") from None
        if numbers["weight"] is None:
            raise Refused("Every term needs a weight, e.g. 1 or -1.", f"term-{i}-weight")
        if not numbers["divisor"]:
            raise Refused("Dividing by zero gives no score.", f"term-{i}-divisor")
        unit = brief.setting.unit_of(brief.kind.analysis.metric(row["metric"]).unit)
        rule.append(Term(row["metric"], unit, numbers["weight"], numbers["divisor"], numbers["cap"]))
    briefs.save_rule(challenge, rule, "own")


def _score_more(challenge: Challenge, brief: Brief, form) -> dict:
    metrics = {m.key: m for m in brief.kind.analysis.metrics}
    schools = [
        {"school": s, "rule": brief.rule_of(s.key)} for s in brief.kind.brief.schools_for(brief.choices)
    ]
    return {"terms": _typed_terms(brief), "metrics": metrics, "schools": schools}


def _safety_fields(challenge: Challenge, brief: Brief) -> dict[str, Field]:
    used = challenge.tools.split()
    return {f"tool_{t.key}": BooleanField(t.label, default=t.key in used) for t in TOOLS}


def _save_safety(session, challenge, brief, form) -> None:
    briefs.save_tools(challenge, [t.key for t in TOOLS if form[f"tool_{t.key}"].data])
    if request.form.get("only_tools"):
        return
    briefs.acknowledge_cautions(challenge)
    briefs.finish_brief(challenge)


FIELDS: dict[str, Callable[[Challenge, Brief], dict[str, Field]]] = {
    "task": _task_fields,
    "rig": _rig_fields,
    "marks": _marks_fields,
    "materials": _materials_fields,
    "score": _score_fields,
    "safety": _safety_fields,
}
SAVE = {
    "task": _save_task,
    "rig": _save_rig,
    "marks": _save_marks,
    "materials": _save_materials,
    "score": _save_score,
    "safety": _save_safety,
}


def _safety_more(challenge: Challenge, brief: Brief, form) -> dict:
    age = challenge.age_band
    return {
        "warned": cautions(brief.kind, brief.choices, age, challenge.tools.split()),
        "tools": TOOLS,
        "defer": DEFER,
    }


MORE = {"rig": _rig_more, "score": _score_more, "safety": _safety_more}
