"""The door at the Desk: who comes in by which code, how long, how far guesses get, and who brought what."""

from __future__ import annotations

import re
from datetime import UTC, datetime, timedelta

import pytest
from sqlalchemy import select

from tests.web.conftest import flat
from thermion.core import door
from thermion.records import moments
from thermion.records.planning import week
from thermion.records.planning.classes import TeamInput, save_class
from thermion.records.running import devices
from thermion.records.tables import Device, JoinCode, Reading, SchoolClass, Team
from thermion.web.access import THROUGH_DOOR

TEAM = {"Avocet": 0, "Dunlin": 1, "Godwit": 2}


@pytest.fixture
def clock(monkeypatch):
    """The record's own clock, which stands until it is moved."""

    class Clock:
        at = datetime(2026, 6, 1, 9, 0, tzinfo=UTC)

        def on(self, **by) -> None:
            self.at += timedelta(**by)

    made = Clock()
    monkeypatch.setattr(moments.OWN, "now", lambda: made.at)
    monkeypatch.setattr(moments.OWN, "steady", lambda: made.at)
    return made


@pytest.fixture
def desk(client):
    assert client.post("/devices/door/open").status_code == 303
    return client


def codes(desk, address: str = "/devices") -> dict[str, str]:
    """What stands on the page of devices: by team or place, its code."""
    shown = flat(desk.get(address))
    rows = re.findall(r'<span class="grow">([^<]+)</span> <b class="door-said">([^<]+)</b>', shown)
    return {label.strip(): code.replace("·", "") for label, code in rows}


def device(app, address: str = "192.168.7.31"):
    """A device of the room, at the door's own listener."""
    made = app.test_client()
    made.environ_base.update({THROUGH_DOOR: True, "REMOTE_ADDR": address})
    return made


def come_in(app, code: str, **more):
    made = device(app, **more)
    made.joined = made.post("/join", data={"code": code})
    return made


def test_a_closed_door_lets_nobody_in_and_an_open_one_who_has_a_code(app, client, crew):
    assert "The door is closed" in flat(client.get("/devices"))
    pad = device(app)
    assert pad.get("/").location == "/join"
    assert "What is your code?" in flat(pad.get("/join"))
    assert "Avocet" not in flat(pad.get("/join"))
    client.post("/devices/door/open")
    code = codes(client)["Avocet"]
    assert len(code) == 2 * door.SHORT
    said = " ".join(code[i : i + 2].upper() for i in (0, 2, 4))  # as it is read aloud and typed
    answer = pad.post("/join", data={"code": said})
    assert answer.headers["Set-Cookie"].count("HttpOnly") == 1
    assert "SameSite=Strict" in answer.headers["Set-Cookie"]
    assert pad.get("/joined").location == "/pad"
    assert "Avocet" in flat(pad.get("/pad"))
    assert "Pad 1" in flat(client.get("/devices"))


def test_each_code_leads_to_what_its_device_is_for(app, desk, crew):
    found = codes(desk)
    helper = re.search(r"let_in=(\w+)", desk.post(f"/devices/let-in/{crew.class_id}/helper").location)[1]
    second = re.search(r"let_in=(\w+)", desk.post(f"/devices/let-in/{crew.class_id}/second desk").location)[1]
    for code, start in (
        (found["Board"], "/board/classes/1"),
        (found["Dunlin"], "/pad"),
        (helper, "/helping"),
        (second, "/"),
    ):
        come = come_in(app, code)
        assert come.get("/joined").location == start
        assert come.get(start).status_code in (200, 303)
    assert len(helper) == 2 * door.LONG
    again = come_in(app, helper)  # it served once
    assert (again.joined.status_code, "no code of today" in flat(again.joined)) == (422, True)


def test_a_code_for_an_adult_is_good_for_five_minutes(app, clock, desk, crew):
    code = re.search(r"let_in=(\w+)", desk.post("/devices/let-in/1/helper").location)[1]
    clock.on(minutes=4)
    spare = re.search(r"let_in=(\w+)", desk.post("/devices/let-in/1/helper").location)[1]
    clock.on(minutes=2)
    assert come_in(app, code).joined.status_code == 422
    assert come_in(app, spare).joined.status_code == 303


