"""A team's own device: what is on, what it does now, its plan, its results."""

from __future__ import annotations

from dataclasses import dataclass

from flask import Blueprint, Response, redirect, render_template, request, session, url_for
from flask.typing import ResponseReturnValue

from thermion.core.ages import reader
from thermion.core.judging.observed import predicted
from thermion.core.physics.materials import MATERIALS
from thermion.core.planning.pads import Doing
from thermion.core.plans import Plan
from thermion.records import moments
from thermion.records.building import builds
from thermion.records.building.ideas import counts as idea_counts
from thermion.records.errors import Refused
from thermion.records.judging.evidence import load_evidence
from thermion.records.planning.briefs import get_challenge
from thermion.records.running.series import series_of
from thermion.records.tables import Team, Version
from thermion.web.access import TEAMS, asking, may
from thermion.web.answers import unless_same
from thermion.web.components.conducted import StepShown, step_shown
from thermion.web.described import speaks
from thermion.web.payloads import answer as json_answer
from thermion.web.payloads import row_id
from thermion.web.pictures.curves import TALL, chart_svg
from thermion.web.pictures.drawings import PHONE, plan_svg
from thermion.web.pictures.figures import figure_words
from thermion.web.pictures.readings import run_chart
from thermion.web.places.pad import words
from thermion.web.places.pad.ours import Ours, ours
from thermion.web.places.pad.payloads import PadNow, PadOffer, PadPart
from thermion.web.sessions import read_session, write_session

bp = Blueprint("pad", __name__, url_prefix="/pad")
REFRESHED_S = 5  # the seconds after which a page that shows clocks is another


@dataclass(frozen=True)
class Thing:
    """What a team fetches: a material and how much of it."""

    name: str
    amount: str


def _values(found: Ours, **more: object) -> dict[str, object]:
    """What every page of a pad shows."""
    return {
        "ours": found,
        "team": found.team,
        "school_class": found.school_class,
        "challenge_on": found.challenge,
        **more,
    }


