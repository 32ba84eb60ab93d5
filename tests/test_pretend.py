"""A class that is not there works in a Thermion that runs, as real pads would: from ideas to readings."""

from __future__ import annotations

import threading
import time
from datetime import timedelta

import pytest
from sqlalchemy import select

from tests.conftest import Crew
from tests.serving import Server
from thermion.probes.class_pretended import Pad, door_and_codes, pads
from thermion.records import moments
from thermion.records.building import builds
from thermion.records.database import Database
from thermion.records.planning.briefs import brief_of, get_challenge
from thermion.records.running import devices, runs
from thermion.records.tables import Device, Idea, Reading, Version


@pytest.fixture
def server(folder):
    made = Server(folder)
    yield made
    made.kill()


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
