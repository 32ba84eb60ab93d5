"""Try out: will this brief tell designs apart? Designs within its limits, run by simulation."""

from __future__ import annotations

import hashlib
from typing import Any

from flask import Blueprint, current_app, jsonify, render_template
from flask.typing import ResponseReturnValue

from thermion.core.planning.rehearse import Rehearsed, outlook, rehearse, spread_of_designs
from thermion.records.planning.briefs import Brief
from thermion.web.histogram import histogram
from thermion.web.page import frame, open_challenge
from thermion.web.sections import sections_of

bp = Blueprint("tryout", __name__)
DESIGNS, CHUNK, KEPT = 200, 25, 20
ADVICE = {"Rig": "rig", "Materials": "materials", "Marks": "marks"}


@bp.get("/challenges/<int:challenge_id>/brief/try")
def index(challenge_id: int) -> ResponseReturnValue:
    challenge, brief = open_challenge(challenge_id)
    tried = _known(challenge_id, brief)
    found = _result(brief, tried) if len(tried) >= DESIGNS else {}
    values = frame(
        challenge, "brief", section="try", sections=sections_of(brief), count=DESIGNS, result=found
    )
    return render_template("planning/try.html", **values)


@bp.post("/challenges/<int:challenge_id>/brief/try")
def step(challenge_id: int) -> ResponseReturnValue:
    """Run the next designs; answers how far it is, and the result when all have run."""
    challenge, brief = open_challenge(challenge_id)
    tried = _known(challenge_id, brief)
    if len(tried) < DESIGNS:
        plans = spread_of_designs(brief.kind, brief.offers, CHUNK, challenge_id, start=len(tried))
        tried += rehearse(
            brief.kind,
            plans,
            {k: brief.values[k] for k in brief.values},
            brief.choices,
            brief.rule,
            brief.offers,
            brief.credit,
            seed=1000 * challenge_id + len(tried),
        )
    html = ""
    if len(tried) >= DESIGNS:
        html = render_template(
            "planning/try_result.html",
            challenge=challenge,
            kind=brief.kind,
            brief=brief,
            result=_result(brief, tried),
        )
    return jsonify(done=len(tried), of=DESIGNS, html=html)


def _known(challenge_id: int, brief: Brief) -> list[Rehearsed]:
    """What was tried of exactly this brief; a changed brief starts anew."""
    state = (
        challenge_id,
        brief.kind.key,
        sorted(brief.values.items()),
        sorted(brief.choices.items()),
        brief.offers,
        brief.rule,
        brief.credit,
    )
    key = hashlib.sha256(repr(state).encode()).hexdigest()
    jobs: dict[str, list[Rehearsed]] = current_app.extensions.setdefault("tryouts", {})
    if key not in jobs:
        while len(jobs) >= KEPT:
            jobs.pop(next(iter(jobs)), None)
        jobs[key] = []
    return jobs[key]


def _result(brief: Brief, tried: list[Rehearsed]) -> dict[str, Any]:
    """The verdict and two pictures: results and scores."""
    found = outlook(brief.kind, tried[:DESIGNS], brief.offers)
    metric = brief.kind.analysis.headline_for(brief.choices)[0]
    show = brief.setting.from_si
    results = [(show(r.result, metric.unit), bool(r.passed)) for r in tried if r.result is not None]
    scores = [(r.total, bool(r.passed)) for r in tried if r.total is not None]
    label = f"{metric.label}, {brief.setting.label(metric.unit)}".rstrip(", ")
    charts = [
        histogram(results, label, "Results of the designs"),
        histogram(scores, "score", "Scores of the designs"),
    ]
    return {
        "outlook": found,
        "charts": [c for c in charts if c is not None],
        "links": [(a, next((s for w, s in ADVICE.items() if w in a), "materials")) for a in found.advice],
    }
