"""A class that is not there works in a Thermion that runs, as real pads would: from ideas to readings."""

from __future__ import annotations

import threading
import time
from collections import Counter
from datetime import timedelta

import pytest
from sqlalchemy import select

from tests.conftest import Crew
from tests.records.test_families import Test
from tests.serving import Server
from thermion.core.kinds import all_kinds, get_kind
from thermion.probes.class_pretended import Pad, Refused, door_and_codes, pads
from thermion.records import moments
from thermion.records.building import builds
from thermion.records.database import Database
from thermion.records.planning.briefs import brief_of, get_challenge
from thermion.records.running import devices, runs
from thermion.records.tables import AttemptRow, Device, Entry, Idea, Reading, Version
from thermion.web import create_app
from thermion.web.access import THROUGH_DOOR


@pytest.fixture
def app(folder):
    made = create_app({"DATA": folder, "TESTING": True, "WTF_CSRF_ENABLED": False})
    yield made
    made.extensions["thermion"].close()


@pytest.fixture
def crew(app) -> Crew:
    return Crew(app.extensions["thermion"])


@pytest.fixture
def server(folder):
    made = Server(folder)
    yield made
    made.kill()


class HeldPad(Pad):
    """A pad that asks a test client instead of the network, and whose sleep moves the record's clock on."""

    def __init__(self, client, code: str, seed: int, sleep):
        super().__init__("", code, seed, 1.0, print, sleep)
        self.client = client

    def ask(self, path, body=None, method="", *, form=False):
        sent = {} if body is None else {"data" if form else "json": body}
        headers = {} if form else {"Accept": "application/json"}
        found = self.client.open(
            path, method=method or ("GET" if body is None else "POST"), headers=headers, **sent
        )
        if found.status_code >= 400:
            raise Refused(found.text[:300])
        return found.json if found.is_json else found.text


@pytest.mark.parametrize("key", sorted(all_kinds()))
def test_in_every_family_a_pretended_team_notes_what_its_turn_or_mark_brings(app, crew, key, monkeypatch):
    gone = [0.0]
    monkeypatch.setattr(moments, "OWN", moments.OwnClock(counter=lambda: gone[0]))

    def sleep(seconds: float) -> None:
        gone[0] += seconds

    test = Test(crew, key)
    shape = get_kind(key).test.shape
    desk = app.test_client()
    desk.post("/devices/door/open")
    with crew.database.writing() as session:
        run = runs.get_run(session, test.run_id)
        run.pads = "typed"
        for phase in run.phases:  # its first mark is due
            phase.started_at = moments.now() - timedelta(seconds=1)
    if shape == "races":
        test.race("control", "20", 15)
    team_codes = {c["team"]: c["code"] for c in desk.get("/devices/codes.json").json["codes"]}
    made = [HeldPad(joining(app), team_codes[team], seed, sleep) for seed, team in enumerate(crew.teams, 3)]
    for pad in made:
        pad.join()
    for _ in range(12):
        for pad in made:
            pad.look()
    done = Counter[str]()
    for pad in made:
        done.update(pad.done)
    assert not done["refused"], done
    what = {"marks": "readings", "turns": "attempts", "races": "races"}[shape]
    assert done[what] >= len(crew.teams)
    with crew.database.session() as session:
        table = Reading if shape == "marks" else AttemptRow
        found = session.scalars(select(table.by).join(Entry).where(Entry.version_id.is_not(None))).all()
    assert set(found) == {"team A", "team D", "team G"}


def joining(app):
    client = app.test_client()
    client.environ_base[THROUGH_DOOR] = True
    return client


def opened(crew: Crew, server: Server) -> dict[str, str]:
    """The door, opened in the record: the server follows; the codes of the teams."""
    with crew.database.writing() as session:
        devices.open_door(session, moments.steady())
    while True:
        door, codes = door_and_codes(server.url)
        assert door == server.door
        try:
            Pad(door, "x", 0).ask("/token.json")
            return codes
        except OSError:
            time.sleep(0.1)


def until(found, what: str):
    """Wait for something, however slow the machine is."""
    for _ in range(6000):
        if found():
            return
        time.sleep(0.05)
    raise AssertionError(what)


def test_a_pretended_class_has_ideas_plans_hands_in_and_reads(folder, server):
    crew = Crew(Database(folder))
    codes = opened(crew, server)
    made = pads(server.door, list(codes.values()), speed=40.0, said=lambda _: None)
    stop = [time.monotonic() + 3600]
    threads = [threading.Thread(target=pad.work, args=(0.0, lambda: -stop[0]), daemon=True) for pad in made]
    for thread in threads:
        thread.start()

    def states() -> list[str]:
        with crew.database.session() as session:
            return list(session.scalars(select(Version.state)))

    until(lambda: states() == ["waiting"] * 3, "all plans handed in")
    with crew.database.writing() as session:
        assert len(session.scalars(select(Idea.by).distinct()).all()) == 3  # each its own
        brief = brief_of(get_challenge(session, crew.challenge_id))
        found = list(session.scalars(select(Version)))
        assert not [p for v in found for p in builds.problems(v, brief)]  # within their limits
        builds.send_back(found[0], "What keeps the heat in?")
    until(lambda: states() == ["waiting"] * 3, "the question answered, the plan handed in again")
    with crew.database.writing() as session:
        found = list(session.scalars(select(Version)))
        assert found[0].answer
        for version in found:
            builds.sign(version, brief)
            builds.issue(version)
        ids = [v.id for v in found]
    run = crew.run(*ids, at=moments.now() - timedelta(seconds=2))
    with crew.database.writing() as session:
        runs.get_run(session, run).pads = "typed"

    def read() -> list[str]:
        with crew.database.session() as session:
            rows = session.scalars(select(Reading).where(Reading.supersedes_id.is_(None))).all()
            return sorted(r.by for r in rows if r.value is not None)

    until(lambda: len(read()) == 3, "each team has read its first mark")
    assert read() == ["team A", "team D", "team G"]
    stop[0] = -1.0
    for thread in threads:
        thread.join()
    with crew.database.session() as session:
        assert len(session.scalars(select(Device.id)).all()) == 3
