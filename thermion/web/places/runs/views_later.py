"""Later readings noted and taken back."""

from __future__ import annotations

from flask import Blueprint, flash, request, url_for
from flask.typing import ResponseReturnValue

from thermion.core.physics.units import NotANumber, parse_minutes
from thermion.records.errors import Gone, Refused
from thermion.records.judging.earlier import relearn_from
from thermion.records.planning.briefs import Brief
from thermion.records.running.later_readings import save_later, take_later_back
from thermion.web.access import HELPERS, may
from thermion.web.payloads import form_id, kept_by_device, led
from thermion.web.sessions import run_to_change, write_session

LATEST_S = 7 * 86400.0
bp = Blueprint("later_readings", __name__, url_prefix="/runs/<int:run_id>/later")


@bp.post("")
@may(HELPERS)
def save(run_id: int) -> ResponseReturnValue:
    """Keep one later reading; what cannot be is said on the page, with what was typed."""
    entry, typed = form_id("entry"), request.form.get("typed", "")[:40]
    client_id = request.form.get("once", "")[:64]
    try:
        with write_session() as session:
            item, brief = run_to_change(session, run_id)
            at_s = _at(brief)
            if at_s is None and item.paper:
                raise Refused("Held on paper: how many minutes after the start was it read?", "minutes")
            check = save_later(
                session, item, brief, entry_id=entry, typed=typed, client_id=client_id, at_s=at_s
            )
            relearn_from(session, item)
        if check.message:
            flash(f"{check.message} It was kept.")
    except Refused as refused:
        if kept_by_device() or isinstance(refused, Gone):
            raise
        flash(f"{refused.message} “{typed}” was not stored.", "wrong")
    return led(url_for("runs.run", run_id=run_id, entry=entry))


def _at(brief: Brief) -> float | None:
    """How long after the start [s] it was read, where that was typed."""
    typed = request.form.get("minutes", "").strip()
    if not typed:
        return None
    try:
        found = parse_minutes(typed, brief.setting.decimal)
    except NotANumber as error:
        raise Refused(str(error), "minutes") from None
    if not 0 <= found <= LATEST_S:
        raise Refused("A later reading is taken within a week after the start.", "minutes")
    return found


@bp.post("/<int:reading_id>/back")
@may(HELPERS)
def back(run_id: int, reading_id: int) -> ResponseReturnValue:
    with write_session() as session:
        item, brief = run_to_change(session, run_id)
        take_later_back(session, item, brief, reading_id)
        relearn_from(session, item)
    return led(url_for("runs.run", run_id=run_id))