@bp.get("")
@may(TEAMS)
def index() -> ResponseReturnValue:
    """What is on, how long, and the one thing that this team does."""

    def shown() -> ResponseReturnValue:
        found = ours()
        if found.challenge is None:
            return render_template("pad/nothing.html", **_values(found, says=words.nothing("9-12")))
        what, age = found.doing, found.challenge.age_band
        titles = {str(c.id): c.title for c in found.challenges}
        step: StepShown | None = None
        if found.on is not None:
            step = step_shown(found.on, found.school_class, titles, moments.now())
        values = _values(
            found,
            step=step,
            says=found.on.row.says or found.on.act.said(age) if found.on else "",
            what=what,
            pictures=reader(age).plain,
            do=words.do(what, age),
            key=words.key(what),
            to=_way(what, found),
            remark=found.version.remark if what == "answer" and found.version else "",
            things=_things(found.version) if what == "fetch" and found.version else [],
            place=_place(found),
        )
        return render_template("pad/now.html", **values)

    return unless_same(shown, int(moments.now().timestamp()) // REFRESHED_S)


@bp.get("/now.json")
@may(TEAMS)
@speaks(PadNow)
def now() -> Response:
    """The same for a program: what a pretended class works by."""

    def shown() -> Response:
        found = ours()
        if found.challenge is None or found.brief is None:
            raise Refused(words.nothing("9-12"))
        brief, version, run = found.brief, found.version, found.run
        quantity = predicted(brief.kind, brief.choices, brief.values)
        plan = builds.plan_of(version) if version else Plan()
        middle = brief.setting.typed((quantity.low + quantity.high) / 2, quantity.unit, 1)
        return json_answer(
            PadNow(
                now=moments.now(),
                team=found.team.name,
                team_id=found.team.id,
                challenge=found.challenge.id,
                kind=found.challenge.kind,
                age=found.challenge.age_band,
                temp_unit=brief.setting.temp_unit,
                decimal=brief.setting.decimal,
                does=found.doing,
                phase=found.stands.phase,
                version=version.id if version else 0,
                number=version.number if version else 0,
                revision=version.revision if version else 0,
                state=version.state if version else "",
                remark=version.remark if version else "",
                ideas=idea_counts(read_session(), found.challenge.id).get(found.team.id, 0),
                run=run.id if run else 0,
                row=found.turn.row if found.turn else 0,
                tried=found.turn.tried if found.turn else 0,
                choices=dict(brief.choices),
                likely=middle,
                offers=[PadOffer(material=o.material, limit=o.limit) for o in brief.offers],
                conditions={**brief.values, **{c.key: c.value for c in (run.conditions if run else ())}},
                parts=[
                    PadPart(place=p.place, material=p.material, form=p.form, units=p.units)
                    for p in plan.parts
                ],
                factors=dict(plan.factors),
            )
        )

    return unless_same(shown, asking().name, int(moments.now().timestamp()) // REFRESHED_S)


def _way(what: Doing, found: Ours) -> str:
    """Where the key of what is to be done leads."""
    match what:
        case "idea":
            assert found.challenge is not None
            return url_for("ideas.draw", challenge_id=found.challenge.id, team_id=found.team.id)
        case "read":
            return url_for("pad_read.index")
        case "try":
            return url_for("runs.run", run_id=found.run.id) if found.run else ""
        case "results":
            return url_for(".results")
        case "plan" | "answer" | "waits" | "build":
            return url_for(".plan")
        case _:
            return ""


def _things(version: Version) -> list[Thing]:
    """What goes out for a version: what it has from before stays."""
    out: dict[str, float] = {}
    for part in version.parts:
        out[part.material] = out.get(part.material, 0.0) + part.units - part.reused
    return [Thing(MATERIALS[key].name, f"{units:g}") for key, units in out.items() if units > 0]


@dataclass(frozen=True)
class PlaceShown:
    """The place at which this team stands on the walk round: whose it is, and its build."""

    team: Team
    picture: str


def _place(found: Ours) -> PlaceShown | None:
    """Another team's work, while the class walks round and this team stands before it."""
    there = found.walks
    if there is None or found.challenge is None or found.brief is None:
        return None
    found_builds = builds.builds_of(read_session(), found.challenge.id)
    build = next((b for b in found_builds if b.team_id == there.id), None)
    built = [v for v in build.versions if v.state == "issued"] if build else []
    picture = plan_svg(builds.plan_of(built[-1]), found.brief, PHONE) if built else ""
    return PlaceShown(there, picture)


@bp.post("/challenge")
@may(TEAMS)
def choose() -> ResponseReturnValue:
    """Another challenge of the class on this pad; "" follows the lesson again."""
    session["challenge"] = row_id(request.form.get("challenge")) or None
    return redirect(url_for(".index"), 303)


@bp.get("/ideas")
@may(TEAMS)
def ideas() -> ResponseReturnValue:
    found = ours()
    if found.challenge is None:
        return redirect(url_for(".index"), 303)
    return redirect(url_for("ideas.of_team", challenge_id=found.challenge.id, team_id=found.team.id), 303)


@bp.get("/plan")
@may(TEAMS)
def plan() -> ResponseReturnValue:
    """The draft in its editor; a plan that was handed in as it stands."""
    found = ours()
    version = found.version
    if version is not None and version.state == "draft":
        return redirect(url_for("builds.version", version_id=version.id), 303)
    picture = ""
    if version is not None and found.brief is not None:
        picture = plan_svg(builds.plan_of(version), found.brief, PHONE)
    values = _values(
        found,
        version=version,
        picture=picture,
        things=_things(version) if version else [],
        state=builds.STATES[version.state] if version else "",
        can_start=version is None or version.state == "issued",
    )
    return render_template("pad/plan.html", **values)


@bp.post("/plan")
@may(TEAMS)
def begin() -> ResponseReturnValue:
    """The first plan, or the next version; a second tap finds the draft that the first one made."""
    found = ours()
    if found.challenge is None:
        raise Refused("No challenge is on for this class yet.")
    version = found.version
    version_id = version.id if version is not None else 0
    if version is None or version.state == "issued":
        with write_session() as writing:
            challenge = get_challenge(writing, found.challenge.id)
            version_id = builds.start_version(writing, challenge, found.team.id).id
    return redirect(url_for("builds.version", version_id=version_id), 303)


@bp.post("/answer")
@may(TEAMS)
def answer() -> ResponseReturnValue:
    """What the team says to the teacher's question."""
    found = ours()
    if found.version is not None:
        with write_session() as writing:
            version = builds.get_version(writing, found.version.id)
            builds.answer_question(version, request.form.get("answer", ""))
    return redirect(url_for(".index"), 303)


@dataclass(frozen=True)
class CameOut:
    """One version: what was predicted and what came out, in words."""

    number: int
    predicted: str
    came: str


@bp.get("/results")
@may(TEAMS)
def results() -> ResponseReturnValue:
    """What came out of the team's builds: its curve among the others, its prediction, its gain."""
    found = ours()
    chart, rows, label = "", list[CameOut](), ""
    if found.challenge is not None and found.brief is not None:
        metric = found.brief.kind.analysis.prediction_for(found.brief.choices)
        label = metric.label
        rows = _came_out(found)
        if found.run is not None and found.brief.kind.test.shape == "marks":
            series = series_of(read_session(), [found.run])
            chart = chart_svg(run_chart(found.run.entries, series, found.brief, TALL))
    return render_template("pad/results.html", **_values(found, chart=chart, rows=rows, label=label))


def _came_out(found: Ours) -> list[CameOut]:
    assert found.challenge is not None
    assert found.brief is not None
    brief = found.brief
    evidence = load_evidence(read_session(), found.challenge, brief, school=found.challenge.school)
    if evidence.findings is None:
        return []
    metric = brief.kind.analysis.prediction_for(brief.choices)
    predicted = {v.number: v.prediction for v in found.versions}
    out = []
    for each in sorted(evidence.findings.versions, key=lambda v: v.subject):
        if each.subject.team_id == found.team.id and metric.key in each.figures:
            typed = predicted.get(each.subject.version)
            said = "" if typed is None else brief.setting.show(typed, metric.unit, metric.digits)
            out.append(
                CameOut(each.subject.version, said, figure_words(each.figures[metric.key], metric, brief))
            )
    return out
