"""The parts of a brief that are forms: their fields, what is kept of them, what they show beside."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from flask import request
from flask_wtf import FlaskForm
from sqlalchemy.orm import Session
from wtforms import BooleanField, Field

from thermion.core.kinds.briefing import Choice, Condition
from thermion.core.physics.materials import LONGEST_NAME, LONGEST_UNIT, MATERIALS, OWN, Material, like_of
from thermion.core.physics.units import NotANumber, parse_minutes_list
from thermion.core.planning.difficulty import STEPS
from thermion.core.planning.safety import DEFER, TOOLS, cautions
from thermion.core.plans import MOST_CREDIT, MOST_POINTS, MOST_UNITS, Offer
from thermion.records.errors import Refused
from thermion.records.judging.conclusions import known_in
from thermion.records.planning import briefs, own
from thermion.records.planning.briefs import Brief
from thermion.records.planning.difficulty import setup_of, step_of, tell_anew, would_be
from thermion.records.planning.marks import save_marks
from thermion.records.tables import Challenge
from thermion.web.components.forms import (
    QuantityField,
    condition_field,
    long_text,
    pick,
    text,
    tolerance_field,
)
from thermion.web.payloads import form_id
from thermion.web.pictures.drawings import drawing_svg
from thermion.web.places.brief import rule, rungs, words
from thermion.web.sessions import read_session

Fields = dict[str, Field]
Shown = dict[str, object]


def _nothing_more(_: Challenge, __: Brief) -> Shown:
    return {}


@dataclass(frozen=True)
class BriefPart:
    """One form of the brief."""

    fields: Callable[[Challenge, Brief], Fields]
    save: Callable[[Session, Challenge, Brief, FlaskForm], None]
    more: Callable[[Challenge, Brief], Shown] = _nothing_more


# task


def _task_fields(challenge: Challenge, brief: Brief) -> Fields:
    fields: Fields = {
        "title": text("Title", 80, needed="Give the challenge a title.", default=challenge.title),
        "story": long_text("Story", 2000, challenge.story),
        "success": long_text("How success is measured, in the class's words", 1000, challenge.success),
    }
    for choice in _of_task(brief):
        fields[choice.key] = pick(choice.label, choice.options, brief.choices[choice.key])
    return fields


def _of_task(brief: Brief) -> list[Choice]:
    """The choices that say what the task is; what counts is chosen beside the rule."""
    return [choice for choice in brief.kind.brief.choices if not choice.scores]


def _save_task(_: Session, challenge: Challenge, brief: Brief, form: FlaskForm) -> None:
    challenge.title = form["title"].data.strip()
    challenge.story, challenge.success = form["story"].data or "", form["success"].data or ""
    chosen = {c.key: form[c.key].data for c in _of_task(brief)}
    tell_anew(challenge, brief, {**brief.choices, **chosen})
    if chosen != {key: brief.choices[key] for key in chosen}:
        challenge.cautions_seen_at = None  # other cautions apply now
    briefs.save_settings(challenge, {}, chosen)


def _task_more(challenge: Challenge, brief: Brief) -> Shown:
    step = row_of_dial(request.args.get("dial", ""), challenge)
    return {
        "asked_first": _of_task(brief),
        "known": known_in(read_session(), challenge.id),
        "steps": [(s, s.replace("-", "–")) for s in STEPS],
        "dial": step_of(challenge),
        "asked": step,
        "turns": turns_of(challenge, brief, step),
    }


def row_of_dial(asked: str, challenge: Challenge) -> str:
    """The step of the dial that is looked at: the one asked for, else where it stands."""
    return asked if asked in STEPS else step_of(challenge)


def turns_of(challenge: Challenge, brief: Brief, step: str) -> list[words.Turned]:
    """What a turn of the dial would change, line by line."""
    session = read_session()
    now = setup_of(session, challenge, brief)
    return words.turned(now, would_be(session, challenge, brief, step), brief)


# rig and levels


def _rig_fields(_: Challenge, brief: Brief) -> Fields:
    fields: Fields = {}
    for c in brief.numbers():
        fields[c.key] = condition_field(c, brief.setting, brief.values[c.key])
        fields[f"tol_{c.key}"] = tolerance_field(c, brief.setting, brief.tolerance[c.key])
    for c in brief.kind.brief.levels(brief.choices):
        fields[c.key] = condition_field(c, brief.setting, brief.values[c.key])
    for c in _instrument_numbers(brief):
        fields[c.key] = condition_field(c, brief.setting, brief.values[c.key])
    return fields


def _instrument_numbers(brief: Brief) -> list[Condition]:
    """What is asked of the instruments; a form that was sent without them leaves them as they are."""
    every = [c for i in brief.kind.brief.instruments_for(brief.choices) for c in i.settings]
    return [c for c in every if request.method != "POST" or c.key in request.form]


def _save_rig(_: Session, challenge: Challenge, brief: Brief, form: FlaskForm) -> None:
    values = {}
    for c in (*brief.numbers(), *brief.kind.brief.levels(brief.choices), *_instrument_numbers(brief)):
        tolerance = form[f"tol_{c.key}"].data if f"tol_{c.key}" in form else 0.0
        values[c.key] = (form[c.key].data, tolerance)
    briefs.save_settings(challenge, values, {})


def _rig_more(_: Challenge, brief: Brief) -> Shown:
    return {
        "numbers": brief.numbers(),
        "levels": brief.kind.brief.levels(brief.choices),
        "beside": words.yardstick(brief),
        "instruments": [
            (i, words.instrument_hint(i, brief)) for i in brief.kind.brief.instruments_for(brief.choices)
        ],
        "picture": drawing_svg(brief.kind.build.draw(brief.kind.build.usual(), brief.rig())),
    }


# marks


def _marks_fields(_: Challenge, brief: Brief) -> Fields:
    return {
        p.key: text(
            f"{p.label}: read at these minutes",
            400,
            needed="At least the mark at 0.",
            default=brief.setting.minutes(brief.marks[p.key]),
        )
        for p in brief.kind.test.phases
    }


def _save_marks(session: Session, challenge: Challenge, brief: Brief, form: FlaskForm) -> None:
    marks = {}
    for p in brief.kind.test.phases:
        try:
            marks[p.key] = parse_minutes_list(form[p.key].data, brief.setting.decimal)
        except NotANumber as error:
            raise Refused(str(error), p.key) from None
    save_marks(session, challenge, marks)


def _marks_more(_: Challenge, brief: Brief) -> Shown:
    return {"counts": {phase: words.readings_each(len(marks)) for phase, marks in brief.marks.items()}}


# materials


def _by_name() -> list[Material]:
    return sorted(MATERIALS.values(), key=lambda m: m.name)


def _known(challenge: Challenge, brief: Brief) -> dict[str, Material]:
    """Every material that can be offered: the shipped ones, the class's own, and what is on offer."""
    mine = [m.key for m in own.own_materials(read_session(), challenge.class_id)]
    offered = [o.material for o in brief.offers]
    return {key: MATERIALS[key] for key in dict.fromkeys((*MATERIALS, *mine, *offered))}


