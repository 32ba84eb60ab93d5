"""A pad: its team's own and nobody else's; what waits for the Desk; no way shown that is closed."""

from __future__ import annotations

import re
from datetime import timedelta
from typing import get_args

import pytest
from flask import render_template

from tests.conftest import Crew
from tests.records.test_families import Test
from tests.web.conftest import flat
from tests.web.test_devices import codes, come_in
from thermion.core.planning.pads import Doing
from thermion.records import moments
from thermion.records.running import runs
from thermion.records.running.devices import Device
from thermion.records.running.set_apart import set_apart
from thermion.records.tables import AttemptRow, Challenge, OwnWord, Run, Version


@pytest.fixture
def desk(client):
    client.post("/devices/door/open")
    return client


@pytest.fixture
def read(crew: Crew) -> int:
    """A test of two builds at its mark of five minutes, which teams read as they type."""
    made = crew.run(
        crew.plan("Avocet"), crew.plan("Dunlin"), at=moments.now() - timedelta(minutes=5, seconds=20)
    )
    with crew.database.writing() as session:
        session.get_one(Run, made).pads = "typed"
    return made


def typed(row: int, value: str, **more) -> dict:
    at = moments.now().isoformat()
    return {
        "row": row,
        "phase": "heating",
        "mark": 300.0,
        "typed": value,
        "client_id": f"{row}-{value}",
        "entered_at": at,
        **more,
    }


def test_a_pad_reads_its_own_build_and_no_other_and_only_while_the_teacher_lets_it(app, desk, crew, read):
    pad = come_in(app, codes(desk)["Avocet"])
    rows = crew.entries(read)
    assert pad.post(f"/pad/read/{read}", json=typed(rows["Avocet"], "37")).status_code == 200
    theirs = pad.post(f"/pad/read/{read}", json=typed(rows["Dunlin"], "37"))
    assert (theirs.status_code, "not a row of your team" in theirs.json["error"]) == (410, True)
    crew.read(rows["Dunlin"], 5, "44.4", moment=moments.now())
    state = pad.get(f"/pad/read/{read}.json")
    assert [r["id"] for r in state.json["rows"]] == [rows["Avocet"]]
    assert "44.4" not in state.text
    desk.post(f"/runs/{read}/pads", data={"pads": ""})
    no_more = pad.post(f"/pad/read/{read}", json=typed(rows["Avocet"], "38"))
    assert (no_more.status_code, "The teacher reads" in no_more.json["error"]) == (422, True)
    assert desk.post(f"/runs/{read}/pads", data={"pads": "shouted"}).status_code == 422


def test_another_challenge_can_be_chosen_on_a_pad_and_a_number_of_no_challenge_changes_nothing(
    app, desk, crew
):
    pad = come_in(app, codes(desk)["Avocet"])
    for number in (crew.challenge_id, 99, "x"):
        assert pad.post("/pad/challenge", data={"challenge": number}).status_code == 303
        assert pad.get("/pad").status_code == 200
    first, second = (pad.post("/pad/plan").location for _ in range(2))
    assert first == second  # a second tap finds the plan that the first one made


def test_who_does_not_read_yet_has_a_picture_of_what_to_do_and_a_voice(app, desk, crew):
    with app.test_request_context("/pad"):
        drawn = {what: render_template("pad/pictograms.html", what=what) for what in get_args(Doing)}
    assert all(re.search(r' d="M[^"]+"', picture) for picture in drawn.values()), drawn
    pad = come_in(app, codes(desk)["Avocet"])
    assert "data-voice" not in pad.get("/pad").text
    with crew.database.writing() as session:
        session.get_one(Challenge, crew.challenge_id).age_band = "6-8"
    assert all(part in pad.get("/pad").text for part in ("data-voice", "pad-sign", "Draw your idea."))


