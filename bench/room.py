"""A room at work: thirty tablets that type and look, two desks, two boards, eight probes, one server.

Each screen asks what its page's scripts ask, as often as they do, over one connection that stays. Beside the
figures it is looked whether everything acknowledged is in the record once.
"""

from __future__ import annotations

import json
import os
import random
import signal
import socket
import sqlite3
import subprocess
import sys
import threading
import time
from collections.abc import Callable
from contextlib import closing, suppress
from dataclasses import dataclass, field
from datetime import UTC, datetime
from http.client import HTTPConnection, HTTPException
from pathlib import Path

from thermion.demo import build_demo
from thermion.records.database import Database
from thermion.records.running import probes

RUN, ROWS, MARKS = 4, range(24, 32), (0.0, 300.0, 600.0, 900.0)
FRESH_S = 10.0  # pages open, the statistics load: not counted
Answer = tuple[int, bytes]


@dataclass
class Seen:
    """What the screens saw: seconds of polls and saves, answers that were none, what was acknowledged."""

    polls: list[float] = field(default_factory=list)
    saves: list[float] = field(default_factory=list)
    packs: list[float] = field(default_factory=list)
    codes: dict[str, int] = field(default_factory=dict)
    away: int = 0
    acknowledged: list[str] = field(default_factory=list)
    lock: threading.Lock = field(default_factory=threading.Lock)

    def answered(self, kind: str, status: int, took: float) -> None:
        with self.lock:
            getattr(self, kind).append(took)
            self.codes[f"{kind} {status}"] = self.codes.get(f"{kind} {status}", 0) + 1


