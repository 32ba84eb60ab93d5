"""Polls: what did not change is a 304 whatever happens elsewhere, and what changed never is."""

from __future__ import annotations

import json
import re
import sqlite3

import pytest

from tests.web.test_probes import new_key, post, value
from thermion.records import moments
from thermion.records.running import runs
from thermion.records.tables import Challenge, Reading, Run
from thermion.web import create_app

# Everything that screens ask again and again, in the demo week: runs 4 (at marks), 10 (a station).
POLLS = (
    "/runs/4/state.json",
    "/runs/10/pulse.json",
    "/board/runs/4",
    "/board/runs/10",
    "/classes/1/line",
    "/board/classes/1/where.json",
    "/board/classes/1",
)
SIGNED = re.compile(r'name="csrf" content="[^"]*"')  # a token tells the second


class Room:
    """The demo week with its screens, at a moment that stands still."""

    def __init__(self, folder, monkeypatch) -> None:
        self.app = create_app({"DATA": folder, "WTF_CSRF_ENABLED": False, "TESTING": True})
        self.client = self.app.test_client()
        self.database = self.app.extensions["thermion"]
        now = moments.now()
        monkeypatch.setattr(moments, "now", lambda: now)
        self.now = now
        self.marks: dict[str, str] = {}
        self.bodies: dict[str, str] = {}

    def look(self) -> tuple[set[str], set[str]]:
        """Which addresses have something new to say, and which show something else than before."""
        new, other = set(), set()
        for address in POLLS:
            known = {"If-None-Match": self.marks[address]} if address in self.marks else {}
            answer = self.client.get(address, headers=known)
            body = SIGNED.sub("", self.client.get(address).text)
            if answer.status_code != 304:
                new.add(address)
                self.marks[address] = answer.headers["ETag"]
            if self.bodies.get(address) != body:
                other.add(address)
                self.bodies[address] = body
        return new, other

    # ---- what happens in a room

    def reads(self, run: int = 4) -> None:
        with self.database.session() as session:
            item = runs.get_run(session, run)
            entry, phase = item.entries[0].id, item.phases[0].phase
            count = session.query(Reading).count()
        given = {
            "entry": entry,
            "phase": phase,
            "mark": 0,
            "typed": f"{20 + count % 7 / 10}",
            "client_id": f"poll-{count}",
            "entered_at": self.now.isoformat(),
            "way": "mine",
            "keep": True,
        }
        assert self.client.post(f"/runs/{run}/readings", json=given).status_code == 200

    def tries(self) -> None:
        with self.database.session() as session:
            entry = runs.get_run(session, 10).entries[0].id
        form = {"entry": entry, "sprays": "100", "caught_m3": "12", "once": f"try{entry}"}
        assert self.client.post("/runs/10/attempts", data=form).status_code == 303

    def steps(self) -> None:
        line = self.client.get("/classes/1/line").json
        assert (
            self.client.post("/classes/1/line", json={"what": "next", "seen": line["mark"]}).json["said"]
            == ""
        )

    def tells(self) -> None:
        story = {
            "title": "Keeper's supper by lamp tonight",
            "story": "",
            "success": "",
            "heat_source": "lamp",
        }
        with self.database.session() as session:
            supper = session.get_one(Run, 4).challenge_id
        assert self.client.post(f"/challenges/{supper}/brief/task", data=story).status_code == 303

    def closes(self) -> None:
        assert self.client.post("/runs/4/close").status_code == 303

    def elsewhere(self) -> None:
        """A class of its own is made, with a challenge, and its plans begun."""
        with self.database.session() as session:
            other = session.query(Challenge).filter(Challenge.class_id == 2).first().id
        assert self.client.post(f"/challenges/{other}/copy", data={"shelf": "1"}).status_code == 303
        self.look()
        assert self.client.post(f"/challenges/{other}/earlier").status_code == 303


@pytest.fixture
def room(demo_copy, monkeypatch) -> Room:
    made = Room(demo_copy(), monkeypatch)
    made.look()
    assert made.look()[0] == set()
    return made


OF_RUN_4 = {"/runs/4/state.json", "/board/runs/4"}


@pytest.mark.parametrize(
    ("what", "quiet"),
    [
        ("reads", set(POLLS) - OF_RUN_4 - {"/board/classes/1"}),
        ("tries", OF_RUN_4 | {"/classes/1/line", "/board/classes/1/where.json"}),
        ("steps", {"/runs/4/state.json", "/runs/10/pulse.json"}),
        ("tells", {"/runs/10/pulse.json"}),
        ("closes", {"/runs/10/pulse.json"}),
        ("elsewhere", set(POLLS) - {"/board/classes/1"}),
    ],
)
def test_a_poll_is_told_of_what_changed_and_of_nothing_else(room, what, quiet):
    getattr(room, what)()
    new, other = room.look()
    assert other <= new  # never a 304 for what looks different now
    assert not new & quiet
    assert what == "elsewhere" or new


def test_eight_boards_sending_every_second_leave_the_polls_of_other_runs_alone(room):
    key = new_key(room.client, "eight")
    room.look()
    for second in range(3):
        answer = post(room.client, key, *(value(f"T{i}", t=-second) for i in range(8)))
        assert json.loads(answer.data)["stored"] == 8
    new, _ = room.look()
    assert new <= {"/board/classes/1"}


def test_what_another_program_writes_into_the_file_is_seen_everywhere(room):
    with sqlite3.connect(room.database.path) as other:
        other.execute("UPDATE runs SET note = 'by hand' WHERE id = 10")
    assert room.look()[0] == set(POLLS)
