"""The class store: plans to check, materials to hand out, what is there, what a team has used."""

from __future__ import annotations

from typing import Any

from flask import Blueprint, redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue
from sqlalchemy.orm import Session

from thermion.core.physics.materials import MATERIALS
from thermion.core.physics.units import NotANumber, parse_plain
from thermion.formats.tables import Column, Table
from thermion.records.building import builds, store
from thermion.records.errors import Refused
from thermion.records.planning import week
from thermion.records.planning.briefs import brief_of
from thermion.records.planning.classes import get_class, setting_of
from thermion.web.page import data_page, reading, writing

bp = Blueprint("store", __name__)
AT = "/classes/<int:class_id>/store"


@bp.get(AT)
def index(class_id: int) -> ResponseReturnValue:
    return _page(class_id)


@bp.get(f"{AT}.<any(csv,json):ending>")
def as_data(class_id: int, ending: str) -> ResponseReturnValue:
    """What is in the store, promised and free."""
    setting = setting_of(get_class(reading(), class_id))
    rows = [(s.material, s.there, s.promised, s.free, s.price) for s in store.shelves(reading(), class_id)]
    keys = ("material", "there", "promised", "free", "price")
    table = Table("Store", tuple(Column(k, k.capitalize()) for k in keys), rows)
    return data_page(ending, "", lambda: table, f"store-{class_id}", {"setting": setting})


def _page(class_id: int, problem: Refused | None = None, typed: Any = None) -> ResponseReturnValue:
    session = reading()
    school_class = get_class(session, class_id)
    plan = week.week_of(session, class_id)
    shelves = store.shelves(session, class_id)
    counted = {s.material for s in shelves}
    offered: dict[str, None] = {}
    bills = []
    for challenge in plan.challenges:
        brief = brief_of(challenge)
        offered |= dict.fromkeys(o.material for o in brief.offers)
        mine = store.bills(session, challenge, brief)
        if mine:
            bills.append({"challenge": challenge, "by_team": mine})
    issued = [
        v
        for c in plan.challenges
        for b in builds.builds_of(session, c.id)
        for v in b.versions[-1:]
        if v.state == "issued"
    ]
    page = render_template(
        "store/index.html",
        school_class=school_class,
        setting=setting_of(school_class),
        shelves=shelves,
        queue=store.queue(session, class_id),
        bills=bills,
        issued=issued,
        uncounted=[m for m in offered if m not in counted],
        needs=store.needs,
        problem=problem,
        typed=typed or {},
        titles={c.id: c.title for c in plan.challenges},
    )
    return page, 422 if problem else 200


@bp.post(f"{AT}/<any(count,issue,topup,return):action>")
def act(class_id: int, action: str) -> ResponseReturnValue:
    try:
        with writing() as session:
            get_class(session, class_id)
            if action == "count":
                _count(session, class_id)
            else:
                version = builds.get_version(session, request.form.get("version", 0, type=int))
                if action == "issue":
                    store.hand_out(session, version)
                else:
                    material, units = request.form.get("material", ""), _units("units")
                    give = store.top_up if action == "topup" else store.give_back
                    give(session, version, material, units)
    except Refused as refused:
        return _page(class_id, refused, request.form)
    back = request.form.get("back", "")
    return redirect(
        back if back.startswith("/") and not back.startswith("//") else url_for(".index", class_id=class_id),
        303,
    )


def _count(session: Session, class_id: int) -> None:
    """Every count that was typed; all are kept, or none when one cannot be."""
    for name, typed in request.form.items():
        material = name.removeprefix("count_")
        if name.startswith("count_") and typed.strip() and material in MATERIALS:
            store.count_stock(session, class_id, material, _units(name))


def _units(name: str) -> float:
    try:
        return parse_plain(request.form.get(name, ""))
    except NotANumber as error:
        raise Refused(str(error), name) from None
