"""What is here, for programs: the numbers by which all other addresses are asked."""

from __future__ import annotations

from flask import Blueprint, Response
from sqlalchemy import select

from thermion.records.planning.classes import list_classes
from thermion.records.tables import Run
from thermion.web.access import DESKS, may
from thermion.web.described import speaks
from thermion.web.payloads import answer
from thermion.web.places.record.payloads import ChallengeListed, ClassListed, Contents, RunListed
from thermion.web.sessions import read_session

bp = Blueprint("contents", __name__)


@bp.get("/contents.json")
@may(DESKS)
@speaks(Contents)
def listed() -> Response:
    """Classes, their challenges and runs, with the numbers that other addresses ask for."""
    session = read_session()
    runs: dict[int, list[RunListed]] = {}
    for run in session.scalars(select(Run).order_by(Run.challenge_id, Run.number)):
        shown = RunListed(
            id=run.id, number=run.number, rehearsal=run.rehearsal, closed=run.closed_at is not None
        )
        runs.setdefault(run.challenge_id, []).append(shown)
    classes = [
        ClassListed(
            id=crew.id,
            name=crew.name,
            teams={team.letter: team.name for team in crew.present},
            challenges=[
                ChallengeListed(id=c.id, title=c.title, family=c.kind, runs=runs.get(c.id, []))
                for c in crew.challenges
            ],
        )
        for crew in list_classes(session)
    ]
    return answer(Contents(classes=classes))
