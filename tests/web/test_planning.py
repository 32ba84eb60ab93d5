"""The planning pages: what is refused stands at its place, and nothing typed is lost."""

from __future__ import annotations

import re
from dataclasses import replace
from datetime import UTC, datetime, timedelta

import pytest

from tests.web.conftest import fields_of, flat
from thermion.records.building import store
from thermion.records.planning import briefs, week
from thermion.records.planning.briefs import brief_of, get_challenge
from thermion.records.planning.classes import get_class
from thermion.records.running import rig

AT = "/challenges/1/brief"


def lesson(client, **changes):
    sent = {"date": "2026-06-01", "time": "09:00", "length": "60", "pack_up": "5", **changes}
    return client.post(f"{AT}/lessons", data=sent)


def test_lessons_are_added_and_steps_lay_themselves_in(client, crew):
    assert "No lesson yet" in flat(client.get(f"{AT}/lessons"))
    assert lesson(client).status_code == 303
    page = flat(client.get(f"{AT}/lessons"))
    assert 'data-phase="task"' in page
    assert "Test (58 min)" in page
    assert 'value="2026-06-02"' in page  # the next one is filled in


@pytest.mark.parametrize(
    ("change", "says"),
    [
        ({"time": "09:30"}, "overlaps another"),
        ({"date": ""}, "needs a date"),
        ({"date": "2026-06-02", "length": "4"}, "Packing up takes less"),
        ({"date": "2026-06-02", "length": "long"}, "is not a number"),
        ({"date": "2026-06-02", "length": "0"}, "between 1 minute"),
    ],
)
def test_a_lesson_that_cannot_be_says_so_and_keeps_what_was_typed(client, crew, change, says):
    lesson(client)
    answer = lesson(client, **change)
    assert answer.status_code == 422
    assert says in flat(answer)
    assert f'value="{change.get("length", "60")}"' in flat(answer)
    with crew.database.session() as session:
        assert len(week.lessons_of(session, crew.class_id)) == 1


def test_two_dates_that_were_edited_are_both_kept_with_one_key(client, crew):
    for day in ("2026-06-01", "2026-06-02"):
        client.post(f"{AT}/lessons", data={"date": day, "time": "09:00", "length": "60", "pack_up": "5"})
    page = client.get(f"{AT}/lessons").get_data(as_text=True)
    form = next(f for f in re.findall(r"<form.*?</form>", page, re.S) if 'name="date"' in f)
    sent = fields_of(form)
    assert sent["lesson"] == ["1", "2", "0"]
    sent["time"][:2] = ["10:00", "11:30"]
    sent.pop("add", None)
    sent.pop("drop", None)
    assert client.post(f"{AT}/lessons", data=sent).status_code == 303
    with crew.database.session() as session:
        kept = week.lessons_of(session, crew.class_id)
        assert [f"{lesson.starts_at:%d %H:%M}" for lesson in kept] == ["01 10:00", "02 11:30"]
    wrong = {**sent, "time": ["12:00", "soon", "09:00"]}  # one that cannot be keeps none, and all as typed
    answer = client.post(f"{AT}/lessons", data=wrong)
    assert answer.status_code == 422
    assert 'value="12:00"' in flat(answer)
    with crew.database.session() as session:
        assert [x.starts_at.hour for x in week.lessons_of(session, crew.class_id)] == [10, 11]
    assert client.post(f"{AT}/lessons", data={**sent, "drop": "1"}).status_code == 303
    with crew.database.session() as session:
        assert len(week.lessons_of(session, crew.class_id)) == 1


def test_one_more_lesson_is_never_on_a_weekend(client, crew):
    lesson(client, date="2026-06-05", length="40")  # a Friday, too short for the week
    assert "One more lesson, Monday" in flat(client.get(f"{AT}/lessons"))
    assert client.post(f"{AT}/lessons/remedy", data={"key": "lesson"}).status_code == 303
    with crew.database.session() as session:
        assert [f"{x.starts_at:%a %d}" for x in week.lessons_of(session, crew.class_id)] == [
            "Fri 05",
            "Mon 08",
        ]


