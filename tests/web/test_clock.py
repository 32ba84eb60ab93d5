"""The computer's clock is set while a run is on: what the pages say."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta

import pytest
from flask.sessions import SecureCookieSessionInterface
from itsdangerous import TimestampSigner

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


@pytest.mark.parametrize(
    ("key", "minutes", "read_at"),
    [("21 min", 21, 20), ("11 min", 11, 10)],
    ids=["the whole test was ten minutes ahead", "the clock was, only since a new start"],
)
def test_a_run_follows_the_clock_that_was_set_right_by_one_key(
    crew, client, monkeypatch, key, minutes, read_at
):
    """It is eleven past twelve. The clock said 21 past, at least since Thermion was started anew."""
    seconds = 0.0
    wrong = timedelta(minutes=10)
    twelve = datetime(2026, 6, 1, 12, 0, tzinfo=UTC)

    def wall() -> datetime:
        return twelve + timedelta(minutes=11) + wrong + timedelta(seconds=seconds)

    clock = OwnClock(wall, lambda: seconds)
    monkeypatch.setattr(moments, "OWN", clock)
    run = crew.run(crew.plan("Avocet"), at=twelve)
    row = crew.entries(run)["Avocet"]
    crew.read(row, 20, "31", moment=clock.now() - timedelta(minutes=1))
    wrong = timedelta()  # somebody sets it right
    assert "10 min behind" in client.get("/").text
    page = client.get(f"/runs/{run}").text
    assert "how long has Keeper&#39;s supper been on?" in page
    assert key in page
    way = "went" if minutes == 21 else "stood"
    assert client.post("/data/clock", data={"way": way}).status_code == 303
    assert "clock of the runs" not in client.get("/").text
    assert moments.now() == twelve + timedelta(minutes=11)  # the computer's again
    state = client.get(f"/runs/{run}/state.json").json
    started = datetime.fromisoformat(state["phases"][0]["started"])
    assert (moments.now() - started) == timedelta(minutes=minutes)
    (cell,) = [c for c in state["cells"] if c["text"]]
    assert cell["time"] == f"{read_at}:00"


def test_a_device_stays_in_when_the_clock_is_set_back(client, app, monkeypatch):
    with client.session_transaction() as session:
        session["door"] = "inside"
    now = TimestampSigner.get_timestamp
    monkeypatch.setattr(TimestampSigner, "get_timestamp", lambda signer: now(signer) - 3600)
    with client.session_transaction() as session:
        assert session["door"] == "inside"
    usual = SecureCookieSessionInterface().get_signing_serializer(app)
    cookie = client.get_cookie(app.config["SESSION_COOKIE_NAME"])
    with pytest.raises(Exception, match="Signature age"):  # which it was before
        usual.loads(cookie.value, max_age=31 * 24 * 3600)
