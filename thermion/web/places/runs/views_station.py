"""The station's addresses: an attempt noted, taken back; a team absent; has anything happened?"""

from __future__ import annotations

from dataclasses import replace

from flask import Blueprint, Response, flash, request, url_for
from flask.typing import ResponseReturnValue
from sqlalchemy.orm import Session

from thermion.records.database import touches
from thermion.records.errors import Refused
from thermion.records.judging.earlier import relearn_from
from thermion.records.planning import own, week
from thermion.records.planning.briefs import Brief, brief_of
from thermion.records.running import attempts, pads, runs
from thermion.records.running.attempts import AttemptInput
from thermion.records.stamps import of_class
from thermion.records.tables import Run
from thermion.web.access import NOTES, STATIONS, may, own_team
from thermion.web.answers import unless_same
from thermion.web.described import speaks
from thermion.web.payloads import answer, form_id, kept_by_device, led
from thermion.web.places.runs.payloads import Pulse
from thermion.web.places.runs.station import station_page
from thermion.web.sessions import open_run, read_session, run_to_change, shown_of_run, write_session

bp = Blueprint("station", __name__, url_prefix="/runs/<int:run_id>")


@bp.get("/pulse.json")
@may(NOTES)
@speaks(Pulse)
def pulse(run_id: int) -> Response:
    """Has another screen noted something meanwhile?"""
    return unless_same(lambda: _pulse(run_id), of=shown_of_run(run_id))


def _pulse(run_id: int) -> Response:
    item = runs.get_run(read_session(), run_id)
    return answer(Pulse(pulse=attempts.pulse(read_session(), item)))


@bp.post("/attempts")
@may(NOTES)
def save(run_id: int) -> ResponseReturnValue:
    """Keep one attempt; "nothing moved" is one button."""
    try:
        with write_session(("run", run_id)) as session:
            item, brief = run_to_change(session, run_id)
            _check_team(session, item, brief)
            reads = brief.kind.test.attempt_reads(brief.choices)
            typed = {r.key: request.form.get(r.key, "") for r in reads}
            if request.form.get("zero"):
                typed |= {r.key: "0" for r in reads if r.zero}
                typed |= {r.key: "" for r in reads if r.optional}
            seen = tuple(request.form.getlist("seen"))
            if own_team() is None:  # the words of the class are not a team's to add or to drop
                brief, seen = own_words(session, item, brief)
            noted = attempts.note_attempt(session, item, brief, _attempt(typed, seen))
            relearn_from(session, item)
        for question in noted.questions:
            flash(f"{question} It was kept.")
    except Refused as refused:
        if kept_by_device() or own_team() is not None:
            raise
        return station_page(*open_run(run_id), problem=refused, typed=request.form)
    return led(url_for("runs.run", run_id=run_id, station=form_id("station") or None))


def _check_team(session: Session, item: Run, brief: Brief) -> None:
    """Refuse what a team's device may not note."""
    team_id = own_team()
    pads.check_own(item, form_id("entry"), team_id)
    if not form_id("supersedes"):
        rows = attempts.current_attempts(session, [item.id])
        timing = week.timing_of(session, item.challenge, brief)
        pads.check_turn(attempts.queue_of(item, rows, timing), form_id("entry"), team_id)


def own_words(session: Session, item: Run, brief: Brief) -> tuple[Brief, tuple[str, ...]]:
    """What was seen; a word of the class's own that was typed is kept and can be ticked from then on."""
    form, school_class = request.form, item.challenge.school_class
    for word in form.getlist("own_gone"):
        own.forget_word(session, school_class.id, word)
    made = own.add_word(
        session, school_class.id, brief.kind.key, form.get("own_seen", ""), form.get("own_ask", "")
    )
    seen = tuple(form.getlist("seen"))
    if made is None and not form.getlist("own_gone"):
        return brief, seen
    touches(session, *of_class(school_class.id))
    if made is None:
        return brief, seen
    session.refresh(school_class, ["own_words"])
    return brief_of(item.challenge), (*seen, made.word)


def _attempt(typed: dict[str, str], seen: tuple[str, ...]) -> AttemptInput:
    form, by_team = request.form, own_team() is not None
    return AttemptInput(
        entry_id=form_id("entry"),
        typed=typed,
        client_id=form.get("once", "")[:50],
        seen=seen,
        free="free" in form,
        adjusted="adjusted" in form,
        note="" if by_team else form.get("note", ""),
        supersedes_id=form_id("supersedes") or None,
        machine=() if by_team else tuple(form.get("machine", "").split()),
        screen="".join(c for c in form.get("screen", "") if c.isalnum())[:12],
        sure="sure" in form,
    )


@bp.post("/attempts/<int:attempt_id>/back")
@may(STATIONS)
def back(run_id: int, attempt_id: int) -> ResponseReturnValue:
    with write_session(("run", run_id)) as session:
        item, _ = run_to_change(session, run_id)
        attempts.take_back(session, item, attempt_id, request.form.get("once", "")[:64])
        relearn_from(session, item)
    return led(url_for("runs.run", run_id=run_id))


@bp.post("/attempts/<int:attempt_id>/so")
@may(STATIONS)
def confirm(run_id: int, attempt_id: int) -> ResponseReturnValue:
    """What a team typed is so: looked at and confirmed."""
    with write_session(("run", run_id)) as session:
        item, _ = run_to_change(session, run_id)
        attempts.confirm(session, item, attempt_id, request.form.get("once", "")[:64])
    return led(url_for("runs.run", run_id=run_id))


@bp.post("/entries/<int:entry_id>/left")
@may(STATIONS)
def left(run_id: int, entry_id: int) -> ResponseReturnValue:
    with write_session() as session:
        item, _ = run_to_change(session, run_id)
        attempts.leave(session, item, entry_id, request.form.get("state", ""))
    return led(url_for("runs.run", run_id=run_id))


@bp.post("/order")
@may(STATIONS)
def order(run_id: int) -> ResponseReturnValue:
    """All attempts of a team in a row, or one of everybody after the other; at one station or at two."""
    with write_session() as session:
        item, brief = run_to_change(session, run_id)
        timing = week.timing_of(session, item.challenge, brief)
        if "in_row" in request.form:
            timing = replace(timing, in_row=request.form["in_row"] == "1")
        if "stations" in request.form:
            timing = replace(timing, stations=form_id("stations"))
        week.save_timing(session, item.challenge_id, timing)
    return led(url_for("runs.run", run_id=run_id))
