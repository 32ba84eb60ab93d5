"""Findings: who did what, how sure are we, what made the difference?"""

from __future__ import annotations

from flask import Blueprint, Response, render_template, request
from flask.typing import ResponseReturnValue

from thermion.records.judging import conclusions
from thermion.records.judging.criteria import criteria_of, newest_versions, said_of
from thermion.records.planning.briefs import Brief, brief_of
from thermion.records.tables import Challenge
from thermion.web.access import HELPERS, may
from thermion.web.answers import svg_file, table_file
from thermion.web.components.advice import advice_now
from thermion.web.components.frame import frame
from thermion.web.described import Asks, asks
from thermion.web.places.findings import words
from thermion.web.places.findings.page import Asked, evidence_for, picture_of, present
from thermion.web.places.findings.tables import findings_table
from thermion.web.sessions import open_challenge, read_session, remembered

bp = Blueprint("findings", __name__, url_prefix="/challenges/<int:challenge_id>")


@bp.get("/findings")
@may(HELPERS)
def index(challenge_id: int) -> ResponseReturnValue:
    key = ("findings", challenge_id, request.query_string)
    challenge, values = remembered(key, lambda: _values(challenge_id))
    shown = frame(challenge, "findings", **values)
    asked = values["asked"]
    if values.get("claim") and isinstance(asked, Asked) and not asked.rehearsal:
        shown["fits"] = advice_now(challenge, brief_of(challenge), asked.school)
    return render_template("findings/index.html", **shown)


def _values(challenge_id: int) -> tuple[Challenge, dict[str, object]]:
    """What the page shows and no clock changes; remembered until anything is stored."""
    challenge, brief = open_challenge(challenge_id)
    asked = Asked.of_request(challenge, brief)
    evidence = evidence_for(challenge, brief, asked)
    session = read_session()
    return challenge, present(challenge, brief, evidence, asked) | {
        "other_runs": words.other_runs(asked.rehearsal),
        "judging": _judging(challenge, brief),
        "schools": brief.kind.brief.schools_for(brief.choices),
        "kept": conclusions.conclusions_of(session, challenge_id),
        "others": conclusions.other_challenges(session, challenge),
    }


def _judging(challenge: Challenge, brief: Brief) -> str:
    own, session = criteria_of(brief), read_session()
    if not own:
        return ""
    versions = [v.id for v in newest_versions(session, challenge.id)]
    return words.judging(own, said_of(session, challenge.id, brief), versions)


@bp.get("/findings.<any(csv,json):ending>")
@may(HELPERS)
@asks(
    Asks("school", "another way of scoring: raw, thrift, green, race, pass, progress or own"),
    Asks("rehearsal", "1: of rehearsals instead of real tests"),
)
def as_data(challenge_id: int, ending: str) -> Response:
    """Every figure, score and place of each version."""
    challenge, brief = open_challenge(challenge_id)
    evidence = evidence_for(challenge, brief, Asked.of_request(challenge, brief))
    table = findings_table(evidence, brief, challenge)
    return table_file(ending, table, f"findings-{challenge_id}", brief.setting)


@bp.get("/findings/curves.svg")
@may(HELPERS)
def curves(challenge_id: int) -> Response:
    """The picture of the page as a file."""
    challenge, brief = open_challenge(challenge_id)
    asked = Asked.of_request(challenge, brief)
    evidence = evidence_for(challenge, brief, asked)
    if evidence.findings is None:
        return svg_file("", f"curves-{challenge_id}")
    teams = {t.id: t for t in challenge.school_class.teams}
    captions = {t.subject: brief.kind.build.caption(t.plan) for t in evidence.tried}
    drawn = picture_of(evidence, evidence.findings, teams, brief, asked, captions)
    return svg_file(drawn.chart, f"curves-{challenge_id}")
