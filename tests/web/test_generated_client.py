"""An outside program knows the addresses from their description alone: a client generated from it, by a kept
package, takes a team's reading, follows the run and fetches the package."""

from __future__ import annotations

import importlib
import io
import json
import sys
import uuid
import zipfile
from datetime import UTC, datetime, timedelta
from pathlib import Path

import httpx
import pytest
from openapi_python_client import generate
from openapi_python_client.config import Config, ConfigFile, MetaType

from thermion.web import create_app
from thermion.web.access import THROUGH_DOOR

NAME = "client_of_the_description"


@pytest.fixture
def made(app, tmp_path, monkeypatch):
    """The generated package, and a client of it."""
    described = tmp_path / "openapi.json"
    described.write_text(json.dumps(app.test_client().get("/openapi.json").json))
    asked = ConfigFile(
        post_hooks=[],
        package_name_override=NAME,
        content_type_overrides={"application/zip": "application/octet-stream"},
    )
    out = tmp_path / NAME
    complaints = generate(
        config=Config.from_sources(asked, MetaType.NONE, Path(described), "utf-8", True, out)
    )
    assert not complaints
    monkeypatch.syspath_prepend(tmp_path)
    program = importlib.import_module(NAME)
    client = program.Client(base_url="http://localhost")
    client.set_httpx_client(
        httpx.Client(
            transport=httpx.WSGITransport(app=app),
            base_url="http://localhost",
            headers={"Accept": "application/json, application/zip"},
        )
    )
    yield client
    for name in [n for n in sys.modules if n.partition(".")[0] == NAME]:
        del sys.modules[name]


def call(address: str):
    """The function that asks this address."""
    return importlib.import_module(f"{NAME}.api.{address}").sync


def models():
    return importlib.import_module(f"{NAME}.models")


def test_a_reading_taken_a_run_followed_and_a_package_fetched(made, crew):
    begun = datetime.now(UTC) - timedelta(seconds=5)
    crew.run(crew.plan("Avocet"), at=begun)
    (listed,) = call("contents.contents_listed_get")(client=made).classes
    (challenge,) = listed.challenges
    (run,) = challenge.runs
    state = call("grid.grid_state_get")(run.id, client=made)
    (row,) = (r for r in state.rows if listed.teams.additional_properties.get(r.letter) == "Avocet")
    token = call("token.token_get")(client=made).token
    made.get_httpx_client().headers["X-CSRFToken"] = token

    sent = models().ReadingSent(
        entry=row.id,
        phase=state.phases[0].key,
        mark=state.phases[0].slots[0].mark,
        typed="21.5",
        client_id=uuid.uuid4().hex,
        entered_at=datetime.now(UTC),
    )
    saved = call("grid.grid_save_post")(run.id, client=made, body=sent)
    assert saved.cell.text == "21.5"
    followed = call("follow.follow_run_get")(run.id, client=made)
    assert [(r.row, r.value, r.unit) for r in followed.readings] == [("Avocet", 21.5, "°C")]
    nothing_new = call("follow.follow_run_get")(run.id, client=made, since=followed.last)
    assert nothing_new.readings == []

    package = call("package.package_of_challenge_get")(challenge.id, client=made, words="0")
    with zipfile.ZipFile(io.BytesIO(package.payload.read())) as zipped:
        assert b"21.5" in zipped.read("data/values.csv")
        assert b"Avocet" not in zipped.read("data/teams.csv")


def test_what_is_no_success_is_the_same_shape_everywhere(made, crew):
    trouble = models().Trouble
    for found in (
        call("package.package_of_challenge_get")(99, client=made),
        call("follow.follow_run_get")(99, client=made),
        call("grid.grid_state_get")(99, client=made),
        call("probes.probes_receive_post")(client=made, body=[models().SenmlRecord(n="A", u="Cel", v=21.5)]),
        call("grid.grid_start_post")(1, client=made, body=models().StartSent(phase="heating")),
    ):
        assert isinstance(found, trouble)
        assert found.error


def test_a_program_is_told_in_json_what_it_may_do_and_how_much(client):
    wrong = client.get("/senml", headers={"Accept": "application/json"})
    assert wrong.status_code == 405
    assert set(wrong.allow) == {"POST", "OPTIONS"}
    assert wrong.json["error"]
    too_large = client.post("/senml", data=b" " * 300_000, headers={"Authorization": "Bearer x"})
    assert (too_large.status_code, "256 kB" in too_large.json["error"]) == (413, True)
    file = client.post("/import", data={"file": (io.BytesIO(b" " * 17_000_000), "x.zip")})
    assert (file.status_code, "16 MB" in file.text) == (413, True)
    assert client.get("/nowhere", headers={"Accept": "application/json"}).json["error"]
    assert "<html" in client.get("/nowhere", headers={"Accept": "text/html"}).text


def test_without_rights_a_program_is_told_so_in_json(folder):
    app = create_app({"DATA": folder})
    for address in (
        "/contents.json",
        "/runs/1/state.json",
        "/challenges/1/package.zip",
        "/follow/runs/1.json",
    ):
        asked = app.test_client().get(
            address, headers={"Accept": "application/json"}, environ_base={THROUGH_DOOR: True}
        )
        assert (asked.status_code, asked.json["error"] != "") == (401, True), address
    app.extensions["thermion"].close()
