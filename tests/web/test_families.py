"""Every family can be set up: its brief from start to end, plans, and an honest word on runs."""

from __future__ import annotations

import pytest

from tests.web.conftest import fields_of
from thermion.core.kinds import all_kinds
from thermion.records.building import builds
from thermion.records.planning import briefs
from thermion.records.planning.classes import get_class
from thermion.web import create_app

KINDS = list(all_kinds().values())


@pytest.fixture
def made(crew, client):
    """A challenge of every family, by its key."""
    with crew.database.writing() as session:
        school_class = get_class(session, crew.class_id)
        return {k.key: briefs.create_challenge(session, school_class, k.key, k.label).id for k in KINDS}


@pytest.mark.parametrize("kind", KINDS, ids=lambda k: k.key)
def test_a_brief_is_written_by_keeping_what_is_filled_in(kind, made, crew, client):
    address = f"/challenges/{made[kind.key]}/brief"
    for section in ("task", "rig", "marks", "materials", "score", "safety"):
        if section == "marks" and not kind.test.phases:
            assert client.get(f"{address}/marks").status_code == 302
            continue
        page = client.get(f"{address}/{section}")
        assert page.status_code == 200
        sent = fields_of(page.get_data(as_text=True))
        answer = client.post(f"{address}/{section}", data=sent)
        assert answer.status_code == 303, (section, answer.get_data(as_text=True)[-600:])
    with crew.database.session() as session:
        challenge = briefs.get_challenge(session, made[kind.key])
        brief = briefs.brief_of(challenge)
    assert challenge.brief_done_at
    assert challenge.school == kind.brief.defaults["9-12"].school
    kept = {**brief.values}
    assert kept == pytest.approx(kind.brief.at_age("9-12").default_rig())


@pytest.mark.parametrize("kind", KINDS, ids=lambda k: k.key)
def test_a_plan_is_drafted_with_a_prediction_in_the_familys_own_unit(kind, made, crew, client):
    where = client.post(f"/challenges/{made[kind.key]}/builds", data={"team_id": 1}).location
    plan = {
        "revision": 1,
        "parts": [
            {
                "place": kind.build.places[0].key,
                "material": kind.build.materials[0][0],
                "form": "flat",
                "units": 1,
                "reused": 0,
            }
        ],
        "factors": {f.key: f.default for f in kind.build.factors},
        "prediction": "12",
        "note": "",
    }
    saved = client.put(where, json=plan).json
    assert saved["prediction"] == "12"
    assert "<svg" in saved["svg"]
    assert not saved["missing"]
    version = int(where.rsplit("/", 1)[1])
    with crew.database.session() as session:
        kept = builds.get_version(session, version)
        unit = kind.analysis.prediction_for(briefs.brief_of(kept.build.challenge).choices).unit
        assert briefs.brief_of(kept.build.challenge).setting.from_si(kept.prediction, unit) == pytest.approx(
            12
        )
    wrong = client.put(where, json={**plan, "revision": 2, "prediction": "12 furlongs"}).json
    assert wrong["errors"]["prediction"]
    assert wrong["prediction"] == "12 furlongs"  # as typed, also after a reload
    assert client.get(where).text.count("12 furlongs") >= 1
    assert wrong["missing"]  # and it cannot be handed in so


def test_an_application_over_the_same_folder_finds_them_again(made, crew, client):
    again = create_app({"DATA": crew.database.folder})
    page = again.test_client().get("/").get_data(as_text=True)
    assert all(kind.label in page for kind in KINDS)
