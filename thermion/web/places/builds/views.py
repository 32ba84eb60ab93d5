"""Builds: what has each team designed, version by version, and may it be handed materials?"""

from __future__ import annotations

from dataclasses import dataclass

from flask import Blueprint, Response, flash, redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue
from sqlalchemy.orm import Session

from thermion.core.planning.rungs import Rung
from thermion.core.plans import tally
from thermion.formats.pictures import encode_anew
from thermion.records.building import attachments, builds, hiding, store
from thermion.records.errors import Gone, Refused
from thermion.records.judging.conclusions import known_in
from thermion.records.planning.briefs import Brief, get_challenge
from thermion.records.tables import Build, Team, Version
from thermion.web.access import DESKS, HELPERS, PADS, asking, may
from thermion.web.answers import flash_undo, svg_file, table_file
from thermion.web.components.frame import frame, page
from thermion.web.described import speaks
from thermion.web.payloads import answer, form_id, sent
from thermion.web.pictures.drawings import SMALL, plan_svg
from thermion.web.places.builds import words
from thermion.web.places.builds.check import check_values, next_waiting, sign_ready, waiting_of
from thermion.web.places.builds.editor import draft_of, plan_state, version_values
from thermion.web.places.builds.payloads import PlanSent, PlanState
from thermion.web.places.builds.tables import builds_table
from thermion.web.sessions import open_challenge, read_session, write_session

bp = Blueprint("builds", __name__)


@dataclass(frozen=True, kw_only=True)
class Card:
    """A team's newest version on the wall of builds; None before the first."""

    team: Team
    version: Version | None = None
    picture: str = ""
    units: str = ""
    impact: str = ""
    over: bool = False
    rung: Rung | None = None
    next_version: str = ""


@bp.get("/challenges/<int:challenge_id>/builds")
@may(HELPERS)
def index(challenge_id: int) -> ResponseReturnValue:
    challenge, brief = open_challenge(challenge_id)
    found = {b.team_id: b for b in builds.builds_of(read_session(), challenge_id)}
    cards = [_card(team, found.get(team.id), brief) for team in builds.teams_of(read_session(), challenge)]
    known = known_in(read_session(), challenge_id)
    return render_template("builds/index.html", **frame(challenge, "builds", cards=cards, known=known))


def _card(team: Team, build: Build | None, brief: Brief) -> Card:
    if build is None or not build.versions:
        return Card(team=team, rung=brief.rungs.get(team.id))
    version = build.versions[-1]
    plan = builds.plan_of(version)
    units, impact = words.counted(tally(plan, brief.offers, brief.credit))
    over = bool(brief.of_team(team.id).over(plan))
    picture = plan_svg(plan, brief, SMALL)
    return Card(
        team=team,
        version=version,
        picture=picture,
        units=units,
        impact=impact,
        over=over,
        rung=brief.rungs.get(team.id),
        next_version=words.next_version(version),
    )


@bp.get("/challenges/<int:challenge_id>/builds.<any(csv,json):ending>")
@may(HELPERS)
def as_data(challenge_id: int, ending: str) -> Response:
    """Every team's versions: state, units, impact, prediction."""
    _, brief = open_challenge(challenge_id)
    table = builds_table(builds.builds_of(read_session(), challenge_id))
    return table_file(ending, table, f"builds-{challenge_id}", brief.setting)


@bp.post("/challenges/<int:challenge_id>/builds")
@may(HELPERS)
def start(challenge_id: int) -> ResponseReturnValue:
    """A team's first plan or next version; a second click finds the draft that the first one made."""
    team_id = form_id("team_id")
    with write_session() as session:
        challenge = get_challenge(session, challenge_id)
        existing = next((b for b in builds.builds_of(session, challenge_id) if b.team_id == team_id), None)
        last = existing.versions[-1] if existing and existing.versions else None
        if last is not None and last.state != "issued":
            version = last
        else:
            version = builds.start_version(session, challenge, team_id)
        version_id = version.id
    return redirect(url_for(".version", version_id=version_id), 303)


@bp.get("/versions/<int:version_id>")
@may(PADS)
def version(version_id: int) -> ResponseReturnValue:
    return _version_page(version_id)


def _version_page(version_id: int, problem: Refused | None = None) -> ResponseReturnValue:
    item = builds.get_version(read_session(), version_id)
    brief, refused = builds.brief_for(item), problem is not None
    if item.state == "draft":
        return page("builds/version.html", version_values(item, brief, problem), refused=refused)
    if asking().role == "team":  # checks are not for a pad: there it stands as it was handed in
        return redirect(url_for("pad.plan"), 303)
    return page("builds/check.html", check_values(item, brief, problem), refused=refused)


@bp.get("/versions/<int:version_id>.<any(csv,json):ending>")
@may(HELPERS)
def version_as_data(version_id: int, ending: str) -> Response:
    """The parts and factors of one version."""
    item = builds.get_version(read_session(), version_id)
    setting = builds.brief_for(item).setting
    return table_file(ending, builds_table([item.build]), f"version-{version_id}", setting)


