"""Builds: what has each team designed, version by version, and may it be handed materials?"""

from __future__ import annotations

from typing import Any

from flask import Blueprint, Response, jsonify, redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue

from thermion.core.physics.materials import FORMS, MATERIALS
from thermion.core.physics.units import parse_plain
from thermion.core.plans import Part, Plan, check_limits, differences, tally
from thermion.formats.pictures import encode_anew
from thermion.formats.tables import Column, Table
from thermion.records.building import attachments, builds, store
from thermion.records.errors import Refused
from thermion.records.judging.conclusions import known_in
from thermion.records.planning.briefs import Brief, brief_of, get_challenge
from thermion.records.tables import Version
from thermion.web.page import data_page, frame, open_challenge, reading, sent_json, svg_file, writing
from thermion.web.pictures import drawing_svg, plan_drawing

bp = Blueprint("builds", __name__)


@bp.get("/challenges/<int:challenge_id>/builds")
@bp.get("/challenges/<int:challenge_id>/builds.<any(csv,json):ending>")
def index(challenge_id: int, ending: str | None = None) -> ResponseReturnValue:
    challenge, brief = open_challenge(challenge_id)
    found = {b.team_id: b for b in builds.builds_of(reading(), challenge_id)}
    cards = []
    for team in challenge.school_class.teams:
        build = found.get(team.id)
        version = build.versions[-1] if build and build.versions else None
        plan = builds.plan_of(version) if version else None
        cards.append(
            {
                "team": team,
                "version": version,
                "build": build,
                "picture": drawing_svg(plan_drawing(plan, brief)) if plan else "",
                "tally": tally(plan, brief.offers, brief.credit) if plan else None,
                "over": check_limits(plan, brief.offers) if plan else [],
            }
        )
    values = frame(challenge, "builds", cards=cards, known=known_in(reading(), challenge_id))
    return data_page(
        ending, "builds/index.html", lambda: _table(found.values(), brief), f"builds-{challenge_id}", values
    )


def _table(found: Any, brief: Brief) -> Table:
    rows = [
        (b.team.letter, b.team.name, v.number, v.state, p.place, p.material, p.form, p.units, p.reused)
        for b in found
        for v in b.versions
        for p in v.parts
    ]
    keys = ("team", "name", "version", "state", "place", "material", "form", "units", "reused")
    return Table("Builds", tuple(Column(k, k.capitalize()) for k in keys), rows)


@bp.post("/challenges/<int:challenge_id>/builds")
def start(challenge_id: int) -> ResponseReturnValue:
    team_id = request.form.get("team_id", type=int) or 0
    with writing() as session:
        challenge = get_challenge(session, challenge_id)
        existing = [b for b in builds.builds_of(session, challenge_id) if b.team_id == team_id]
        last = existing[0].versions[-1] if existing and existing[0].versions else None
        if last is not None and last.state != "issued":
            version = last  # a second click finds the draft that the first one made
        else:
            version = builds.start_version(session, challenge, team_id)
        version_id = version.id
    return redirect(url_for(".version", version_id=version_id), 303)


@bp.get("/versions/<int:version_id>")
@bp.get("/versions/<int:version_id>.<any(csv,json):ending>")
def version(version_id: int, ending: str | None = None) -> ResponseReturnValue:
    item = builds.get_version(reading(), version_id)
    brief = brief_of(item.build.challenge)
    values = _page(item, brief)
    return data_page(
        ending, "builds/version.html", lambda: _table([item.build], brief), f"version-{version_id}", values
    )


def _page(item: Version, brief: Brief, **more: Any) -> dict[str, Any]:
    """Everything the page of a version shows."""
    challenge = item.build.challenge
    return frame(
        challenge,
        "builds",
        version=item,
        team=item.build.team,
        states=builds.STATES,
        state=_state(item, brief),
        materials=_shelf(brief),
        versions=item.build.versions,
        others=[t for t in challenge.school_class.teams if t.id != item.build.team_id],
        pictures=attachments.attachments_of(reading(), [item.id]).get(item.id, []),
        known=known_in(reading(), challenge.id),
        **more,
    )


@bp.post("/versions/<int:version_id>/pictures")
def attach(version_id: int) -> ResponseReturnValue:
    """Keep a sketch or photograph, encoded anew without its place and device."""
    sent = request.files.get("picture")
    try:
        data, width, height = encode_anew(sent.read() if sent else b"")
        with writing() as session:
            builds.get_version(session, version_id)
            attachments.attach(session, version_id, data, width, height)
    except builds.Gone:
        raise
    except Refused as refused:
        item = builds.get_version(reading(), version_id)
        page = _page(item, brief_of(item.build.challenge), problem=refused)
        return render_template("builds/version.html", **page), 422
    return redirect(url_for(".version", version_id=version_id), 303)


@bp.post("/versions/<int:version_id>/pictures/<int:picture_id>/remove")
def detach(version_id: int, picture_id: int) -> ResponseReturnValue:
    with writing() as session:
        attachments.detach(session, version_id, picture_id)
    return redirect(url_for(".version", version_id=version_id), 303)


@bp.get("/pictures/<int:picture_id>.jpg")
def photograph(picture_id: int) -> Response:
    data = attachments.picture_data(reading(), picture_id)
    answer = Response(data, mimetype="image/jpeg")
    answer.headers["Cache-Control"] = "private, max-age=3600"
    answer.headers["Content-Security-Policy"] = "default-src 'none'; sandbox"
    return answer


@bp.get("/versions/<int:version_id>.svg")
def picture(version_id: int) -> Response:
    item = builds.get_version(reading(), version_id)
    body = drawing_svg(plan_drawing(builds.plan_of(item), brief_of(item.build.challenge)))
    return svg_file(body, f"{item.build.team.name}-{item.number}")


