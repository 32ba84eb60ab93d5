"""A class goes from its tray to a roof: what follows is worked out, and nothing is said of what is no number."""

from __future__ import annotations

import pytest

from tests.web.conftest import flat
from thermion.core.kinds import get_kind
from thermion.core.kinds.rain_catch.life_size import YEARS
from thermion.core.reasons import Why
from thermion.records.planning import briefs
from thermion.records.planning.classes import get_class

LESS_RAIN = Why.LESS_RAIN_THAN_USED.value
MODEL = get_kind("rain_catch").life_size


@pytest.fixture
def roof(crew, client):
    """Asks the page of a rain challenge, with these numbers typed."""
    with crew.database.writing() as session:
        made = briefs.create_challenge(session, get_class(session, crew.class_id), "rain_catch", "Rain").id
    return lambda **typed: client.get(f"/challenges/{made}/life-size", query_string=typed)


def typed(**changed: str) -> dict[str, str]:
    usual = {c.key: f"{c.default:g}" for c in MODEL.settings}
    return usual | changed


def test_a_larger_tank_helps_over_the_dry_months_until_none_would(roof):
    assert "On 96 days of 365 the tank cannot give what is used." in flat(roof())
    assert "The tank never runs dry." in flat(roof(**typed(tank_m3="9000")))
    never = flat(roof(**typed(people="50")))
    assert LESS_RAIN in never


def test_where_a_number_is_none_nothing_is_worked_out_and_the_field_says_so(roof):
    page = roof(**typed(people="ten", rain_m="5"))
    shown = flat(page)
    assert page.status_code == 422
    assert "“ten” is not a number" in shown
    assert "At least 20." in shown
    assert "Put the marked number right" in shown
    assert "Comes off the roof" not in shown


def test_the_same_water_comes_down_however_it_is_spread():
    came = []
    for number, shares in enumerate(YEARS.values()):
        assert sum(shares) == pytest.approx(1.0)
        year = MODEL.work(MODEL.usual() | {"spread": number, "first_m3": 0.0})
        came.append(year.facts[0].figure.value)
    assert came == pytest.approx([0.8 * 60 * 0.85] * 3)


def test_a_family_that_has_no_life_size_has_no_such_page(client, crew):
    assert client.get(f"/challenges/{crew.challenge_id}/life-size").status_code == 404
