"""The door, when Thermion is served beyond this computer: a device gives the passphrase once.

This computer itself needs none. A board gets in with a link of its own and can only look. Config: DOOR
(the passphrase; empty: no door), DOOR_NAMES (what this computer is called in the network), DOOR_URLS
(where other devices open it).
"""

from __future__ import annotations

import hmac
import re
import socket
from collections.abc import Callable
from dataclasses import dataclass
from datetime import timedelta
from ipaddress import ip_address
from typing import Any, TypeVar
from urllib.parse import urlsplit

from flask import Flask, current_app, redirect, render_template, request, session, url_for
from flask.typing import ResponseReturnValue
from werkzeug.exceptions import Forbidden, SecurityError

from thermion.web.payloads import Trouble, answer, kept_by_device, own_address

PER_DEVICE = "10 per minute"  # wrong guesses; what others guess locks nobody out
STAYS = timedelta(days=31)  # for which a device needs to give no passphrase again
OPEN = {"static", "door", "favicon"}
V = TypeVar("V", bound=Callable[..., Any])


def for_boards(view: V) -> V:
    """Mark a view as one that a board may look at; it must change nothing."""
    view.for_boards = True  # type: ignore[attr-defined]
    return view


def for_anyone(view: V) -> V:
    """Mark a view that asks for what lets one in itself."""
    view.for_anyone = True  # type: ignore[attr-defined]
    return view


def for_this_computer(view: V) -> V:
    """Mark a view that reaches the whole record, its keys or this computer itself: it stays here."""
    view.only_here = True  # type: ignore[attr-defined]
    return view


def only_here(*words: str) -> Callable[[V], V]:
    """The same for an address with one of these words in it."""

    def marked(view: V) -> V:
        view.only_here = frozenset(words)  # type: ignore[attr-defined]
        return view

    return marked


def for_probes(view: V) -> V:
    """Mark a view that a program or board may ask, which holds a key of its own and no session."""
    view.for_probes = True  # type: ignore[attr-defined]
    return view


def is_this_computer(name: str) -> bool:
    """Whether an address or name can only be reached from this computer."""
    if name == "localhost":
        return True
    try:
        return ip_address(name.strip("[]")).is_loopback
    except ValueError:
        return False


def at_this_computer() -> bool:
    """Whether whoever asks sits at the computer that runs Thermion."""
    return is_this_computer(request.remote_addr or "")


def own_names() -> list[str]:
    """What this computer is called in its network."""
    name = socket.gethostname().lower()
    return sorted({"localhost", name, f"{name.split('.')[0]}.local", socket.getfqdn().lower()})


def own_addresses(host: str) -> list[str]:
    """Addresses at which other devices find a server on `host`; nothing is sent to find them."""
    if host not in ("0.0.0.0", "::", ""):  # noqa: S104 - compared, not bound
        return [host]
    found = []
    for family, far in ((socket.AF_INET, "192.0.2.1"), (socket.AF_INET6, "2001:db8::1")):
        if family == socket.AF_INET6 and host != "::":
            continue
        try:
            with socket.socket(family, socket.SOCK_DGRAM) as asked:
                asked.connect((far, 9))
                found.append(asked.getsockname()[0])
        except OSError:  # not in such a network
            continue
    return found or [socket.gethostname()]


def own_urls(host: str, port: int) -> list[str]:
    """Where other devices open it."""
    return [f"http://{f'[{a}]' if ':' in a else a}:{port}" for a in own_addresses(host)]


@dataclass(frozen=True)
class DoorShown:
    """For the desk on this computer: where others open it, what they give, and a board's link."""

    urls: list[str]
    passphrase: str
    boards: list[str]


def door_shown() -> DoorShown | None:
    """None without a door, and on any other device."""
    passphrase = current_app.config["DOOR"]
    if not passphrase or not is_this_computer(request.remote_addr or ""):
        return None
    urls = current_app.config["DOOR_URLS"]
    link = url_for("board.follow", key=_sign("board"))
    return DoorShown(urls, passphrase, [f"{url}{link}" for url in urls])


def _sign(what: str) -> str:
    """What a session holds that was let in; another passphrase or key makes it worthless."""
    words = f"{what}:{current_app.config['DOOR']}"
    return hmac.digest(str(current_app.secret_key).encode(), words.encode(), "sha256").hex()[:12]


