"""Thermion served beyond this computer: who gets in, and how far."""

from __future__ import annotations

import re
from datetime import UTC, datetime, timedelta

import pytest
from sqlalchemy import select

from tests.conftest import Crew
from tests.web.conftest import flat
from thermion.records.keeping.passphrase import passphrase_of
from thermion.records.tables import Run
from thermion.web import create_app
from thermion.web.door import own_urls

TABLET = {"REMOTE_ADDR": "192.168.7.31"}
HERE = {"Host": "192.168.7.2:8000"}


@pytest.fixture
def app(folder):
    config = {"DATA": folder, "DOOR": passphrase_of(folder), "DOOR_URLS": ["http://192.168.7.2:8000"]}
    made = create_app(config | {"TESTING": True, "WTF_CSRF_ENABLED": False})
    yield made
    made.extensions["thermion"].close()


@pytest.fixture
def run(crew: Crew) -> int:
    return crew.run(crew.plan("Avocet"), at=datetime.now(UTC) - timedelta(minutes=6))


def tablet(app):
    """A client in another place of the room."""
    client = app.test_client()
    client.environ_base.update(TABLET)
    return client


def give(client, passphrase: str, **more):
    return client.post("/door", data={"passphrase": passphrase, **more}, headers=HERE)


def test_a_tablet_gives_the_passphrase_once_and_is_led_to_where_it_wanted_to_go(app, run):
    client = tablet(app)
    asked = client.get(f"/runs/{run}", headers=HERE)
    assert asked.location == f"/door?back=/runs/{run}"
    shown = flat(client.get(asked.location, headers=HERE))
    assert "What is the passphrase?" in shown
    assert "Relief crew" not in shown
    said = app.config["DOOR"].replace("-", " ").upper()  # as one types what was called across a room
    assert give(client, said, back=f"/runs/{run}").location == f"/runs/{run}"
    assert client.get(f"/runs/{run}", headers=HERE).status_code == 200
    assert app.config["DOOR"] not in flat(client.get("/", headers=HERE))  # it stands on this computer only


def test_this_computer_is_asked_for_nothing_and_says_what_others_need(app, crew):
    shown = flat(app.test_client().get("/"))
    assert "Other devices open <b>http://192.168.7.2:8000</b>" in shown
    assert app.config["DOOR"] in shown


def test_without_it_nothing_is_read_changed_or_told(app, crew, run):
    client = tablet(app)
    skipped = {"static", "door", "favicon"}
    asked = 0
    for rule in app.url_map.iter_rules():
        if rule.endpoint in skipped:
            continue
        among = {name: getattr(kind, "items", ("1",)) for name, kind in rule._converters.items()}
        values = {name: next(iter(found)) for name, found in among.items()}
        address = app.url_map.bind("x").build(rule.endpoint, values)
        for method in rule.methods - {"OPTIONS"}:
            answer = client.open(address, method=method, headers=HERE)
            assert answer.status_code in (303, 401), (method, address)
            assert "Relief" not in answer.get_data(as_text=True)
            assert "/door" in answer.location if answer.status_code == 303 else True
            asked += 1
    assert asked > 100
    assert "Relief" not in client.get("/nothing/here", headers=HERE).get_data(as_text=True)
    with crew.database.session() as session:
        assert runs_of(session) == [run]


def runs_of(session) -> list[int]:
    return list(session.scalars(select(Run.id)))


def test_a_reading_typed_on_a_device_that_is_outside_waits_there(app, run):
    client = tablet(app)
    house = app.extensions["thermion"].house()
    answer = client.post(f"/runs/{run}/readings", json={}, headers=HERE | {"X-House": house})
    assert answer.status_code == 401
    assert answer.headers["X-House"] == house  # ours, so that the tray offers to give the passphrase
    assert client.get("/token.json", headers=HERE).status_code == 401


def test_guessing_is_slowed_down_and_the_right_one_is_not(app, crew):
    client = tablet(app)
    tried = [give(client, f"amber-anchor-apple-{n}").status_code for n in range(10, 25)]
    assert tried == [401] * 10 + [429] * 5
    assert give(client, app.config["DOOR"]).status_code == 429  # for a minute this device is not heard
    other = tablet(app)
    other.environ_base["REMOTE_ADDR"] = "192.168.7.32"
    assert [give(other, app.config["DOOR"]).status_code for _ in range(12)] == [303] * 12