def _materials_fields(challenge: Challenge, brief: Brief) -> Fields:
    offers = {o.material: o for o in brief.offers}
    fields: Fields = {
        "credit": QuantityField(
            "Credit for each reused unit",
            unit="point",
            low=0,
            high=MOST_CREDIT,
            setting=brief.setting,
            default=challenge.credit,
        )
    }
    fields |= {
        "own_name": text("Its name", LONGEST_NAME),
        "own_unit": text("One of it is a", LONGEST_UNIT, default="piece"),
        "own_like": pick(
            "Behaves about like", [("", "as its name says"), *((m.key, m.name) for m in _by_name())], ""
        ),
    }
    for key, material in _known(challenge, brief).items():
        offer = offers.get(key)
        fields[f"on_{key}"] = BooleanField(material.name, default=offer is not None)
        fields[f"limit_{key}"] = QuantityField(
            f"Limit of {material.name.lower()}",
            unit="count",
            low=0,
            high=MOST_UNITS,
            optional=True,
            setting=brief.setting,
            default=offer.limit if offer else None,
        )
        fields[f"points_{key}"] = QuantityField(
            f"Points of {material.name.lower()}",
            unit="point",
            low=0,
            high=MOST_POINTS,
            setting=brief.setting,
            default=offer.points if offer else material.points,
        )
    return fields


