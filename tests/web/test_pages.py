"""Pages as a teacher uses them: typing is kept, data has three forms, once is once."""

from __future__ import annotations

import csv
import io
import re

import pytest

from tests.conftest import GOOD, Crew
from tests.web.conftest import flat
from thermion.records.planning import briefs

RIG = {
    "aperture_m2": "900",
    "load_kg": "150",
    "start_c": "20",
    "air_c": "20",
    "irradiance_w_m2": "800",
    "sun_deg": "50",
    "level_c": "50",
    "fall_k": "10",
    "lost_min": "10",
    "tol_aperture_m2": "10",
    "tol_load_kg": "5",
    "tol_start_c": "2",
    "tol_air_c": "3",
    "tol_irradiance_w_m2": "80",
    "tol_sun_deg": "8",
}


def brief_of(crew: Crew):
    with crew.database.session() as session:
        return briefs.brief_of(briefs.get_challenge(session, crew.challenge_id))


def errors(page: str) -> list[str]:
    return re.findall(r'class="wrong"[^>]*>([^<]+)<', page)


@pytest.mark.parametrize(
    ("field", "typed", "says"),
    [
        ("load_kg", "heavy", "is not a number"),
        ("load_kg", "", "A number is needed"),
        ("load_kg", "99999", "At most 2000"),
        ("load_kg", "150 kg", "At most 2000"),  # its unit is read
        ("load_kg", "150 m", "this is in g"),
        ("air_c", "1,250", "could be"),
        ("level_c", "5", "At least 25"),
        ("tol_air_c", "-1", "At least 0"),
    ],
)
def test_a_wrong_number_is_said_next_to_its_field_and_all_typing_is_kept(client, crew, field, typed, says):
    sent = {**RIG, "start_c": "17.5", field: typed}
    answer = client.post("/challenges/1/brief/rig", data=sent)
    page = answer.get_data(as_text=True)
    assert answer.status_code == 422
    (message,) = errors(page)
    assert says in message
    assert 'value="17.5"' in page
    assert f'value="{typed}"' in page
    (marked,) = re.findall(r'<input[^>]*aria-invalid="true"[^>]*>', page)
    assert f'id="{field}"' in marked
    assert f'aria-describedby="{field}-wrong"' in marked
    assert brief_of(crew).values["start_c"] == 20.0  # nothing stored


def test_numbers_in_either_style_with_units_are_stored_si(client, crew):
    sent = {**RIG, "load_kg": "180 g", "start_c": "68 F", "aperture_m2": "905,5"}
    assert client.post("/challenges/1/brief/rig", data=sent).status_code == 303
    values = brief_of(crew).values
    assert (values["load_kg"], values["aperture_m2"]) == pytest.approx((0.18, 0.09055))
    assert values["start_c"] == pytest.approx(20.0)


@pytest.mark.parametrize(
    ("typed", "says"),
    [
        ("5, 10", "first reading is at minute 0"),
        ("0, x", "is not a number"),
        ("0, 400", "within 6 hours"),
        ("", "At least the mark at 0"),
    ],
)
def test_marks_are_checked_at_their_place(client, crew, typed, says):
    answer = client.post("/challenges/1/brief/marks", data={"heating": typed, "cooling": "0, 5"})
    assert answer.status_code == 422
    assert any(says in e for e in errors(answer.get_data(as_text=True)))
    good = {"heating": "10 0; 4; 2", "cooling": "0, 5"}
    assert client.post("/challenges/1/brief/marks", data=good).status_code == 303
    assert brief_of(crew).marks["heating"] == (0, 120, 240, 600)


def test_an_own_rule_keeps_its_rows_when_one_is_wrong(client, crew):
    sent = {
        "school": "own",
        "term_metric": ["peak", "units"],
        "term_weight": ["2", "less"],
        "term_divisor": ["1", "1"],
        "term_cap": ["", ""],
    }
    answer = client.post("/challenges/1/brief/score", data=sent)
    page = answer.get_data(as_text=True)
    assert answer.status_code == 422
    assert "“less” is not a number" in page
    assert 'value="less"' in page
    sent["term_weight"] = ["2", "-0.5"]
    assert client.post("/challenges/1/brief/score", data=sent).status_code == 303
    rule = brief_of(crew).rule
    assert [(t.metric, t.weight) for t in rule] == [("peak", 2.0), ("units", -0.5)]


def test_a_double_click_makes_one_challenge_and_one_run(client, crew):
    sent = {"title": "Supper", "kind": "solar_oven", "age_band": "9-12", "once": "token-1"}
    first, second = (client.post("/classes/1/challenges/new", data=sent) for _ in range(2))
    assert first.location == second.location
    version = crew.plan("Avocet")
    run = {
        "version": [version],
        "start_c": "20",
        "air_c": "20",
        "irradiance_w_m2": "800",
        "sun_deg": "50",
        "speed": "1",
        "once": "token-2",
    }
    places = {client.post("/challenges/1/runs", data=run).location for _ in range(2)}
    assert len(places) == 1
    starts = {client.post("/challenges/1/builds", data={"team_id": 2}).location for _ in range(2)}
    assert len(starts) == 1
    listed = client.get("/challenges/1/runs").get_data(as_text=True)
    assert listed.count("Run 1</b>") == 1
    assert "Run 2</b>" not in listed


