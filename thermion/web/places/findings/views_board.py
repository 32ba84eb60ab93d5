"""Results on the projector: revealed one by one or at once, and what they say in one sentence."""

from __future__ import annotations

from dataclasses import dataclass

from flask import Blueprint, Response, render_template, request
from flask.typing import ResponseReturnValue

from thermion.web.access import BOARDS, may
from thermion.web.answers import unless_same
from thermion.web.places.findings import claims, scores
from thermion.web.places.findings.page import Asked, evidence_for
from thermion.web.places.findings.scores import ScoreRow
from thermion.web.sessions import open_challenge, remembered

bp = Blueprint("results", __name__, url_prefix="/board/challenges/<int:challenge_id>")


@dataclass(frozen=True)
class Revealed:
    """A row of results, hidden until it is its turn."""

    row: ScoreRow
    shown: bool


def reveal(rows: list[ScoreRow], step: int) -> list[Revealed]:
    """The rows with the last `step` places shown; those that share a place are shown together."""
    out, left, last = [], step, ""
    for row in reversed(rows):
        if row.place != last or row.place == "–":
            left -= 1
        last = row.place
        out.append(Revealed(row, left >= 0))
    return out[::-1]


def _values(challenge_id: int) -> dict[str, object]:
    challenge, brief = open_challenge(challenge_id)
    evidence = evidence_for(challenge, brief, Asked(school=challenge.school))
    found = evidence.findings
    values: dict[str, object] = {"challenge": challenge, "rows": [], "said": None}
    if found is None:
        return values
    teams = {t.id: t for t in challenge.school_class.teams}
    captions = {t.subject: brief.kind.build.caption(t.plan) for t in evidence.tried}
    ranked = brief.better_of(challenge.school) != "none"
    return values | {
        "rows": scores.score_rows(found, teams, brief, captions, challenge.age_band),
        "said": claims.headline(found, teams, brief, challenge.age_band, ranked=ranked),
    }


def _board(challenge_id: int, template: str, step: int) -> Response:
    light = "dark" if request.args.get("light") == "dark" else "light"

    def shown() -> ResponseReturnValue:
        values = dict(remembered(("results", challenge_id), lambda: _values(challenge_id)))
        values["rows"] = reveal(values["rows"], step)  # type: ignore[arg-type]  # as made above
        return render_template(template, light=light, **values)

    return unless_same(shown, light, step)


@bp.get("/results")
@may(BOARDS)
def results_board(challenge_id: int) -> Response:
    """The last `step` places; what the results say once all are there."""
    return _board(challenge_id, "findings/results_board.html", request.args.get("step", 0, type=int))


@bp.get("/findings")
@may(BOARDS)
def findings_board(challenge_id: int) -> Response:
    """What may be claimed, and what may not, each in one sentence."""
    return _board(challenge_id, "findings/findings_board.html", 0)
