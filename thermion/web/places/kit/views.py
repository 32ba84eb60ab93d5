"""What must be there? The kit of a challenge, and the merged one of a week."""

from __future__ import annotations

from math import ceil

from flask import Blueprint, Response, render_template, request
from flask.typing import ResponseReturnValue

from thermion.core.physics.units import NotANumber, Setting, parse_plain
from thermion.records.building import kit as kits
from thermion.records.errors import Refused
from thermion.records.planning import week as weeks
from thermion.records.planning.classes import get_class, setting_of
from thermion.records.tables import SchoolClass
from thermion.web.access import DESKS, may
from thermion.web.answers import table_file
from thermion.web.components.sections import section_frame
from thermion.web.described import Asks, asks, speaks
from thermion.web.payloads import answer, row_id, sent
from thermion.web.places.kit import words
from thermion.web.places.kit.payloads import ItemSaved, ItemSent
from thermion.web.places.kit.tables import kit_table
from thermion.web.sessions import open_challenge, read_session, week_plan, write_session

bp = Blueprint("kit", __name__)
ONE, WEEK = "/challenges/<int:challenge_id>/brief/kit", "/classes/<int:class_id>/kit"


def _shown(found: kits.Kit) -> dict[str, object]:
    """What the table of a kit shows."""
    return {
        "kit": found,
        "lines": [(line, ceil(line.line.needed - 1e-9)) for line in found.lines],
        "cuts": [(cut, words.cuts(cut)) for cut in found.cuts],
        "estimated": words.estimated(found.estimated),
    }


@bp.get(ONE)
@may(DESKS)
def index(challenge_id: int) -> ResponseReturnValue:
    challenge, brief = open_challenge(challenge_id)
    found = kits.kit_of(read_session(), challenge.school_class, [challenge])
    shown = _shown(found) | {"for_whom": words.for_whom(challenge.school_class)}
    shown["techniques"] = brief.kind.test.bench.techniques_for(brief.choices)
    return render_template("kit/index.html", **section_frame(challenge, brief, "kit", **shown))


@bp.get(f"{ONE}.<any(csv,json):ending>")
@may(DESKS)
def as_data(challenge_id: int, ending: str) -> Response:
    """What a challenge needs, for all teams with spares."""
    challenge, brief = open_challenge(challenge_id)
    found = kits.kit_of(read_session(), challenge.school_class, [challenge])
    return table_file(ending, kit_table(found), f"kit-{challenge_id}", brief.setting)


def _of_week(class_id: int) -> tuple[SchoolClass, weeks.WeekPlan, set[int], kits.Kit]:
    """The merged list of all challenges of the week, or of those chosen."""
    school_class = get_class(read_session(), class_id)
    plan = week_plan(class_id)
    chosen = {row_id(c) for c in request.args.getlist("challenge")} or {c.id for c in plan.challenges}
    found = kits.kit_of(read_session(), school_class, [c for c in plan.challenges if c.id in chosen])
    return school_class, plan, chosen, found


@bp.get(WEEK)
@may(DESKS)
def week(class_id: int) -> ResponseReturnValue:
    school_class, plan, chosen, found = _of_week(class_id)
    return render_template(
        "kit/week.html",
        school_class=school_class,
        setting=setting_of(school_class),
        challenges=plan.challenges,
        chosen=chosen,
        **_shown(found),
    )


@bp.get(f"{WEEK}.<any(csv,json):ending>")
@may(DESKS)
@asks(Asks("challenge", "only of this challenge; may come several times", "integer"))
def week_as_data(class_id: int, ending: str) -> Response:
    """What the challenges of a class need together."""
    school_class, _, _, found = _of_week(class_id)
    return table_file(ending, kit_table(found), f"kit-week-{class_id}", setting_of(school_class))


@bp.post(WEEK)
@may(DESKS)
@speaks(ItemSaved, ItemSent)
def save(class_id: int) -> Response:
    """Tick one thing off, or keep its pack and cost."""
    given = sent(ItemSent)
    with write_session() as session:
        setting = setting_of(get_class(session, class_id))
        pack, cost = (_number(given.pack, "pack", setting), _number(given.pack_cost, "pack_cost", setting))
        kits.save_item(session, class_id, given.item, have=given.have, pack=pack, pack_cost=cost)
    return answer(ItemSaved())


def _number(typed: str | None, field: str, setting: Setting) -> float | None:
    if typed is None:
        return None
    try:
        return parse_plain(typed, setting.decimal)
    except NotANumber as error:
        raise Refused(str(error), field) from None
