"""The request's database sessions: one to read with, one that commits, and what they open."""

from __future__ import annotations

from collections.abc import Callable, Hashable, Iterator, Sequence
from contextlib import contextmanager
from datetime import timedelta
from typing import TypeVar

from flask import Flask, current_app, g, redirect, request
from sqlalchemy import delete, select
from sqlalchemy.orm import Session
from werkzeug.wrappers import Response

from thermion.records import moments
from thermion.records.database import Database
from thermion.records.planning.briefs import Brief, brief_of, get_challenge
from thermion.records.planning.week import WeekPlan, week_of
from thermion.records.running import runs
from thermion.records.running.readings import same_run
from thermion.records.stamps import RUNS, Thing, of_challenge, of_class, shows_lesson, shows_run
from thermion.records.tables import Build, Challenge, Receipt, Run, Version

T = TypeVar("T")
SENT_AGAIN = timedelta(days=30)  # as long as a device may have kept a form before it came back


def database() -> Database:
    found: Database = current_app.extensions["thermion"]
    return found


def house() -> str:
    """The key of the data that are served."""
    return database().house()


def read_session() -> Session:
    """The request's session for reading; closed at its end."""
    if "session" not in g:
        g.session = database().session()
    session: Session = g.session
    return session


@contextmanager
def write_session(*things: Thing) -> Iterator[Session]:
    """A session that has committed, durably, when the block ends without an error.

    It touches these things; without any, what the request's address names, and anything where it names
    nothing.
    """
    found = things or _named()
    with database().writing(*found, only=bool(found)) as session:
        yield session


@contextmanager
def write_anything() -> Iterator[Session]:
    """The same, for what reaches beyond the challenge or class that the address names."""
    with database().writing() as session:
        yield session


def _named() -> tuple[Thing, ...]:
    """What is touched by a change at the request's address: its challenge, or its class."""
    named = request.view_args or {}
    if "class_id" in named:
        return of_class(named["class_id"] or 0)
    asked = select(Challenge.id, Challenge.class_id)
    if "challenge_id" in named:
        asked = asked.where(Challenge.id == named["challenge_id"])
    elif "run_id" in named:
        asked = asked.join(Run).where(Run.id == named["run_id"])
    elif "version_id" in named:
        asked = asked.join(Build).join(Version).where(Version.id == named["version_id"])
    else:
        return ()
    with database().session() as session:
        found = session.execute(asked).first()
    return () if found is None else of_challenge(*found)


def shown_of_run(run_id: int) -> tuple[Thing, ...]:
    """What a page of this run is made of; of everything when there is none."""

    def find() -> tuple[Thing, ...]:
        with database().session() as session:
            asked = select(Challenge.id, Challenge.class_id).join(Run).where(Run.id == run_id)
            found = session.execute(asked).first()
        return () if found is None else shows_run(run_id, *found)

    return database().remember(("of run", run_id), find, (RUNS,))


def once(session: Session, act: Callable[[], str], token: str | None = None) -> Response:
    """Do `act` (which returns an address) once per form token, however often it is sent."""
    sent = request.form.get("once", "") if token is None else token
    receipt = session.get(Receipt, sent) if sent else None
    if receipt is not None:
        return redirect(receipt.location, 303)
    location = act()
    if sent:
        session.execute(delete(Receipt).where(Receipt.at < moments.now() - SENT_AGAIN))
        session.add(Receipt(token=sent[:64], location=location, at=moments.now()))
    return redirect(location, 303)


def was_sent(session: Session, token: str) -> bool:
    """Whether a form with this token was taken before."""
    return bool(token) and session.get(Receipt, token[:64]) is not None


def open_challenge(challenge_id: int) -> tuple[Challenge, Brief]:
    """The challenge and its brief for a page."""
    challenge = get_challenge(read_session(), challenge_id)
    return challenge, brief_of(challenge)


def open_run(run_id: int) -> tuple[Run, Challenge, Brief]:
    """A run with its challenge and brief for a page."""
    run = runs.get_run(read_session(), run_id)
    challenge, brief = open_challenge(run.challenge_id)
    return run, challenge, brief


def followed_run(run_id: int) -> tuple[Run, Challenge, Brief]:
    """The same for what is asked for again and again: loaded anew only when more than a reading changed."""
    return remembered(("opened", run_id), lambda: open_run(run_id), shown_of_run(run_id)[1:])


def made_of_run() -> str:
    """When the run was made that a page of ours writes to, as that page says; "" if it says nothing."""
    return request.headers.get("X-Made", "")


def run_to_change(session: Session, run_id: int) -> tuple[Run, Brief]:
    """A run and its brief in the session that will change it. Gone when it is another than the page's."""
    run = runs.get_run(session, run_id)
    same_run(run.created_at, made_of_run())
    return run, brief_of(get_challenge(session, run.challenge_id))


def remembered(key: Hashable, make: Callable[[], T], of: Sequence[Thing] = ()) -> T:
    """What `make` gives, or gave before if nothing has been stored since; with `of`, nothing that touched
    these things.

    It is made in a session of its own, closed before anybody else gets it: rows that are handed from
    one request to another must not ask a session that a third is reading with.
    """

    def apart() -> T:
        outer = g.pop("session", None)
        try:
            return make()
        finally:
            mine = g.pop("session", None)
            if mine is not None:
                mine.close()
            if outer is not None:
                g.session = outer

    return database().remember(key, apart, of)


def week_plan(class_id: int) -> WeekPlan:
    """A class's week for a page: laid out anew only after something was stored."""
    return remembered(("week", class_id), lambda: week_of(read_session(), class_id), shows_lesson(class_id))


def init(app: Flask) -> None:
    """Close the reading session at the end of the request."""

    @app.teardown_appcontext
    def close(_error: BaseException | None) -> None:
        session = g.pop("session", None)
        if session is not None:
            session.close()
