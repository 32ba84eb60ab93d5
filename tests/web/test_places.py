"""Each place of the path, from the first visit to what it keeps."""

from __future__ import annotations

import io
import re
from datetime import UTC, datetime, timedelta

import pytest

from tests.conftest import Crew
from tests.web.conftest import flat
from thermion.core.physics.materials import MATERIALS
from thermion.records.planning import briefs
from thermion.records.planning.classes import get_class
from thermion.records.running import runs
from thermion.records.tables import Challenge

TASK = {
    "title": "Keeper's supper",
    "story": "A week without power.",
    "success": "Hottest mug.",
    "heat_source": "lamp",
}


def page(client, address: str) -> str:
    answer = client.get(address)
    assert answer.status_code == 200, address
    return answer.get_data(as_text=True)


def test_an_empty_application_says_what_to_do_first(client):
    first = page(client, "/")
    assert "Start with a class" in first
    assert 'href="/classes/new"' in first


def test_home_shows_every_challenge_with_its_one_next_step(client, crew):
    crew.plan("Avocet", until="waiting")
    with crew.database.writing() as session:
        school_class = briefs.get_challenge(session, 1).school_class
        briefs.create_challenge(session, school_class, "solar_oven", "Second supper")
    shown = page(client, "/")
    steps = re.findall(r'class="key text-left px-2!"[^>]*>([^<]+)</a>', shown)
    assert steps == ["1 plan waits for your check", "Finish the brief"]


def test_the_task_is_kept_and_another_heat_source_asks_for_the_cautions_again(client, crew):
    assert client.post("/challenges/1/brief/task", data=TASK).status_code == 303
    shown = page(client, "/challenges/1/brief/task")
    assert "A week without power." in shown
    assert re.search(r'value="lamp"\s+checked', shown)
    with crew.database.session() as session:
        challenge = briefs.get_challenge(session, 1)
        assert challenge.cautions_seen_at is None
    assert "The lamp is hot" in page(client, "/challenges/1/brief/safety")
    client.post("/challenges/1/brief/safety")
    client.post("/challenges/1/brief/task", data=TASK)  # nothing new: stays read
    with crew.database.session() as session:
        assert briefs.get_challenge(session, 1).cautions_seen_at is not None


@pytest.mark.parametrize(
    ("field", "value", "says"),
    [
        ("title", "", "Give the challenge a title"),
        ("title", "x" * 81, "At most 80"),
        ("story", "x" * 2001, "At most 2000"),
        ("heat_source", "fire", "Not a valid choice"),
    ],
)
def test_a_task_that_cannot_be_kept(client, crew, field, value, says):
    answer = client.post("/challenges/1/brief/task", data={**TASK, field: value})
    assert answer.status_code == 422
    assert says in answer.get_data(as_text=True)
    with crew.database.session() as session:
        assert briefs.get_challenge(session, 1).title == "Keeper's supper"


def materials(**more: str) -> dict[str, str]:
    points = {f"points_{key}": "2" for key in MATERIALS}
    return {"credit": "1", "on_foil": "y", "limit_foil": "3", **points, **more}


def test_materials_on_offer_with_limits_and_points(client, crew):
    assert client.post("/challenges/1/brief/materials", data=materials()).status_code == 303
    with crew.database.session() as session:
        brief = briefs.brief_of(briefs.get_challenge(session, 1))
    assert [(o.material, o.limit, o.points) for o in brief.offers] == [("foil", 3, 2)]
    free = materials(on_felt="y", limit_felt="", points_felt="2,5")
    client.post("/challenges/1/brief/materials", data=free)
    with crew.database.session() as session:
        brief = briefs.brief_of(briefs.get_challenge(session, 1))
    assert ("felt", None, 2.5) in [(o.material, o.limit, o.points) for o in brief.offers]


@pytest.mark.parametrize(
    ("change", "says"),
    [
        ({"limit_foil": "-1"}, "At least 0"),
        ({"limit_foil": "many"}, "is not a number"),
        ({"points_foil": ""}, "A number is needed"),
        ({"on_foil": ""}, "Offer at least one"),
    ],
)
def test_materials_that_make_no_sense(client, crew, change, says):
    sent = materials(**change)
    if not sent["on_foil"]:
        del sent["on_foil"]
    answer = client.post("/challenges/1/brief/materials", data=sent)
    assert answer.status_code == 422
    assert says in answer.get_data(as_text=True)


def test_a_class_that_cannot_be_kept_loses_no_typing(client, crew):
    sent = {
        "name": "Relief crew",
        "temp_unit": "degC",
        "decimal": "point",
        "zone": "UTC",
        "team_name": ["Knot", "Plover", "knot"],
        "team_id": ["", "", ""],
    }
    answer = client.post("/classes/new", data=sent)
    shown = answer.get_data(as_text=True)
    assert answer.status_code == 422
    assert "Two teams are called knot." in shown
    assert 'value="Plover"' in shown
    zone = client.post("/classes/new", data={**sent, "zone": "Mars/Olympus"})
    assert zone.status_code == 422


