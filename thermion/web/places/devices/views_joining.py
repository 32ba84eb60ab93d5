"""What a device sees that is not in yet, and the way to what it is for."""

from __future__ import annotations

from flask import Blueprint, current_app, redirect, render_template, request, session, url_for
from flask.typing import ResponseReturnValue
from werkzeug.exceptions import TooManyRequests

from thermion.records import moments
from thermion.records.building import store
from thermion.records.errors import Refused
from thermion.records.planning.classes import get_class
from thermion.records.running import devices
from thermion.records.running.runs import going_runs, open_runs_of
from thermion.records.stamps import DOOR
from thermion.web.access import ANYBODY, asking, may, own_start
from thermion.web.components.frame import page
from thermion.web.components.words import going as going_words
from thermion.web.guessing import Guesses
from thermion.web.payloads import own_address
from thermion.web.places.devices import words
from thermion.web.sessions import database, read_session, write_session

bp = Blueprint("joining", __name__)


@bp.route("/join", methods=["GET", "POST"])
@may(ANYBODY)
def join() -> ResponseReturnValue:
    """A device gives its code once."""
    back = request.values.get("back", "")
    values = {"back": back, "wrong": asking().out, "code": request.values.get("code", "")[:20]}
    if request.method == "GET":
        return render_template("devices/join.html", **values)
    guesses: Guesses = current_app.extensions["guesses"]
    address, now = request.remote_addr or "", moments.steady()
    if guesses.too_many(address):
        return page("devices/join.html", values | {"wrong": words.TOO_MANY})[0], TooManyRequests.code
    try:
        with database().session() as looking:
            if not devices.is_open(looking, now):
                raise Refused("The door is closed. Ask at the Desk.")
        with write_session(DOOR) as writing:
            device, secret = devices.join(writing, str(values["code"]), now)
            held = f"{device.id}.{secret}"
    except Refused as refused:
        guesses.was_wrong(address, now)
        return page("devices/join.html", values | {"wrong": refused.message}, refused=True)
    session.permanent = True
    session["device"] = held
    return redirect(url_for(".joined", back=back or None), 303)


@bp.get("/joined")
@may(ANYBODY)
def joined() -> ResponseReturnValue:
    """Whether the browser kept what tells it from others; then on to what the device is for."""
    if asking().role == "nobody":
        return page("devices/join.html", {"back": "", "wrong": words.ASKS_COOKIES, "code": ""}, refused=True)
    return redirect(own_address(request.args.get("back", ""), own_start()), 303)


@bp.post("/leave")
@may(ANYBODY)
def leave() -> ResponseReturnValue:
    """A device goes by itself, as when a pad is handed to another team."""
    device = asking().device
    if device is not None:
        with write_session(DOOR) as writing:
            devices.send_away(writing, device.id, moments.steady())
    session.clear()
    return redirect(url_for(".join"), 303)


@bp.get("/helping")
@may(("helper",))
def helping() -> ResponseReturnValue:
    """Where an adult can help now: tests that are on, plans that wait, the challenges of the class."""
    device, reading = asking().device, read_session()
    school_class = get_class(reading, (device.class_id if device else None) or 0)
    going = going_runs(reading, school_class.id, moments.now())
    values = {
        "school_class": school_class,
        "tests": [(each.run_id, going_words(each)) for each in going],
        "waiting": store.queue(reading, school_class.id)["waiting"],
        "challenges": school_class.challenges,
    }
    return render_template("devices/helping.html", **values)


@bp.get("/station")
@may(("station",))
def station() -> ResponseReturnValue:
    """The test that is on at this station, or that none is."""
    device = asking().device
    if device is not None and device.challenge_id is not None:
        found = open_runs_of(read_session(), device.challenge_id)
        if found:
            return redirect(url_for("runs.run", run_id=found[-1], station=device.station or None), 303)
    return render_template("devices/waiting.html")
