"""The computer's clock is set while a run is on: what the pages say."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta

from thermion.records import moments
from thermion.records.moments import OwnClock
from thermion.records.running import runs


def test_every_page_says_in_one_line_that_the_clock_was_set_and_refuses_nothing(crew, client, monkeypatch):
    run = crew.run(crew.plan("Avocet"), at=moments.now() - timedelta(minutes=6))
    said = "clock is 120 min behind the clock of the runs"
    assert said not in client.get("/").text
    back = OwnClock(lambda: datetime.now(UTC) - timedelta(hours=2))
    back._base = moments.OWN._base  # begun before it was set
    monkeypatch.setattr(moments, "OWN", back)
    assert said in client.get("/").text
    assert said in client.get(f"/runs/{run}").text
    crew.read(crew.entries(run)["Avocet"], 5, "31", moment=moments.now())
    with crew.database.writing() as session:
        runs.close_run(runs.get_run(session, run))
    assert said not in client.get("/").text