def test_what_waits_is_a_quiet_list_with_the_way_there(app, desk, crew, read):
    at = f"/classes/{crew.class_id}/waiting"
    assert flat(desk.get(at)).strip() == ""
    version = crew.plan("Godwit", until="waiting")
    assert f'href="/versions/{version}"' in flat(desk.get(at))
    assert "1 plan waits" in flat(desk.get(at))
    desk.post(f"/versions/{version}/back", data={"remark": "Why wool?"})
    pad = come_in(app, codes(desk)["Godwit"])
    assert "Why wool?" in flat(pad.get("/pad"))
    pad.post("/pad/answer", data={"answer": "It was <b>there</b>"})
    assert "Godwit has answered" in flat(desk.get(at))
    assert "It was &lt;b&gt;there&lt;/b&gt;" in flat(desk.get(f"/versions/{version}"))
    with crew.database.session() as session:
        number = session.query(Device.id).scalar()
    app.extensions["seen"][number] = moments.steady() - timedelta(minutes=2)
    gone = desk.get(at, headers={"If-None-Match": ""})
    assert "Pad of Godwit is gone" in flat(gone)


def test_a_team_that_has_not_read_the_mark_that_is_due_is_in_the_list(app, desk, crew):
    builds = [crew.plan(team) for team in ("Avocet", "Dunlin")]
    run = crew.run(*builds, at=moments.now() - timedelta(minutes=6, seconds=30))  # minute 5 is due until 10
    at, rows = f"/classes/{crew.class_id}/waiting", crew.entries(run)
    assert "not read" not in flat(desk.get(at))  # the teacher reads, and sees it in the grid
    desk.post(f"/runs/{run}/pads", data={"pads": "typed"})
    assert "2 have not read" in flat(desk.get(at))
    crew.read(rows["Avocet"], 5, "44.4", moment=moments.now())
    assert "Dunlin has not read" in flat(desk.get(at))
    with crew.database.writing() as session:
        set_apart(session, runs.get_run(session, run), "It fell over", entry_id=rows["Dunlin"])
    assert "not read" not in flat(desk.get(at))  # of what is set apart nothing is asked


def test_codes_stand_on_the_board_and_on_the_cards_while_the_door_is_open(app, desk, crew):
    found = codes(desk)
    desk.post(f"/devices/board/{crew.class_id}/show")
    board = come_in(app, found["Board"])
    where = f"/board/classes/{crew.class_id}"
    assert board.get(f"{where}/where.json").json["to"] == f"{where}/codes?follow={crew.class_id}"
    shown = flat(board.get(f"{where}/codes"))
    assert shown.count('class="qr"') == 3
    cards = f"/challenges/{crew.challenge_id}/sheets/teams"
    assert flat(desk.get(cards)).count('class="qr"') == 3
    assert flat(desk.get(f"/devices/cards?class_id={crew.class_id}")).count('class="qr"') == 4
    desk.post("/devices/door/close")
    assert 'class="qr"' not in flat(desk.get(f"{where}/codes"))
    assert 'class="qr"' not in flat(desk.get(cards))


def test_no_page_of_a_device_shows_a_way_that_is_closed_to_it(app, desk, crew, read):
    version = crew.plan("Godwit", until="waiting")
    helper = come_in(app, re.search(r"let_in=(\w+)", desk.post("/devices/let-in/1/helper").location)[1])
    second = come_in(app, re.search(r"let_in=(\w+)", desk.post("/devices/let-in/1/second desk").location)[1])
    pad = come_in(app, codes(desk)["Avocet"])
    pages = {
        helper: (
            "/helping",
            f"/runs/{read}",
            f"/versions/{version}",
            "/challenges/1/builds",
            "/classes/1/store",
        ),
        second: ("/", f"/runs/{read}", "/challenges/1/record", "/classes/1"),
        pad: ("/pad", "/pad/plan", "/pad/results", "/pad/read", "/challenges/1/ideas/1"),
    }
    followed = 0
    for client, addresses in pages.items():
        for address in addresses:
            shown = client.get(address)
            assert shown.status_code == 200, address
            for way in set(re.findall(r'<a[^>]*href="(/[^"#]*)"', shown.text)):
                if way.startswith("/static"):
                    continue
                followed += 1
                assert client.get(way).status_code in (200, 302, 303), (address, way)
    assert followed > 50