@bp.get("/versions/<int:version_id>.svg")
@may(PADS)
def picture(version_id: int) -> Response:
    item = builds.get_version(read_session(), version_id)
    body = plan_svg(builds.plan_of(item), builds.brief_for(item))
    return svg_file(body, f"{item.build.team.name}-{item.number}")


@bp.put("/versions/<int:version_id>")
@may(PADS)
@speaks(PlanState, PlanSent)
def save(version_id: int) -> Response:
    """Autosave of the editor: keeps the draft and answers with what follows from it."""
    given = sent(PlanSent)
    with write_session() as session:
        item = builds.get_version(session, version_id)
        brief = builds.brief_for(item)
        draft, errors = draft_of(given, item, brief)
        builds.save_draft(item, given.revision, draft)
        session.flush()
        state = plan_state(item, brief, errors, narrow=given.narrow)
    return answer(state)


@bp.post("/versions/<int:version_id>/<any(handin,back,sign,issue,delete):action>")
@may(HELPERS, words={"delete": DESKS, "handin": PADS})
def act(version_id: int, action: str) -> ResponseReturnValue:
    """One step of a plan's life; after a check the next plan that waits comes up."""
    try:
        with write_session() as session:
            item = builds.get_version(session, version_id)
            challenge = item.build.challenge
            checked = item.state == "waiting"
            following = next_waiting(waiting_of(challenge.class_id, challenge.id), version_id)
            _step(session, item, action)
            then = 0 if asking().role == "team" else form_id("then")  # another team's plan
            if action == "handin" and then:
                version_id = builds.start_version(session, challenge, then).id
            builds_page = url_for(".index", challenge_id=challenge.id)
            store_page = url_for("store.index", class_id=challenge.class_id)
    except Gone:
        raise
    except Refused as refused:
        return _version_page(version_id, refused)
    if action == "handin":
        return redirect(url_for(".version", version_id=version_id), 303)
    if checked and following is not None:
        return redirect(url_for(".version", version_id=following.id), 303)
    return redirect(store_page if action == "sign" else builds_page, 303)


def _step(session: Session, item: Version, action: str) -> None:
    brief = builds.brief_for(item)
    if action == "handin":
        builds.hand_in(item, brief)
    elif action == "back":
        builds.send_back(item, request.form.get("remark", "")[:500])
    elif action == "sign":
        store.sign_off(session, item, brief)
    elif action == "issue":
        store.hand_out(session, item)
    else:
        flash_undo(builds.delete_version(session, item))


@bp.post("/versions/<int:version_id>/words/<any(hide,show):action>")
@may(HELPERS)
def words_of_team(version_id: int, action: str) -> ResponseReturnValue:
    """What the team wrote on its plan, out of sight everywhere, or back."""
    with write_session() as session:
        item = builds.get_version(session, version_id)
        if action == "hide":
            hiding.hide(item)
        else:
            hiding.show(item)
    return redirect(url_for(".version", version_id=version_id), 303)


@bp.post("/challenges/<int:challenge_id>/builds/sign")
@may(HELPERS)
def sign_all(challenge_id: int) -> ResponseReturnValue:
    """Sign off every plan of a challenge that is in order; the first that is not comes up."""
    with write_session() as session:
        class_id = get_challenge(session, challenge_id).class_id
        shown = set(request.form.get("ready", "").split())  # one handed in since then is looked at first
        waiting = [v for v in store.queue(session, class_id)["waiting"] if str(v.id) in shown]
        mine = [v for v in waiting if v.build.challenge_id == challenge_id]
        signed = sign_ready(session, [builds.get_version(session, v.id) for v in mine])
    flash(words.signed(len(signed)))
    left = [v for v in waiting_of(class_id, challenge_id) if v.id not in signed]
    if left:
        return redirect(url_for(".version", version_id=left[0].id), 303)
    return redirect(url_for("store.index", class_id=class_id), 303)


@bp.post("/versions/<int:version_id>/pictures")
@may(HELPERS)
def attach(version_id: int) -> ResponseReturnValue:
    """Keep a sketch or photograph, encoded anew without its place and device."""
    upload = request.files.get("picture")
    try:
        data, width, height = encode_anew(upload.read() if upload else b"")
        with write_session() as session:
            builds.get_version(session, version_id)
            attachments.attach(session, version_id, data, width, height)
    except Gone:
        raise
    except Refused as refused:
        return _version_page(version_id, refused)
    return redirect(url_for(".version", version_id=version_id), 303)


@bp.post("/versions/<int:version_id>/pictures/<int:picture_id>/remove")
@may(HELPERS)
def detach(version_id: int, picture_id: int) -> ResponseReturnValue:
    with write_session() as session:
        attachments.detach(session, version_id, picture_id)
    return redirect(url_for(".version", version_id=version_id), 303)


@bp.get("/pictures/<int:picture_id>.jpg")
@may(HELPERS)
def photograph(picture_id: int) -> Response:
    response = Response(attachments.picture_data(read_session(), picture_id), mimetype="image/jpeg")
    response.headers["Cache-Control"] = "private, max-age=3600"
    response.headers["Content-Security-Policy"] = "default-src 'none'; sandbox"
    return response
