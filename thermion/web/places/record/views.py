"""Record: what goes out, and what comes in again."""

from __future__ import annotations

import secrets
from collections.abc import Mapping
from dataclasses import dataclass
from datetime import UTC, datetime

from flask import Blueprint, Response, flash, redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue
from sqlalchemy.orm import Session

from thermion.formats import briefs
from thermion.formats.checking import asked, let_through
from thermion.formats.exchange import (
    Unpacked,
    export_challenge,
    file_name,
    import_challenge,
    same_here,
    unpacked,
)
from thermion.formats.intake import read_file
from thermion.formats.package import changed_tables, is_package, read_package
from thermion.formats.results import results_table
from thermion.formats.schema import ChallengeFile
from thermion.records.errors import Refused
from thermion.records.judging import conclusions
from thermion.records.judging.earlier import relearn
from thermion.records.keeping.copies import copy_before
from thermion.records.planning.classes import list_classes
from thermion.records.running import runs
from thermion.records.tables import Challenge, Run
from thermion.web import inbox
from thermion.web.access import DESKS, HERE, may
from thermion.web.answers import named, table_file
from thermion.web.components.frame import frame, page
from thermion.web.components.printed import SHEETS
from thermion.web.described import speaks
from thermion.web.payloads import form_id, form_ids
from thermion.web.places.record import words
from thermion.web.sessions import (
    database,
    once,
    open_challenge,
    read_session,
    was_sent,
    write_anything,
    write_session,
)

bp = Blueprint("record", __name__)


@dataclass(frozen=True)
class RunKept:
    """A run in the record, and how many values are noted in it."""

    run: Run
    values: int


@bp.get("/challenges/<int:challenge_id>/record")
@may(DESKS)
def index(challenge_id: int) -> ResponseReturnValue:
    challenge, _ = open_challenge(challenge_id)
    session = read_session()
    others = conclusions.other_challenges(session, challenge)
    kept = [(k, words.carried_to(k.to, others)) for k in conclusions.conclusions_of(session, challenge_id)]
    values = frame(challenge, "record", runs=_runs(session, challenge_id), sheets=SHEETS, kept=kept)
    values["classes"] = [c for c in list_classes(session) if c.id != challenge.class_id]
    return render_template("record/index.html", **values)


@bp.post("/challenges/<int:challenge_id>/copy")
@may(DESKS)
def copy(challenge_id: int) -> ResponseReturnValue:
    """The brief into other classes, several at once, or onto the shelf."""
    with write_anything() as session:
        if request.form.get("shelf"):
            flash(words.on_shelf(briefs.keep_on_shelf(session, challenge_id).title))
            return redirect(url_for(".index", challenge_id=challenge_id), 303)
        chosen = form_ids("class_id")
        found = once(session, lambda: _copied(session, challenge_id, chosen))
    return found


def _copied(session: Session, challenge_id: int, class_ids: list[int]) -> str:
    made = briefs.copy_to(session, challenge_id, class_ids)
    if made:
        flash(words.copied([c.challenge.school_class.name for c in made]))
    else:
        flash("Choose a class first.", "wrong")
    for copied in made:
        for line in copied.look_at:
            flash(line)
    return url_for(".index", challenge_id=challenge_id)


def _runs(session: Session, challenge_id: int) -> list[RunKept]:
    counts = runs.noted_counts(session, challenge_id)
    return [RunKept(r, counts.get(r.id, 0)) for r in runs.runs_of(session, challenge_id)]


@bp.get("/challenges/<int:challenge_id>/record.thermion.json")
@may(DESKS)
@speaks(ChallengeFile)
def export(challenge_id: int) -> Response:
    """A challenge as one file, as it can be opened again."""
    challenge, _ = open_challenge(challenge_id)
    text = export_challenge(read_session(), challenge_id)
    return named(text, "application/json", file_name(challenge))


@bp.get("/challenges/<int:challenge_id>/readings.<any(csv,json):ending>")
@may(DESKS)
def readings(challenge_id: int, ending: str) -> Response:
    """Every reading of every run of the challenge."""
    _, brief = open_challenge(challenge_id)
    session = read_session()
    items = [runs.get_run(session, r.id) for r in runs.runs_of(session, challenge_id)]
    table = results_table(session, items, brief)
    return table_file(ending, table, f"readings-{challenge_id}", brief.setting)


@bp.route("/import", methods=["GET", "POST"])
@may(HERE)
def bring_in() -> ResponseReturnValue:
    """A challenge file into a new class, or into one that has the same teams."""
    problem: Refused | None = None
    if request.method == "POST":
        try:
            data, class_id = _brought(), form_id("class_id") or None
            files = read_package(data) if is_package(data) else [read_file(data)]
            edited = changed_tables(data) if is_package(data) else []
            token = request.form.get("once", "") or secrets.token_urlsafe(12)
            again = request.form.get("again", "")
            there = {i: found for i, f in enumerate(files) if (found := same_here(read_session(), f))}
            if there and not again and not was_sent(read_session(), token):
                return _ask_again(data, files, there)
            if again == "new":
                files = [file for i, file in enumerate(files) if i not in there]
            elif again == "beside" and class_id is None and there:
                class_id = next(iter(there.values())).class_id
            ready = [unpacked(file) for file in files]
            copy_before(database().folder, "import", datetime.now(UTC))
            made: list[int] = []
            with write_session() as session:
                answer = once(session, lambda: _bring_in(session, files, ready, token, class_id, made), token)
            for challenge_id in made:  # each in a turn of its own: others write between
                with write_session() as session:
                    relearn(session, challenge_id)
            if edited:
                flash(words.not_read(edited))
            return answer
        except Refused as refused:
            problem = refused
    values = {"classes": list_classes(read_session()), "problem": problem}
    return page("record/import.html", values, refused=problem is not None)


def _brought() -> bytes:
    """The file that was chosen, or one that was kept while it was asked about."""
    kept = inbox.find(request.form.get("kept", ""))
    if kept is not None:
        return kept.data()
    upload = request.files.get("file")
    if upload is None or not upload.filename:
        raise Refused("Choose a file first.", "file")
    data: bytes = upload.read()
    return data


def _ask_again(
    data: bytes, files: list[ChallengeFile], there: Mapping[int, Challenge]
) -> ResponseReturnValue:
    """What is here already is put beside it, or left: never a second class by accident."""
    values = {
        "kept": inbox.put(data, "brought", "challenge").file_id,
        "said": words.here_already(list(there.values()), len(files)),
        "some_new": len(there) < len(files),
        "first": next(iter(there.values())),
    }
    return page("record/again.html", values, refused=True)


def _bring_in(
    session: Session,
    files: list[ChallengeFile],
    ready: list[Unpacked],
    token: str,
    class_id: int | None,
    ids: list[int],
) -> str:
    """Challenges of one class, as the files say, go into one class."""
    places: dict[str, int] = {}
    questions: list[str] = []
    for i, file in enumerate(files):
        crew = file.school_class.model_dump_json()
        into = class_id or places.get(crew)
        mine = f"{token}{i}" if i else token
        made = import_challenge(session, file, mine, into, ready[i], learns=False)
        session.flush()
        ids.append(made.id)
        places[crew] = made.class_id
        questions += asked(file) + let_through(session, made)
    if questions:
        flash(words.look_at(questions))
    if len(files) == 1:
        return url_for(".index", challenge_id=made.id)
    flash(words.opened(len(files)))
    return url_for("home.index")
