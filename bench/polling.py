"""A day's polling by a desk and two boards: does the server's memory stay flat?"""

from __future__ import annotations

from datetime import timedelta
from pathlib import Path

from flask import Flask

from thermion.demo import build_demo
from thermion.records import moments
from thermion.records.planning import week
from thermion.web import create_app

ADDRESSES = ("/classes/1/line", "/board/classes/1/where.json", "/board/classes/1", "/runs/4/state.json")
EACH_2_S = 43_200  # polls of one screen in a day
CHANGE_EVERY = 300  # something is stored meanwhile: every ten minutes of a screen's polls


def resident_mb() -> float:
    """Memory that this process holds [MB]; 0 where the system does not say."""
    status = Path("/proc/self/status")
    if not status.exists():
        return 0.0
    line = next(x for x in status.read_text().splitlines() if x.startswith("VmRSS"))
    return float(line.split()[1]) / 1024


def _poll(app: Flask, times: int, start: int) -> None:
    client = app.test_client()
    marks: dict[str, str] = {}
    for i in range(start, start + times):
        for address in ADDRESSES:
            headers = {"If-None-Match": marks[address]} if address in marks else {}
            answer = client.get(address, headers=headers, follow_redirects=False)
            if answer.status_code == 200:
                marks[address] = answer.headers["ETag"]
        if i % CHANGE_EVERY == 0:
            with app.extensions["thermion"].writing() as session:
                first = week.lessons_of(session, 1)[0]
                later = first.starts_at - timedelta(seconds=1)
                week.save_lesson(session, 1, later, first.length_s, first.pack_up_s, first.id)


def flat_memory(folder: Path, share: float = 0.1) -> tuple[float, float, int]:
    """(MB after a tenth of the polls, MB after all of them, polls) of a `share` of a day."""
    app = create_app({"DATA": folder, "DEMO": True})
    build_demo(app.extensions["thermion"], moments.now())
    polls = int(EACH_2_S * share)
    _poll(app, polls // 10, 0)
    first = resident_mb()
    _poll(app, polls - polls // 10, polls // 10)
    return first, resident_mb(), polls * len(ADDRESSES)


def measure(folder: Path) -> str:
    first, last, polls = flat_memory(folder / "polling")
    return (
        f"{polls} polls by a desk and two boards, a tenth of a day: {first:.0f} MB after a tenth of them, "
        f"{last:.0f} MB at the end, ratio {last / first if first else 0:.2f} (aim 1.1)"
    )