def test_a_second_desk_has_all_but_the_record_as_a_whole(app, desk, crew):
    code = re.search(r"let_in=(\w+)", desk.post("/devices/let-in/1/second desk").location)[1]
    second = come_in(app, code)
    assert second.get("/classes/1").status_code == 200
    assert "Delete this class" not in flat(second.get("/classes/1"))
    for address in ("/data", "/devices", "/probes", "/import", "/package.zip"):
        assert second.get(address).status_code == 403


def test_what_a_form_names_is_not_reached_around_the_address(app, desk, crew):
    """A number in what is sent, of another class or team, opens nothing that the address would not."""
    other = Crew(crew.database)
    theirs = other.plan("Avocet", until="signed")
    mine = crew.plan("Avocet", until="draft")
    helper = come_in(app, re.search(r"let_in=(\w+)", desk.post("/devices/let-in/1/helper").location)[1])
    assert helper.post("/classes/1/store/issue", data={"version": theirs}).status_code != 303
    pad = come_in(app, codes(desk, "/devices?class_id=1")["Avocet"])
    assert pad.post(f"/versions/{theirs}/handin").status_code == 403
    pad.post(f"/versions/{mine}/handin", data={"then": crew.teams["Dunlin"]})
    with crew.database.session() as session:
        states = [(v.build.team.name, v.state) for v in session.query(Version)]
    assert sorted(states) == [("Avocet", "signed"), ("Avocet", "waiting")]


def turns(app, desk, crew, key: str, pads: str = "typed") -> tuple[Test, dict]:
    """A test in turns that teams note, and the pads of two of them."""
    test = Test(crew, key)
    desk.post(f"/runs/{test.run_id}/pads", data={"pads": pads})
    found = codes(desk)
    return test, {team: come_in(app, found[team]) for team in ("Avocet", "Dunlin")}


def test_a_team_notes_its_turn_when_it_comes_and_nobody_elses(app, desk, crew):
    test, pads = turns(app, desk, crew, "sail_run")
    on, next_one = pads["Avocet"], pads["Dunlin"]
    at = f"/runs/{test.run_id}"
    assert "It is your turn: test your build" in flat(on.get("/pad"))
    assert "Wait for your turn" in flat(next_one.get("/pad"))
    assert "It is your turn. Try 1 of" in flat(on.get(at))
    waiting = flat(next_one.get(at))
    assert "Wait for your turn. 1 turn before you." in waiting
    assert "data-station" not in waiting
    theirs = {"entry": test.rows["Dunlin"], "stop_m": "90", "once": "theirs"}
    assert on.post(f"{at}/attempts", data=theirs).status_code == 410
    mine = {"entry": test.rows["Avocet"], "stop_m": "80", "seen": "flapped", "once": "mine"}
    assert [on.post(f"{at}/attempts", data=mine).status_code for _ in range(2)] == [303, 303]
    assert "80 cm" in flat(on.get(at))
    assert "80 cm" not in flat(next_one.get(at))  # another team's is seen on the walk round
    assert "It is your turn" in flat(next_one.get("/pad"))
    with crew.database.session() as session:
        row = session.query(AttemptRow).one()
        assert (row.by, row.values["stop_m"]) == ("team A", pytest.approx(0.8))
    word = {**mine, "own_seen": "<b>ha</b>", "note": "ha", "machine": "stop_m", "supersedes": row.id}
    assert on.post(f"{at}/attempts", data={**word, "once": "word"}).status_code == 303
    with crew.database.session() as session:  # the class's words, notes and machines are not a team's
        row = session.query(AttemptRow).order_by(AttemptRow.id.desc()).first()
        assert (row.note, row.machine, session.query(OwnWord).count()) == ("", "", 0)
    right = {**mine, "stop_m": "82", "supersedes": row.id, "once": "right"}
    assert on.post(f"{at}/attempts", data=right).status_code == 303
    assert "82 cm" in flat(on.get(at))
    for number in range(9):
        more = on.post(f"{at}/attempts", data={**mine, "once": f"more{number}"})
    assert (more.status_code, "had all its tries" in flat(more)) == (422, True)
    desk.post(f"{at}/pads", data={"pads": ""})
    assert on.post(f"{at}/attempts", data={**mine, "once": "late"}).status_code == 422


