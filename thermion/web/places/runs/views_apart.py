"""What of a run does not count: set apart with a word why, and taken back in."""

from __future__ import annotations

from dataclasses import dataclass

from flask import Blueprint, request, url_for
from flask.typing import ResponseReturnValue
from sqlalchemy.orm import Session

from thermion.core.physics.units import NotANumber, parse_minutes
from thermion.records.errors import Refused
from thermion.records.judging.earlier import relearn
from thermion.records.running.set_apart import set_apart, take_back
from thermion.records.tables import Run, SetApart
from thermion.web.access import DESKS, HELPERS, may
from thermion.web.components.frame import clock_time, frame, page
from thermion.web.payloads import kept_by_device, led, row_id
from thermion.web.places.runs import words
from thermion.web.sessions import once, open_run, run_to_change, write_session

bp = Blueprint("apart", __name__, url_prefix="/runs/<int:run_id>/apart")


@dataclass(frozen=True)
class ApartLine:
    """One thing that was set apart, in words."""

    row: SetApart
    what: str
    said: str
    stands: bool


@bp.get("")
@may(HELPERS)
def index(run_id: int) -> ResponseReturnValue:
    return _shown(run_id)


def _shown(run_id: int, problem: Refused | None = None) -> ResponseReturnValue:
    run, challenge, brief = open_run(run_id)
    zone = challenge.school_class.zone
    lines = [
        ApartLine(
            a,
            words.apart_what(a, run, brief),
            words.apart_when(clock_time(a.at, zone), a),
            a.undone_at is None,
        )
        for a in run.aparts
    ]
    rows = [(e.id, words.row_name(e)) for e in run.entries]
    phases = [(p.key, p.label) for p in brief.kind.test.phases if brief.marks.get(p.key)]
    values = frame(challenge, "runs", run=run, where=words.where(run), lines=lines, rows=rows, phases=phases)
    values |= {"typed": request.form, "problem": problem}
    return page("runs/apart.html", values, refused=problem is not None)


@bp.post("")
@may(DESKS)
def add(run_id: int) -> ResponseReturnValue:
    """Set apart what the form names: all of it, or what came after a minute of a phase."""
    try:
        with write_session() as session:
            run, brief = run_to_change(session, run_id)
            which, after = request.form.get("which", ""), request.form.get("after", "").strip()
            phase = request.form.get("phase", "") if after else ""
            try:
                after_s = parse_minutes(after, brief.setting.decimal) if after else None
            except NotANumber as error:
                raise Refused(str(error), "after") from None
            # sent again after it was taken back in, it stays taken back
            once(session, lambda: _set_apart(session, run, which, phase, after_s))
            if run.closed_at is not None and not run.rehearsal:
                relearn(session, run.challenge_id)
    except Refused as refused:
        if kept_by_device():
            raise
        return _shown(run_id, refused)
    return led(url_for(".index", run_id=run_id))


def _set_apart(session: Session, run: Run, which: str, phase: str, after_s: float | None) -> str:
    set_apart(
        session,
        run,
        request.form.get("why", ""),
        entry_id=row_id(which) if which else None,
        phase=phase,
        after_s=after_s,
    )
    return url_for(".index", run_id=run.id)


@bp.post("/<int:apart_id>/back")
@may(DESKS)
def back(run_id: int, apart_id: int) -> ResponseReturnValue:
    with write_session() as session:
        run, _ = run_to_change(session, run_id)
        take_back(session, run, apart_id)
        if run.closed_at is not None and not run.rehearsal:
            relearn(session, run.challenge_id)
    return led(url_for(".index", run_id=run_id))
