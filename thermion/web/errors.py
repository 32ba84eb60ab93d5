"""Error pages and error answers: what happened, what was kept, what to do."""

from __future__ import annotations

from flask import Flask, current_app, render_template, request
from flask.typing import ResponseReturnValue
from flask_wtf.csrf import CSRFError
from sqlalchemy.exc import OperationalError
from werkzeug.exceptions import HTTPException, MethodNotAllowed, SecurityError

from thermion.records.errors import Busy, Conflict, Gone, Implausible, Refused, Unsure
from thermion.web.access import DESKS, asking, wants_json
from thermion.web.payloads import Trouble, WayShown, answer

WORDS = {
    400: ("That request was not understood", "Nothing was changed. Go back and try once more."),
    403: (
        "This device is not for that",
        "Nothing was changed. What it may do follows from its code; the Desk may do all.",
    ),
    404: ("There is nothing at this address", "It may have been deleted, or the address is old."),
    405: ("That cannot be done here", "Nothing was changed."),
    429: ("Too many tries", "Wait a minute, then type it once more."),
    413: ("That is too large", "Nothing was stored."),
    500: (
        "Something broke on our side",
        "What was saved before is safe. Go back and try again; if it stays, restart Thermion.",
    ),
}


# What SQLite says when the disk does not take it, and what a person needs to hear.
STORAGE = {
    "disk is full": "The disk of the computer that runs Thermion is full. Make room on it, then send it again",
    "readonly database": "The data cannot be written: the file or its folder is read-only",
    "disk I/O error": "The disk of the computer that runs Thermion does not answer as it should",
    "database is locked": "Another program holds the data. Close it, then send it again",
}


def status_of(error: Refused) -> int:
    if isinstance(error, Gone):
        return 410
    if isinstance(error, Busy):  # sent again by itself from what a device keeps
        return 503
    return 409 if isinstance(error, Conflict | Unsure) else 422


def _page(title: str, text: str, status: int) -> ResponseReturnValue:
    if wants_json():
        return answer(Trouble(error=title if not text else f"{title}. {text}"), status)
    if asking().role not in DESKS:  # nothing of the class
        return render_template("components/error_alone.html", title=title, text=text), status
    try:
        return render_template("components/error.html", title=title, text=text, status=status), status
    except OperationalError:  # the frame asks the record, which may be what is broken
        return render_template("components/error_alone.html", title=title, text=text), status


def _kept() -> str:
    """Where what was typed is meanwhile."""
    if wants_json():
        return "Readings wait on this device and are sent by themselves."
    return "Go back: what you typed is there."


def _storage(app: Flask) -> None:
    """What the disk does not take is said in words; readings wait on the device that sent them."""

    @app.errorhandler(OperationalError)
    def cannot_store(error: OperationalError) -> ResponseReturnValue:
        said = str(error.orig or error)
        title = next((title for sign, title in STORAGE.items() if sign in said), None)
        if title is None:
            raise error
        return _page(title, f"Nothing was stored. {_kept()}", 507)


def init(app: Flask) -> None:
    """Register the handlers."""

    @app.errorhandler(Refused)
    def refused(error: Refused) -> ResponseReturnValue:
        status = status_of(error)
        if isinstance(error, Busy):
            return _page(error.message, "Nothing was stored yet. " + _kept(), status)
        if not wants_json():
            return _page(error.message, "Nothing was changed.", status)
        if isinstance(error, Unsure):
            return answer(Trouble(ask=error.message, field=error.field), status)
        suggestion = error.suggestion if isinstance(error, Implausible) else ""
        ways = [WayShown(label=w.label, change=dict(w.change)) for w in error.ways]
        said = Trouble(error=error.message, field=error.field, suggestion=suggestion, ways=ways)
        return answer(said, status)

    _storage(app)

    @app.errorhandler(CSRFError)
    def stale(error: CSRFError) -> ResponseReturnValue:
        if not request.cookies:
            return _page(
                "This browser keeps no cookies, so that Thermion cannot tell it from others",
                "Nothing was stored. Allow cookies for this address in its settings (a private window often forbids "
                "them), then send it again.",
                400,
            )
        return _page(
            "This page was opened before Thermion's key changed",
            "Nothing was stored. Reload the page and send it again.",
            400,
        )

    @app.errorhandler(SecurityError)
    def other_host(error: SecurityError) -> ResponseReturnValue:
        said = "This Thermion answers only to the address it was started with."
        return answer(Trouble(error=said), 400) if wants_json() else (said, 400)

    app.register_error_handler(HTTPException, _http)


def _http(error: HTTPException) -> ResponseReturnValue:
    status = error.code or 500
    if status < 400:
        return error.get_response()
    title, text = WORDS.get(status, (error.name, "Nothing was changed."))
    if status == 413:
        text = f"The limit here is {_size(request.max_content_length or 0)}. {text}"
    said = current_app.make_response(_page(title, text, status))
    if isinstance(error, MethodNotAllowed):
        said.allow.update(error.valid_methods or ())
    return said


def _size(of: int) -> str:
    return f"{of / 2**20:g} MB" if of >= 2**20 else f"{of / 2**10:g} kB"
