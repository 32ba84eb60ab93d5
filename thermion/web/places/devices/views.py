"""The door at the Desk: opened and closed, its codes, who is in."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime

from flask import Blueprint, Response, current_app, flash, redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue
from sqlalchemy.orm import Session

from thermion.core.door import Joins, Role
from thermion.records import moments
from thermion.records.errors import Gone, Refused
from thermion.records.planning import boards
from thermion.records.planning.classes import get_class, list_classes
from thermion.records.planning.week import class_in_lesson
from thermion.records.running import devices
from thermion.records.stamps import DOOR
from thermion.records.tables import Device, SchoolClass, Team
from thermion.web.access import HERE, may
from thermion.web.components.frame import clock_time
from thermion.web.described import speaks
from thermion.web.guessing import Guesses
from thermion.web.listening import listener
from thermion.web.payloads import answer, row_id
from thermion.web.pictures.codes import code_shown
from thermion.web.places.devices import words
from thermion.web.places.devices.payloads import CodesListed, TeamCode
from thermion.web.sessions import read_session, write_session

bp = Blueprint("devices", __name__, url_prefix="/devices")


@dataclass(frozen=True)
class DeviceShown:
    id: int
    name: str
    what: str
    team: Team | None
    since: str
    seen: str


@bp.get("")
@may(HERE)
def index() -> ResponseReturnValue:
    """Which devices may come in, and which are in?"""
    session, now = read_session(), moments.steady()
    classes = list_classes(session)
    chosen = _chosen(session, classes)
    values: dict[str, object] = {
        "classes": classes,
        "chosen": chosen,
        "open": devices.is_open(session, now),
        "urls": listener().urls(),
        "inside": [_shown(d, chosen, now) for d in devices.devices_in(session, now)],
        "guessed": _guessed(chosen),
        "roles": words.MAY,
        "labels": words.ROLES,
    }
    if values["open"] and chosen is not None:
        values |= _codes(chosen.id, now)
        put = boards.what_is_put(session, chosen.id)
        values["on_board"] = put is not None and put.shows == "codes"
    return render_template("devices/index.html", **values)


def _chosen(session: Session, classes: Sequence[SchoolClass]) -> SchoolClass | None:
    """The class that is asked for; else the one with a lesson on; else the one made last."""
    asked = row_id(request.args.get("class_id"))
    by_number = next((c for c in classes if c.id == asked), None)
    return by_number or class_in_lesson(session, moments.now()) or (classes[-1] if classes else None)


def _codes(class_id: int, now: datetime) -> dict[str, object]:
    """The codes of a class; those that are missing are made, so this is a writer's turn."""
    with write_session(DOOR) as session:
        school_class = get_class(session, class_id)
        inside = [d for d in devices.devices_in(session, now) if d.class_id == class_id]
        of_teams = devices.team_codes(session, school_class, now)
        board = devices.board_code(session, class_id, now)
        stations = devices.station_codes(session, class_id, now)
        return {
            "teams": [
                code_shown(t.name, of_teams[t.id], sum(d.team_id == t.id for d in inside), t)
                for t in school_class.present
            ],
            "others": [
                code_shown("Board", board, sum(d.role == "board" for d in inside)),
                *(
                    code_shown(
                        f"Station {s.station}, {s.challenge.title}",
                        s.code,
                        sum(d.challenge_id == s.challenge.id and d.station == s.station for d in inside),
                    )
                    for s in stations
                ),
            ],
        }


def _shown(device: Device, chosen: SchoolClass | None, now: datetime) -> DeviceShown:
    role: Role = device.role
    zone = chosen.zone if chosen else "UTC"
    return DeviceShown(
        id=device.id,
        name=devices.name_of(device),
        what=f"{words.ROLES[role]} {device.number}",
        team=device.team,
        since=clock_time(device.joined_at, zone),
        seen=words.ago(current_app.extensions["seen"].get(device.id), now),
    )


def _guessed(chosen: SchoolClass | None) -> str:
    found: Guesses = current_app.extensions["guesses"]
    last = clock_time(found.last, chosen.zone if chosen else "UTC")
    return words.guessed(found.wrong, len(found.places), last)


def _back(class_id: int | None = None) -> ResponseReturnValue:
    return redirect(url_for(".index", class_id=class_id or row_id(request.form.get("class_id")) or None), 303)


@bp.get("/codes.json")
@may(HERE)
@speaks(CodesListed)
def listed() -> Response:
    """The codes of the class that is asked for, else of the one that has a lesson on."""
    session, now = read_session(), moments.steady()
    chosen = _chosen(session, list_classes(session))
    codes = []
    if chosen is not None and devices.is_open(session, now):
        with write_session(DOOR) as writing:
            school_class = get_class(writing, chosen.id)
            found = devices.team_codes(writing, school_class, now)
            codes = [TeamCode(team=t.name, code=found[t.id]) for t in school_class.present]
    return answer(CodesListed(door=listener().urls()[0], codes=codes))


@bp.post("/door/<any(open,close):action>")
@may(HERE)
def door(action: str) -> ResponseReturnValue:
    """Open the door, or close it: then codes and devices end, but for those of the week."""
    now = moments.steady()
    if action == "close":
        with write_session(DOOR) as session:
            devices.close_door(session, now)
        listener().close()
        return _back()
    with write_session(DOOR) as session:
        devices.open_door(session, now)  # before it stands open: the listener follows the record
    problem = listener().open()
    if problem:
        with write_session(DOOR) as session:
            devices.close_door(session, now)
        raise Refused(problem)
    return _back()


@bp.post("/codes/<int:class_id>")
@may(HERE)
def new_codes(class_id: int) -> ResponseReturnValue:
    """Other codes for a class, for this lesson or for the week."""
    with write_session(DOOR) as session:
        devices.new_codes(session, class_id, moments.steady(), week="week" in request.form)
    return _back(class_id)


@bp.post("/let-in/<int:class_id>/<any('second desk',helper):role>")
@may(HERE)
def let_in(class_id: int, role: Joins) -> ResponseReturnValue:
    """A code for one adult's device, for five minutes."""
    with write_session(DOOR) as session:
        if get_class(session, class_id) is None:
            raise Gone("This class is no longer there.")
        of = None if role == "second desk" else class_id
        made = devices.make_code(session, role, moments.steady(), of)
        code = made.code
    flash(words.let_in(role, code))
    return redirect(url_for(".index", class_id=class_id, let_in=code), 303)


@bp.post("/<int:device_id>/away")
@may(HERE)
def send_away(device_id: int) -> ResponseReturnValue:
    """This device is out, now."""
    with write_session(DOOR) as session:
        flash(words.away(devices.name_of(devices.send_away(session, device_id, moments.steady()))))
    return _back()


@bp.get("/cards")
@may(HERE)
def cards() -> ResponseReturnValue:
    """The codes of a class to print and cut: a card for each team, the board and the stations."""
    session, now = read_session(), moments.steady()
    chosen = _chosen(session, list_classes(session))
    if chosen is None or not devices.is_open(session, now):
        return _back()
    found = _codes(chosen.id, now)
    return render_template("devices/cards.html", school_class=chosen, urls=listener().urls(), **found)
