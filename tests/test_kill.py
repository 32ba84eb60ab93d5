"""The server is killed at any moment, again and again, while four desks type: what it said it has, it has.

`KILLS=300 pytest tests/test_kill.py -s` does it for longer and says what came of it.
"""

from __future__ import annotations

import json
import os
import random
import sqlite3
import threading
import time
from contextlib import closing
from datetime import UTC, datetime, timedelta
from http.client import HTTPConnection, HTTPException

from tests.conftest import Crew
from tests.serving import Server
from thermion.records.database import Database

KILLS = int(os.environ.get("KILLS", "6"))


class Desk(threading.Thread):
    """Types one value after the other into its cell, and each again until it is acknowledged."""

    def __init__(self, server: Server, run: int, entry: int) -> None:
        super().__init__(daemon=True)
        self.server, self.run_id, self.entry = server, run, entry
        self.acknowledged: list[str] = []
        self.refused: list[str] = []
        self.headers: dict[str, str] = {}
        self.going = True

    def run(self) -> None:
        number, last = 0, ""
        while self.going:
            name = f"desk{self.entry}-{number}"
            item = {
                "entry": self.entry,
                "phase": "heating",
                "mark": 300,
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


def test_whatever_was_acknowledged_is_there_once_after_every_kill(tmp_path):
    folder, draw = tmp_path / "data", random.Random(11)
    database = Database(folder)
    database.migrate()
    crew = Crew(database)
    plans = [crew.plan(team) for team in ("Avocet", "Dunlin", "Godwit")]
    run = crew.run(*plans, at=datetime.now(UTC) - timedelta(minutes=6))
    entries = list(crew.entries(run).values())
    database.close()
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
    time.sleep(0.5)
    for desk in desks:
        desk.going = False
    for desk in desks:
        desk.join(5)
    server.kill()
    there, acknowledged = stored(folder), [name for desk in desks for name in desk.acknowledged]
    assert [said for desk in desks for said in desk.refused] == []
    assert set(acknowledged) <= set(there)
    assert len(there) - len(acknowledged) <= len(desks)  # at most what was on its way in the end
    assert len(acknowledged) >= KILLS // 2
    print(f"\n{KILLS} kills, {len(acknowledged)} acknowledged readings: 0 lost, 0 doubled")
