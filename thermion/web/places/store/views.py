"""The class store: plans to check, materials to hand out, what is there, what a team has used."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from flask import Blueprint, Response, flash, request, url_for
from flask.typing import ResponseReturnValue
from sqlalchemy.orm import Session

from thermion.core.physics.materials import MATERIALS, OWN
from thermion.core.physics.units import Decimal, NotANumber, parse_plain
from thermion.core.planning.ledger import Bill
from thermion.formats.tables import Column, Table
from thermion.records.building import builds, store
from thermion.records.building.store import Counted, Shelf
from thermion.records.errors import Gone, Refused
from thermion.records.planning.briefs import brief_of
from thermion.records.planning.classes import get_class, setting_of
from thermion.records.tables import Challenge, SchoolClass, Team, Version
from thermion.web.access import HELPERS, may
from thermion.web.answers import go_back, table_file
from thermion.web.components.frame import page
from thermion.web.payloads import form_id
from thermion.web.places.store import words
from thermion.web.sessions import read_session, week_plan, write_session

bp = Blueprint("store", __name__, url_prefix="/classes/<int:class_id>")


@dataclass(frozen=True, kw_only=True)
class BillShown:
    """What a team has used, in words."""

    team: Team
    units: str
    impact: str
    cost: str
    back: str


@dataclass(frozen=True, kw_only=True)
class Picked:
    """One material of all that waits to be handed out: how much in all, and for whom."""

    name: str
    swatch: str
    units: str
    whose: list[tuple[Team, str]]
    short: bool


@bp.get("/store")
@may(HELPERS)
def index(class_id: int) -> ResponseReturnValue:
    return _page(class_id)


@bp.get("/store.<any(csv,json):ending>")
@may(HELPERS)
def as_data(class_id: int, ending: str) -> Response:
    """What is in the store, promised and free."""
    setting = setting_of(get_class(read_session(), class_id))
    shelves = store.shelves(read_session(), class_id, store.class_ledger(read_session(), class_id))
    rows = [(s.material, s.there, s.promised, s.free, s.price) for s in shelves]
    keys = ("material", "there", "promised", "free", "price")
    table = Table("Store", tuple(Column(k, k.capitalize()) for k in keys), rows)
    return table_file(ending, table, f"store-{class_id}", setting)


def _page(
    class_id: int, problem: Refused | None = None, typed: Mapping[str, str] | None = None
) -> ResponseReturnValue:
    session = read_session()
    school_class = get_class(session, class_id)
    plan = week_plan(class_id)
    counted = store.class_ledger(session, class_id)
    shelves = store.shelves(session, class_id, counted)
    on_shelf = {s.material for s in shelves}
    briefs = [(challenge, brief_of(challenge)) for challenge in plan.challenges]
    offered = dict.fromkeys(o.material for _, brief in briefs for o in brief.offers)
    ours = [m for m in sorted({*offered, *on_shelf}) if OWN in m]  # materials of the class's own
    price = store.prices(session, class_id)
    bills = [(challenge, store.bills(challenge, brief, counted, price)) for challenge, brief in briefs]
    out = {v.version_id: words.goes_out(v) for versions in counted.values() for v in versions}
    queue = store.queue(session, class_id)
    values: dict[str, object] = {
        "school_class": school_class,
        "setting": setting_of(school_class),
        "shelves": [_shelf_shown(s) for s in shelves],
        "signed": [(v, out[v.id]) for v in queue["signed"]],
        "waiting": [(v, out[v.id]) for v in queue["waiting"]],
        "swatches": True,
        "picked": _picked(queue["signed"], counted, shelves),
        "bills": [(c, _bills_shown(c, by_team)) for c, by_team in bills if by_team],
        "issued": _issued(plan.challenges, school_class, counted),
        "uncounted": [MATERIALS[m] for m in offered if m not in on_shelf],
        "materials": [*MATERIALS.values(), *(MATERIALS[m] for m in ours)],
        "problem": problem,
        "typed": typed or {},
    }
    return page("store/index.html", values, refused=problem is not None)


def _picked(
    signed: Sequence[Version], counted: Mapping[int, Sequence[Counted]], shelves: Sequence[Shelf]
) -> list[Picked]:
    """Everything that signed plans still need, material by material, most wanted kinds first."""
    wanted = {v.version_id: v.goes_out for versions in counted.values() for v in versions}
    by_material: dict[str, list[tuple[Team, float]]] = {}
    for version in signed:
        for material, units in wanted[version.id].items():
            by_material.setdefault(material, []).append((version.build.team, units))
    short = {s.material for s in shelves if s.free < 0}
    return [
        Picked(
            name=MATERIALS[m].name,
            swatch=MATERIALS[m].swatch,
            units=words.amount_of(m, sum(units for _, units in whose)),
            whose=[(team, f"{units:g}") for team, units in whose],
            short=m in short,
        )
        for m, whose in sorted(by_material.items(), key=lambda item: MATERIALS[item[0]].name)
    ]


def _shelf_shown(shelf: Shelf) -> tuple[Shelf, str, str]:
    return shelf, words.shortage(shelf), words.amount(shelf.promised)


def _bills_shown(challenge: Challenge, by_team: Mapping[int, Bill]) -> list[BillShown]:
    setting, out = setting_of(challenge.school_class), []
    for team in challenge.school_class.teams:
        bill = by_team.get(team.id)
        if bill is not None:
            cost = setting.write(bill.cost, 2) if bill.cost else "–"
            back = words.amount(bill.back)
            out.append(
                BillShown(team=team, units=f"{bill.units:g}", impact=f"{bill.impact:g}", cost=cost, back=back)
            )
    return out


def _issued(
    challenges: Sequence[Challenge], school_class: SchoolClass, counted: Mapping[int, Sequence[Counted]]
) -> list[tuple[int, str]]:
    """The newest version of every build that has its materials: its id, and whose it is."""
    teams = {t.id: t.name for t in school_class.teams}
    titles = {c.id: c.title for c in challenges}
    newest = [versions[-1] for versions in counted.values() if versions[-1].state == "issued"]
    order = {c.id: i for i, c in enumerate(challenges)}
    return [
        (v.version_id, words.whose(teams[v.team_id], titles[v.challenge_id], v.number))
        for v in sorted(newest, key=lambda v: (order[v.challenge_id], list(teams).index(v.team_id)))
    ]


@bp.post("/store/<any(count,issue,all,topup,return):action>")
@may(HELPERS)
def act(class_id: int, action: str) -> ResponseReturnValue:
    home = url_for(".index", class_id=class_id)
    try:
        with write_session() as session:
            decimal = setting_of(get_class(session, class_id)).decimal
            if action == "count":
                _count(session, class_id, decimal)
            elif action == "all":
                signed = store.queue(session, class_id)["signed"]
                for version in signed:
                    store.hand_out(session, version)
                flash(words.handed_out(len(signed)))
                if len({v.build.challenge_id for v in signed}) == 1:  # these are ready to be tested
                    home = url_for("runs.index", challenge_id=signed[0].build.challenge_id)
            else:
                version = builds.get_version(session, form_id("version"))
                if version.build.challenge.class_id != class_id:
                    raise Gone("This plan is of another class. Nothing was handed out.")
                if action == "issue":
                    store.hand_out(session, version)
                else:
                    material, units = request.form.get("material", ""), _units("units", decimal)
                    give = store.top_up if action == "topup" else store.give_back
                    give(session, version, material, units)
    except Refused as refused:
        return _page(class_id, refused, request.form)
    return go_back(home)


def _count(session: Session, class_id: int, decimal: Decimal) -> None:
    """Every count that was typed; all are kept, or none when one cannot be."""
    for name, typed in request.form.items():
        material = name.removeprefix("count_")
        if name.startswith("count_") and typed.strip() and material in MATERIALS:
            store.count_stock(session, class_id, material, _units(name, decimal))


def _units(name: str, decimal: Decimal) -> float:
    try:
        return parse_plain(request.form.get(name, ""), decimal)
    except NotANumber as error:
        raise Refused(str(error), name) from None