def _same(one: str, other: str) -> bool:
    return hmac.compare_digest(one.encode(), other.encode())


def is_inside() -> bool:
    """Whether whoever asks may see and change everything."""
    if not current_app.config["DOOR"] or is_this_computer(request.remote_addr or ""):
        return True
    return _same(str(session.get("door", "")), _sign("door"))


def let_board_in(key: str) -> bool:
    """Let a browser look at boards, if it came by the link."""
    if not current_app.config["DOOR"]:
        return True
    right = _same(key, _sign("board"))
    if right:
        session.permanent = True
        session["board"] = key
    return right


def is_for_probes(app: Flask) -> bool:
    """Whether what is asked for looks at a probe's key itself."""
    return getattr(app.view_functions.get(request.endpoint or ""), "for_probes", False)


def wants_json() -> bool:
    """Whether whoever asks is a program: by what it accepts or sends, or by the address."""
    accepts = request.accept_mimetypes
    prefers = accepts["application/json"] > accepts["text/html"]
    asked = request.is_json or request.path.endswith(".json") or is_for_probes(current_app)
    return prefers or asked or kept_by_device()


def _stays_here() -> bool:
    """Whether another device asks for what only this computer may do."""
    view = current_app.view_functions.get(request.endpoint or "")
    marked = getattr(view, "only_here", False)
    if isinstance(marked, frozenset):
        marked = not marked.isdisjoint((request.view_args or {}).values())
    return bool(marked) and not at_this_computer()


def _may_look() -> bool:
    if request.method not in ("GET", "HEAD"):
        return False
    view = current_app.view_functions.get(request.endpoint or "")
    if getattr(view, "for_anyone", False):
        return True
    return getattr(view, "for_boards", False) and _same(str(session.get("board", "")), _sign("board"))


def _check_host(names: list[str]) -> None:
    """A name that another website points here is none of ours; an address cannot be pointed."""
    host = urlsplit(f"//{request.host}").hostname or ""
    try:
        ip_address(host)
    except ValueError:
        if host not in names:
            raise SecurityError from None


def _said(given: str) -> str:
    return "-".join(re.findall(r"[a-z0-9]+", given.lower()))


def _asked(passphrase: str) -> ResponseReturnValue:
    back = request.values.get("back", "/")
    wrong = ""
    if request.method == "POST":
        if _same(_said(request.form.get("passphrase", "")), passphrase):
            session.permanent = True
            session["door"] = _sign("door")
            return redirect(own_address(back, "/"), 303)
        wrong = "That is not it. It stands on the screen of the computer that runs Thermion."
    return render_template("components/door.html", back=back, wrong=wrong), 401 if wrong else 200


def init(app: Flask) -> None:
    """Ask every device but this computer for the passphrase, before anything else is looked at."""
    for name, value in (("DOOR", ""), ("DOOR_NAMES", []), ("DOOR_URLS", [])):
        app.config.setdefault(name, value)
    app.jinja_env.globals.update(door_shown=door_shown, at_this_computer=at_this_computer)
    passphrase = app.config["DOOR"]
    if not passphrase:
        app.add_url_rule("/door", "door", lambda: redirect("/", 303))
        return
    app.config["PERMANENT_SESSION_LIFETIME"] = STAYS
    names = [*own_names(), *app.config["DOOR_NAMES"]]

    @app.before_request
    def door() -> ResponseReturnValue | None:
        _check_host(names)
        if is_inside() and _stays_here():
            raise Forbidden
        if request.endpoint in OPEN or is_inside() or _may_look() or is_for_probes(app):
            return None
        if wants_json():
            return answer(Trouble(error="This device has to give the passphrase."), 401)
        if request.method in ("GET", "HEAD"):
            return redirect(url_for("door", back=request.full_path.rstrip("?")), 303)
        return render_template(
            "components/door.html", back="/", wrong="Nothing was stored: first the passphrase."
        ), 401

    from flask_limiter import Limiter  # only a door needs it
    from flask_limiter.util import get_remote_address

    limiter = Limiter(get_remote_address, app=app, storage_uri="memory://")

    def wrong(response: Any) -> bool:
        return bool(response.status_code == 401)

    view = limiter.limit(PER_DEVICE, methods=["POST"], deduct_when=wrong)(lambda: _asked(passphrase))
    app.add_url_rule("/door", "door", view, methods=["GET", "POST"])
