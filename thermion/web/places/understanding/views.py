"""Teams by statements of one step; a tap turns a mark, and the evidence stands beside it."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from flask import Blueprint, Response, redirect, request, url_for
from flask.typing import ResponseReturnValue

from thermion.core.planning.understanding import STEPS, Mark, Statement
from thermion.formats.tables import Column, Table
from thermion.records.building import builds
from thermion.records.errors import Refused
from thermion.records.planning.briefs import Brief, get_challenge
from thermion.records.planning.understanding import add_own, statements_of, table_of, turn_mark
from thermion.records.tables import Build, Challenge, Team, Version
from thermion.web.access import DESKS, HELPERS, may
from thermion.web.answers import table_file
from thermion.web.components.conducted import step_name
from thermion.web.components.frame import frame, page
from thermion.web.payloads import form_id, led
from thermion.web.places.understanding import words
from thermion.web.sessions import open_challenge, read_session, write_session

bp = Blueprint("understanding", __name__, url_prefix="/challenges/<int:challenge_id>")


@dataclass(frozen=True, kw_only=True)
class TeamRow:
    """A team with its mark for each statement of the step, and what there is to look at."""

    team: Team
    version: Version | None
    evidence: str
    cells: tuple[tuple[Statement, str], ...]


@bp.get("/understanding")
@may(HELPERS)
def index(challenge_id: int) -> ResponseReturnValue:
    return _page(challenge_id)


def _page(challenge_id: int, problem: Refused | None = None) -> ResponseReturnValue:
    challenge, brief = open_challenge(challenge_id)
    session = read_session()
    every = statements_of(session, challenge)
    step = request.values.get("step", "")
    step = step if step in STEPS else STEPS[0]
    mine = [s for s in every if s.phase == step]
    marks = table_of(session, challenge)
    built = {b.team_id: b for b in builds.builds_of(session, challenge_id)}
    rows = [
        _row(team, built.get(team.id), mine, marks.get(team.id, {}), brief)
        for team in builds.teams_of(session, challenge)
    ]
    values = frame(
        challenge,
        "builds",
        rows=rows,
        statements=mine,
        step=step,
        steps=[(key, step_name(key)) for key in STEPS],
        signs=words.SIGNS,
        says=words.MARKS,
        problem=problem,
        typed=request.form.get("text", ""),
    )
    return page("understanding/index.html", values, refused=problem is not None)


def _row(
    team: Team, build: Build | None, mine: list[Statement], marks: Mapping[str, Mark], brief: Brief
) -> TeamRow:
    version = build.versions[-1] if build is not None and build.versions else None
    return TeamRow(
        team=team,
        version=version,
        evidence=words.evidence(version, brief),
        cells=tuple((s, marks.get(s.key, "")) for s in mine),
    )


@bp.post("/understanding")
@may(HELPERS)
def turn(challenge_id: int) -> ResponseReturnValue:
    """Turn one mark."""
    with write_session() as session:
        challenge = get_challenge(session, challenge_id)
        turn_mark(
            session, challenge, form_id("team"), request.form.get("key", ""), request.form.get("was", "")
        )
    return led(url_for(".index", challenge_id=challenge_id, step=request.form.get("step", "")))


@bp.post("/understanding/own")
@may(DESKS)
def own(challenge_id: int) -> ResponseReturnValue:
    """A statement of the class's own."""
    step = request.form.get("step", "")
    try:
        with write_session() as session:
            add_own(session, get_challenge(session, challenge_id), step, request.form.get("text", ""))
    except Refused as refused:
        return _page(challenge_id, refused)
    return redirect(url_for(".index", challenge_id=challenge_id, step=step), 303)


@bp.get("/understanding.<any(csv,json):ending>")
@may(HELPERS)
def as_data(challenge_id: int, ending: str) -> Response:
    """Every team by every statement."""
    challenge, brief = open_challenge(challenge_id)
    return table_file(ending, _table(challenge), f"understanding-{challenge_id}", brief.setting)


def _table(challenge: Challenge) -> Table:
    session = read_session()
    every, marks = statements_of(session, challenge), table_of(session, challenge)
    columns = (Column("team", "Team"), *(Column(s.key, s.text) for s in every))
    rows = [
        [team.letter, *(marks.get(team.id, {}).get(s.key) for s in every)]
        for team in builds.teams_of(session, challenge)
    ]
    return Table("Understanding", columns, rows)
