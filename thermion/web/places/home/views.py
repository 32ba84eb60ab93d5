"""Home, classes and new challenges."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import UTC, datetime
from zoneinfo import available_timezones

from flask import Blueprint, flash, redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue
from flask_wtf import FlaskForm
from sqlalchemy.orm import Session
from wtforms import BooleanField

from thermion.core.ages import USUAL
from thermion.core.kinds import all_kinds
from thermion.core.kinds.base import Kind
from thermion.core.physics.units import TEMP_UNITS, unit_label
from thermion.core.planning.difficulty import STEPS
from thermion.core.teams import COLOURS, SHAPES, look, pick_letters
from thermion.formats import briefs
from thermion.records.errors import Refused
from thermion.records.judging.how_far import paths
from thermion.records.keeping.copies import copy_before
from thermion.records.planning.briefs import create_challenge, get_challenge, move_challenge
from thermion.records.planning.classes import (
    TeamInput,
    computer_zone,
    delete_class,
    get_class,
    list_classes,
    put_away,
    save_class,
)
from thermion.records.planning.difficulty import step_of
from thermion.records.planning.habits import begin_alike, last_of
from thermion.records.tables import SchoolClass
from thermion.web.access import DESKS, HERE, may
from thermion.web.answers import flash_undo
from thermion.web.components.forms import QuantityField, form_of, pick, text
from thermion.web.components.frame import page
from thermion.web.payloads import form_id, row_id
from thermion.web.pictures.drawings import example_svg
from thermion.web.places.home import words
from thermion.web.sessions import database, once, read_session, write_session

bp = Blueprint("home", __name__)
UNITS = [(unit, unit_label(unit)) for unit in TEMP_UNITS]
DECIMALS = [("point", "21.5"), ("comma", "21,5")]
MOST_ROWS = 40
FIRST_TEAMS = 6


@bp.get("/")
@may(DESKS)
def index() -> ResponseReturnValue:
    classes = list_classes(read_session())
    challenges = [c for each in classes for c in each.challenges]
    found = paths(read_session(), challenges)
    away = list_classes(read_session(), put_away=True)
    return render_template(
        "home/index.html", classes=classes, away=away, paths=found, kinds=all_kinds(), families=_families
    )


def _families() -> list[tuple[Kind, str]]:
    """Every family with its drawing."""
    return [(kind, example_svg(kind)) for kind in all_kinds().values()]


@bp.post("/classes/<int:class_id>/<any(away,back,delete):action>")
@may(DESKS, words={"delete": HERE})
def keep_class(class_id: int, action: str) -> ResponseReturnValue:
    """Put a class away, take it out again, or delete it, which can be undone."""
    if action == "delete":
        get_class(read_session(), class_id)
        copy_before(database().folder, "delete", datetime.now(UTC))
    with write_session() as session:
        school_class = get_class(session, class_id)
        if action == "delete":
            flash_undo(delete_class(session, school_class))
        else:
            put_away(school_class, action == "away")
    return redirect(url_for(".index"), 303)


def _class_form(school_class: SchoolClass | None) -> FlaskForm:
    mine = school_class or SchoolClass(
        name=words.first_class(len(list_classes(read_session())) + 1),
        temp_unit="degC",
        decimal="point",
        learners=24,
        zone=computer_zone(),
    )
    return form_of(
        {
            "name": text(
                "Name of the class", 80, needed="Give the class a name, e.g. Relief crew.", default=mine.name
            ),
            "temp_unit": pick("Thermometers read", UNITS, mine.temp_unit),
            "decimal": pick("Numbers are written", DECIMALS, mine.decimal),
            "learners": QuantityField(
                "Learners, for the kit", low=1, high=60, optional=True, default=float(mine.learners)
            ),
            "zone": pick("Time zone", [(z, z) for z in sorted(available_timezones())], mine.zone),
        }
    )


MOST_TEAMS = 36  # that have a letter or digit of their own


def _typed_teams() -> list[TeamInput]:
    form = request.form
    count = min(len(form.getlist("team_name")), MOST_ROWS)
    fields = ["team_name", "team_id", "team_letter", "team_shape", "team_colour"]
    columns = [form.getlist(f) + [""] * count for f in fields]
    return [
        TeamInput(name=name[:40], id=row_id(key) or None, letter=letter[:1], shape=shape, colour=colour)
        for name, key, letter, shape, colour in zip(*(c[:count] for c in columns), strict=True)
    ]


def _first_team(i: int) -> TeamInput:
    shape, colour = look(i)
    return TeamInput(name=words.first_name(i), id=None, letter="", shape=shape, colour=colour)


def _teams_of(school_class: SchoolClass | None) -> list[TeamInput]:
    if school_class is None:
        return [_first_team(i) for i in range(FIRST_TEAMS)]
    return [
        TeamInput(name=t.name, id=t.id, letter=t.letter, shape=t.shape, colour=t.colour)
        for t in school_class.present
    ]


@bp.post("/challenges/<int:challenge_id>/<any(earlier,later):way>")
@may(DESKS)
def move(challenge_id: int, way: str) -> ResponseReturnValue:
    """One place earlier or later in the order of the class's challenges."""
    with write_session() as session:
        move_challenge(session, get_challenge(session, challenge_id), -1 if way == "earlier" else 1)
    return redirect(url_for(".index"), 303)


