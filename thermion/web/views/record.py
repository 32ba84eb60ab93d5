"""Record: what goes out, and what comes in again."""

from __future__ import annotations

import secrets

from flask import Blueprint, Response, render_template, request, url_for
from flask.typing import ResponseReturnValue

from thermion.formats.exchange import export_challenge, file_name, import_challenge
from thermion.formats.intake import read_file
from thermion.records.errors import Refused
from thermion.records.judging import conclusions
from thermion.records.planning.classes import list_classes
from thermion.records.running import runs
from thermion.records.running.attempts import current_attempts
from thermion.web.page import data_page, frame, named, once, open_challenge, reading, writing
from thermion.web.run_tables import results_table
from thermion.web.views.sheets import SHEETS

bp = Blueprint("record", __name__)


@bp.get("/challenges/<int:challenge_id>/record")
def index(challenge_id: int) -> ResponseReturnValue:
    challenge, _ = open_challenge(challenge_id)
    found = runs.runs_of(reading(), challenge_id)
    counts = {
        r.id: len(runs.current_readings(reading(), [r.id])) + len(current_attempts(reading(), [r.id]))
        for r in found[-12:]
    }
    return render_template(
        "record.html",
        **frame(
            challenge,
            "record",
            runs=found,
            counts=counts,
            sheets=SHEETS,
            kept=conclusions.conclusions_of(reading(), challenge_id),
            carried=conclusions.carried_from(reading(), challenge_id),
            later=conclusions.later_challenges(reading(), challenge),
        ),
    )


@bp.get("/challenges/<int:challenge_id>/record.thermion.json")
def export(challenge_id: int) -> Response:
    challenge, _ = open_challenge(challenge_id)
    text = export_challenge(reading(), challenge_id)
    return named(text, "application/json", file_name(challenge))


@bp.get("/challenges/<int:challenge_id>/readings.<any(csv,json):ending>")
def readings(challenge_id: int, ending: str) -> ResponseReturnValue:
    """Every reading of every run of the challenge."""
    _, brief = open_challenge(challenge_id)
    items = [runs.get_run(reading(), r.id) for r in runs.runs_of(reading(), challenge_id)]
    return data_page(
        ending,
        "",
        lambda: results_table(items, brief),
        f"readings-{challenge_id}",
        {"setting": brief.setting},
    )


@bp.route("/import", methods=["GET", "POST"])
def bring_in() -> ResponseReturnValue:
    """A challenge file into a new class, or into one that has the same teams."""
    problem: Refused | None = None
    if request.method == "POST":
        try:
            upload = request.files.get("file")
            if upload is None or not upload.filename:
                raise Refused("Choose a file first.", "file")
            file = read_file(upload.read())
            class_id = request.form.get("class_id", type=int) or None
            token = request.form.get("once", "") or secrets.token_urlsafe(12)
            with writing() as session:
                return once(
                    session,
                    token,
                    lambda: url_for(
                        ".index", challenge_id=import_challenge(session, file, token, class_id).id
                    ),
                )
        except Refused as refused:
            problem = refused
    return (
        render_template("import.html", classes=list_classes(reading()), problem=problem),
        422 if problem else 200,
    )
