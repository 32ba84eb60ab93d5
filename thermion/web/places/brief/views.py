"""Brief: what are we trying to do, under which rules, with what?"""

from __future__ import annotations

from flask import Blueprint, Response, redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue

from thermion.core.kinds.testing import even_marks
from thermion.core.physics.units import NotANumber, parse_minutes, parse_minutes_list
from thermion.records.errors import Refused
from thermion.records.judging.earlier import relearn
from thermion.records.planning import briefs
from thermion.records.planning.briefs import brief_of, get_challenge
from thermion.records.planning.difficulty import step_of, turn
from thermion.records.planning.marks import LONGEST_MARK_S
from thermion.web.access import DESKS, may
from thermion.web.answers import flash_undo, table_file
from thermion.web.components.forms import form_of
from thermion.web.components.frame import page
from thermion.web.components.sections import section_frame, sections_of, url_after
from thermion.web.described import speaks
from thermion.web.payloads import answer, sent
from thermion.web.places.brief import words
from thermion.web.places.brief.parts import PARTS, row_of_dial, turns_of
from thermion.web.places.brief.payloads import MarksRead, MarksTyped
from thermion.web.places.brief.tables import brief_table
from thermion.web.sessions import open_challenge, write_session

STAYS = {"only_tools", "stay", "forget", "forget_caution"}  # keys that leave a part of the brief open
bp = Blueprint("brief", __name__, url_prefix="/challenges/<int:challenge_id>")


@bp.get("/brief.<any(csv,json):ending>")
@may(DESKS)
def as_data(challenge_id: int, ending: str) -> Response:
    """The brief's numbers."""
    _, brief = open_challenge(challenge_id)
    return table_file(ending, brief_table(brief), f"brief-{challenge_id}", brief.setting)


@bp.get("/brief")
@may(DESKS)
def index(challenge_id: int) -> ResponseReturnValue:
    return redirect(url_for(".section", challenge_id=challenge_id, section="task"))


@bp.route("/brief/<any(task,rig,marks,materials,rungs,score,safety):section>", methods=["GET", "POST"])
@may(DESKS)
def section(challenge_id: int, section: str) -> ResponseReturnValue:
    challenge, brief = open_challenge(challenge_id)
    sections = sections_of(brief, challenge_id)
    if section not in {each.key for each in sections}:
        return redirect(url_for(".index", challenge_id=challenge_id))
    part = PARTS[section]
    form = form_of(part.fields(challenge, brief))
    problem: Refused | None = None
    if request.method == "POST" and form.validate():
        try:
            with write_session() as session:
                mine = get_challenge(session, challenge_id)
                part.save(session, mine, brief_of(mine), form)
                session.flush()
                relearn(session, challenge_id)  # closed runs may say something else under another brief
            if STAYS & request.form.keys():
                return redirect(url_for(".section", challenge_id=challenge_id, section=section), 303)
            if request.form.get("as_it_stands"):  # what is filled in, and what could hurt someone
                return redirect(url_for(".section", challenge_id=challenge_id, section="safety"), 303)
            _, changed = open_challenge(challenge_id)
            return redirect(url_after(sections_of(changed, challenge_id), section, challenge_id), 303)
        except Refused as refused:
            problem = refused
    shown = part.more(challenge, brief)
    values = section_frame(challenge, brief, section, form=form, problem=problem, **shown)
    return page(f"brief/{section}.html", values, refused=bool(problem or form.errors))


@bp.get("/brief/dial")
@may(DESKS)
def dial(challenge_id: int) -> ResponseReturnValue:
    """What a turn of the dial would change, before it is taken."""
    challenge, brief = open_challenge(challenge_id)
    step = row_of_dial(request.args.get("dial", ""), challenge)
    values = {"challenge": challenge, "dial": step_of(challenge), "asked": step}
    return render_template("brief/turns.html", turns=turns_of(challenge, brief, step), **values)


@bp.post("/brief/dial")
@may(DESKS)
def turn_dial(challenge_id: int) -> ResponseReturnValue:
    """Take what was shown, at once."""
    try:
        with write_session() as session:
            challenge = get_challenge(session, challenge_id)
            turn(session, challenge, brief_of(challenge), request.form.get("dial", ""))
    except Refused as refused:
        challenge, brief = open_challenge(challenge_id)
        part = PARTS["task"]
        form = form_of(part.fields(challenge, brief))
        shown = section_frame(
            challenge, brief, "task", form=form, problem=refused, **part.more(challenge, brief)
        )
        return page("brief/task.html", shown, refused=True)
    return redirect(url_for(".section", challenge_id=challenge_id, section="task"), 303)


@bp.post("/brief/marks/read")
@may(DESKS)
@speaks(MarksRead, MarksTyped)
def read_marks(challenge_id: int) -> Response:
    """Marks as typed or pointed at: what the server makes of them, for the ruler."""
    _, brief = open_challenge(challenge_id)
    given, decimal = sent(MarksTyped), brief.setting.decimal
    try:
        if given.every is not None:
            end = min(parse_minutes(given.until or "30", decimal) or 1800.0, LONGEST_MARK_S)
            if end <= 0:
                raise NotANumber("The last mark comes after the start.")
            marks = even_marks(end, given.every * 60)
        else:
            marks = parse_minutes_list(given.text, decimal)
    except NotANumber as error:
        return answer(MarksRead(minutes=[], text=given.text, count="", error=str(error)))
    if given.toggle is not None:
        pointed = {round(given.toggle) * 60.0}
        marks = sorted(set(marks) ^ pointed | {0.0})
    text = brief.setting.minutes(marks)
    return answer(
        MarksRead(minutes=[m / 60 for m in marks], text=text, count=words.readings_each(len(marks)))
    )


@bp.post("/brief/delete")
@may(DESKS)
def delete(challenge_id: int) -> ResponseReturnValue:
    """Drop a challenge with all that is in it; it can be brought back."""
    with write_session() as session:
        kept = briefs.delete_challenge(session, get_challenge(session, challenge_id))
    flash_undo(kept)
    return redirect(url_for("home.index"), 303)