def test_the_hours_of_a_class_are_entered_once_and_offered_for_the_next_lesson(client, crew):
    at = f"/classes/{crew.class_id}/hours"
    sent = fields_of(client.get(at).get_data(as_text=True))
    sent["start"] = ["", "", "08:00", "10:15", ""]  # Wednesday and Thursday
    far = "2099-12-31"
    assert client.post(at, data={**sent, "start": ["99:99", "", "", "", ""]}).status_code == 422
    assert (
        client.post(at, data={**sent, "first": [far, "", ""], "last": ["2099-01-01", "", ""]}).status_code
        == 422
    )
    assert client.post(at, data=sent).status_code == 303
    page = flat(client.get(f"{AT}/lessons"))
    offered = re.findall(r'<button class="key key-small" > (\w+) \d+ \w+, (\d\d:\d\d)', page)
    assert sorted(set(offered)) == [("Thu", "10:15"), ("Wed", "08:00")]
    assert len(offered) == 4
    form = next(f for f in re.findall(r"<form.*?</form>", page) if re.search(r">\s*Thu \d+ \w+, 10:15", f))
    client.post(f"{AT}/lessons", data=fields_of(form))
    with crew.database.session() as session:
        (lesson,) = week.lessons_of(session, crew.class_id)
        assert (lesson.starts_at.weekday(), lesson.starts_at.hour, lesson.length_s) == (3, 10, 3600)


def test_a_step_is_moved_by_the_script_and_bad_numbers_change_nothing(client, crew):
    lesson(client)
    lesson(client, date="2026-06-02")
    answer = client.post(f"{AT}/lessons/step", json={"phase": "build", "lesson": 1})
    assert 'data-phase="build" data-lesson="1"' in flat(answer.json["html"])
    assert client.post(f"{AT}/lessons/step", json={"phase": "tea", "lesson": 1}).status_code == 422
    bad = client.post(f"{AT}/lessons/step", json={"phase": "task", "minutes": "soon"})
    assert bad.status_code == 422
    assert "minutes" in bad.json["error"]


def test_a_timing_out_of_range_stands_at_its_place(client, crew):
    answer = client.post(f"{AT}/lessons/timing", data={"readers": "0", "test_form": "1"})
    assert answer.status_code == 422
    assert "expected a whole number" in flat(answer)
    assert 'name="readers" inputmode="numeric" value="0" aria-invalid="true"' in flat(answer)


def test_the_bell_is_on_every_page_of_the_desk_during_a_lesson(client, crew):
    pages = [
        "/",
        f"{AT}/task",
        f"{AT}/lessons",
        "/challenges/1/builds",
        "/challenges/1/runs",
        "/challenges/1/findings",
        "/challenges/1/record",
        "/classes/1/store",
        "/classes/1/kit",
        "/classes/1",
    ]
    assert not any('class="bell"' in flat(client.get(p)) for p in pages)
    with crew.database.writing() as session:
        start = datetime.now(UTC) - timedelta(minutes=30)
        week.save_lesson(session, crew.class_id, start, 3600, 300)
    for address in pages:
        page = flat(client.get(address))
        assert "30 min</b> <span>to the bell" in page, address
    assert "a test fits only up to minute 15" in flat(client.get("/challenges/1/runs"))


def test_the_sun_needs_a_place_and_says_when_there_is_none_of_it(client, crew):
    assert "Enter the school" in flat(client.get(f"{AT}/sun"))
    wrong = client.post(f"{AT}/sun", data={"latitude_deg": "99", "longitude_deg": "0", "altitude_m": "0"})
    assert wrong.status_code == 422
    assert "At most 90" in flat(wrong)
    lesson(client, date="2026-12-21", time="10:00", length="75")
    client.post(f"{AT}/sun", data={"latitude_deg": "75", "longitude_deg": "0", "altitude_m": "5"})
    assert "The sun does not rise in that time" in flat(client.get(f"{AT}/sun"))
    client.post(f"{AT}/sun", data={"latitude_deg": "-37.2", "longitude_deg": "-12.4", "altitude_m": "12"})
    page = flat(client.get(f"{AT}/sun"))
    assert "W/m²" in page
    assert "Open the reflector" in page


def test_kit_as_a_page_a_file_and_ticks(client, crew):
    assert "Newspaper" in flat(client.get(f"{AT}/kit"))
    sent = {"item": "Thermometer", "pack": "0", "have": True}
    assert client.post("/classes/1/kit", json=sent).status_code == 422
    assert client.post("/classes/1/kit", json={**sent, "pack": "2,5"}).status_code == 200
    line = next(x for x in client.get(f"{AT}/kit.csv").text.splitlines() if "Thermo" in x)
    assert line.split(",")[0:4] == ["Thermometer", "3.3", "", "2.5"]
    assert client.get("/classes/1/kit?challenge=1").status_code == 200


def test_rig_checks_keep_numbers_and_name_what_is_none(client, crew):
    address = "/challenges/1/rig-check"
    bad = client.post(f"{address}/agree", data={"spot0": "20", "spot1": "warm"})
    assert bad.status_code == 422
    assert "Dunlin: “warm” is not a number" in flat(bad)
    assert 'value="warm"' in flat(bad)
    client.post(f"{address}/agree", data={"spot0": "20", "spot1": "20.5", "spot2": "20"})
    page = flat(client.get(address))
    assert "0.5 °C apart" in page
    assert "Dunlin 0.5 °C" in page
    with crew.database.session() as session:
        challenge = get_challenge(session, 1)
        checked = rig.checks_of(session, challenge, brief_of(challenge))
        assert rig.offsets(checked, challenge) == {crew.teams["Dunlin"]: 0.5}