class Served:
    """`thermion serve` under its supervisor, over a demo week."""

    def __init__(self, folder: Path) -> None:
        self.folder = folder
        database = Database(folder)
        database.migrate()
        build_demo(database)
        with database.writing() as session:
            self.keys = [probes.make_probe(session, f"board {i}", 1)[1] for i in range(8)]
        database.close()
        with socket.socket() as free:
            free.bind(("127.0.0.1", 0))
            self.port = free.getsockname()[1]
        words = [sys.executable, "-m", "thermion", "serve", "--data", str(folder), "--port", str(self.port)]
        self.started = subprocess.Popen(words, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
        while True:
            with suppress(OSError), closing(socket.create_connection(("127.0.0.1", self.port))):
                break
            time.sleep(0.05)

    @property
    def pid(self) -> int:
        with suppress(OSError, ValueError):
            return int(json.loads((self.folder / "in_use.json").read_text())["pid"])
        return 0

    def processor_s(self) -> float:
        """Seconds of a processor that the server has used."""
        spent = Path(f"/proc/{self.pid}/stat").read_text().rpartition(")")[2].split()
        return (int(spent[11]) + int(spent[12])) / os.sysconf("SC_CLK_TCK")

    def memory_mb(self) -> float:
        lines = Path(f"/proc/{self.pid}/status").read_text().splitlines()
        return next(float(x.split()[1]) for x in lines if x.startswith("VmRSS")) / 1024

    def kill(self) -> None:
        with suppress(ProcessLookupError):
            os.kill(self.pid or self.started.pid, signal.SIGKILL)

    def stop(self) -> None:
        self.started.terminate()
        self.started.wait()


class Screen(threading.Thread):
    """Something in the room with one connection, that does each of its acts every so often.

    Its seconds go by `pace` times as fast; what it is not answered it sends again, as an outbox does.
    """

    def __init__(self, served: Served, seen: Seen, number: int, pace: float, until: float) -> None:
        super().__init__(daemon=True)
        self.served, self.seen, self.pace, self.until = served, seen, pace, until
        self.chance = random.Random(number)
        self.number = number
        self.marks: dict[str, str] = {}
        self.headers: dict[str, str] = {}
        self.link: HTTPConnection | None = None
        self.acts: list[tuple[float, Callable[[], None]]] = []
        self.typed = 0
        self.drawn = -9.0

    def run(self) -> None:
        due = [
            (time.monotonic() + self.chance.uniform(0, every) / self.pace, every, act)
            for every, act in self.acts
        ]
        while time.monotonic() < self.until:
            due.sort(key=lambda item: item[0])
            at, every, act = due[0]
            time.sleep(max(min(at, self.until) - time.monotonic(), 0))
            with suppress(OSError, HTTPException):
                act()
            due[0] = (max(at + every / self.pace, time.monotonic()), every, act)
        if self.link:
            self.link.close()

    def asks(self, method: str, path: str, body: bytes = b"", **headers: str) -> tuple[int, bytes, str]:
        """An answer and its mark; OSError when there is none."""
        if self.link is None:
            self.link = HTTPConnection("127.0.0.1", self.served.port, timeout=10)
        try:
            self.link.request(method, path, body, headers)
            answer = self.link.getresponse()
            return answer.status, answer.read(), answer.getheader("ETag") or ""
        except (OSError, HTTPException):
            self.link.close()
            self.link = None
            with self.seen.lock:
                self.seen.away += 1
            raise

    def polls(self, path: str) -> bool:
        """True when there was something new."""
        known = {"If-None-Match": self.marks[path]} if path in self.marks else {}
        begun = time.monotonic()
        status, _, mark = self.asks("GET", path, **known)
        self.seen.answered("polls", status, time.monotonic() - begun)
        if mark:
            self.marks[path] = mark
        return status == 200

    def draws(self) -> None:
        """The curves, at most every three seconds, as the page does."""
        if time.monotonic() - self.drawn > 3.0 / self.pace:
            self.drawn = time.monotonic()
            self.asks("GET", f"/runs/{RUN}/curves.svg", **{"X-Inline": "1"})

    def looks(self) -> None:
        if self.polls(f"/runs/{RUN}/state.json"):
            self.draws()

    def types(self) -> None:
        """A value into one of the cells of its row, sent until it is answered."""
        if not self.headers:
            link = HTTPConnection("127.0.0.1", self.served.port, timeout=10)
            link.request("GET", "/token.json")
            given = link.getresponse()
            token = json.loads(given.read())["token"]
            cookie = (given.getheader("Set-Cookie") or "").split(";")[0]
            link.close()
            self.headers = {"Content-Type": "application/json", "X-CSRFToken": token, "Cookie": cookie}
        self.typed += 1
        name = f"tablet{self.number}-{self.typed}"
        item = {
            "entry": ROWS[self.number % len(ROWS)],
            "phase": "heating",
            "mark": MARKS[self.number // len(ROWS) % 2],
            "typed": f"{20 + self.typed % 50 / 10}",
            "client_id": name,
            "entered_at": datetime.now(UTC).isoformat(),
            "keep": True,
            "way": "mine",
        }
        body = json.dumps(item).encode()
        begun = time.monotonic()
        while True:
            try:
                status, _, _ = self.asks("POST", f"/runs/{RUN}/readings", body, **self.headers)
            except (OSError, HTTPException):
                status = 0
            if status and status < 500:
                break
            time.sleep(0.05)
        self.seen.answered("saves", status, time.monotonic() - begun)
        if status == 200:
            with self.seen.lock:
                self.seen.acknowledged.append(name)
        self.draws()

    def sends(self) -> None:
        begun = time.monotonic()
        pack = json.dumps([{"n": f"T{self.number}", "u": "Cel", "v": round(self.chance.uniform(20, 40), 2)}])
        key = {"Authorization": f"Bearer {self.served.keys[self.number % 8]}"}
        status, _, _ = self.asks("POST", "/senml", pack.encode(), **key)
        self.seen.answered("packs", status, time.monotonic() - begun)


def a_room(served: Served, tablets: int, seconds: float, pace: float = 1.0) -> tuple[Seen, list[Screen]]:
    """All screens of a room, ready to begin."""
    seen, until = Seen(), time.monotonic() + seconds
    line, where = (lambda s: lambda: s.polls("/classes/1/line")), "/board/classes/1/where.json"
    room: list[Screen] = []

    def screen(*acts: tuple[float, Callable[[Screen], Callable[[], None]]]) -> None:
        made = Screen(served, seen, len(room), pace, until)
        made.acts = [(every, act(made)) for every, act in acts]
        room.append(made)

    for _ in range(tablets):
        screen((2.0, lambda s: s.types), (5.0, lambda s: s.looks), (2.0, line))
    for _ in range(2):
        screen((5.0, lambda s: s.looks), (2.0, line))
    for _ in range(2):
        screen((2.0, lambda s: s.looks), (1.5, lambda s: lambda: s.polls(where)))
    for _ in range(8):
        screen((1.0, lambda s: s.sends))
    return seen, room


def of_hundred(values: list[float], share: float) -> float:
    ordered = sorted(values)
    return ordered[min(int(len(ordered) * share), len(ordered) - 1)] * 1000 if ordered else 0.0


def stored(folder: Path) -> list[str]:
    with closing(sqlite3.connect(folder / "thermion.sqlite3")) as record:
        found = record.execute("SELECT client_id FROM readings WHERE client_id LIKE 'tablet%'")
        return [name for (name,) in found]


def work(folder: Path, tablets: int = 30, seconds: float = 60.0, pace: float = 1.0, kills: int = 0) -> str:
    """A room at work for so long; with `kills`, its server dies so often meanwhile."""
    served = Served(folder)
    try:
        warm, screens = a_room(served, tablets, FRESH_S, pace)
        _through(screens)
        seen, screens = a_room(served, tablets, seconds, pace)
        for screen in screens:
            screen.number += 1000  # other names than while it was getting warm
        spent, memory, begun = served.processor_s(), served.memory_mb(), time.monotonic()
        if kills:
            threading.Thread(target=_kill, args=(served, kills, seconds), daemon=True).start()
        _through(screens)
        lasted = time.monotonic() - begun
        used = 0.0 if kills else (served.processor_s() - spent) / lasted
        grown = served.memory_mb() / memory
    finally:
        served.stop()
    there = stored(folder)
    mine = set(seen.acknowledged)
    bad = {k: n for k, n in seen.codes.items() if k.split()[1] not in ("200", "304")}
    lost, doubled = len(mine - set(there)), len(there) - len(set(there))
    del warm
    return (
        f"{tablets} tablets, 2 desks, 2 boards, 8 probes for {lasted:.0f} s at {pace:g} x"
        f"{f', the server killed {kills} times' if kills else ''}: {len(seen.polls)} polls p50/p95 "
        f"{of_hundred(seen.polls, 0.5):.0f}/{of_hundred(seen.polls, 0.95):.0f} ms, {len(seen.saves)} saves "
        f"{of_hundred(seen.saves, 0.5):.0f}/{of_hundred(seen.saves, 0.95):.0f} ms, {len(seen.packs)} packs "
        f"{of_hundred(seen.packs, 0.5):.0f}/{of_hundred(seen.packs, 0.95):.0f} ms, {used:.2f} of a processor, "
        f"memory {grown:.2f} x, {seen.away} times no answer, other answers {bad or 'none'}, "
        f"{lost} lost, {doubled} doubled"
    )


def _through(screens: list[Screen]) -> None:
    for screen in screens:
        screen.start()
    for screen in screens:
        screen.join()


def _kill(served: Served, kills: int, seconds: float) -> None:
    for _ in range(kills):
        time.sleep(seconds / (kills + 1))
        served.kill()


if __name__ == "__main__":
    import tempfile

    words = [float(word) for word in sys.argv[1:]]
    with tempfile.TemporaryDirectory() as name:
        tablets, seconds, pace, kills = [*words, *(30.0, 60.0, 1.0, 0.0)[len(words) :]]
        print(work(Path(name) / "room", int(tablets), seconds, pace, int(kills)))
