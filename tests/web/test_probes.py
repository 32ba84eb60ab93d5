"""The address that probes send to, and the one by which a run is followed: keys, doors, limits, words."""

from __future__ import annotations

import json
import re
from pathlib import Path

import pytest

from tests.conftest import Crew
from tests.web.conftest import flat
from thermion.web import create_app
from thermion.web.access import THROUGH_DOOR
from thermion.web.places.probes import entering

TABLET = {THROUGH_DOOR: True, "REMOTE_ADDR": "192.168.7.31"}
HERE = {"Host": "192.168.7.2:8000"}


def new_key(client, name: str = "board") -> str:
    page = client.post("/probes", data={"name": name}).get_data(as_text=True)
    return re.search(r"<code[^>]*>\s*(\S+)\s*</code>", page)[1]


def post(client, key: str, *records, **how):
    body = records[0] if records and isinstance(records[0], bytes) else json.dumps(list(records)).encode()
    return client.post(
        "/senml", data=body, headers={"Authorization": f"Bearer {key}"} | how.pop("headers", {}), **how
    )


def value(name: str = "A", celsius: float = 21.5, **more) -> dict[str, object]:
    return {"n": name, "u": "Cel", "v": celsius} | more


def test_a_key_is_shown_once_and_what_it_sends_is_answered_with_what_was_refused(client, crew):
    key = new_key(client)
    assert key not in flat(client.get("/probes"))
    answer = post(client, key, value("A"), value("B", unit="x") | {"u": "furlong"})
    assert (answer.status_code, answer.json["stored"]) == (200, 1)
    assert answer.json["refused"][0]["name"] == "B"
    assert "furlong" in answer.json["refused"][0]["why"]
    assert "A" in flat(client.get("/probes"))


@pytest.mark.parametrize(
    ("body", "status", "says"),
    [(b"{}", 400, "a list of records"), (b"\x00" * 300_000, 413, ""), (b"", 400, "expected JSON")],
)
def test_what_is_no_pack_is_answered_in_words(client, body, status, says):
    answer = post(client, new_key(client), body)
    assert answer.status_code == status
    assert says in answer.get_data(as_text=True)


def examples() -> list[tuple[str, int, dict]]:
    """What is sent and what is answered, as the documents say: a status where it is no success."""
    text = (Path(__file__).parents[2] / "docs/devices.md").read_text()
    rows = re.findall(r"^\| `(.*?)` \| (\d* ?)`(.*)` \|$", text, re.M)
    return [(sent, int(status or 200), json.loads(answered)) for sent, status, answered in rows]


def test_every_example_of_the_documents_is_answered_as_they_say(client, crew):
    key = new_key(client)
    assert len(examples()) >= 8
    for sent, status, answered in examples():
        found = post(client, key, sent.encode())
        assert found.status_code == status, sent
        assert found.json.items() >= answered.items(), sent


def test_a_stolen_key_is_revoked_and_a_made_up_one_opens_nothing(client):
    key = new_key(client)
    assert post(client, key + "x", value()).status_code == 401
    number = re.search(r'name="revoke"[^>]*value="(\d+)"', client.get("/probes").get_data(as_text=True))[1]
    client.post("/probes", data={"revoke": number})
    answer = post(client, key, value())
    assert (answer.status_code, "revoked" in answer.json["error"]) == (401, True)


def test_too_many_packs_are_told_to_wait_before_they_take_a_writers_turn(client, app, monkeypatch):
    key = new_key(client)
    monkeypatch.setattr(entering, "counter", lambda: 7.0)  # all within one moment
    codes = [post(client, key, value(t=-i)).status_code for i in range(210)]
    assert codes == [200] * 200 + [429] * 10
    stamp = app.extensions["thermion"].stamps.stamp()
    assert post(client, key, value(t=-300)).status_code == 429
    assert app.extensions["thermion"].stamps.stamp() == stamp
    monkeypatch.setattr(entering, "counter", lambda: 18.0)
    assert post(client, key, value(t=-300)).status_code == 200


def test_a_key_reads_for_its_own_class_and_is_shown_no_run_of_another(app, crew, client):
    here = crew.run(crew.plan("Avocet"))
    neighbours = Crew(crew.database)
    other = neighbours.run(neighbours.plan("Avocet"))
    key = new_key(client)
    post(client, key, value())
    put = {"channel": 1, "spot": f"row-{crew.entries(here)['Avocet']}"}
    assert client.post(f"/runs/{here}/probes/put", json=put).status_code == 200
    there = client.post(
        f"/runs/{other}/probes/put", json={**put, "spot": f"row-{neighbours.entries(other)['Air']}"}
    )
    assert (there.status_code, "belongs to another class" in there.json["error"]) == (422, True)
    assert client.get(f"/runs/{other}/probes.json").json["channels"] == []


def test_another_machine_sends_only_while_the_teacher_lets_probes_in(folder):
    app = create_app({"DATA": folder, "TESTING": True, "WTF_CSRF_ENABLED": False})
    here, there = app.test_client(), app.test_client()
    key = new_key(here)
    far = {"environ_base": TABLET, "headers": HERE}
    assert post(there, key, value(), **far).status_code == 401
    here.post("/probes", data={"let_in": "1"})
    assert post(there, key, value(), **far).status_code == 200
    assert post(there, "x", value(), **far).status_code == 401
    assert there.get("/probes", environ_base=TABLET, headers=HERE).status_code == 303  # to the door
    here.post("/probes", data={"let_in": "0"})
    assert post(there, key, value(), **far).status_code == 401
    app.extensions["thermion"].close()


def test_a_run_is_followed_from_where_one_stopped(client, crew):
    run = crew.run(crew.plan("Avocet"))
    entry = crew.entries(run)["Avocet"]
    crew.read(entry, 0, "20.5")
    first = client.get(f"/follow/runs/{run}.json")
    assert [(r["row"], r["mark_s"], r["value"], r["unit"]) for r in first.json["readings"]] == [
        ("Avocet", 0, 20.5, "°C")
    ]
    same = client.get(f"/follow/runs/{run}.json", headers={"If-None-Match": first.headers["ETag"]})
    assert (same.status_code, same.get_data()) == (304, b"")
    crew.read(entry, 5, "31")
    after = client.get(
        f"/follow/runs/{run}.json?since={first.json['last']}",
        headers={"If-None-Match": first.headers["ETag"]},
    )
    assert [r["value"] for r in after.json["readings"]] == [31.0]
    table = client.get(f"/follow/runs/{run}.csv").get_data(as_text=True).splitlines()
    assert table[0] == "id,row,phase,mark_s,taken_s,value,unit,source,replaces"
    assert len(table) == 3


def test_the_ten_lines_on_the_page_are_a_program_that_runs(client):
    page = client.get("/probes").get_data(as_text=True)
    shown = re.search(r"<pre[^>]*>(.*?)</pre>", page, re.S)[1]
    program = shown.replace("&#34;", '"').replace("&gt;", ">").replace("&#39;", "'")
    assert len(program.splitlines()) <= 11
    compile(program, "ten lines", "exec")


def test_every_address_that_is_asked_again_and_again_answers_for_every_sort_of_run(demo_copy):
    app = create_app({"DATA": demo_copy()})
    client = app.test_client()
    for run in range(1, 15):
        for address in ("probes.json", "machines/now.json", "races/now.json"):
            assert client.get(f"/runs/{run}/{address}").status_code == 200, (run, address)
    assert client.get("/runs/99/machines/now.json").status_code == 410
    app.extensions["thermion"].close()