def test_a_run_before_the_cautions_were_read_is_refused_with_the_way_there(client, crew):
    with crew.database.writing() as session:
        briefs.get_challenge(session, 1).cautions_seen_at = None
    run = {
        "version": [crew.plan("Avocet")],
        "start_c": "20",
        "air_c": "20",
        "irradiance_w_m2": "800",
        "sun_deg": "50",
        "speed": "1",
    }
    page = client.post("/challenges/1/runs", data=run).get_data(as_text=True)
    assert "Read the safety cautions" in page
    assert "/challenges/1/brief/safety" in page
    client.post("/challenges/1/brief/safety")
    assert client.post("/challenges/1/runs", data=run).status_code == 303


def plan_sent(client, version: int, **more) -> dict:
    shown = client.get(f"/versions/{version}").get_data(as_text=True)
    state = re.search(r'"revision": (\d+)', shown)
    parts = [{"place": p.place, "material": p.material, "form": p.form, "units": p.units} for p in GOOD.parts]
    factors = {"height_m": 12, "gap_m": 4, "reflector_m": 30, "reflector_deg": 110}
    return {
        "revision": int(state.group(1)),
        "parts": parts,
        "factors": factors,
        "prediction": "60",
        "note": "",
        **more,
    }


def test_the_editor_is_answered_with_counts_limits_and_drawing(client, crew):
    version = crew.plan("Avocet", until="draft")
    sent = plan_sent(client, version)
    sent["parts"][2]["units"] = 9
    answer = client.put(f"/versions/{version}", json=sent).json
    assert answer["units"] == "15"
    assert answer["problems"] == {"2": "Newspaper: 9 used, the limit is 8."}
    assert "<svg" in answer["svg"]
    refused = client.post(f"/versions/{version}/handin")
    assert refused.status_code == 422
    assert "the limit is 8" in refused.get_data(as_text=True)
    wrong = plan_sent(client, version, prediction="hot")
    answer = client.put(f"/versions/{version}", json=wrong).json
    assert "is not a number" in answer["errors"]["prediction"]
    again = client.put(f"/versions/{version}", json=wrong)  # an old revision
    assert (again.status_code, "another screen" in again.json["error"]) == (409, True)


def test_a_plan_deleted_in_another_tab(client, crew):
    version = crew.plan("Avocet", until="draft")
    sent = plan_sent(client, version)
    client.post(f"/versions/{version}/delete")
    answer = client.put(f"/versions/{version}", json=sent)
    assert (answer.status_code, "another tab" in answer.json["error"]) == (410, True)
    page = client.get(f"/versions/{version}")
    assert (page.status_code, "another tab" in page.get_data(as_text=True)) == (410, True)


def test_the_same_findings_as_page_csv_and_json(client, crew):
    run = crew.run(crew.plan("Avocet"))
    for minute, value in ((0, "20"), (5, "35"), (10, "44"), (15, "49"), (20, "52")):
        crew.read(crew.entries(run)["Avocet"], minute, value, keep=True)
    page = client.get("/challenges/1/findings").get_data(as_text=True)
    assert "52.0 °C" in page
    text = client.get("/challenges/1/findings.csv").get_data().decode("utf-8-sig")
    (row,) = csv.DictReader(io.StringIO(text))
    data = client.get("/challenges/1/findings.json").json
    assert float(row["peak [°C]"]) == data["rows"][0]["peak"] == 52.0
    assert data["rows"][0]["held"] is None
    green = client.get("/challenges/1/findings.json?school=thrift").json
    assert green["rows"][0]["score"] == pytest.approx(52.0 - 10)
    readings = client.get(f"/runs/{run}.json").json["rows"]
    assert [r["value_si"] for r in readings] == [20, 35, 44, 49, 52]


def test_the_brief_and_the_runs_are_data_too(client, crew):
    crew.run(crew.plan("Avocet"), irradiance_w_m2=620.0)
    rows = client.get("/challenges/1/brief.json").json["rows"]
    area = next(r for r in rows if r["key"] == "aperture_m2")
    assert (area["value"], area["tolerance"], area["unit"]) == (900, 10, "cm²")
    assert [r["value"] for r in rows if (r["what"], r["key"]) == ("mark", "cooling")] == [0, 5, 10, 15, 20]
    (run,) = client.get("/challenges/1/runs.json").json["rows"]
    assert (run["run"], run["builds"], run["irradiance"]) == (1, 1, 620)
    assert run["air"] is None  # not entered for this run
    text = client.get("/challenges/1/runs.csv").get_data().decode("utf-8-sig")
    assert "irradiance [W/m²]" in text.splitlines()[0]


