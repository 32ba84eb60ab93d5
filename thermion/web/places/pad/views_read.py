"""A team reads its own build at each mark, on its own device, when the teacher lets it."""

from __future__ import annotations

from flask import Blueprint, Response, redirect, render_template, url_for
from flask.typing import ResponseReturnValue

from thermion.core.judging.observed import quantity_of
from thermion.records import moments
from thermion.records.judging.earlier import relearn
from thermion.records.planning.briefs import Brief
from thermion.records.running import pads, runs
from thermion.records.running.readings import ReadingInput, save_reading
from thermion.records.tables import Reading, Run
from thermion.web.access import TEAMS, asking, may, own_team
from thermion.web.answers import unless_same
from thermion.web.described import speaks
from thermion.web.payloads import answer, sent
from thermion.web.places.pad import words
from thermion.web.places.pad.ours import ours
from thermion.web.places.pad.payloads import (
    PadCell,
    PadMark,
    PadPage,
    PadPhase,
    PadReading,
    PadRow,
    PadRun,
    PadSaved,
)
from thermion.web.sessions import followed_run, made_of_run, read_session, shown_of_run, write_session

bp = Blueprint("pad_read", __name__, url_prefix="/pad/read")


@bp.get("")
@may(TEAMS)
def index() -> ResponseReturnValue:
    """The team's rows at the mark that is due, with large keys."""
    found = ours()
    run, brief = found.run, found.brief
    if run is None or brief is None or found.challenge is None or not run.pads or not run.phases:
        return redirect(url_for("pad.index"), 303)
    read = brief.read_at(air=False)
    data = PadPage(
        run=_run(run, brief),
        where=words.where(found.challenge.title, run.number),
        unit=brief.setting.label(read.unit),
        choices=list(read.words),
        urls={"save": url_for(".save", run_id=run.id), "state": url_for(".state", run_id=run.id)},
        words=dict(words.READ),
    )
    values = {"ours": found, "team": found.team, "school_class": found.school_class, "run": run}
    return render_template("pad/read.html", **values, challenge_on=found.challenge, data=data, read=read)


@bp.get("/<int:run_id>.json")
@may(TEAMS)
@speaks(PadRun)
def state(run_id: int) -> Response:
    """The team's part of the test, and nothing of the others'."""

    def shown() -> Response:
        run, _, brief = followed_run(run_id)
        return answer(_run(run, brief))

    return unless_same(shown, asking().name, of=shown_of_run(run_id))


def _run(run: Run, brief: Brief) -> PadRun:
    mine = pads.rows_of(run, own_team())
    ids = {e.id for e in mine}
    devices = dict(brief.kind.test.devices)
    quantity = quantity_of(brief.read_at(air=False))
    cells = [
        _cell(cell.reading, brief, quantity.unit, quantity.digits, looked=run.pads == "looked")
        for key, cell in runs.cells(read_session(), run).items()
        if key[0] in ids
    ]
    return PadRun(
        now=moments.now(),
        speed=run.speed,
        closed=run.closed_at is not None,
        rows=[PadRow(id=e.id, device=e.device, name=devices.get(e.device, "")) for e in mine],
        phases=[_phase(clock, brief) for clock in runs.clocks(run, brief)],
        cells=cells,
    )


def _phase(clock: runs.Clock, brief: Brief) -> PadPhase:
    marks = [
        PadMark(mark=s.mark_s, key=f"{s.mark_s:g}", label=f"{s.mark_s / 60:g}", until=s.due_until_s)
        for s in clock.slots
    ]
    label = brief.kind.test.phase(clock.phase).label
    return PadPhase(key=clock.phase, label=label, started=clock.started_at, marks=marks)


def _cell(item: Reading, brief: Brief, unit: str, digits: int, *, looked: bool) -> PadCell:
    shown = "" if item.value is None else brief.setting.show(item.value, unit, digits, unit=False)
    return PadCell(
        row=item.entry_id,
        phase=item.phase,
        mark=f"{item.mark_s:g}",
        id=item.id,
        text=shown,
        question="" if looked and item.suggestion is None else item.question,  # the teacher's, not theirs
        suggestion=brief.setting.typed(item.suggestion, unit, 1),
    )


@bp.post("/<int:run_id>")
@may(TEAMS)
@speaks(PadSaved, PadReading)
def save(run_id: int) -> Response:
    """One value of the team's own build. Answered only after it is on the disk."""
    given = sent(PadReading)
    run, _, brief = followed_run(run_id)
    pads.check_own(run, given.row, own_team())
    item = ReadingInput(
        entry_id=given.row,
        phase=given.phase,
        mark_s=given.mark,
        given=given.typed,
        client_id=given.client_id,
        entered_at=given.entered_at,
        supersedes_id=given.supersedes,
        keep=given.keep,
        after=given.after,
        way=given.way,
        ask=words.TO_BE_LOOKED_AT if run.pads == "looked" else "",
    )
    with write_session(("run", run_id)) as session:
        saved = save_reading(session, run_id, item, made=made_of_run())
        if saved.learn_again is not None:
            relearn(session, saved.learn_again)
    unit, digits = saved.quantity.unit, saved.quantity.digits
    return answer(PadSaved(cell=_cell(saved.reading, brief, unit, digits, looked=run.pads == "looked")))
