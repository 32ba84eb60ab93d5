"""Nonsense at the web's doors: said at its place or nothing there, never stored, never our own fault."""

from __future__ import annotations

import json
import re
from datetime import UTC, datetime
from io import BytesIO

import pytest

from tests.conftest import Crew
from tests.records.test_families import Test
from tests.web.conftest import fields_of, flat
from thermion.records.planning import briefs
from thermion.records.planning.classes import get_class
from thermion.records.tables import Reading

HUGE = 2**63


@pytest.fixture
def draft(crew, client) -> tuple[str, dict]:
    """A draft's address, and what its editor would send untouched."""
    address = f"/versions/{crew.plan('Avocet', until='draft')}"
    page = client.get(address).get_data(as_text=True)
    data = re.search(r'<script type="application/json"\s+id="page-data">(.*?)</script>', page, re.S)
    state = json.loads(data[1])["state"]
    return address, {k: state[k] for k in ("revision", "parts", "factors", "prediction", "note", "idea")}


@pytest.mark.parametrize(
    "change",
    [{"revision": "x"}, {"idea": [1]}, {"idea": HUGE}, {"parts": 3}, {"factors": {"gap_m": "wide"}}],
    ids=str,
)
def test_a_plan_that_is_none_is_refused_in_words(draft, client, change):
    address, plan = draft
    answer = client.put(address, json={**plan, **change})
    assert answer.status_code == 422
    assert "could not be understood" in answer.json["error"]


@pytest.mark.parametrize("missing", ["mark", "entry", "phase", "client_id"])
def test_a_probe_without_an_address_reads_nothing(crew, client, missing):
    run = crew.run(crew.plan("Avocet"))
    sent = {"entry": 1, "phase": "heating", "mark": 0, "client_id": "p"}
    del sent[missing]
    assert client.post(f"/runs/{run}/probe", json=sent).status_code == 422


def test_a_number_that_no_row_can_have_leads_nowhere(crew, client):
    run = crew.run(crew.plan("Avocet"))
    for address in (
        f"/runs/{HUGE}",
        f"/versions/{HUGE}",
        f"/classes/{HUGE}",
        f"/challenges/{HUGE}/findings",
        f"/runs/{run}/readings/{HUGE}/history.json",
        f"/pictures/{HUGE}.jpg",
    ):
        assert client.get(address).status_code == 404, address
    sent = {
        "entry": HUGE,
        "phase": "heating",
        "mark": 0,
        "typed": "20",
        "client_id": "a",
        "entered_at": datetime.now(UTC).isoformat(),
    }
    assert client.post(f"/runs/{run}/readings", json=sent).status_code == 422
    assert client.post("/challenges/1/builds", data={"team_id": HUGE}).status_code in (410, 422)
    assert client.post("/challenges/1/runs", data={"version": HUGE}).status_code == 422


def test_an_own_rule_with_a_metric_there_is_not_is_refused(crew, client):
    sent = fields_of(client.get("/challenges/1/brief/score").get_data(as_text=True))
    sent |= {"school": "own", "term_metric": ["warmth"], "term_weight": ["1"]}
    answer = client.post("/challenges/1/brief/score", data=sent)
    assert answer.status_code == 422
    with crew.database.session() as session:
        assert briefs.get_challenge(session, 1).school == "raw"


def test_lessons_open_after_the_marks_of_a_race_were_kept(crew, client):
    with crew.database.writing() as session:
        school_class = get_class(session, crew.class_id)
        made = briefs.create_challenge(session, school_class, "heat_through", "What lets heat through?").id
    at = f"/challenges/{made}/brief"
    sent = fields_of(client.get(f"{at}/marks").get_data(as_text=True))
    assert client.post(f"{at}/marks", data=sent).status_code == 303  # keep and go on, nothing touched
    with crew.database.session() as session:
        kept = briefs.brief_of(briefs.get_challenge(session, made)).marks["race"]
    assert kept == tuple(range(0, 301, 10))  # seconds, not sixths of a minute rounded
    assert client.get(f"{at}/lessons").status_code == 200


def test_the_kit_leads_nowhere_else(crew, client):
    elsewhere = "//elsewhere.invalid/"
    for sent in ({"item": "Thermometer", "have": "1", "back": elsewhere}, {"back": elsewhere}):
        answer = client.post("/classes/1/kit", data=sent)
        assert answer.status_code in (400, 415, 422)
        assert "elsewhere" not in (answer.location or "")
    sent = {"version": crew.plan("Avocet", until="signed"), "back": elsewhere}
    assert client.post("/classes/1/store/issue", data=sent).location.startswith("/classes/1/store")


def test_a_reading_is_reached_only_through_its_own_run(crew, client):
    first, second = crew.run(crew.plan("Avocet")), crew.run(crew.plan("Dunlin"))
    reading = crew.read(crew.entries(second)["Dunlin"], 0, "20", run_id=second).reading.id
    assert client.get(f"/runs/{second}/readings/{reading}/history.json").status_code == 200
    assert client.get(f"/runs/{first}/readings/{reading}/history.json").status_code == 410
    sent = {
        "entry": crew.entries(second)["Dunlin"],
        "phase": "heating",
        "mark": 300,
        "typed": "21",
        "client_id": "through-the-wrong-run",
        "entered_at": datetime.now(UTC).isoformat(),
    }
    assert client.post(f"/runs/{first}/readings", json=sent).status_code == 410
    with crew.database.session() as session:
        assert session.query(Reading).count() == 1


@pytest.mark.parametrize("typed", ["far", "2 m", "hot"])
def test_a_prediction_that_is_no_such_quantity_is_said_and_stays_as_typed(draft, client, typed):
    address, plan = draft
    said = client.put(address, json={**plan, "prediction": typed}).json
    assert said["errors"]["prediction"]
    assert said["said"] != "kept"
    assert said["prediction"] == typed
    assert f'"prediction": "{typed}"' in flat(client.get(address))


def test_marks_with_commas_are_read_as_the_class_writes_them(client, app):
    crew = Crew(app.extensions["thermion"], decimal="comma")
    read = client.post("/challenges/1/brief/marks/read", json={"text": "0; 2,5; 5"}).json
    assert read["minutes"] == [0, 2.5, 5]
    sent = fields_of(client.get("/challenges/1/brief/marks").get_data(as_text=True))
    assert client.post("/challenges/1/brief/marks", data={**sent, "heating": "0; 2,5; 5"}).status_code == 303
    with crew.database.session() as session:
        assert briefs.brief_of(briefs.get_challenge(session, 1)).marks["heating"] == (0, 150, 300)


def test_a_logger_in_a_test_of_water_is_no_thermometer(crew, client):
    cold = Test(crew, "keep_temp")
    log = b"time (s);Avocet\n0;-3\n60;2\n120;4\n"
    answer = client.post(f"/runs/{cold.run_id}/file", data={"file": (BytesIO(log), "ice.csv")})
    assert answer.status_code == 422
    assert "This run does not read temperatures" in flat(answer)
    with crew.database.session() as session:
        assert session.query(Reading).count() == 0


@pytest.mark.parametrize("toggle", [1e308, -1e308, -1, 1e6])
def test_a_minute_that_no_test_has_is_not_pointed_at(crew, client, toggle):
    sent = {"text": "0, 5", "toggle": toggle}
    assert client.post("/challenges/1/brief/marks/read", json=sent).status_code == 422
