"""Try out: will this brief tell designs apart? Designs within its limits, run by simulation."""

from __future__ import annotations

import hashlib

from flask import Blueprint, Response, current_app, render_template
from flask.typing import ResponseReturnValue

from thermion.core.planning.tryout import Rehearsed, outlook, rehearse, spread_of_designs
from thermion.records.planning.briefs import Brief
from thermion.records.planning.week import timing_of
from thermion.web.access import DESKS, may
from thermion.web.components.sections import section_frame, sections_of
from thermion.web.payloads import answer
from thermion.web.pictures.histogram import histogram
from thermion.web.places.tryout import words
from thermion.web.places.tryout.payloads import Progress
from thermion.web.sessions import open_challenge, read_session

bp = Blueprint("tryout", __name__)
AT = "/challenges/<int:challenge_id>/brief/try"
DESIGNS, CHUNK, KEPT = 200, 25, 20
ADVICE = {"Rig": "rig", "Materials": "materials", "Lessons": "lessons"}
TONES = {
    "good": "done",
    "too easy": "ask",
    "impossible": "alarm",
    "does not tell apart": "ask",
    "not known": "quiet",
}


@bp.get(AT)
@may(DESKS)
def index(challenge_id: int) -> ResponseReturnValue:
    challenge, brief = open_challenge(challenge_id)
    attempts = timing_of(read_session(), challenge, brief).attempts
    tried = _known(challenge_id, brief, attempts)
    shown = _result(challenge_id, brief, tried) if len(tried) >= DESIGNS else {}
    how = words.how(brief.kind, DESIGNS, attempts)
    values = section_frame(
        challenge, brief, "try", count=DESIGNS, how=how, tried=bool(shown), awaited=_axes(brief), **shown
    )
    return render_template("tryout/index.html", **values)


@bp.post(AT)
@may(DESKS)
def step(challenge_id: int) -> Response:
    """Run the next designs; answers how far it is, and the result when all have run."""
    challenge, brief = open_challenge(challenge_id)
    attempts = timing_of(read_session(), challenge, brief).attempts
    tried = _known(challenge_id, brief, attempts)
    if len(tried) < DESIGNS:
        plans = spread_of_designs(brief.kind, brief.offers, CHUNK, challenge_id, start=len(tried))
        tried += rehearse(
            brief.kind,
            plans,
            brief.values,
            brief.choices,
            rule=brief.rule,
            offers=brief.offers,
            credit=brief.credit,
            seed=1000 * challenge_id + len(tried),
            marks=brief.marks,
            attempts=attempts,
        )
    html = ""
    if len(tried) >= DESIGNS:
        html = render_template("tryout/result.html", **_result(challenge_id, brief, tried))
    return answer(Progress(done=len(tried), of=DESIGNS, html=html))


def _known(challenge_id: int, brief: Brief, attempts: int) -> list[Rehearsed]:
    """What was tried of exactly this brief; a changed brief starts anew."""
    values, choices = sorted(brief.values.items()), sorted(brief.choices.items())
    limits = (brief.offers, brief.rule, brief.credit, attempts)
    state = (challenge_id, brief.kind.key, values, choices, sorted(brief.marks.items()), limits)
    key = hashlib.sha256(repr(state).encode()).hexdigest()
    jobs: dict[str, list[Rehearsed]] = current_app.extensions.setdefault("tryouts", {})
    if key not in jobs:
        while len(jobs) >= KEPT:
            jobs.pop(next(iter(jobs)), None)
        jobs[key] = []
    return jobs[key]


def _axes(brief: Brief) -> tuple[str, str]:
    """What the two pictures have along their axes."""
    metric = brief.kind.analysis.headline_for(brief.choices)[0]
    return f"{metric.label}, {brief.setting.label(metric.unit)}".rstrip(", "), "score"


def _result(challenge_id: int, brief: Brief, tried: list[Rehearsed]) -> dict[str, object]:
    """The verdict and two pictures: results and scores."""
    found = outlook(brief.kind, tried[:DESIGNS], brief.offers)
    where = {s.key: s.url for s in sections_of(brief, challenge_id)}
    metric = brief.kind.analysis.headline_for(brief.choices)[0]
    show = brief.setting.from_si
    results = [(show(r.result, metric.unit), bool(r.passed)) for r in tried if r.result is not None]
    scores = [(r.total, bool(r.passed)) for r in tried if r.total is not None]
    label, score = _axes(brief)
    charts = [
        histogram(results, label, "Results of the designs"),
        histogram(scores, score, "Scores of the designs"),
    ]
    return {
        "outlook": found,
        "tone": TONES[found.verdict],
        "charts": [c for c in charts if c is not None],
        "links": [
            (a, where[next((s for w, s in ADVICE.items() if w in a), "materials")]) for a in found.advice
        ],
    }
