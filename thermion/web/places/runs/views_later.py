"""Later readings noted and taken back."""

from __future__ import annotations

from flask import Blueprint, flash, request, url_for
from flask.typing import ResponseReturnValue

from thermion.records.errors import Gone, Refused
from thermion.records.judging.earlier import relearn_from
from thermion.records.running.later_readings import save_later, take_later_back
from thermion.web.payloads import form_id, kept_by_device, led
from thermion.web.sessions import run_to_change, write_session

bp = Blueprint("later_readings", __name__, url_prefix="/runs/<int:run_id>/later")


@bp.post("")
def save(run_id: int) -> ResponseReturnValue:
    """Keep one later reading; what cannot be is said on the page, with what was typed."""
    entry, typed = form_id("entry"), request.form.get("typed", "")[:40]
    client_id = request.form.get("once", "")[:64]
    try:
        with write_session() as session:
            item, brief = run_to_change(session, run_id)
            check = save_later(session, item, brief, entry_id=entry, typed=typed, client_id=client_id)
            relearn_from(session, item)
        if check.message:
            flash(f"{check.message} It was kept.")
    except Refused as refused:
        if kept_by_device() or isinstance(refused, Gone):
            raise
        flash(f"{refused.message} “{typed}” was not stored.", "wrong")
    return led(url_for("runs.run", run_id=run_id, entry=entry))


@bp.post("/<int:reading_id>/back")
def back(run_id: int, reading_id: int) -> ResponseReturnValue:
    with write_session() as session:
        item, brief = run_to_change(session, run_id)
        take_later_back(session, item, brief, reading_id)
        relearn_from(session, item)
    return led(url_for("runs.run", run_id=run_id))
