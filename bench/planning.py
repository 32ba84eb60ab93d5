"""Planning: a week laid out anew after a step was moved, and briefs tried out by simulation."""

from __future__ import annotations

import statistics
import time
from datetime import UTC, datetime, timedelta
from pathlib import Path

from thermion.core.kinds import all_kinds
from thermion.records.planning import briefs, week
from thermion.records.planning.classes import TeamInput, save_class
from thermion.web import create_app

MONDAY = datetime(2026, 6, 1, 9, 0, tzinfo=UTC)


def _application(folder: Path):
    """12 teams, 5 lessons, a challenge of each of the 7 families."""
    app = create_app({"DATA": folder, "WTF_CSRF_ENABLED": False})
    with app.extensions["thermion"].writing() as session:
        made = save_class(
            session,
            name="Bench",
            temp_unit="degC",
            decimal="point",
            zone="UTC",
            teams=[TeamInput(name=f"Team {chr(65 + i)}", letter=chr(65 + i)) for i in range(12)],
        )
        ids = {k: briefs.create_challenge(session, made, k, k).id for k in all_kinds()}
        for day in range(5):
            week.save_lesson(session, made.id, MONDAY + timedelta(days=day), 4500, 300)
    return app, made.id, ids


def replanning(folder: Path) -> str:
    """Server time of moving one step: stored, the whole week laid out anew, the strip drawn."""
    app, class_id, ids = _application(folder / "week")
    client = app.test_client()
    address = f"/challenges/{ids['wind_hoist']}/brief/lessons/step"
    times, only_plan = [], []
    for i in range(40):
        begin = time.perf_counter()
        answer = client.post(address, json={"phase": "build", "minutes": 20 + i % 5})
        times.append(time.perf_counter() - begin)
        assert answer.status_code == 200
        with app.extensions["thermion"].session() as session:
            begin = time.perf_counter()
            plan = week.week_of(session, class_id)
            week.remedies_of(plan, ids["wind_hoist"])
            only_plan.append(time.perf_counter() - begin)
    return (
        f"plan a week of 5 lessons x 7 challenges, 12 teams: "
        f"{statistics.median(times) * 1e3:.0f} ms with saving and drawing (aim 50), "
        f"laying out and remedies alone {statistics.median(only_plan) * 1e3:.0f} ms"
    )


def tryouts(folder: Path) -> str:
    """200 designs of each family through the page, batch by batch."""
    app, _, ids = _application(folder / "try")
    client = app.test_client()
    took = {}
    for key, challenge_id in ids.items():
        begin = time.perf_counter()
        while not client.post(f"/challenges/{challenge_id}/brief/try", json={}).json["html"]:
            pass
        took[key] = time.perf_counter() - begin
    listed = ", ".join(f"{k} {s:.2f}" for k, s in took.items())
    return f"try 200 designs out, seconds with all requests (aim 2): {listed}"


MEASURES = (replanning, tryouts)
