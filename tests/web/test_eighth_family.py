"""A family nobody has thought of yet goes from brief to findings without a line of the house changed."""

from __future__ import annotations

import sys
from pathlib import Path

import pytest

from tests.web.conftest import fields_of, flat
from thermion.core import kinds

FOLDER = Path(__file__).parent.parent / "eighth"
LEVELS = {"Avocet": ("61", "60", "62"), "Dunlin": ("74", "75", "74")}


@pytest.fixture
def eighth(monkeypatch):
    """The family's file in the folder of families, as if it stood there."""
    monkeypatch.setattr(kinds, "__path__", [*kinds.__path__, str(FOLDER)])
    kinds.all_kinds.cache_clear()
    yield kinds.get_kind("noise_stop")
    sys.modules.pop("thermion.core.kinds.noise_stop")
    kinds.all_kinds.cache_clear()


def write_brief(client) -> str:
    sent = {"title": "A quiet night", "kind": "noise_stop", "age_band": "9-12", "once": "c"}
    where = client.post("/classes/1/challenges/new", data=sent).location
    base = where.rsplit("/", 2)[0]
    for section in ("task", "rig", "materials", "score", "safety"):
        page = client.get(f"{base}/brief/{section}")
        sent = fields_of(page.get_data(as_text=True))
        assert client.post(f"{base}/brief/{section}", data=sent).status_code == 303, section
    return base


def plan(client, base: str, team_id: int, units: int, prediction: str) -> int:
    where = client.post(f"{base}/builds", data={"team_id": team_id}).location
    part = {"place": "hood", "material": "felt", "form": "flat", "units": units, "reused": 0}
    sent = {"revision": 1, "parts": [part], "factors": {"height_m": 12}, "prediction": prediction}
    saved = client.put(where, json=sent).json
    assert saved["errors"] == {}
    assert "Hood" in saved["svg"]
    for step in ("handin", "sign", "issue"):
        assert client.post(f"{where}/{step}").status_code == 303, step
    return int(where.rsplit("/", 1)[1])


def test_an_eighth_family_goes_from_brief_to_findings_through_the_web(eighth, crew, client):
    base = write_brief(client)
    assert "Buzzer without a hood" in flat(client.get(f"{base}/brief/rig"))
    versions = [
        plan(client, base, crew.teams["Avocet"], 2, "60 dB"),
        plan(client, base, crew.teams["Dunlin"], 1, "70"),
    ]
    sent = fields_of(client.get(f"{base}/runs").get_data(as_text=True))
    run = client.post(f"{base}/runs", data={**sent, "version": versions, "once": "r"}).location
    rows = crew.entries(int(run.rsplit("/", 1)[1]))
    for turn in range(3):
        for team, levels in LEVELS.items():
            shown = flat(client.get(f"{run}?entry={rows[team]}"))
            assert "Sound level" in shown
            sent = {"entry": rows[team], "level_db": levels[turn], "once": f"{team}{turn}"}
            assert client.post(f"{run}/attempts", data=sent).status_code == 303
    refused = client.post(f"{run}/attempts", data={"entry": rows["Avocet"], "level_db": "400", "once": "x"})
    assert refused.status_code == 422
    assert "dB" in flat(refused)
    found = flat(client.get(f"{base}/findings"))
    assert "Avocet" in found.split("Dunlin")[0]
    for words in (
        "± 1.3",
        "61.0",
        "74.3",
        "Sound level (dB)",
        "Avocet came first, 13.3 dB ahead of Dunlin, and would very likely come first again.",
    ):
        assert words in found, words
    table = client.get(f"{base}/findings.csv").get_data().decode("utf-8-sig")
    assert "[dB]" in table
    assert client.get(f"{base}/record").status_code == 200
    for sheet in ("brief", "plan", "data", "safety"):
        assert client.get(f"{base}/sheets/{sheet}").status_code == 200
    file = client.get(f"{base}/record.thermion.json").get_data()
    assert b"noise_stop" in file


def test_its_designs_are_tried_before_the_lesson(eighth, crew, client):
    base = write_brief(client)
    while not (answer := client.post(f"{base}/brief/try", json={}).json)["html"]:
        pass
    assert "of the designs meet the criterion" in flat(answer["html"])