def test_codes_and_devices_end_with_the_lesson_or_with_the_week(app, clock, crew, client):
    with crew.database.writing() as session:
        week.save_lesson(session, crew.class_id, clock.at + timedelta(minutes=10), 3000, 300)
    client.post("/devices/door/open")
    pad = come_in(app, codes(client)["Avocet"])
    clock.on(minutes=10 + 50 + 29)
    assert pad.get("/pad").status_code == 200
    clock.on(minutes=2)
    out = pad.get("/pad")
    assert out.location.startswith("/join")
    assert "The lesson is over" in flat(pad.get("/join"))
    client.post("/devices/codes/1", data={"week": "1"})
    code = codes(client)["Avocet"]
    pad = come_in(app, code)
    clock.on(days=1)  # the door has closed itself at the end of the day
    assert "The door is closed" in flat(client.get("/devices"))
    assert "The door is closed" in flat(pad.get("/join"))
    client.post("/devices/door/open")
    assert pad.get("/pad").status_code == 200  # and the week's device is in again
    assert codes(client)["Avocet"] == code


def test_no_step_of_the_computers_clock_ends_a_session(app, desk, crew, monkeypatch):
    pad = come_in(app, codes(desk)["Avocet"])
    for step in (timedelta(days=-3), timedelta(days=40)):
        monkeypatch.setattr(moments.OWN, "_wall", lambda step=step: datetime.now(UTC) + step)
        desk.get("/")  # a page of the Desk lets the record's clock follow, since no run is on
        assert abs(moments.now() - datetime.now(UTC)) > timedelta(days=2)
        assert pad.get("/pad").status_code == 200
    monkeypatch.undo()
    moments.OWN.follow()


def test_sent_away_it_is_out_at_once_and_new_codes_let_in_nobody_by_the_old_ones(app, desk, crew):
    old = codes(desk)["Avocet"]
    pad, other = come_in(app, old), come_in(app, old)
    (first, second) = re.findall(r"/devices/(\d+)/away", flat(desk.get("/devices")))
    desk.post(f"/devices/{first}/away")
    assert pad.get("/pad").location.startswith("/join")
    assert "sent away" in flat(pad.get("/join"))
    assert other.get("/pad").status_code == 200
    desk.post("/devices/codes/1")
    assert come_in(app, old).joined.status_code == 422
    assert other.get("/pad").status_code == 200  # who is in stays in
    desk.post("/devices/door/close")
    assert other.get("/pad").location.startswith("/join")
    assert second


def test_a_wrong_code_is_said_and_guessing_is_slowed_down_for_who_guesses(app, desk, crew):
    right = codes(desk)["Avocet"]
    assert "No code has “l”" in flat(come_in(app, "l1ka").joined)
    guesser = device(app, "192.168.7.66")
    tried = [guesser.post("/join", data={"code": "bababa"}).status_code for _ in range(15)]
    assert tried == [422] * 10 + [429] * 5
    assert guesser.post("/join", data={"code": right}).status_code == 429  # for a minute it is not heard
    for number in range(40):
        one = device(app, f"192.168.7.{100 + number}")
        assert [one.post("/join", data={"code": "bababa"}).status_code for _ in range(3)] == [422] * 3
    assert come_in(app, right, address="192.168.7.99").joined.status_code == 303
    assert "wrong codes from 42 devices" in flat(desk.get("/devices"))


def test_a_team_that_left_is_told_so_and_a_handful_of_pads_is_enough(app, desk, crew):
    code = codes(desk)["Avocet"]
    first = come_in(app, code)
    others = [come_in(app, code) for _ in range(devices.MOST_OF_TEAM)]
    assert first.get("/pad").location.startswith("/join")  # the one that came first has made room
    assert others[-1].get("/pad").status_code == 200
    with crew.database.writing() as session:
        session.get_one(Team, crew.teams["Avocet"]).left_at = moments.now()
    assert "no longer on the list" in flat(others[-1].get("/pad", follow_redirects=True))


