"""Who may what: declared beside each address, looked at before anything else, denied where nothing is declared.

The computer that runs Thermion is the Desk. Whatever comes through the door's own listener is a device: what it
is stands in the record (`records/running/devices.py`), and a signed cookie says which one it is. A class, team
or station that its code was for is all that it reaches. `docs/access.md` is made from the declarations.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass, field
from datetime import datetime
from typing import TYPE_CHECKING, Any, TypeVar

from flask import Flask, current_app, g, redirect, render_template, request, session, url_for
from flask.typing import ResponseReturnValue
from sqlalchemy import null, select
from werkzeug.exceptions import Forbidden, SecurityError

from thermion.core.door import ROLES, Role
from thermion.records import acting, moments
from thermion.records.running import devices
from thermion.records.running.devices import DeviceIn
from thermion.records.stamps import DOOR
from thermion.records.tables import Attachment, Build, Challenge, Idea, Run, Version
from thermion.web.listening import listener
from thermion.web.network import host_of, is_address, is_this_computer, own_names
from thermion.web.payloads import Trouble, answer, kept_by_device
from thermion.web.sessions import database, read_session

if TYPE_CHECKING:
    from _typeshed.wsgi import StartResponse, WSGIApplication, WSGIEnvironment

Roles = tuple[Role, ...]
HERE: Roles = ("desk",)  # the whole record, its keys, the door: only at the computer that runs Thermion
DESKS: Roles = (*HERE, "second desk")
HELPERS: Roles = (*DESKS, "helper")
STATIONS: Roles = (*HELPERS, "station")
BOARDS: Roles = (*HELPERS, "board")
TEAMS: Roles = ("team",)
PADS: Roles = (*HELPERS, *TEAMS)  # a team has its own before it, and nobody else's
NOTES: Roles = (*STATIONS, *TEAMS)  # a team only its own rows: the view looks (`pads.check_own`)
PROBES: Roles = (*HELPERS, "probe")  # a probe shows its key to the view
ANYBODY: Roles = ROLES  # holds nothing of a class

THROUGH_DOOR = "thermion.door"  # in the environment of a request that came by the door's listener
SAFE = frozenset({"GET", "HEAD", "OPTIONS"})
V = TypeVar("V", bound=Callable[..., Any])


@dataclass(frozen=True)
class Allowed:
    """Who may look at an address, who may change something there, and who only with certain words in it."""

    looks: Roles
    changes: Roles
    words: Mapping[str, Roles] = field(default_factory=dict)

    def roles(self, method: str, arguments: Iterable[object]) -> Roles:
        for word in arguments:
            if isinstance(word, str) and word in self.words:
                return self.words[word]
        return self.looks if method in SAFE else self.changes


NOBODY = Allowed((), ())


def may(
    looks: Roles, *, changes: Roles | None = None, words: Mapping[str, Roles] | None = None
) -> Callable[[V], V]:
    """Declare who may open a view, who may send something to it, and who may with certain words in its address."""

    def mark(view: V) -> V:
        view.may = Allowed(looks, looks if changes is None else changes, words or {})  # type: ignore[attr-defined]
        return view

    return mark


def allowed_at(app: Flask, endpoint: str | None) -> Allowed:
    """What is declared beside an address; nobody where nothing is."""
    return getattr(app.view_functions.get(endpoint or ""), "may", NOBODY)


def is_for_probes(app: Flask, endpoint: str | None) -> bool:
    """Whether what is asked for looks at a probe's key itself."""
    looks = allowed_at(app, endpoint).looks
    return "probe" in looks and "nobody" not in looks


@dataclass(frozen=True)
class Asking:
    """Who asks: its role, the device if it is one, and why a device of before is out."""

    role: Role
    device: DeviceIn | None = None
    out: str = ""

    @property
    def name(self) -> str:
        return self.device.name if self.device else acting.DESK if self.role == "desk" else self.role


