"""Conclusions: a sentence from the findings, kept, and carried into other challenges."""

from __future__ import annotations

from flask import Blueprint, flash, redirect, request, url_for
from flask.typing import ResponseReturnValue

from thermion.records.errors import Gone, Refused
from thermion.records.judging import conclusions
from thermion.records.planning.briefs import get_challenge
from thermion.web.access import DESKS, may
from thermion.web.payloads import form_ids
from thermion.web.sessions import write_session

bp = Blueprint("conclusions", __name__, url_prefix="/challenges/<int:challenge_id>/conclusions")


def _back(challenge_id: int) -> ResponseReturnValue:
    address = url_for("findings.index", challenge_id=challenge_id)
    return redirect(f"{address}#carry", 303)


@bp.post("")
@may(DESKS)
def keep(challenge_id: int) -> ResponseReturnValue:
    """Keep a sentence; the challenges ticked begin from it."""
    text = request.form.get("text", "")
    try:
        with write_session() as session:
            challenge = get_challenge(session, challenge_id)
            made = conclusions.conclude(session, challenge, text)
            to = [number for number in form_ids("to") if number]
            if to:
                conclusions.carry(session, challenge, made.id, to)
    except Gone:
        raise
    except Refused as refused:
        flash(f"{refused.message} “{text[:80]}” was not stored.", "wrong")
    return _back(challenge_id)


@bp.post("/<int:conclusion_id>/carry")
@may(DESKS)
def carry(challenge_id: int, conclusion_id: int) -> ResponseReturnValue:
    """Exactly these challenges begin from it."""
    with write_session() as session:
        challenge = get_challenge(session, challenge_id)
        conclusions.carry(session, challenge, conclusion_id, form_ids("to"))
    return _back(challenge_id)


@bp.post("/<int:conclusion_id>/forget")
@may(DESKS)
def forget(challenge_id: int, conclusion_id: int) -> ResponseReturnValue:
    with write_session() as session:
        conclusions.forget(session, get_challenge(session, challenge_id), conclusion_id)
    return _back(challenge_id)
