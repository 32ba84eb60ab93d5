"""Ideas of a team: drawn, photographed, compared, taken into its plan; and what is taken from others."""

from __future__ import annotations

from dataclasses import dataclass

from flask import Blueprint, Response, flash, redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue

from thermion.core.physics.materials import MATERIALS
from thermion.formats.pictures import encode_anew
from thermion.records.building import hiding, ideas
from thermion.records.building.ideas import IdeaInput
from thermion.records.errors import Gone, Refused
from thermion.records.planning.briefs import Brief, get_challenge
from thermion.records.tables import Challenge, Idea, Team
from thermion.web.access import HELPERS, PADS, may
from thermion.web.components.frame import frame, page
from thermion.web.described import speaks
from thermion.web.payloads import answer, form_id, row_id, sent
from thermion.web.pictures.drawings import CHECK, drawing_svg, names_svg
from thermion.web.places.ideas import words
from thermion.web.places.ideas.payloads import IdeaKept, IdeaSent, PhotographKept
from thermion.web.sessions import open_challenge, read_session, write_session

bp = Blueprint("ideas", __name__, url_prefix="/challenges/<int:challenge_id>")


@dataclass(frozen=True)
class IdeaShown:
    """An idea as it is compared: its strokes as SVG points, what it names, its sentence."""

    row: Idea
    strokes: list[str]
    picks: list[tuple[str, str, str]]


def _team(challenge: Challenge, team_id: int) -> Team:
    found = next((t for t in challenge.school_class.teams if t.id == team_id), None)
    if found is None:
        raise Gone("This team is no longer in the class.")
    return found


def _shown(idea: Idea, challenge: Challenge) -> IdeaShown:
    strokes = [" ".join(f"{x},{y}" for x, y in zip(s[::2], s[1::2], strict=False)) for s in idea.strokes]
    return IdeaShown(idea, strokes, words.picks(idea, ideas.usual_places(challenge)))


@bp.get("/ideas")
@may(HELPERS)
def index(challenge_id: int) -> ResponseReturnValue:
    """How many ideas each team has, and the ways in."""
    challenge, brief = open_challenge(challenge_id)
    counted = ideas.counts(read_session(), challenge_id)
    teams = [
        (t, words.number_of(counted.get(t.id, 0)), counted.get(t.id, 0))
        for t in challenge.school_class.present
    ]
    outline = drawing_svg(brief.kind.build.draw(brief.kind.build.usual(), brief.rig()))
    values = frame(challenge, "builds", teams=teams, outline=outline)
    return render_template("ideas/index.html", **values)


@bp.get("/ideas/<int:team_id>")
@may(PADS)
def of_team(challenge_id: int, team_id: int) -> ResponseReturnValue:
    return _of_team(challenge_id, team_id)


def _of_team(challenge_id: int, team_id: int, problem: Refused | None = None) -> ResponseReturnValue:
    """A team's ideas side by side."""
    challenge, brief = open_challenge(challenge_id)
    found = ideas.ideas_of(read_session(), challenge_id, team_id)
    values = frame(
        challenge,
        "builds",
        team=_team(challenge, team_id),
        ideas=[_shown(i, challenge) for i in found],
        outline=names_svg(brief, CHECK),
        problem=problem,
        full=len(found) >= ideas.MOST,
    )
    return page("ideas/team.html", values, refused=problem is not None)


@bp.get("/ideas/<int:team_id>/draw")
@may(PADS)
def draw(challenge_id: int, team_id: int) -> ResponseReturnValue:
    """A page on which an idea is drawn over the outline, without a name."""
    challenge, brief = open_challenge(challenge_id)
    values = frame(
        challenge,
        "builds",
        team=_team(challenge, team_id),
        outline=names_svg(brief, CHECK),
        places=brief.kind.build.places,
        materials=[MATERIALS[o.material] for o in brief.offers],
        number=len(ideas.ideas_of(read_session(), challenge_id, team_id)) + 1,
    )
    return render_template("ideas/draw.html", **values)


@bp.post("/ideas/<int:team_id>")
@may(PADS)
@speaks(IdeaKept, IdeaSent)
def keep(challenge_id: int, team_id: int) -> Response:
    """An idea that was drawn."""
    given = sent(IdeaSent)
    with write_session() as session:
        challenge = get_challenge(session, challenge_id)
        idea = IdeaInput(given.strokes, given.picks, given.why, given.client_id)
        ideas.add_idea(session, challenge, team_id, idea)
    return answer(IdeaKept(to=url_for(".of_team", challenge_id=challenge_id, team_id=team_id)))


