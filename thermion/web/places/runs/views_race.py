"""The addresses of a race with one probe: start, what the probe shows, stop, false start."""

from __future__ import annotations

from flask import Blueprint, Response
from sqlalchemy.orm import Session

from thermion.records.running import pads, races
from thermion.records.tables import Run
from thermion.web.access import NOTES, may, own_team
from thermion.web.described import speaks
from thermion.web.payloads import answer, sent
from thermion.web.places.runs.payloads import FalseStart, RaceAnswer, RaceProbe, RaceStart, RaceStop
from thermion.web.places.runs.race import race_answer, race_state
from thermion.web.sessions import open_run, read_session, run_to_change, write_session

bp = Blueprint("race", __name__, url_prefix="/runs/<int:run_id>/races")


def _check_team(session: Session, run: Run, key: str = "") -> None:
    """Refuse what a team's device sends of another team's race; of one that is over, nothing is done anyway."""
    going = races.race_on(session, run)
    if going is not None and key in ("", going.key):
        pads.check_own(run, going.entry.id, own_team())


@bp.post("/start")
@may(NOTES)
@speaks(RaceAnswer, RaceStart)
def start(run_id: int) -> Response:
    """Start a race. 409 with `ask` when it is asked first; sent again with `sure` it starts."""
    given = sent(RaceStart)
    with write_session() as session:
        item, brief = run_to_change(session, run_id)
        pads.check_own(item, given.entry, own_team())
        race = races.start_race(
            session,
            item,
            brief,
            entry_id=given.entry,
            typed=given.typed,
            pressed_at=given.pressed_at,
            client_id=given.client_id,
            sure=given.sure,
        )
        state = race_state(race, brief)
    return answer(RaceAnswer(race=state))


@bp.post("/probe")
@may(NOTES)
@speaks(RaceAnswer, RaceProbe)
def probe(run_id: int) -> Response:
    """Keep what the probe shows now; answers with the curve so far."""
    given = sent(RaceProbe)
    with write_session() as session:
        item, brief = run_to_change(session, run_id)
        _check_team(session, item)
        reading = races.read_probe(
            session, item, brief, typed=given.typed, pressed_at=given.pressed_at, client_id=given.client_id
        )
        note = f"{reading.question} It was kept." if reading.question else ""
        found = race_answer(session, item, brief, note)
    return answer(found)


@bp.get("/now.json")
@may(NOTES)
@speaks(RaceAnswer)
def now(run_id: int) -> Response:
    """The race that is on, as its probe goes on reading."""
    item, _, brief = open_run(run_id)
    _check_team(read_session(), item)
    return answer(race_answer(read_session(), item, brief))


@bp.post("/stop")
@may(NOTES)
@speaks(RaceAnswer, RaceStop)
def stop(run_id: int) -> Response:
    """End the race that is on: its target was reached, or not."""
    given = sent(RaceStop)
    with write_session() as session:
        item, brief = run_to_change(session, run_id)
        _check_team(session, item, given.key)
        races.stop_race(
            session,
            item,
            brief,
            key=given.key,
            pressed_at=given.pressed_at,
            client_id=given.client_id,
            at_target=given.at_target,
            seen=given.seen,
            note=given.note,
        )
    return answer(RaceAnswer())


@bp.post("/false_start")
@may(NOTES)
@speaks(RaceAnswer, FalseStart)
def false_start(run_id: int) -> Response:
    """Take a race back that began wrongly."""
    given = sent(FalseStart)
    with write_session() as session:
        item, _ = run_to_change(session, run_id)
        _check_team(session, item, given.key)
        races.false_start(session, item, given.key, given.client_id)
    return answer(RaceAnswer())
