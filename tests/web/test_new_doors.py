"""What comes in at the doors of races, turns, later readings, pictures and conclusions."""

from __future__ import annotations

from datetime import UTC, datetime
from io import BytesIO

import pytest

from tests.conftest import photograph
from tests.records.test_families import Test
from thermion.records.running import attempts, runs
from thermion.records.tables import AttemptRow, Reading


def stored(crew) -> tuple[int, int]:
    with crew.database.session() as session:
        return session.query(Reading).count(), session.query(AttemptRow).count()


@pytest.mark.parametrize("key", ["heat_through", "melt_pair", "rain_catch"])
@pytest.mark.parametrize("door", ["start", "probe", "stop", "false_start"])
def test_nonsense_at_the_doors_of_a_race_is_refused_and_stores_nothing(crew, client, key, door):
    run = Test(crew, key).run_id
    now = datetime.now(UTC).isoformat()
    for sent in (
        [],
        {},
        {"entry": "x"},
        {"entry": 1e99, "typed": "20", "pressed_at": now},
        {"entry": 1, "typed": "20", "pressed_at": "yesterday"},
        {"entry": 1, "typed": "<b>", "pressed_at": now, "client_id": "a", "seen": 5},
        {"entry": 1, "typed": "nan", "pressed_at": "2020-01-01T00:00:00"},
    ):
        answer = client.post(f"/runs/{run}/races/{door}", json=sent)
        harmless = door == "false_start" and answer.status_code == 200
        assert harmless or answer.status_code in (400, 409, 410, 422), sent
        assert harmless or "error" in answer.json or "ask" in answer.json
    assert stored(crew) == (0, 0)


def test_a_test_at_marks_takes_no_turns_and_a_station_no_marks(crew, client):
    melt, rain = Test(crew, "melt_pair"), Test(crew, "rain_catch")
    answer = client.post(f"/runs/{melt.run_id}/attempts", data={"entry": 1, "once": "x"})
    assert "read at marks" in answer.get_data(as_text=True)
    sent = {
        "entry": rain.rows["Avocet"],
        "phase": "turns",
        "mark": 0,
        "typed": "20",
        "client_id": "y",
        "entered_at": datetime.now(UTC).isoformat(),
    }
    answer = client.post(f"/runs/{rain.run_id}/readings", json=sent)
    assert (answer.status_code, answer.json["error"]) == (422, "There is no such mark in this run.")
    assert stored(crew) == (0, 0)


def test_a_leak_that_cannot_be_read_is_said_on_the_page_and_not_stored(crew, client):
    rain = Test(crew, "rain_catch")
    sent = {"entry": rain.rows["Avocet"], "typed": "<i>much</i>", "once": "o"}
    page = client.post(f"/runs/{rain.run_id}/later", data=sent, follow_redirects=True)
    text = page.get_data(as_text=True)
    assert "is not a number" in text
    assert "&lt;i&gt;much" in text
    assert stored(crew) == (0, 0)


def test_a_picture_is_served_as_a_picture_and_nothing_else(crew, client):
    version = crew.plan("Avocet")
    address = f"/versions/{version}/pictures"
    ok = client.post(address, data={"picture": (BytesIO(photograph()), "<x>.png.exe")})
    assert ok.status_code == 303
    served = client.get("/pictures/1.jpg")
    assert served.mimetype == "image/jpeg"
    assert served.headers["X-Content-Type-Options"] == "nosniff"
    assert "sandbox" in served.headers["Content-Security-Policy"]
    assert b"Telephone" not in served.get_data()
    refused = client.post(address, data={"picture": (BytesIO(b"<script>"), "a.jpg")})
    assert refused.status_code == 422
    assert "not a JPEG, PNG or WebP" in refused.get_data(as_text=True)
    client.post(f"{address}/1/remove")
    assert client.get("/pictures/1.jpg").status_code == 410


def test_a_closed_station_says_so_and_opens_again(crew, client):
    test = Test(crew, "sail_run")
    test.act(
        attempts.save_attempt,
        attempts.AttemptInput(entry_id=test.rows["Avocet"], typed={"stop_m": "80"}, client_id="one"),
    )
    test.act(lambda s, r, b: runs.close_run(r))
    late = {"entry": test.rows["Dunlin"], "stop_m": "90", "once": "late"}
    answer = client.post(f"/runs/{test.run_id}/attempts", data=late)
    assert answer.status_code == 422
    assert "Open it again" in answer.get_data(as_text=True)
    client.post(f"/runs/{test.run_id}/reopen")
    assert client.post(f"/runs/{test.run_id}/attempts", data=late).status_code == 303
    assert stored(crew) == (0, 2)


def test_words_in_a_conclusion_stay_words(crew, client):
    address = f"/challenges/{crew.challenge_id}"
    client.post(f"{address}/conclusions", data={"text": "<b>Felt</b> & foil", "to": "77"})
    client.post(f"{address}/conclusions", data={"text": "<b>Felt</b> & foil"})
    page = client.get(f"{address}/record").get_data(as_text=True)
    assert "&lt;b&gt;Felt&lt;/b&gt; &amp; foil" in page
    assert "<b>Felt" not in page