def test_a_fahrenheit_class_sees_fahrenheit_everywhere(client, app):
    crew = Crew(app.extensions["thermion"], "degF", "comma")
    run = crew.run(crew.plan("Avocet"))
    for minute, value in ((0, "68"), (5, "95,5"), (10, "112")):
        crew.read(crew.entries(run)["Avocet"], minute, value, keep=True)
    state = client.get(f"/runs/{run}/state.json").json
    assert [c["text"] for c in state["cells"]] == ["68,0", "95,5", "112,0"]
    assert "112,0 °F" in client.get("/challenges/1/findings").get_data(as_text=True)
    text = client.get(f"/runs/{run}.csv").get_data().decode("utf-8-sig")
    assert ";value;unit;value_si;unit_si;" in text
    assert ";95,5;°F;" in text


def upload(client, run: int, data: bytes, name: str = "bench.csv"):
    return client.post(f"/runs/{run}/file", data={"file": (io.BytesIO(data), name)})


@pytest.mark.parametrize(
    ("data", "name", "says"),
    [
        (b"", "a.csv", "empty"),
        (b"\x89PNG\r\n", "a.csv", "PNG picture"),
        (b"", "", "Choose a file"),
        (("t,A\n" + "1,2\n" * 80_000).encode(), "a.csv", "reads up to 70,000"),
    ],
)
def test_a_file_that_is_none_is_said_and_nothing_is_stored(client, crew, data, name, says):
    run = crew.run(crew.plan("Avocet"))
    answer = upload(client, run, data, name)
    assert answer.status_code == 422
    assert says in answer.get_data(as_text=True)
    assert client.get(f"/runs/{run}.json").json["rows"] == []


def test_an_oversized_upload_and_a_newer_challenge_file(client, crew):
    big = client.post("/import", data={"file": (io.BytesIO(b"x" * 17_000_000), "a.json")})
    assert (big.status_code, "16 MB" in big.get_data(as_text=True)) == (413, True)
    newer = b'{"format": "thermion.challenge", "version": 99}'
    answer = client.post("/import", data={"file": (io.BytesIO(newer), "a.json")})
    assert (answer.status_code, "Update Thermion" in answer.get_data(as_text=True)) == (422, True)


def test_a_reading_sent_from_the_grid(client, crew):
    run = crew.run(crew.plan("Avocet"))
    entry = crew.entries(run)["Avocet"]
    sent = {
        "entry": entry,
        "phase": "heating",
        "mark": 0,
        "typed": "20,5",
        "client_id": "c1",
        "entered_at": "2026-06-01T12:00:08Z",
        "supersedes": None,
    }
    first = client.post(f"/runs/{run}/readings", json=sent)
    assert (first.status_code, first.json["cell"]["text"]) == (200, "20.5")
    assert first.json["cell"]["time"] == "0:08"
    assert client.post(f"/runs/{run}/readings", json=sent).json["repeated"]
    other = client.post(f"/runs/{run}/readings", json={**sent, "client_id": "c2"})
    assert other.status_code == 409
    bad = client.post(f"/runs/{run}/readings", json={**sent, "client_id": "c3", "mark": "x"})
    assert (bad.status_code, "could not be understood" in bad.json["error"]) == (422, True)
    refused = client.post(
        f"/runs/{run}/readings",
        json={**sent, "mark": 300, "typed": "999", "client_id": "c4", "entered_at": "2026-06-01T12:05:08Z"},
    )
    assert (refused.status_code, refused.json["field"]) == (422, "value")
    probe = client.post(
        f"/runs/{run}/probe", json={"entry": entry, "phase": "heating", "mark": 0, "client_id": "p"}
    )
    assert "only in a rehearsal" in probe.json["error"]


def test_pictures_stand_on_their_own(client, crew):
    version = crew.plan("Avocet")
    for address in (f"/versions/{version}.svg", f"/runs/{crew.run(version)}/curves.svg"):
        answer = client.get(address)
        text = answer.get_data(as_text=True)
        assert answer.mimetype == "image/svg+xml"
        assert "xmlns='http://www.w3.org/2000/svg'" in text
        assert "<style>" in text
        assert "var(--" not in text


@pytest.mark.parametrize(
    ("typed", "says"),
    [
        ("soon", "“soon” is no day and time."),
        ("0001-01-01T00:00", "type its values"),
        ("2999-01-01T10:00", "not over yet"),
    ],
)
def test_when_a_sheet_began_is_asked_for_again_where_it_cannot_be(client, crew, typed, says):
    run = crew.run(crew.plan("Avocet"), start=typed[0] == "0")
    answer = client.post(f"/runs/{run}/paper", data={"began": typed}, follow_redirects=True)
    assert (answer.status_code, answer.request.path) == (200, f"/runs/{run}")
    assert says in flat(answer)
