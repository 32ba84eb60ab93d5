"""Home, classes and new challenges."""

from __future__ import annotations

from typing import Any
from zoneinfo import available_timezones

from flask import Blueprint, render_template, request, url_for
from flask.typing import ResponseReturnValue

from thermion.core.kinds import all_kinds
from thermion.core.kinds.briefing import AGE_BANDS
from thermion.core.teams import COLOURS, SHAPES, look
from thermion.records.errors import Refused
from thermion.records.judging.standing import paths
from thermion.records.planning.briefs import create_challenge
from thermion.records.planning.classes import TeamInput, get_class, list_classes, save_class, setting_of
from thermion.web.forms import QuantityField, form_of, pick, text
from thermion.web.page import once, reading, writing

bp = Blueprint("classes", __name__)
UNITS = [("degC", "°C"), ("degF", "°F")]
DECIMALS = [("point", "21.5"), ("comma", "21,5")]


@bp.get("/")
def home() -> ResponseReturnValue:
    session = reading()
    classes = list_classes(session)
    challenges = [c for each in classes for c in each.challenges]
    return render_template("home.html", classes=classes, paths=paths(session, challenges), kinds=all_kinds())


def _class_form(school_class: object | None):
    def get(name: str, default: Any) -> Any:
        return getattr(school_class, name, default)

    return form_of(
        {
            "name": text(
                "Name of the class",
                80,
                needed="Give the class a name, e.g. Relief crew.",
                default=get("name", ""),
            ),
            "temp_unit": pick("Thermometers read", UNITS, get("temp_unit", "degC")),
            "decimal": pick("Numbers are written", DECIMALS, get("decimal", "point")),
            "learners": QuantityField(
                "Learners, for the kit", low=1, high=60, optional=True, default=float(get("learners", 24))
            ),
            "zone": pick("Time zone", [(z, z) for z in sorted(available_timezones())], get("zone", "UTC")),
        }
    )


def _typed_teams() -> list[TeamInput]:
    form = request.form
    count = min(len(form.getlist("team_name")), 40)
    fields = ["team_name", "team_id", "team_letter", "team_shape", "team_colour"]
    columns = [form.getlist(f) + [""] * count for f in fields]
    return [
        TeamInput(name[:40], int(key) if key.isdigit() else None, letter[:1], shape, colour)
        for name, key, letter, shape, colour in zip(*(c[:count] for c in columns), strict=True)
    ]


@bp.route("/classes/new", methods=["GET", "POST"])
@bp.route("/classes/<int:class_id>", methods=["GET", "POST"])
def edit(class_id: int | None = None) -> ResponseReturnValue:
    school_class = get_class(reading(), class_id) if class_id else None
    form = _class_form(school_class)
    problem: Refused | None = None
    if request.method == "POST":
        teams = _typed_teams()
        if form.validate():
            try:
                with writing() as session:
                    return once(
                        session, request.form.get("once", ""), lambda: _store(session, form, teams, class_id)
                    )
            except Refused as refused:
                problem = refused
    elif school_class:
        teams = [TeamInput(t.name, t.id, t.letter, t.shape, t.colour) for t in school_class.teams]
    else:
        teams = [TeamInput("", None, "", *look(i)) for i in range(6)]
    status = 422 if problem or form.errors else 200
    return (
        render_template(
            "class.html",
            form=form,
            teams=teams,
            school_class=school_class,
            problem=problem,
            shapes=SHAPES,
            colours=COLOURS,
        ),
        status,
    )


def _store(session, form, teams: list[TeamInput], class_id: int | None) -> str:
    saved = save_class(
        session,
        name=form["name"].data,
        temp_unit=form["temp_unit"].data,
        decimal=form["decimal"].data,
        zone=form["zone"].data,
        teams=teams,
        class_id=class_id,
        learners=None if form["learners"].data is None else round(form["learners"].data),
    )
    if class_id is None:
        return url_for("classes.new_challenge", class_id=saved.id)
    return url_for("classes.home")


@bp.route("/classes/<int:class_id>/challenges/new", methods=["GET", "POST"])
def new_challenge(class_id: int) -> ResponseReturnValue:
    school_class = get_class(reading(), class_id)
    kinds = all_kinds()
    form = form_of(
        {
            "title": text("Title", 80, needed="Give the challenge a title, e.g. Keeper's supper."),
            "kind": pick("Family", [(k.key, k.label) for k in kinds.values()], next(iter(kinds))),
            "age_band": pick("Age", [(a, a.replace("-", "–")) for a in AGE_BANDS], "9-12"),
        }
    )
    if form.validate_on_submit():
        with writing() as session:
            return once(
                session,
                request.form.get("once", ""),
                lambda: url_for(
                    "brief.section",
                    challenge_id=create_challenge(
                        session,
                        get_class(session, class_id),
                        form["kind"].data,
                        form["title"].data,
                        form["age_band"].data,
                    ).id,
                    section="task",
                ),
            )
    return (
        render_template(
            "new_challenge.html",
            form=form,
            school_class=school_class,
            setting=setting_of(school_class),
            kinds=kinds,
        ),
        422 if form.errors else 200,
    )