@bp.route("/classes/new", methods=["GET", "POST"])
@bp.route("/classes/<int:class_id>", methods=["GET", "POST"])
@may(DESKS)
def edit_class(class_id: int | None = None) -> ResponseReturnValue:
    school_class = get_class(read_session(), class_id) if class_id is not None else None
    form, teams = _class_form(school_class), _teams_of(school_class)
    problem: Refused | None = None
    if request.method == "POST":
        teams = _typed_teams()
        if form.validate():
            try:
                with write_session() as session:
                    return once(session, lambda: _store(session, form, teams, class_id))
            except Refused as refused:
                problem = refused
    fresh = school_class is None and request.method == "GET"
    values = {
        "form": form,
        "teams": teams,
        "badges": pick_letters([(t.name, t.letter) for t in teams[:MOST_TEAMS]]),
        "school_class": school_class,
        "keep": "Keep the changes" if school_class else "Make the class",
        "problem": problem,
        "fresh": fresh,
        "left": [t for t in school_class.teams if t.left_at is not None] if school_class else [],
        "outline_names": SHAPES,
        "colours": COLOURS,
    }
    return page("home/class.html", values, refused=bool(problem or form.errors))


def _store(session: Session, form: FlaskForm, teams: Sequence[TeamInput], class_id: int | None) -> str:
    learners = form["learners"].data
    saved = save_class(
        session,
        name=form["name"].data,
        temp_unit=form["temp_unit"].data,
        decimal=form["decimal"].data,
        zone=form["zone"].data,
        teams=teams,
        class_id=class_id,
        learners=None if learners is None else round(learners),
    )
    if class_id is None:
        return url_for(".new_challenge", class_id=saved.id)
    return url_for(".index")


@bp.route("/classes/<int:class_id>/challenges/new", methods=["GET", "POST"])
@may(DESKS)
def new_challenge(class_id: int) -> ResponseReturnValue:
    """Chosen from the drawings of the families; a title and an age are filled in."""
    school_class = get_class(read_session(), class_id)
    kinds = all_kinds()
    last = step_of(school_class.challenges[-1]) if school_class.challenges else USUAL
    if request.method == "POST" and request.form.get("shelf"):
        with write_session() as session:
            return once(session, lambda: _take(session, class_id, form_id("shelf")))
    if request.method == "POST" and request.form.get("off"):
        with write_session() as session:
            briefs.take_off_shelf(session, form_id("off"))
        return redirect(url_for(".new_challenge", class_id=class_id), 303)
    form = form_of(
        {
            "title": text("Title", 80),
            "kind": pick("Family", [(k.key, k.label) for k in kinds.values()], ""),
            "age_band": pick("Ages", [(a, a.replace("-", "–")) for a in STEPS], last),
            "alike": BooleanField("Begin like my last one", default=True),
        }
    )
    if form.validate_on_submit():
        with write_session() as session:
            return once(session, lambda: _create(session, form, class_id))
    values = {
        "form": form,
        "school_class": school_class,
        "shelf": briefs.shelf(read_session()),
        "families": _families(),
        "earlier": last_of(read_session(), school_class) is not None,
    }
    return page("home/new_challenge.html", values, refused=bool(form.errors))


def _take(session: Session, class_id: int, shelf_id: int) -> str:
    copied = briefs.take_from_shelf(session, shelf_id, get_class(session, class_id))
    for line in copied.look_at:
        flash(line)
    return url_for("brief.section", challenge_id=copied.challenge.id, section="task")


@bp.post("/classes/<int:class_id>/next-year")
@may(DESKS)
def next_year(class_id: int) -> ResponseReturnValue:
    """A class of the new year from this one: its teams and hours are then set."""
    with write_session() as session:
        return once(session, lambda: _next_year(session, class_id))


def _next_year(session: Session, class_id: int) -> str:
    return url_for(".edit_class", class_id=briefs.next_year(session, class_id).id)


def _create(session: Session, form: FlaskForm, class_id: int) -> str:
    school_class = get_class(session, class_id)
    kind = form["kind"].data
    title = form["title"].data.strip() or all_kinds()[kind].label
    like, last = last_of(session, school_class, kind), last_of(session, school_class)
    made = create_challenge(session, school_class, kind, title, form["age_band"].data)
    taken = begin_alike(session, made, like, last) if form["alike"].data else []
    if taken:
        flash(words.taken_over(taken, (like or last or made).title))
    return url_for("brief.section", challenge_id=made.id, section="task")