def _materials_more(challenge: Challenge, brief: Brief) -> Shown:
    """Those on offer in the brief's order, then all others; a tick that was not stored stays where it was."""
    offered = [MATERIALS[o.material] for o in brief.offers]
    others = [m for m in _known(challenge, brief).values() if m not in offered]
    mine = {m.key for m in own.own_materials(read_session(), challenge.class_id)}
    return {
        "offered": offered,
        "others": sorted(others, key=lambda m: m.name),
        "mine": mine,
        "like": {m.key: MATERIALS[like_of(m.key)].name.lower() for m in (*offered, *others) if OWN in m.key},
        "swatches": True,
    }


def _save_materials(session: Session, challenge: Challenge, brief: Brief, form: FlaskForm) -> None:
    """What is on offer; a material of the class's own that was named is put on the list and offered."""
    offers = [
        Offer(key, form[f"limit_{key}"].data, form[f"points_{key}"].data)
        for key in _known(challenge, brief)
        if form[f"on_{key}"].data
    ]
    if form["own_name"].data.strip():
        made = own.add_material(
            session, challenge.class_id, form["own_name"].data, form["own_unit"].data, form["own_like"].data
        )
        if all(o.material != made.key for o in offers):
            offers.append(Offer(made.key, made.limit_units, made.points))
    own.forget_material(session, challenge.class_id, request.form.get("forget", ""))
    briefs.save_offers(session, challenge, offers)
    challenge.credit = form["credit"].data


# safety


def _safety_fields(challenge: Challenge, _: Brief) -> Fields:
    used = challenge.tools.split()
    fields: Fields = {f"tool_{t.key}": BooleanField(t.label, default=t.key in used) for t in TOOLS}
    return fields | {"own_caution": text("Of this room", 200)}


def _save_safety(session: Session, challenge: Challenge, __: Brief, form: FlaskForm) -> None:
    briefs.save_tools(challenge, [t.key for t in TOOLS if form[f"tool_{t.key}"].data])
    gone = form_id("forget_caution")
    if gone:
        own.forget_caution(session, challenge.class_id, gone)
    said = form["own_caution"].data
    if said.strip():
        session.flush()
        own.add_caution(session, challenge.class_id, said)
    if request.form.get("only_tools") or gone or said.strip():
        return
    briefs.acknowledge_cautions(challenge)
    briefs.finish_brief(challenge)


def _safety_more(challenge: Challenge, brief: Brief) -> Shown:
    return {
        "warned": cautions(
            brief.kind, brief.choices, challenge.age_band, challenge.tools.split(), brief.setting
        ),
        "ours": own.own_cautions(read_session(), challenge.class_id),
        "tools": TOOLS,
        "defer": DEFER,
        "was_read": words.safety_read(challenge, challenge.school_class.zone),
        "go": words.safety_go(challenge),
        "go_key": "g" if challenge.cautions_seen_at else "r",  # nobody says so by going on
    }


PARTS = {
    "task": BriefPart(_task_fields, _save_task, _task_more),
    "rig": BriefPart(_rig_fields, _save_rig, _rig_more),
    "marks": BriefPart(_marks_fields, _save_marks, _marks_more),
    "materials": BriefPart(_materials_fields, _save_materials, _materials_more),
    "rungs": BriefPart(rungs.fields, rungs.save, rungs.more),
    "score": BriefPart(rule.fields, rule.save, rule.more),
    "safety": BriefPart(_safety_fields, _save_safety, _safety_more),
}
