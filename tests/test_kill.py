"""The server is killed at any moment, again and again, while four desks type: what it said it has, it has.

`KILLS=300 pytest tests/test_kill.py -s` does it for longer and says what came of it.
"""

from __future__ import annotations

import json
import os
import random
import signal
import sqlite3
import subprocess
import sys
import threading
import time
from contextlib import closing, suppress
from datetime import UTC, datetime, timedelta
from http.client import HTTPConnection, HTTPException
from pathlib import Path

import pytest

from tests.conftest import Crew
from tests.serving import Server, Supervised
from thermion.records.database import Database
from thermion.records.errors import Refused
from thermion.records.keeping import copies
from thermion.records.keeping.folder import alone_in

KILLS = int(os.environ.get("KILLS", "4"))


class Desk(threading.Thread):
    """Types one value after the other into its cell, and each again until it is acknowledged."""

    def __init__(self, server: Server, run: int, entry: int, mark: int = 300) -> None:
        super().__init__(daemon=True)
        self.server, self.run_id, self.entry, self.mark = server, run, entry, mark
        self.acknowledged: list[str] = []
        self.refused: list[str] = []
        self.headers: dict[str, str] = {}
        self.going = True

    def run(self) -> None:
        number, last = 0, ""
        while self.going:
            name = f"desk{self.entry}-{self.mark}-{number}"
            item = {
                "entry": self.entry,
                "phase": "heating",
                "mark": self.mark,
                "typed": f"{20 + number % 50 / 10}",
                "client_id": name,
                "entered_at": datetime.now(UTC).isoformat(),
                "keep": True,
                "supersedes": None,
                "after": last,
            }
            while self.going and not self.sent(item):
                time.sleep(0.02)
            if self.going:
                number, last = number + 1, name

    def sent(self, item: dict[str, object]) -> bool:
        try:
            with closing(HTTPConnection("127.0.0.1", self.server.port, timeout=3)) as link:
                if not self.headers:
                    link.request("GET", "/token.json")
                    given = link.getresponse()
                    self.headers = {
                        "Content-Type": "application/json",
                        "X-CSRFToken": json.loads(given.read())["token"],
                        "Cookie": given.getheader("Set-Cookie", "").split(";")[0],
                    }
                link.request("POST", f"/runs/{self.run_id}/readings", json.dumps(item), self.headers)
                answer = link.getresponse()
                said = answer.read().decode()
        except (OSError, HTTPException):
            return False
        if answer.status == 200:
            self.acknowledged.append(str(item["client_id"]))
        elif answer.status < 500:
            self.refused.append(said)
        return answer.status < 500


def stored(folder) -> list[str]:
    with closing(sqlite3.connect(folder / "thermion.sqlite3")) as record:
        assert record.execute("PRAGMA integrity_check").fetchone() == ("ok",)
        return [row[0] for row in record.execute("SELECT client_id FROM readings")]


def at_work(desks: list[Desk]) -> None:
    """Wait until another reading has been acknowledged."""
    before, tries = sum(len(desk.acknowledged) for desk in desks), 0
    while sum(len(desk.acknowledged) for desk in desks) == before and tries < 600:
        time.sleep(0.05)
        tries += 1


def class_at_work(folder: Path) -> tuple[int, list[int]]:
    """A class with a run that began six minutes ago; its number and those of its rows."""
    database = Database(folder)
    database.migrate()
    crew = Crew(database)
    plans = [crew.plan(team) for team in ("Avocet", "Dunlin", "Godwit")]
    run = crew.run(*plans, at=datetime.now(UTC) - timedelta(minutes=6))
    entries = list(crew.entries(run).values())
    database.close()
    return run, entries


def ended(desks: list[Desk]) -> list[str]:
    """What was acknowledged, when all desks have stopped."""
    for desk in desks:
        desk.going = False
    for desk in desks:
        desk.join()
    assert [said for desk in desks for said in desk.refused] == []
    return [name for desk in desks for name in desk.acknowledged]


def test_whatever_was_acknowledged_is_there_once_after_every_kill(tmp_path):
    folder, draw = tmp_path / "data", random.Random(11)
    run, entries = class_at_work(folder)
    server = Server(folder)
    desks = [Desk(server, run, entry) for entry in entries]
    for desk in desks:
        desk.start()
    for number in range(KILLS):
        if number % 2:  # while it is at work, however slow the machine; else also while it starts
            at_work(desks)
        time.sleep(draw.uniform(0.0, 0.5))
        server.kill()
        acknowledged = [name for desk in desks for name in desk.acknowledged]
        there = stored(folder)
        assert set(acknowledged) <= set(there)
        assert len(there) == len(set(there))
        server.start()
    acknowledged = ended(desks)
    server.kill()
    there = stored(folder)
    assert set(acknowledged) <= set(there)
    assert len(there) - len(acknowledged) <= len(desks)  # at most what was on its way in the end
    assert len(acknowledged) >= KILLS // 2
    print(f"\n{KILLS} kills, {len(acknowledged)} acknowledged readings: 0 lost, 0 doubled")


def test_a_server_that_dies_is_started_again_and_eight_clients_lose_nothing(tmp_path):
    folder, draw = tmp_path / "data", random.Random(12)
    run, entries = class_at_work(folder)
    server = Supervised(folder)
    desks = [Desk(server, run, entry, mark) for entry in entries for mark in (0, 300)]
    for desk in desks:
        desk.start()
    for _ in range(KILLS):
        at_work(desks)
        time.sleep(draw.uniform(0.0, 0.3))
        server.kill()
    at_work(desks)
    acknowledged = ended(desks)
    said = [line for line in server.lines() if "started again" in line]
    assert len(said) == KILLS  # a line each, which counts
    assert f"SIGKILL) and is started again, {KILLS} times so far" in said[-1]
    pid = server.server_pid()
    assert server.stop() == 0, server.lines()  # told to stop, it is not started again
    with pytest.raises(ProcessLookupError):
        os.kill(pid, 0)
    there = stored(folder)
    assert set(acknowledged) <= set(there)
    assert len(there) == len(set(there))
    print(f"\n{KILLS} kills under the supervisor, {len(acknowledged)} acknowledged: 0 lost, 0 doubled")


def test_a_folder_that_is_served_is_left_alone_by_every_other_start(tmp_path):
    folder = tmp_path / "data"
    class_at_work(folder)
    (folder / "demo").write_text("made by thermion demo\n")
    server = Supervised(folder)
    before = stored(folder)
    file = tmp_path / "copy.sqlite3"
    copies.copy(folder / "thermion.sqlite3", file)
    for words in (["demo", "--fresh"], ["demo"], ["serve"], ["restore", str(file)], ["import", str(file)]):
        found = subprocess.run(
            [sys.executable, "-m", "thermion", *words, "--data", str(folder)],
            capture_output=True,
            text=True,
            stdin=subprocess.DEVNULL,
            check=False,
        )
        assert found.returncode == 1, words
        assert found.stderr.count("\n") == 1, found.stderr
        assert "already runs" in found.stderr or words[0] == "import"
    assert stored(folder) == before
    server.kill()
    server.wait()  # and it goes on
    os.kill(server.started.pid, signal.SIGKILL)  # a supervisor that is killed takes its server with it
    server.started.wait()
    while True:
        with suppress(Refused), alone_in(folder):
            break
        time.sleep(0.05)