@bp.post("/ideas/<int:team_id>/photographs")
@may(PADS)
def photographs(challenge_id: int, team_id: int) -> ResponseReturnValue:
    """Sheets that were photographed, several at once; what cannot be kept is said, the others are."""
    kept, refused = 0, []
    once = request.form.get("once", "")[:40]
    for i, upload in enumerate(request.files.getlist("pictures")):
        try:
            picture = encode_anew(upload.read())
            with write_session() as session:
                challenge = get_challenge(session, challenge_id)
                ideas.add_photograph(session, challenge, team_id, picture, f"{once}-{i}")
            kept += 1
        except Gone:
            raise
        except Refused as problem:
            refused.append(str(problem))
    if "X-One" in request.headers:  # one of many, sent by the page's script
        return answer(PhotographKept(kept=bool(kept), why=" ".join(refused)))
    for line in words.photographs(kept, refused):
        flash(line, "wrong" if line.endswith(tuple(refused)) and refused else "message")
    return redirect(url_for(".of_team", challenge_id=challenge_id, team_id=team_id), 303)


@bp.get("/ideas/<int:idea_id>.jpg")
@may(PADS)
def photograph(challenge_id: int, idea_id: int) -> Response:
    found = ideas.get_idea(read_session(), idea_id)
    if found.challenge_id != challenge_id:
        raise Gone("This picture is no longer there.")
    response = Response(ideas.photograph_of(read_session(), idea_id), mimetype="image/jpeg")
    response.headers["Cache-Control"] = "private, max-age=3600"
    response.headers["Content-Security-Policy"] = "default-src 'none'; sandbox"
    return response


@bp.post("/ideas/<int:team_id>/take")
@may(PADS)
def take(challenge_id: int, team_id: int) -> ResponseReturnValue:
    """One idea whole, or the ticked parts of several, into the team's plan."""
    whole = row_id(request.form.get("whole"))
    try:
        with write_session() as session:
            challenge = get_challenge(session, challenge_id)
            mine = ideas.ideas_of(session, challenge_id, team_id)
            chosen = [(i.number, p) for i in mine if i.number == whole for p in i.picks]
            if not whole:
                chosen = _ticked(request.form.getlist("part"))
            version = ideas.take(session, challenge, team_id, chosen)
            version_id, number = version.id, version.number
    except Refused as refused:
        return _of_team(challenge_id, team_id, refused)
    flash(words.took(number))
    return redirect(url_for("builds.version", version_id=version_id), 303)


def _ticked(parts: list[str]) -> list[tuple[int, str]]:
    """(number of the idea, place) of each part that was ticked."""
    pairs = [part.split(":", 1) for part in parts if ":" in part]
    return [(row_id(number), place) for number, place in pairs]


@bp.post("/ideas/<int:team_id>/<int:idea_id>/drop")
@may(PADS)
def drop(challenge_id: int, team_id: int, idea_id: int) -> ResponseReturnValue:
    with write_session() as session:
        found = ideas.get_idea(session, idea_id)
        if (found.challenge_id, found.team_id) == (challenge_id, team_id):
            ideas.drop_idea(session, idea_id)
    return redirect(url_for(".of_team", challenge_id=challenge_id, team_id=team_id), 303)


@bp.post("/ideas/<int:team_id>/<int:idea_id>/words/<any(hide,show):action>")
@may(HELPERS)
def words_of_team(challenge_id: int, team_id: int, idea_id: int, action: str) -> ResponseReturnValue:
    """What a learner drew and wrote, out of sight everywhere, or back."""
    with write_session() as session:
        found = ideas.get_idea(session, idea_id)
        if (found.challenge_id, found.team_id) == (challenge_id, team_id):
            if action == "hide":
                hiding.hide(found)
            else:
                hiding.show(found)
    return redirect(url_for(".of_team", challenge_id=challenge_id, team_id=team_id), 303)


@bp.get("/walk")
@may(HELPERS)
def walk(challenge_id: int) -> ResponseReturnValue:
    """Who takes what from whom: a key in a table of teams by places."""
    challenge, brief = open_challenge(challenge_id)
    return _walk(challenge, brief)


def _walk(challenge: Challenge, brief: Brief) -> ResponseReturnValue:
    del brief
    found = ideas.takes(read_session(), challenge.id)
    teams = {t.id: t for t in challenge.school_class.teams}
    rows = [(t, words.taken(t.team_id, t.from_id, t.what, teams)) for t in found]
    values = frame(
        challenge,
        "builds",
        teams=challenge.school_class.present,
        pairs={(t.team_id, t.from_id) for t in found},
        rows=rows,
    )
    return page("ideas/walk.html", values)


@bp.post("/walk")
@may(HELPERS)
def note(challenge_id: int) -> ResponseReturnValue:
    """A team takes something from another, or no more."""
    with write_session() as session:
        challenge = get_challenge(session, challenge_id)
        if request.form.get("untake"):
            ideas.untake(session, challenge_id, form_id("untake"))
        else:
            team, _, source = request.form.get("take", "").partition(":")
            ideas.take_from(session, challenge, row_id(team), row_id(source), request.form.get("what", ""))
    return redirect(url_for(".walk", challenge_id=challenge_id), 303)
