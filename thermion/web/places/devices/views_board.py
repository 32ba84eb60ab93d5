"""The codes of a class on its board, while the Desk shows them there."""

from __future__ import annotations

from flask import Blueprint, redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue

from thermion.core.planning.boards import Put
from thermion.records import moments
from thermion.records.planning import boards
from thermion.records.planning.classes import get_class
from thermion.records.running import devices
from thermion.web.access import BOARDS, HERE, may
from thermion.web.listening import listener
from thermion.web.pictures.codes import code_shown
from thermion.web.sessions import read_session, write_session

bp = Blueprint("codes_board", __name__)


@bp.get("/board/classes/<int:class_id>/codes")
@may(BOARDS)
def shown(class_id: int) -> ResponseReturnValue:
    """A square and a code for each team; none while the door is closed."""
    session, now = read_session(), moments.steady()
    school_class = get_class(session, class_id)
    found = devices.good_team_codes(session, class_id, now) if devices.is_open(session, now) else {}
    teams = [code_shown(t.name, found[t.id], team=t) for t in school_class.present if t.id in found]
    light = "dark" if request.args.get("light") == "dark" else "light"
    values = {"school_class": school_class, "teams": teams, "light": light, "urls": listener().urls()}
    return render_template("devices/board.html", **values)


@bp.post("/devices/board/<int:class_id>/<any(show,hide):action>")
@may(HERE)
def put(class_id: int, action: str) -> ResponseReturnValue:
    """Codes on the board of a class, or what goes on there by itself again."""
    with write_session(("lesson", class_id)) as session:
        get_class(session, class_id)
        boards.put_on(session, class_id, Put("codes") if action == "show" else None)
    return redirect(url_for("devices.index", class_id=class_id), 303)
