"""Where do the data lie, and what would bring them back?"""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime
from pathlib import Path

from flask import Blueprint, Response, current_app, redirect, render_template, request, send_file, url_for
from flask.typing import ResponseReturnValue

from thermion.records import deleting, moments
from thermion.records.errors import Gone
from thermion.records.judging.earlier import relearn_all
from thermion.records.keeping import copies
from thermion.records.running import clock_set
from thermion.web.access import DESKS, HERE, may
from thermion.web.answers import go_back
from thermion.web.places.data import words
from thermion.web.sessions import database, read_session, write_session

bp = Blueprint("data", __name__, url_prefix="/data")


@dataclass(frozen=True, kw_only=True)
class CopyShown:
    """A copy in words."""

    name: str
    made: str
    why: str
    holds: str
    size: str
    sure: str


@dataclass(frozen=True, kw_only=True)
class DeletedShown:
    """Something deleted, in words."""

    id: int
    title: str
    what: str
    at: str
    until: str


@bp.get("")
@may(HERE)
def index() -> ResponseReturnValue:
    folder = database().folder
    found = copies.copies_of(folder)
    return render_template(
        "data/index.html",
        folder=str(folder),
        size=words.size(sum(p.stat().st_size for p in folder.glob("thermion.sqlite3*"))),
        copies=[_shown(c) for c in found],
        kept=copies.KEPT,
        again=words.started_again(current_app.config.get("STARTED_AGAIN", 0)),
        deleted=[_deleted(d) for d in deleting.deleted(read_session())],
    )


@bp.post("/deleted/<int:deleted_id>/back")
@may(DESKS)
def bring_back(deleted_id: int) -> ResponseReturnValue:
    """Put back what was deleted, with all that went with it."""
    with write_session() as session:
        what, row_id = deleting.bring_back(session, deleted_id)
        session.flush()
        if what == "run":
            return redirect(url_for("runs.run", run_id=row_id), 303)
    return redirect(url_for("home.index"), 303)


def _deleted(kept: deleting.Removed) -> DeletedShown:
    at = kept.at.astimezone()
    until = kept.until.astimezone()
    return DeletedShown(
        id=kept.id,
        title=kept.title,
        what=words.WHAT[kept.what],
        at=f"{at:%a} {at.day} {at:%b}, {at:%H:%M}",
        until=f"{until.day} {until:%b}",
    )


def _shown(c: copies.CopyChecked) -> CopyShown:
    made = f"{c.made_at:%a} {c.made_at.day} {c.made_at:%b}, {c.made_at:%H:%M}"
    return CopyShown(
        name=c.path.name,
        made=made,
        why=words.when_made(c),
        holds=words.holds(c),
        size=words.size(c.size),
        sure=words.put_back(c),
    )


def _named(name: str) -> Path:
    """A copy by its name; nothing else of the folder can be named."""
    for found in copies.copies_of(database().folder):
        if found.path.name == name:
            return found.path
    raise Gone("This copy is no longer there, or it no longer reads.")


@bp.post("/clock")
@may(HERE)
def follow_clock() -> ResponseReturnValue:
    """The computer's clock was set right: the clocks of tests that are on follow it."""
    with write_session() as session:
        clock_set.follow(session, went=request.form.get("way") != "stood")
    moments.OWN.follow()
    database().forget()
    return go_back(url_for("home.index"))


@bp.post("/copies")
@may(HERE)
def make() -> ResponseReturnValue:
    """A copy now, checked."""
    now = datetime.now().astimezone()
    folder = database().folder
    target, number = folder / copies.FOLDER / f"by-hand-{copies.stamp(now)}.sqlite3", 1
    while target.exists():
        number += 1
        target = target.with_name(f"by-hand-{copies.stamp(now)}-{number}.sqlite3")
    copies.copy(database().path, target)
    return redirect(url_for(".index"), 303)


@bp.get("/copies/<name>")
@may(HERE)
def download(name: str) -> Response:
    return send_file(_named(name).absolute(), as_attachment=True, mimetype="application/vnd.sqlite3")


@bp.post("/copies/<name>/back")
@may(HERE)
def put_back(name: str) -> ResponseReturnValue:
    """Put a copy in the place of the data while the application runs."""
    found = database()
    if found.put_back(_named(name)):
        relearn_all(found)
    return redirect(url_for("home.index"), 303)
