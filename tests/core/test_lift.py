"""Wind hoist: power by hand, Betz, and a search for the load that always ends at the truth."""

from __future__ import annotations

from math import pi

import pytest
from hypothesis import given
from hypothesis import strategies as st

from thermion.core.physics import lift
from thermion.core.values import Figure


def test_a_lift_by_hand():
    # 10 washers of 8 g and a cup of 6 g, 0.60 m in 4.0 s: 0.086·9.80665·0.6/4 = 0.126506 W
    mass = lift.load_mass(10, 0.008, 0.006)
    assert mass == pytest.approx(0.086)
    assert lift.lift_work(mass, 0.6) == pytest.approx(0.506023, rel=1e-5)
    assert lift.lift_power(mass, 0.6, 4.0) == pytest.approx(0.1265058, rel=1e-6)
    assert lift.turns(0.6, 0.01, 0.001) == pytest.approx(0.6 / (pi * 0.011))
    assert lift.tip_speed_ratio(10, 4.0, 0.14, 4.0) == pytest.approx(2 * pi * 0.14 * 10 / 16)


@given(se=st.tuples(*[st.floats(0, 0.05)] * 3))
def test_relative_uncertainties_of_a_product_add_in_quadrature(se):
    figure = lift.lift_power_figure(
        0.1, 0.5, 2.0, se_mass_kg=0.1 * se[0], se_height_m=0.5 * se[1], se_time_s=2.0 * se[2]
    )
    assert figure.se / figure.value == pytest.approx(sum(x * x for x in se) ** 0.5)


def test_wind_power_grows_with_the_cube_and_no_rotor_takes_more_than_betz():
    base = lift.wind_power(4.0, 0.14)
    assert base == pytest.approx(0.5 * 1.225 * pi * 0.14**2 * 64)
    assert lift.wind_power(8.0, 0.14) == pytest.approx(8 * base)
    assert lift.air_density(15.0) == pytest.approx(1.225, abs=1e-3)
    good = lift.power_coefficient(Figure(value=0.2 * base, se=0.01 * base), base)
    assert good.value == pytest.approx(0.2)
    assert good.se == pytest.approx(0.01)
    assert lift.betz_share(good).value == pytest.approx(0.2 * 27 / 16)
    assert lift.betz_share(Figure(reason="no wind")).reason == "no wind"
    assert lift.power_coefficient(Figure(value=lift.BETZ * base), base).known
    over = lift.power_coefficient(Figure(value=lift.BETZ * base * 1.001), base)
    assert "read away from the hub" in over.reason


@pytest.mark.parametrize(
    ("name", "call"),
    [
        ("mass_kg", lambda: lift.lift_power(-1, 1, 1)),
        ("time_s", lambda: lift.lift_power(1, 1, 0)),
        ("height_m", lambda: lift.lift_power(1, float("inf"), 1)),
        ("count", lambda: lift.load_mass(2.5, 0.008)),
        ("wind_w", lambda: lift.power_coefficient(Figure(value=1.0), 0)),
        ("temp_c", lambda: lift.air_density(-300)),
        ("step", lambda: lift.next_load([], "search", 0, 1)),
        ("results", lambda: lift.next_load([(-1, True)], "search", 1, 1)),
        ("school", lambda: lift.next_load([], "guess", 1, 1)),
    ],
)
def test_what_cannot_be_is_named(name, call):
    with pytest.raises(ValueError, match=name):
        call()


def climb(limit: float, school, step: float, start: float, most=None):
    results = []
    for _ in range(200):
        found = lift.next_load(results, school, step, start, most=most)
        if found.load is None:
            return results, found
        assert found.load not in [x for x, _ in results]
        results.append((found.load, found.load <= limit))
    raise AssertionError("it never ends")


@given(limit=st.floats(0, 300), step=st.floats(0.5, 5), start=st.floats(0.5, 20))
def test_a_search_ends_quickly_with_the_limit_in_its_bracket(limit, step, start):
    results, found = climb(limit, "search", step, start)
    assert (found.lifts or 0) <= limit < found.fails
    assert found.fails - (found.lifts or 0) <= step * (1 + 1e-6) or found.fails <= step
    assert len(results) <= 26
    again = lift.next_load(results[::-1], "search", step, start)
    assert (again.lifts, again.fails) == (found.lifts, found.fails)


@given(limit=st.integers(0, 40), most=st.integers(1, 30))
def test_a_search_never_asks_for_more_than_there_is(limit, most):
    results, found = climb(limit, "search", 1, 4, most)
    assert max(x for x, _ in results) <= most
    if limit >= most:
        assert found.lifts == most
        assert found.fails is None
        assert "all that there is" in found.note


def test_a_ladder_goes_on_until_one_fails():
    assert lift.next_load([], "ladder", 2, 3).load == 3
    assert lift.next_load([(3, True), (5, True)], "ladder", 2, 3).load == 7
    assert lift.next_load([(3, True), (5, False)], "ladder", 2, 3).load is None
    assert lift.next_load([(3, True)], "ladder", 2, 3, most=4).load is None
    assert lift.next_load([(1, True)], [1, 2, 5, 9], 1, 1).load == 2
    assert lift.next_load([(1, True), (2, False)], [1, 2, 5], 1, 1).load is None


def test_a_repeat_that_contradicts_widens_the_bracket_and_says_so():
    found = lift.next_load([(4, False), (5, True), (8, False)], "search", 1, 1)
    assert "lifted 5 but not 4" in found.note
    assert (found.lifts, found.fails) == (None, 8)
    ladder = lift.next_load([(3, True), (3, False)], "ladder", 1, 1)
    assert "disagree" in ladder.note


def test_the_best_is_the_best_tried_and_nothing_lifted_is_zero():
    slow, quick = lift.Lift(0.1, 0.6, 6.0, True), lift.Lift(0.06, 0.6, 2.0, True)
    best, power = lift.best_tried([slow, quick])
    assert best == quick
    assert power.value == pytest.approx(0.06 * 9.80665 * 0.3)
    assert "more load was not tried" in power.notes[0]
    partial = lift.Lift(0.2, 0.3, 3.0, False)
    assert lift.best_tried([slow, partial])[0] == partial
    none, zero = lift.best_tried([lift.Lift(0.1, 0, None, False)])
    assert none is None
    assert zero.value == 0
    assert lift.best_tried([lift.Lift(0.1, 0.6, None, True)])[1].reason == "the rise was not timed"
    assert lift.best_tried([])[1].reason == "no attempt yet"