def test_a_slip_in_the_check_in_one_glass_is_asked_about_at_its_thermometer(client, crew):
    address = "/challenges/1/rig-check"
    four = {"spot0": "21", "spot1": "215", "spot2": "21.5", "spot3": "21"}
    impossible = client.post(f"{address}/agree", data=four)
    assert impossible.status_code == 422
    assert "Dunlin: 215 °C cannot be here" in flat(impossible)
    asked = client.post(f"{address}/agree", data=four | {"spot1": "75"})
    assert "Dunlin: 75, and the others show about 21.0 °C. Was that 75 °F?" in flat(asked)
    assert "Take 23.9" in flat(asked)
    assert 'value="1:75"' in flat(asked)
    with crew.database.session() as session:
        challenge = get_challenge(session, 1)
        assert not any(c.values for c in rig.checks_of(session, challenge, brief_of(challenge)))
    assert client.post(f"{address}/agree", data=four | {"take": "1:21.5"}).status_code == 303
    assert 'value="21.5"' in flat(client.get(address))
    assert client.post(f"{address}/agree", data=four | {"spot1": "75", "sure": "1:75"}).status_code == 303
    assert 'value="75"' in flat(client.get(address))


def test_the_store_counts_and_refuses_at_its_place(client, crew):
    bad = client.post("/classes/1/store/count", data={"count_newspaper": "-4", "count_foil": "3"})
    assert bad.status_code == 422
    assert "zero or more" in flat(bad)
    assert 'value="-4"' in flat(bad)
    with crew.database.session() as session:
        assert store.stock(session, crew.class_id) == {}
    client.post("/classes/1/store/count", data={"count_newspaper": "3", "count_foil": ""})
    version = crew.plan("Avocet", until="signed")
    short = client.post("/classes/1/store/issue", data={"version": version})
    assert short.status_code == 422
    assert "4 needed, 3 there" in flat(short)
    assert "newspaper" in flat(client.get("/classes/1/store.csv"))


def test_a_try_out_goes_batch_by_batch_and_remembers(client, crew):
    done = []
    while True:
        answer = client.post(f"{AT}/try", json={}).json
        done.append(answer["done"])
        if answer["html"]:
            break
    assert done == list(range(25, 201, 25))
    assert "of the designs meet the criterion" in answer["html"]
    assert "of the designs meet the criterion" in flat(client.get(f"{AT}/try"))
    with crew.database.writing() as session:
        get_challenge(session, 1).credit = 3.0
    assert "of the designs meet" not in flat(client.get(f"{AT}/try"))


@pytest.mark.parametrize("name", ["brief", "plan", "data", "reflection", "teams", "safety"])
def test_sheets_hold_what_the_class_needs(client, crew, name):
    page = flat(client.get(f"/challenges/1/sheets/{name}"))
    wanted = {
        "brief": "Points for one",
        "plan": "Cut open, from the side",
        "data": "Avocet",
        "reflection": "Which question did the test leave open",
        "teams": "Godwit",
        "safety": "local rules",
    }
    assert wanted[name] in page
    assert "Print" in page


def test_the_data_sheet_has_the_order_of_the_entry_grid(client, crew):
    page = flat(client.get("/challenges/1/sheets/data"))
    heating = page.split("Cooling")[0]
    order = [heating.index(w) for w in (" Air <", " Avocet <", " Dunlin <", " Godwit <")]
    assert order == sorted(order)
    marks = [f"<th>{m}</th>" for m in (0, 5, 10, 15, 20, 25, 30)]
    assert all(m in heating for m in marks)


def test_a_crane_tried_out_with_one_attempt_each_leads_to_the_lessons(client, crew):
    with crew.database.writing() as session:
        crane = briefs.create_challenge(
            session, get_class(session, crew.class_id), "wind_hoist", "Crane the stores"
        )
        session.flush()
        timing = week.timing_of(session, crane, brief_of(crane))
        week.save_timing(session, crane.id, replace(timing, attempts=1))
        at = f"/challenges/{crane.id}/brief"
    assert "under this brief, 1 attempt each" in flat(client.get(f"{at}/try"))
    while not (answer := client.post(f"{at}/try", json={}).json)["html"]:
        pass
    assert "that meet it score alike" in flat(answer["html"])
    assert f'href="{at}/lessons"' in answer["html"]
    assert client.get(f"{at}/lessons").status_code == 200