def _shelf(brief: Brief) -> list[dict[str, Any]]:
    """What is on offer, for the shelf beside the drawing."""
    out = []
    for offer in brief.offers:
        material = MATERIALS[offer.material]
        out.append(
            {
                "key": material.key,
                "name": material.name,
                "unit": material.unit,
                "limit": offer.limit,
                "points": brief.setting.typed(offer.points, "dimensionless"),
                "swatch": material.swatch,
                "forms": [{"key": f, "label": FORMS[f].label} for f in material.forms],
            }
        )
    return out


def _state(item: Version, brief: Brief, plan: Plan | None = None) -> dict[str, Any]:
    """What the editor shows for a plan: numbers, problems at their place, drawing, changes."""
    plan = plan or builds.plan_of(item)
    count = tally(plan, brief.offers, brief.credit)
    before = [v for v in item.build.versions if v.number == item.number - 1]
    changes = []
    if before:
        changes = differences(
            builds.plan_of(before[0]),
            plan,
            {p.key: p.label for p in brief.kind.build.places},
            {f.key: (f.label, f.unit) for f in brief.kind.build.factors},
        )
    limits = check_limits(plan, brief.offers)
    setting = brief.setting
    return {
        "revision": item.revision,
        "parts": [
            {"place": p.place, "material": p.material, "form": p.form, "units": p.units, "reused": p.reused}
            for p in plan.parts
        ],
        "factors": {
            f.key: round(setting.from_si(plan.factors.get(f.key, f.si("default")), f.unit), 4)
            for f in brief.kind.build.factors
        },
        "prediction": item.prediction_typed
        or setting.typed(item.prediction, brief.kind.analysis.prediction_for(brief.choices).unit),
        "note": item.change_note,
        "idea": item.idea_team_id or 0,
        "units": setting.write(count.units, 0 if count.units == int(count.units) else 1),
        "impact": setting.write(count.impact, 0 if count.impact == int(count.impact) else 1),
        "used": dict(count.used),
        "problems": {str(p.part): p.message for p in limits},
        "missing": [p.message for p in builds.problems(item, brief)],
        "hints": brief.kind.build.hints(plan),
        "changes": [{"where": c.where, "text": c.sentence} for c in changes],
        "svg": drawing_svg(
            plan_drawing(plan, brief),
            changed=[c.where for c in changes],
            places=brief.kind.build.places,
            handles=item.state == "draft",
            before=plan_drawing(builds.plan_of(before[0]), brief) if changes else None,
        ),
    }


@bp.put("/versions/<int:version_id>")
def save(version_id: int) -> ResponseReturnValue:
    """Autosave of the editor: keeps the draft and answers with what follows from it."""
    sent = sent_json()
    with writing() as session:
        item = builds.get_version(session, version_id)
        brief = brief_of(item.build.challenge)
        draft, errors = _draft(sent, item, brief)
        builds.save_draft(item, int(sent.get("revision", 0)), draft)
        session.flush()
        state = _state(item, brief)
    return jsonify(**state, errors=errors)


def _draft(sent: dict[str, Any], item: Version, brief: Brief) -> tuple[builds.Draft, dict[str, str]]:
    """The plan that was sent; a prediction that cannot be read keeps the one before."""
    errors: dict[str, str] = {}
    try:
        parts = tuple(
            Part(
                str(p["place"]),
                str(p["material"]),
                str(p["form"]),
                _units(p["units"]),
                _units(p.get("reused", 0)),
            )
            for p in sent["parts"]
        )
        factors = {
            f.key: brief.setting.to_si(float(sent["factors"][f.key]), f.unit)
            for f in brief.kind.build.factors
        }
    except (KeyError, TypeError, ValueError) as error:
        raise Refused(f"This plan could not be read ({error}).") from None
    typed = str(sent.get("prediction", "")).strip()[:40]
    prediction, unread = None, ""
    if typed:
        found = builds.read_prediction(typed, brief)
        prediction = found.value
        if found.refused:
            unread, errors["prediction"] = typed, found.check.message
    others = {t.id for t in item.build.challenge.school_class.teams} - {item.build.team_id}
    idea = sent.get("idea")
    return builds.Draft(
        Plan(parts, factors),
        prediction,
        str(sent.get("note", ""))[:1000],
        idea if idea in others else None,
        unread,
    ), errors


def _units(value: Any) -> float:
    number = parse_plain(value) if isinstance(value, str) else float(value)
    if not 0 <= number <= 999:
        raise ValueError("units go from 0 to 999")
    return number


@bp.post("/versions/<int:version_id>/<any(handin,back,sign,issue,delete):action>")
def act(version_id: int, action: str) -> ResponseReturnValue:
    try:
        with writing() as session:
            item = builds.get_version(session, version_id)
            brief = brief_of(item.build.challenge)
            challenge_id = item.build.challenge_id
            if action == "handin":
                builds.hand_in(item, brief)
            elif action == "back":
                builds.send_back(item, request.form.get("remark", "")[:500])
            elif action == "sign":
                builds.sign(item, brief)
            elif action == "issue":
                store.hand_out(session, item)
            else:
                builds.delete_version(session, item)
    except Refused as refused:
        if isinstance(refused, builds.Gone):
            raise
        item = builds.get_version(reading(), version_id)
        brief = brief_of(item.build.challenge)
        page = _page(item, brief, problem=refused)
        return render_template("builds/version.html", **page), 422
    if action in ("sign", "back", "delete", "issue"):
        return redirect(url_for(".index", challenge_id=challenge_id), 303)
    return redirect(url_for(".version", version_id=version_id), 303)
