"""What every page shares: the session, the class's way of writing, the frame, one-time forms."""

from __future__ import annotations

import secrets
from collections.abc import Callable, Iterator, Mapping
from contextlib import contextmanager
from datetime import UTC, datetime, timedelta
from functools import lru_cache
from io import BytesIO
from math import ceil
from pathlib import Path
from typing import Any
from zoneinfo import ZoneInfo

from flask import Flask, Response, current_app, g, redirect, render_template, request, send_file, url_for
from sqlalchemy.orm import Session
from werkzeug.wrappers import Response as BaseResponse

from thermion.core.physics.materials import FORMS, MATERIALS
from thermion.core.physics.units import Setting, unit_label
from thermion.core.planning.path import PLACES
from thermion.core.planning.week import still_fits
from thermion.formats.tables import Table, to_csv, to_json
from thermion.records.database import Database
from thermion.records.errors import Refused
from thermion.records.judging.standing import paths
from thermion.records.planning.briefs import Brief, brief_of, get_challenge
from thermion.records.planning.week import bell_of, class_in_lesson, timing_of
from thermion.records.running.runs import going_runs
from thermion.records.tables import Challenge, Receipt, SchoolClass


def database() -> Database:
    found: Database = current_app.extensions["thermion"]
    return found


def reading() -> Session:
    """The request's session for reading; closed at its end."""
    if "session" not in g:
        g.session = database().session()
    session: Session = g.session
    return session


@contextmanager
def writing() -> Iterator[Session]:
    """A session that has committed, durably, when the block ends without an error."""
    with database().writing() as session:
        yield session


def once(session: Session, token: str, act: Callable[[], str]) -> BaseResponse:
    """Do `act` (which returns an address) once per form token, however often it is sent."""
    receipt = session.get(Receipt, token) if token else None
    if receipt is not None:
        return redirect(receipt.location, 303)
    location = act()
    if token:
        session.add(Receipt(token=token[:64], location=location, at=datetime.now(UTC)))
    return redirect(location, 303)


def open_challenge(challenge_id: int) -> tuple[Challenge, Brief]:
    """The challenge and its brief for a page."""
    challenge = get_challenge(reading(), challenge_id)
    return challenge, brief_of(challenge)


def frame(challenge: Challenge, place: str, **values: Any) -> dict[str, Any]:
    """Template values of every page of a challenge: path, next step, running clock, setting."""
    brief = brief_of(challenge)
    session = reading()
    return {
        "challenge": challenge,
        "school_class": challenge.school_class,
        "brief": brief,
        "kind": brief.kind,
        "setting": brief.setting,
        "place": place,
        "path": paths(session, [challenge])[challenge.id],
        "going": going_runs(session, challenge.class_id, datetime.now(UTC)),
        **values,
    }


def data_page(
    ending: str | None, template: str, table: Callable[[], Table], name: str, values: dict[str, Any]
) -> Response | str:
    """The same data as a page, or at the same address with .csv or .json."""
    if ending is None:
        return render_template(template, **values)
    setting: Setting = values["setting"]
    if ending == "json":
        return Response(to_json(table()), mimetype="application/json")
    text = "\ufeff" + to_csv(table(), setting.decimal)
    return named(text, "text/csv", f"{name}.csv")


def sent_json() -> dict[str, Any]:
    """What a script of ours sent; Refused when it is no object."""
    sent = request.get_json()
    if not isinstance(sent, dict):
        raise Refused("This could not be understood: an object was expected.")
    return sent


def sent_number(sent: Mapping[str, Any], key: str) -> int:
    """A whole number that was sent, or 0, which is nothing's number."""
    try:
        return int(sent.get(key) or 0)
    except (TypeError, ValueError, OverflowError):
        return 0


def named(text: str, mimetype: str, name: str, *, save: bool = True) -> Response:
    """Text as a file with a name, whatever letters are in it."""
    return send_file(
        BytesIO(text.encode("utf-8")), mimetype=mimetype, as_attachment=save, download_name=name, max_age=0
    )


@lru_cache
def stylesheet_for_pictures() -> str:
    """The tokens and drawing styles with their variables filled in, for a downloaded SVG."""
    static = Path(__file__).parent / "static"
    return (static / "pictures.css").read_text(encoding="utf-8")


def svg_file(body: str, name: str) -> Response:
    """An SVG as a file of its own: the same picture, with its styles inside."""
    head, _, rest = body.partition(">")
    whole = f"{head} xmlns='http://www.w3.org/2000/svg'><style>{stylesheet_for_pictures()}</style>{rest}"
    response = named(whole, "image/svg+xml", f"{name}.svg", save=False)
    response.headers["Content-Security-Policy"] = "default-src 'none'; style-src 'unsafe-inline'; sandbox"
    return response


def clock_time(moment: datetime | None, zone: str) -> str:
    """Hours and minutes in the class's zone."""
    return "" if moment is None else moment.astimezone(ZoneInfo(zone)).strftime("%H:%M")


def local_time(moment: datetime, zone: str) -> datetime:
    return moment.astimezone(ZoneInfo(zone))


def day(moment: datetime | None, zone: str) -> str:
    """Weekday, date and time in the class's zone, the month in letters."""
    if moment is None:
        return ""
    local = moment.astimezone(ZoneInfo(zone))
    return f"{local:%a} {local.day} {local:%b}, {local:%H:%M}"


def current_bell(
    challenge: Challenge | None = None, school_class: SchoolClass | None = None
) -> dict[str, Any] | None:
    """The lesson that is on, for the strip on every page of the desk: when it ends, what fits.

    On a page of no class, that of any class in a lesson.
    """
    now = datetime.now(UTC)
    session = reading()
    if school_class is None:
        school_class = class_in_lesson(session, now)
    found = bell_of(session, school_class.id, now) if school_class is not None else None
    if found is None or school_class is None:
        return None
    at, lesson = found
    fits = ""
    if challenge is not None:
        brief = brief_of(challenge)
        timing = timing_of(session, challenge, brief)
        teams = max(len(school_class.teams), 1)
        fits = still_fits(brief.kind, timing, teams, brief.marks, at.until_pack_up_s)
    return {
        "ends_at": (lesson.start + timedelta(seconds=lesson.length_s)).isoformat(),
        "packs_at": (lesson.start + timedelta(seconds=lesson.room_s)).isoformat(),
        "ends": clock_time(lesson.start + timedelta(seconds=lesson.length_s), school_class.zone),
        "minutes": ceil(at.until_bell_s / 60),
        "to_pack_up": ceil(at.until_pack_up_s / 60),
        "fits": fits,
        "name": school_class.name,
        "lesson": at.lesson + 1,
    }


def init(app: Flask) -> None:
    """Register template helpers and the end of the request."""

    @app.teardown_appcontext
    def close(_error: BaseException | None) -> None:
        session = g.pop("session", None)
        if session is not None:
            session.close()

    @app.context_processor
    def shared() -> Mapping[str, Any]:
        return {"once_token": secrets.token_urlsafe(18), "demo": app.config["DEMO"]}

    app.jinja_env.globals.update(
        MATERIALS=MATERIALS, FORMS=FORMS, PLACES=PLACES, unit_label=unit_label, current_bell=current_bell
    )
    app.jinja_env.filters.update(clock=clock_time, day=day, local=local_time)

    @app.get("/favicon.ico")
    def favicon() -> BaseResponse:
        return redirect(url_for("static", filename="mark.svg"))
