"""Judging: what the class sees in each build by criteria of its own."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from flask import Blueprint, redirect, request, url_for
from flask.typing import ResponseReturnValue

from thermion.core.kinds.criteria import JUDGES, Criterion
from thermion.records.errors import Refused
from thermion.records.judging.criteria import criteria_of, judge, newest_versions, said_of
from thermion.records.planning.briefs import Brief, brief_of, get_challenge
from thermion.records.tables import Team, Version
from thermion.web.access import HELPERS, may
from thermion.web.components.frame import frame, page
from thermion.web.payloads import form_id
from thermion.web.places.findings.words import agreed
from thermion.web.sessions import open_challenge, read_session, write_session

bp = Blueprint("judging", __name__, url_prefix="/challenges/<int:challenge_id>/judge")


@dataclass(frozen=True)
class JudgedCell:
    """One criterion of one version: what this judge said, marks to choose from, what all say together."""

    criterion: Criterion
    mine: str
    marks: tuple[str, ...]
    all: str


@dataclass(frozen=True)
class JudgedLine:
    team: Team
    version: Version
    cells: tuple[JudgedCell, ...]


@bp.get("")
@may(HELPERS)
def index(challenge_id: int) -> ResponseReturnValue:
    return _shown(challenge_id, _judge())


@bp.post("")
@may(HELPERS)
def note(challenge_id: int) -> ResponseReturnValue:
    """One value of one judge: a mark's own key, or what was typed."""
    by, version_id = _judge(), form_id("version")
    try:
        with write_session() as session:
            brief = brief_of(get_challenge(session, challenge_id))
            key, typed = request.form.get("criterion", ""), request.form.get("value", "")
            judge(
                session, challenge_id, brief, version_id, key=key, by=by, typed=typed, setting=brief.setting
            )
    except Refused as refused:
        return _shown(challenge_id, by, refused)
    return redirect(url_for(".index", challenge_id=challenge_id, judge=by, _anchor=f"v{version_id}"), 303)


def _judge() -> int:
    asked = request.values.get("judge", "1")
    return min(int(asked), JUDGES) if asked.isdecimal() and len(asked) < 4 and int(asked) else 1


def _shown(challenge_id: int, by: int, problem: Refused | None = None) -> ResponseReturnValue:
    challenge, brief = open_challenge(challenge_id)
    criteria, session = criteria_of(brief), read_session()
    said = said_of(session, challenge_id, brief)
    lines = [
        JudgedLine(v.build.team, v, tuple(_cell(c, said.of(v.id, c.key), by, brief) for c in criteria))
        for v in newest_versions(session, challenge_id)
    ]
    used = max((j for seen in said.values.values() for j in seen), default=1)
    values = frame(
        challenge,
        "findings",
        lines=lines,
        criteria=criteria,
        by=by,
        judges=range(1, min(JUDGES, max(used, by) + 1) + 1),
        problem=problem,
        typed=request.form.get("value", "") if problem else "",
    )
    return page("findings/judge.html", values, refused=bool(problem))


def _cell(made: Criterion, said: Mapping[int, float], by: int, brief: Brief) -> JudgedCell:
    marks = tuple(str(n) for n in range(int(made.most) + 1)) if made.judged else ()
    mine = brief.setting.typed(said.get(by), made.unit)
    return JudgedCell(made, mine, marks, agreed(made, list(said.values()), brief))