def test_what_was_planned_is_shown_with_its_state_and_its_question(client, crew):
    version = crew.plan("Avocet", until="waiting")
    client.post(f"/versions/{version}/back", data={"remark": "Where does the air go?"})
    shown = page(client, f"/versions/{version}")
    assert "Sent back: Where does the air go?" in shown
    refused = client.post(f"/versions/{version}/issue")
    assert (refused.status_code, "signed off" in refused.get_data(as_text=True)) == (422, True)
    listed = client.get("/challenges/1/builds.json").json["rows"]
    assert {r["state"] for r in listed} == {"draft"}
    assert sum(r["units"] for r in listed) == 10


def started(crew: Crew, minutes: float = 7) -> int:
    at = datetime.now(UTC) - timedelta(minutes=minutes)
    return crew.run(crew.plan("Avocet"), crew.plan("Dunlin"), at=at)


def test_the_state_of_a_run_holds_rows_in_room_order_and_every_mark(client, crew):
    state = client.get(f"/runs/{started(crew)}/state.json").json
    assert [r["name"] for r in state["rows"]] == ["Air", "Avocet", "Dunlin"]
    heating, cooling = state["phases"]
    assert [s["label"] for s in heating["slots"]] == ["0", "5", "10", "15", "20", "25", "30"]
    assert heating["slots"][-1]["until"] == 2100  # the last mark stays due for one interval
    assert (heating["started"] is None, cooling["started"]) == (False, None)


def test_phases_start_in_order_and_once(client, crew):
    run = crew.run(crew.plan("Avocet"), start=False)
    early = client.post(f"/runs/{run}/start.json", json={"phase": "cooling"})
    assert (early.status_code, "before it" in early.json["error"]) == (422, True)
    first = client.post(f"/runs/{run}/start.json", json={"phase": "heating"}).json
    again = client.post(f"/runs/{run}/start.json", json={"phase": "heating"}).json
    assert first["phases"][0]["started"] == again["phases"][0]["started"]
    closed = client.post(f"/runs/{run}/close")
    assert closed.location == "/challenges/1/findings"
    late = client.post(f"/runs/{run}/start.json", json={"phase": "cooling"})
    assert "closed" in late.json["error"]


def test_while_a_clock_runs_every_page_of_the_class_leads_back_to_it(client, crew):
    run = started(crew)
    for address in ("/challenges/1/builds", "/challenges/1/findings", "/challenges/1/record"):
        shown = page(client, address)
        assert "Keeper&#39;s supper, minute" in shown
        assert f'href="/runs/{run}"' in shown
    assert "Back to the run" not in page(client, f"/runs/{run}")
    client.post(f"/runs/{run}/close")
    assert "Going on:" not in page(client, "/challenges/1/builds")


def test_findings_are_new_after_every_reading_and_remembered_between(client, crew):
    run = started(crew)
    entry = crew.entries(run)["Avocet"]
    crew.read(entry, 0, "20.5", moment=datetime.now(UTC) - timedelta(minutes=7))
    first = page(client, "/challenges/1/findings")
    assert "20.5 °C" in first
    database = crew.database
    before = database.stamps.stamp()
    page(client, "/challenges/1/findings")
    assert database.stamps.stamp() == before
    crew.read(entry, 5, "36", moment=datetime.now(UTC) - timedelta(minutes=2))
    assert database.stamps.stamp() != before
    assert "36.0 °C" in page(client, "/challenges/1/findings")


def test_a_rehearsal_reads_its_probes_and_is_kept_apart(client, crew):
    version = crew.plan("Avocet", until="draft")
    sent = {
        "version": [version],
        "start_c": "20",
        "air_c": "20",
        "irradiance_w_m2": "600",
        "sun_deg": "50",
        "speed": "60",
        "note": "dry run",
    }
    address = client.post("/challenges/1/runs", data=sent).location
    run = int(address.rsplit("/", 1)[1])
    client.post(f"/runs/{run}/start.json", json={"phase": "heating"})
    for i, entry in enumerate(crew.entries(run).values()):
        probe = {"entry": entry, "phase": "heating", "mark": 0, "client_id": f"p{i}"}
        answer = client.post(f"/runs/{run}/probe", json=probe).json
        assert answer["cell"]["source"] == "probe"
        assert 17 < float(answer["cell"]["text"]) < 45  # at 60×, an oven warms while a slow machine asks
    assert "Nothing has been read yet" in page(client, "/challenges/1/findings")
    assert "Rehearsed" in page(client, "/challenges/1/findings?rehearsal=1")
    assert client.post(f"/runs/{run}/close").location.endswith("findings?rehearsal=1")
    assert client.post(f"/runs/{run}/delete").location == "/challenges/1/runs"
    assert client.get(f"/runs/{run}").status_code == 410