def test_a_browser_without_cookies_is_told_why_it_cannot_come_in(app, desk, crew):
    come_in(app, codes(desk)["Avocet"])
    bare = app.test_client(use_cookies=False)
    bare.environ_base[THROUGH_DOOR] = True
    assert bare.post("/join", data={"code": codes(desk)["Avocet"]}).location == "/joined"
    assert "keeps no cookies" in flat(bare.get("/joined", headers={"Referer": "http://localhost/join"}))


def test_five_hundred_joins_lock_nobody_out(app, desk, crew):
    code = codes(desk)["Board"]
    for _ in range(500):
        assert come_in(app, code).joined.status_code == 303
    with crew.database.session() as session:
        assert len(devices.devices_in(session, moments.now())) == devices.MOST_IN


def test_a_pad_handed_to_another_team_leaves_and_joins_anew(app, desk, crew):
    found = codes(desk)
    pad = come_in(app, found["Avocet"])
    assert pad.post("/leave").location == "/join"
    assert pad.get("/pad").location.startswith("/join")
    pad.post("/join", data={"code": found["Godwit"]})
    assert "Godwit" in flat(pad.get("/pad"))
    with crew.database.session() as session:
        ended = [d.ended_at is not None for d in session.scalars(select(Device).order_by(Device.id))]
    assert ended == [True, False]


def test_what_is_stored_says_which_device_brought_it(app, desk, crew):
    run = crew.run(crew.plan("Avocet"), at=moments.now() - timedelta(minutes=6))
    code = re.search(r"let_in=(\w+)", desk.post("/devices/let-in/1/helper").location)[1]
    helper = come_in(app, code)
    for client, mark, value in ((desk, 0.0, "20"), (helper, 300.0, "26")):
        sent = {
            "entry": crew.entries(run)["Avocet"],
            "phase": "heating",
            "mark": mark,
            "typed": value,
            "client_id": f"at {mark}",
            "entered_at": moments.now().isoformat(),
        }
        assert client.post(f"/runs/{run}/readings", json=sent).status_code == 200
    with crew.database.session() as session:
        rows = session.scalars(select(Reading).order_by(Reading.mark_s)).all()
        assert [r.by for r in rows] == ["desk", "helper 1"]
        ids = [r.id for r in rows]
    history = helper.get(f"/runs/{run}/readings/{ids[1]}/history.json").json["rows"]
    assert [h["by"] for h in history] == ["helper 1"]


def test_a_code_can_be_said_aloud_and_is_nothing_to_laugh_about():
    made = {door.new_code((), door.SHORT) for _ in range(4000)}
    assert len(made) > 3800  # they do not come again and again
    for code in made:
        assert not set(code) & set("ilcqxyjw01")
        assert door.heard(f" {code[:2].upper()}-{code[2:]} ") == code
        assert not door.never_in_one(code)
    assert door.never_in_one(door.heard("kan1be")) == "1"
    assert door.heard("K0-NE") == "kone"


def test_the_devices_of_one_class_are_not_another_classs(app, desk, crew):
    with crew.database.writing() as session:
        other = save_class(
            session,
            name="Supply crew",
            temp_unit="degC",
            decimal="point",
            zone="UTC",
            teams=[TeamInput(name="Avocet"), TeamInput(name="Knot")],
        )
        other_id = other.id
    theirs, ours = codes(desk, f"/devices?class_id={other_id}"), codes(desk, "/devices?class_id=1")
    assert set(theirs) == {"Avocet", "Knot", "Board"}
    assert theirs["Avocet"] != ours["Avocet"]
    helper = come_in(
        app, re.search(r"let_in=(\w+)", desk.post(f"/devices/let-in/{other_id}/helper").location)[1]
    )
    assert helper.get(f"/classes/{other_id}/lesson").status_code == 200
    assert helper.get("/classes/1/lesson").status_code == 403
    assert "This device is not for that" in flat(helper.get(f"/challenges/{crew.challenge_id}/builds"))
    with crew.database.session() as session:
        assert session.scalars(select(JoinCode.class_id).distinct()).all() != [None]
        assert session.get(SchoolClass, other_id) is not None


def test_a_door_that_stands_open_while_no_class_is_at_work_says_so(client):
    client.post("/devices/door/open")
    assert "There is no class at work" in flat(client.get("/devices"))
    assert client.get("/devices/codes.json").json["codes"] == []