def through_the_door(app: WSGIApplication) -> WSGIApplication:
    """The application as the door's listener serves it."""

    def marked(environ: WSGIEnvironment, start: StartResponse) -> Iterable[bytes]:
        environ[THROUGH_DOOR] = True
        return app(environ, start)

    return marked


def asking() -> Asking:
    """Who asks in this request."""
    if "asking" not in g:
        g.asking = _who_asks()
    found: Asking = g.asking
    return found


def at_the_desk() -> bool:
    """Whether whoever asks sits at the computer that runs Thermion."""
    return asking().role == "desk"


def own_team() -> int | None:
    """The team whose device asks; None when no team's does."""
    device = asking().device
    return device.team_id if device else None


@dataclass(frozen=True)
class _Known:
    """A device as it was found, until when it is in, and why it is not."""

    device: DeviceIn | None
    until: datetime | None = None
    out: str = ""


def _who_asks() -> Asking:
    if not request.environ.get(THROUGH_DOOR):
        return Asking("desk")
    held = str(session.get("device", ""))
    if not held:
        return Asking("probe" if is_for_probes(current_app, request.endpoint) else "nobody")
    found = database().remember(("device", held), lambda: _find(held), (DOOR,))
    now = moments.steady()
    if found.device is None or found.until is None or now >= found.until:
        return Asking(
            "nobody", out=found.out or "The lesson is over: this device is out. Ask for a new code."
        )
    current_app.extensions["seen"][found.device.id] = now
    return Asking(found.device.role, found.device)


def _find(held: str) -> _Known:
    """The device that a cookie names, in a session of its own: it is remembered for other requests."""
    number, _, secret = held.partition(".")
    now = moments.steady()
    with database().session() as own:
        row = devices.known(own, int(number) if number.isdecimal() and len(number) < 18 else 0, secret)
        if row is None:
            return _Known(None)
        why = devices.why_out(row, now)
        if not why and not devices.is_open(own, now):
            why = "The door is closed. Ask at the Desk."
        return _Known(None if why else devices.as_in(row), row.until, why)


@dataclass(frozen=True)
class Named:
    """What an address names: a class, in it a challenge, in that a team; None for what is not named or there."""

    class_id: int | None = None
    challenge_id: int | None = None
    team_id: int | None = None


# Numbers in an address: the column they are of, the way there from a challenge, whose it is. The narrowest first.
LEADS: Mapping[str, tuple[Any, tuple[Any, ...], Any]] = {
    "version_id": (Version.id, (Build, Version), Build.team_id),
    "picture_id": (Attachment.id, (Build, Version, Attachment), Build.team_id),
    "idea_id": (Idea.id, (Idea,), Idea.team_id),
    "run_id": (Run.id, (Run,), null()),
    "challenge_id": (Challenge.id, (), null()),
}
NAMES = frozenset({*LEADS, "class_id", "team_id"})


def named(arguments: Mapping[str, Any]) -> Named:
    """What an address names, by the numbers in it."""
    if "class_id" in arguments:
        return Named(arguments["class_id"], None, arguments.get("team_id"))
    key = next((key for key in LEADS if key in arguments), None)
    if key is None:
        return Named()
    column, way, team = LEADS[key]
    asked = select(Challenge.class_id, Challenge.id, team)
    for table in way:
        asked = asked.join(table)
    found = read_session().execute(asked.where(column == arguments[key])).first()
    if found is None:
        return Named()
    return Named(found[0], found[1], arguments.get("team_id") or found[2])


def reaches(device: DeviceIn, arguments: Mapping[str, Any]) -> bool:
    """Whether what an address names is in the class, for a station in the challenge, and for a pad the team's
    own, that a device is in for."""
    if device.class_id is None or NAMES.isdisjoint(arguments):
        return True
    what = named(arguments)
    if what.class_id != device.class_id:
        return False
    if device.team_id is not None and what.team_id not in (None, device.team_id):
        return False
    return device.challenge_id is None or what.challenge_id in (None, device.challenge_id)