def test_what_teams_note_in_turns_is_looked_at_where_the_teacher_wants_it(app, desk, crew):
    test, pads = turns(app, desk, crew, "sail_run", pads="looked")
    at = f"/runs/{test.run_id}"
    pads["Avocet"].post(f"{at}/attempts", data={"entry": test.rows["Avocet"], "stop_m": "80", "once": "mine"})
    assert "1 value to look at" in flat(desk.get(f"/classes/{crew.class_id}/waiting"))
    so = re.search(rf'action="({at}/attempts/\d+/so)"', desk.get(at).text)[1]
    assert pads["Avocet"].post(so, data={"once": "me"}).status_code == 403
    for _ in range(2):  # a second tap does no harm
        desk.post(so, data={"once": "it is so"})
    assert "to look at" not in flat(desk.get(f"/classes/{crew.class_id}/waiting"))
    with crew.database.session() as session:
        assert [r.by for r in session.query(AttemptRow).order_by(AttemptRow.id)] == ["team A", "desk"]


def test_a_team_runs_its_own_race_from_start_to_stop(app, desk, crew):
    test, pads = turns(app, desk, crew, "heat_through")
    test.race("control", "20", 15)
    mine, other = pads["Avocet"], pads["Dunlin"]
    at = f"/runs/{test.run_id}"
    begun = moments.now() - timedelta(seconds=20)
    press = {"pressed_at": begun.isoformat(), "client_id": "start", "typed": "20", "sure": True}
    assert other.post(f"{at}/races/start", json={**press, "entry": test.rows["Avocet"]}).status_code == 410
    assert "data-race" in mine.get(at).text
    started = mine.post(f"{at}/races/start", json={**press, "entry": test.rows["Avocet"]})
    key = started.json["race"]["key"]
    over = (begun + timedelta(seconds=9)).isoformat()
    stop = {"pressed_at": over, "client_id": "stop", "key": key, "at_target": True}
    assert "Wait for your turn" in flat(other.get("/pad"))
    assert other.get(f"{at}/races/now.json").status_code == 410
    assert other.post(f"{at}/races/stop", json=stop).status_code == 410
    assert mine.post(f"{at}/races/stop", json=stop).status_code == 200
    assert "It is your turn" in flat(other.get("/pad"))
    assert mine.post(f"{at}/races/stop", json=stop).status_code == 200  # sent twice


def test_what_a_learner_wrote_is_hidden_by_one_key_everywhere_and_comes_back(app, desk, crew):
    rude = "You are all stupid"
    version = crew.plan("Avocet", note=rude)
    other = come_in(app, codes(desk)["Dunlin"])
    pad = come_in(app, codes(desk)["Avocet"])
    sent = {"strokes": [[100, 400, 200, 500]], "picks": {}, "why": rude, "client_id": "idea"}
    pad.post(f"/challenges/1/ideas/{crew.teams['Avocet']}", json=sent)
    ideas = f"/challenges/1/ideas/{crew.teams['Avocet']}"
    key, idea_key = f"/versions/{version}/words", f"{ideas}/1/words"
    faces = (f"/versions/{version}", ideas, "/challenges/1/builds", "/challenges/1/record")
    assert any(rude in flat(desk.get(face)) for face in faces)
    for device in (pad, other):
        assert device.post(f"{key}/hide").status_code == 403
    for _ in range(2):  # a second tap does no harm
        desk.post(f"{key}/hide")
        desk.post(f"{idea_key}/hide")
    assert "What this team wrote is hidden" in flat(desk.get(f"/versions/{version}"))
    files = ("/challenges/1/record.thermion.json", "/challenges/1/builds.csv")
    for address in (*faces, *files):
        shown = desk.get(address)
        assert (shown.status_code, rude in flat(shown)) == (200, False), address
    assert rude not in flat(pad.get(ideas))
    assert "100,400" not in pad.get(ideas).text
    with crew.database.writing() as session:
        session.get_one(Version, version).answer = rude + " again"
    desk.post(f"{key}/hide")  # what is written anew is hidden as well
    assert rude not in flat(desk.get(f"/versions/{version}"))
    desk.post(f"{key}/show")
    desk.post(f"{idea_key}/show")
    with crew.database.session() as session:
        assert session.get_one(Version, version).change_note == rude
    assert rude in flat(desk.get(ideas))