def test_guesses_from_the_whole_room_lock_nobody_else_out(app, crew):
    for number in range(30):
        guesser = tablet(app)
        guesser.environ_base["REMOTE_ADDR"] = f"192.168.7.{100 + number}"
        for _ in range(3):
            assert give(guesser, "amber-anchor-apple-10").status_code == 401
    late = tablet(app)
    late.environ_base["REMOTE_ADDR"] = "192.168.7.99"
    assert give(late, app.config["DOOR"]).status_code == 303


STAYS = [
    ("GET", "/data"),
    ("POST", "/data/copies"),
    ("GET", "/data/copies/day-2026-06-01.sqlite3"),
    ("POST", "/data/copies/day-2026-06-01.sqlite3/back"),
    ("POST", "/data/clock"),
    ("GET", "/probes"),
    ("POST", "/probes"),
    ("GET", "/import"),
    ("POST", "/import"),
    ("POST", "/classes/1/delete"),
]


@pytest.mark.parametrize(("method", "address"), STAYS)
def test_what_reaches_the_whole_record_stays_on_the_computer_that_runs_it(app, crew, method, address):
    client = tablet(app)
    give(client, app.config["DOOR"])
    answer = client.open(address, method=method, headers=HERE)
    assert (answer.status_code, "Only the computer that runs Thermion" in answer.text) == (403, True)
    assert address not in client.get("/", headers=HERE).text
    assert client.get("/classes/1", headers=HERE).status_code == 200
    assert client.post("/classes/1/away", headers=HERE).status_code == 303
    assert app.test_client().open(address, method=method).status_code != 403


def test_another_passphrase_lets_nobody_stay(app, crew):
    client = tablet(app)
    give(client, app.config["DOOR"])
    assert client.get("/", headers=HERE).status_code == 200
    app.config["DOOR"] = "amber-anchor-apple-10"
    assert client.get("/", headers=HERE).status_code == 303


def test_a_name_that_a_website_pointed_here_is_not_answered(app, crew):
    for client in (app.test_client(), tablet(app)):
        assert client.get("/", headers={"Host": "games.example"}).status_code == 400
        assert client.get("/", headers={"Host": "localhost:8000"}).status_code in (200, 303)


def test_a_board_comes_by_its_link_sees_the_run_that_is_on_and_changes_nothing(app, run):
    client, boards = tablet(app), flat(app.test_client().get("/"))
    assert client.get("/board/wrong", headers=HERE).location == "/door"
    link = re.search(r"http://192.168.7.2:8000/board/(\w+)", boards)[1]
    led = client.get(f"/board/{link}", headers=HERE)
    assert led.location == "/board/classes/1"
    shown = client.get(led.location, headers=HERE)  # the class's board shows the run that is on, and follows
    assert shown.location == f"/board/runs/{run}?follow=1"
    assert 'data-follow="/board/classes/1/where.json"' in client.get(shown.location, headers=HERE).text
    assert client.get("/board/classes/1/where.json", headers=HERE).json == {"to": shown.location}
    assert client.get(f"/runs/{run}/state.json", headers=HERE).status_code == 200
    assert client.get(f"/runs/{run}", headers=HERE).status_code == 303
    assert client.post(f"/runs/{run}/close", headers=HERE).status_code == 401
    assert client.post(f"/runs/{run}/readings", json={}, headers=HERE).status_code == 401
    assert (
        client.post("/classes/1/line", json={"what": "next", "seen": "0-0"}, headers=HERE).status_code == 401
    )


def test_the_passphrase_of_a_lesson_outlives_a_restart(tmp_path):
    first = passphrase_of(tmp_path)
    assert passphrase_of(tmp_path) == first
    assert (tmp_path / "passphrase").stat().st_mode & 0o077 == 0
    assert own_urls("192.168.7.2", 8000) == ["http://192.168.7.2:8000"]