def door_is_open() -> bool:
    """Whether other devices may be in: for what only matters then."""
    return listener().is_open


def may_go(endpoint: str, **arguments: object) -> bool:
    """Whether whoever asks may open this address, or send something there."""
    declared = allowed_at(current_app, endpoint)
    return any(asking().role in declared.roles(method, arguments.values()) for method in ("GET", "POST"))


def way(endpoint: str, **arguments: Any) -> str:
    """An address in a page; "" where it is closed to whoever asks, which the stylesheet does not show."""
    if asking().role != "desk":
        full = f"{request.blueprint}{endpoint}" if endpoint.startswith(".") else endpoint
        if not may_go(full, **arguments):
            return ""
    return url_for(endpoint, **arguments)


def wants_json() -> bool:
    """Whether whoever asks is a program: by what it accepts or sends, or by the address."""
    accepts = request.accept_mimetypes
    prefers = accepts["application/json"] > accepts["text/html"]
    by_key = is_for_probes(current_app, request.endpoint)
    return prefers or request.is_json or request.path.endswith(".json") or by_key or kept_by_device()


def own_start() -> str:
    """Where a device begins: the page that it is for."""
    who = asking()
    device = who.device
    if device is None:
        return url_for("home.index") if who.role == "desk" else url_for("joining.join")
    match device.role:
        case "helper":
            return url_for("joining.helping")
        case "board":
            return url_for("board.of_class", class_id=device.class_id)
        case "station":
            return url_for("joining.station")
        case "team":
            return url_for("pad.index")
        case _:
            return url_for("home.index")


def _check_host(names: list[str]) -> None:
    """A name that another website points here is none of ours; an address cannot be pointed."""
    host = host_of(request.host)
    if request.environ.get(THROUGH_DOOR):
        ours = is_address(host) or host in names
    else:
        ours = is_this_computer(host)
    if not ours:
        raise SecurityError


def _check_origin() -> None:
    """What another website makes a browser send is refused."""
    origin = request.headers.get("Origin")
    elsewhere = request.headers.get("Sec-Fetch-Site") == "cross-site"
    if origin is not None:
        elsewhere = origin.rpartition("//")[2] != request.host
    if elsewhere and request.method not in SAFE:
        raise SecurityError


def _denied(who: Asking) -> ResponseReturnValue:
    if who.role != "nobody":
        if request.method in SAFE and request.path == "/":
            return redirect(own_start(), 303)
        raise Forbidden
    if wants_json():
        return answer(Trouble(error=who.out or "This device has to join first, with a code."), 401)
    if request.method in SAFE:
        back = None if request.path == "/" else request.full_path.rstrip("?")
        return redirect(url_for("joining.join", back=back), 303)
    said = f"{who.out} Nothing was stored.".strip()
    return render_template("devices/join.html", back="", wrong=said), 401


def init(app: Flask) -> None:
    """Look at who asks before anything else is looked at."""
    app.extensions["seen"] = {}
    app.jinja_env.globals.update(
        who_asks=asking,
        at_the_desk=at_the_desk,
        door_is_open=door_is_open,
        may_go=may_go,
        own_start=own_start,
        url_for=way,
    )
    names = [*own_names(), *app.config.get("DOOR_NAMES", [])]

    @app.before_request
    def door() -> ResponseReturnValue | None:
        _check_host(names)
        _check_origin()
        who = asking()
        g.acting = acting.act_as(who.name)
        arguments = request.view_args or {}
        roles = allowed_at(app, request.endpoint).roles(request.method, arguments.values())
        if request.endpoint is None and who.role not in ("nobody", "probe"):
            return None  # there is nothing at this address, which is said
        if who.role not in roles or (who.device is not None and not reaches(who.device, arguments)):
            return _denied(who)
        return None

    @app.teardown_request
    def done(_error: BaseException | None) -> None:
        token = g.pop("acting", None)
        if token is not None:
            acting.done(token)