def test_the_history_of_a_value_in_the_classs_zone(client, crew):
    run = crew.run(crew.plan("Avocet"))
    entry = crew.entries(run)["Avocet"]
    slip = crew.read(entry, 0, "25").reading
    fixed = crew.read(entry, 0, "20.5", supersedes_id=slip.id, late_s=40).reading
    rows = client.get(f"/runs/{run}/readings/{fixed.id}/history.json").json["rows"]
    assert [(r["text"], r["time"], r["entered"]) for r in rows] == [
        ("20.5 °C", "0:05", "12:00:40"),
        ("25.0 °C", "0:05", "12:00:05"),
    ]


def test_a_stray_file_id_reaches_no_other_file(client, crew):
    run = crew.run(crew.plan("Avocet"))
    for stray in ("..%2fsecret_key", "%2fetc%2fpasswd", "..%2fthermion.sqlite3", "0" * 24, "g" * 24):
        for what in ("", "/answers", "/store", "/forget"):
            address = f"/runs/{run}/file/{stray}{what}"
            answer = client.post(address, data={"phase": "heating"}) if what else client.get(address)
            assert answer.status_code in (404, 410)
    assert (crew.database.folder / "secret_key").exists()


def test_what_is_imported_twice_by_a_double_click_is_there_once(client, crew):
    text = client.get("/challenges/1/record.thermion.json").get_data()
    places = set()
    for _ in range(2):
        sent = {"file": (io.BytesIO(text), "a.json"), "again": "beside", "once": "one-click"}
        places.add(client.post("/import", data=sent).location)
    assert len(places) == 1
    assert page(client, "/").count("Keeper&#39;s supper</b>") == 2  # the first and its copy


def test_what_is_here_already_is_asked_about_and_never_makes_a_second_class(client, crew):
    text = client.get("/challenges/1/record.thermion.json").get_data()
    asked = client.post("/import", data={"file": (io.BytesIO(text), "a.json"), "once": "first"})
    assert "This is the same challenge as Keeper&#39;s supper of Relief crew." in flat(asked)
    assert page(client, "/").count("Keeper&#39;s supper</b>") == 1
    kept = re.search(r'name="kept" value="(\w+)"', asked.text)[1]
    made = client.post("/import", data={"kept": kept, "again": "beside", "once": "second"})
    assert made.status_code == 303
    home = page(client, "/")
    assert home.count("Keeper&#39;s supper</b>") == 2
    assert "Relief crew (2)" not in home
    # of a package with something new, only that
    with crew.database.writing() as session:
        session.delete(session.get_one(Challenge, 2))
        new = briefs.create_challenge(session, get_class(session, 1), "keep_temp", "Save the bait").id
    package = client.get("/classes/1/package.zip").get_data()
    with crew.database.writing() as session:
        session.delete(session.get_one(Challenge, new))
    sent = {"file": (io.BytesIO(package), "week.zip"), "once": "third"}
    asked = client.post("/import", data=sent)
    assert "1 of these 2 challenges are here already: Keeper&#39;s supper." in flat(asked)
    kept = re.search(r'name="kept" value="(\w+)"', asked.text)[1]
    client.post("/import", data={"kept": kept, "again": "new", "class_id": "1", "once": "fourth"})
    home = page(client, "/")
    assert (home.count("Save the bait</b>"), home.count("Keeper&#39;s supper</b>")) == (1, 1)
    assert client.post("/import", data={"kept": "0" * 24, "once": "fifth"}).status_code == 422


def test_a_page_that_failed_says_that_what_was_saved_is_safe(client, app, crew, monkeypatch):
    app.config["PROPAGATE_EXCEPTIONS"] = False
    app.testing = False
    monkeypatch.setattr(runs, "runs_of", lambda *_: 1 / 0)
    answer = client.get("/challenges/1/runs")
    assert answer.status_code == 500
    assert "What was saved before is safe" in answer.get_data(as_text=True)


def test_files_may_be_named_after_anything(client, crew):
    with crew.database.writing() as session:
        challenge = briefs.get_challenge(session, 1)
        challenge.title = 'Čejka "večeře" / 夕食'
        challenge.school_class.teams[0].name = 'Šlápota "A"'
    version = crew.plan("Avocet")
    for address in ("/challenges/1/record.thermion.json", f"/versions/{version}.svg"):
        answer = client.get(address)
        assert answer.status_code == 200
        answer.headers["Content-Disposition"].encode("latin-1")  # what a server can send
    assert "filename*=UTF-8''" in client.get(f"/versions/{version}.svg").headers["Content-Disposition"]
