"""What a new challenge begins with can be trusted: it fits the choice, the unit and the kit."""

from __future__ import annotations

import pytest

from tests.conftest import Crew
from tests.web.conftest import fields_of, flat
from thermion.core.ages import AGES
from thermion.core.kinds import all_kinds
from thermion.core.physics.units import Setting
from thermion.records.building.kit import kit_of
from thermion.records.planning import briefs
from thermion.records.planning.classes import get_class

FAHRENHEIT = Setting(temp_unit="degF")


def new(crew: Crew, key: str, age: str = "9-12") -> int:
    with crew.database.writing() as session:
        made = briefs.create_challenge(session, get_class(session, crew.class_id), key, "New", age)
        return made.id


def test_a_warm_drink_is_told_tested_and_shown_as_one_and_what_was_written_stays(client, crew):
    page = f"/challenges/{new(crew, 'keep_temp')}/brief/task"
    sent = fields_of(client.get(page).get_data(as_text=True))
    assert "ice" in sent["story"][0]
    client.post(page, data={**sent, "measure": "temp"})
    drink = fields_of(client.get(page).get_data(as_text=True))
    assert "stays warm" in drink["story"][0]
    assert drink["success"][0].strip() == "The drink that stays warm longest."
    kit = flat(client.get(page.replace("task", "kit")))
    assert "Drain every jar" not in kit
    assert "stir once before each mark" in kit
    card = flat(client.get(page.replace("brief/task", "sheets/station")))
    assert "A fuller cup looked like a winner" not in card
    client.post(page, data={**drink, "story": "Our own.", "measure": "left"})
    own = fields_of(client.get(page).get_data(as_text=True))
    assert own["story"][0].strip() == "Our own."
    assert own["success"][0].strip() == "The most ice left."


@pytest.mark.parametrize("age", AGES)
def test_success_is_said_at_every_age_and_all_families_begin_with_one_school(crew, age):
    schools = set()
    for key in all_kinds():
        new(crew, key, age)
    with crew.database.session() as session:
        for challenge in get_class(session, crew.class_id).challenges[1:]:
            assert challenge.success
            schools.add(challenge.school)
    assert len(schools) == 1


@pytest.mark.parametrize("key", sorted(all_kinds()))
def test_a_class_in_fahrenheit_begins_with_whole_degrees_inside_the_limits(database, key):
    crew = Crew(database, temp_unit="degF")
    for age in AGES:
        with database.session() as session:
            brief = briefs.brief_of(briefs.get_challenge(session, new(crew, key, age)))
        for c in brief.kind.brief.every_setting():
            for value, unit in ((brief.values[c.key], c.unit), (brief.tolerance.get(c.key, 0), "delta_degC")):
                if "degC" not in c.unit or c.key.startswith("step_"):
                    continue
                shown = FAHRENHEIT.from_si(value, unit)
                assert abs(shown - round(shown)) < 1e-6 or abs(shown) < 0.5, (c.key, shown)
            assert c.si("low") - 1e-9 <= brief.values[c.key] <= c.si("high") + 1e-9


@pytest.mark.parametrize("key", ["wind_hoist", "sail_run"])
def test_as_many_pieces_are_cut_as_the_list_has(crew, key):
    number = new(crew, key)
    with crew.database.session() as session:
        challenge = briefs.get_challenge(session, number)
        kit = kit_of(session, challenge.school_class, [challenge])
        for cut in kit.cuts:
            (line,) = [x for x in kit.lines if cut.item.split()[-1].lower() in x.line.item.lower()]
            assert sum(count for _, count in cut.pieces) == line.line.total


def test_wind_that_nobody_measured_is_not_called_measured(client, crew):
    from tests.browser.test_station import ready

    page = client.get(f"/challenges/{ready(crew, 'wind_hoist')}/runs").get_data(as_text=True)
    assert fields_of(page)["how_wind_m_s"] == ["estimated"]
