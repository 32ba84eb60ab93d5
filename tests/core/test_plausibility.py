"""Slips a tired reader makes, and honest readings that must not be questioned."""

from __future__ import annotations

from math import inf

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from thermion.core.judging.doubts import Known, doubt_of
from thermion.core.judging.plausibility import (
    Context,
    Expectation,
    check_amount,
    check_temperature,
    check_word,
    expect,
)
from thermion.core.physics.heat import check_mass_balance
from thermion.core.physics.melting import STAGES

OVEN = (-20.0, 200.0)


def context(expected=None, unit="degC", **more) -> Context:
    guess = None if expected is None else Expectation(expected, 4.0)
    return Context(possible_c=OVEN, unit=unit, expected=guess, **more)


def test_the_wrong_unit_is_asked_about_with_the_correction():
    check = check_temperature(95.0, context(35.5))
    assert (check.answer, check.code) == ("ask", "other unit")
    assert check.suggestion == pytest.approx(35.0)
    back = check_temperature(35.0, context(35.5, "degF"))
    assert (back.code, back.suggestion) == ("other unit", 35.0)


@pytest.mark.parametrize(("typed", "meant"), [(485.0, 48.5), (4.85, 48.5), (4850.0, 48.5)])
def test_a_decimal_sign_in_the_wrong_place_is_seen(typed, meant):
    check = check_temperature(typed, context(47.0))
    assert check.answer == ("refuse" if typed > 200 else "ask")
    assert check.suggestion == pytest.approx(meant)


def test_two_digits_are_a_slip_of_the_unit_rather_than_of_the_decimal_sign():
    wide = Context(possible_c=OVEN, unit="degC", expected=expect([9.0], [20.5], 365.0))
    assert check_temperature(97.0, wide).suggestion == pytest.approx(36.1, abs=0.05)


@pytest.mark.parametrize("typed", [999.0, -300.0, 201.0])
def test_what_cannot_be_is_refused(typed):
    assert check_temperature(typed, context(47.0)).answer == "refuse"
    assert check_temperature(typed, context()).answer == "refuse"


def test_a_neighbours_value_and_a_jump_are_told_apart():
    beside = {"Dunlin": Expectation(62.0, 3.0)}
    swapped = check_temperature(62.5, context(41.0, neighbours=beside))
    assert (swapped.answer, swapped.code) == ("ask", "neighbour's value")
    assert "Dunlin" in swapped.message
    jump = check_temperature(30.0, context(41.0, neighbours=beside))
    assert (jump.answer, jump.code) == ("ask", "jump")


def test_the_first_reading_has_only_the_unit_to_go_by():
    assert check_temperature(21.0, context()).answer == "ok"
    assert check_temperature(70.0, context()).code == "other unit"  # 70 °F is a room
    assert expect([], [], 0.0) is None


@given(tau=st.floats(300, 1500), top=st.floats(25, 95), seed=st.integers(0, 999), cooling=st.booleans())
def test_an_honest_curve_read_to_half_a_degree_is_never_questioned(tau, top, seed, cooling):
    rng = np.random.default_rng(seed)
    t = np.arange(0, 1801, 300.0) + rng.uniform(0, 50, 7)
    decay = np.exp(-t / tau)
    true = 20 + (top - 20) * (decay if cooling else 1 - decay)
    read = np.round((true + rng.normal(0, 0.25, 7)) * 2) / 2
    for i in range(2, 7):
        expected = expect(t[:i].tolist(), read[:i].tolist(), float(t[i]))
        assert (
            check_temperature(float(read[i]), Context(possible_c=OVEN, unit="degC", expected=expected)).answer
            == "ok"
        )


@pytest.mark.parametrize("typed", [float("nan"), float("inf"), float("-inf")])
def test_numbers_that_are_none_raise_by_name(typed):
    with pytest.raises(ValueError, match="typed"):
        check_temperature(typed, context(40.0))


def test_amounts_of_an_attempt_are_held_against_what_there_is():
    check = check_amount(31, 0, 24, "Load", most="the 24 weights there are", whole=True)
    assert (check.answer, check.message) == ("refuse", "Load can be at most the 24 weights there are.")
    assert check_amount(300, 0, 240, "Stop").suggestion == 30
    assert check_amount(-1, 0, 240, "Stop").answer == "refuse"
    assert check_amount(2.5, 0, 24, "Load", whole=True).answer == "refuse"
    assert check_amount(0, 0, 240, "Stop").answer == "ok"


def show_s(seconds: float) -> str:
    return f"{seconds:g} s"


@pytest.mark.parametrize(
    ("value", "unit", "known", "asked", "suggestion"),
    [
        (75.0, "second", Known(earlier=(7.0,)), "decimal sign left out", 7.5),
        (1.2, "second", Known(earlier=(70.0, 74.0)), "in minutes", 72.0),
        (0.006, "centimeter", Known(loose=True), "in metres", 0.6),
        (2800.0, "second", Known(others=(17.0, 60.0, 278.0)), "decimal sign left out", 280.0),
        (40.0, "second", Known(earlier=(7.0,)), "Far from what it did before", None),
        (
            1.4e-4,
            "milliliter",
            Known(most=1.05e-4, most_is="the ice that was put in"),
            "more than the ice",
            None,
        ),
        (24.0, "degC", Known(common=20.0, usual=0.5), "All start at 20", None),
    ],
)
def test_an_amount_that_a_slip_explains_is_asked_about(value, unit, known, asked, suggestion):
    found = doubt_of(value, unit, known, show_s, end=0.6 if unit == "centimeter" else inf)
    assert found.answer == "ask"
    assert asked in found.message
    assert found.suggestion == (None if suggestion is None else pytest.approx(suggestion))


@pytest.mark.parametrize(
    ("value", "unit", "known"),
    [
        (0.0, "second", Known(earlier=(7.0,))),  # nothing happened
        (12.0, "second", Known(earlier=(7.0,))),
        (278.0, "second", Known(others=(17.0, 60.0, 120.0))),  # races are unlike
        (0.06, "centimeter", Known(earlier=(0.6, 0.6), loose=True)),  # it stopped on the way
        (20.3, "degC", Known(common=20.0, usual=0.5)),
    ],
)
def test_what_may_well_be_is_not_asked_about(value, unit, known):
    assert doubt_of(value, unit, known, show_s, end=0.6) is None


def test_a_probe_that_fell_out_and_a_drink_in_the_other_unit_are_asked_about_as_such():
    inside = Context(possible_c=(-5.0, 100.0), unit="degF", expected=Expectation(75.0, 4.0), air_c=23.9)
    assert "fall out? Was that 75 °C?" in check_temperature(75.0, inside).message
    drink = Context(possible_c=(-5.0, 100.0), unit="degF", air_c=22.2, above_air=True)
    found = check_temperature(60.0, drink)
    assert (found.code, found.suggestion) == ("other unit", pytest.approx(60.0))


def test_a_stage_going_back_is_asked_and_only_a_sixth_stage_refused():
    back = "Less melted than before?"
    assert check_word(None, 0, STAGES, back).answer == "ok"
    assert check_word(2, 2, STAGES, back).answer == "ok"
    asked = check_word(3, 1, STAGES, back)
    assert (asked.answer, asked.suggestion, asked.code) == ("ask", 3, "backwards")
    assert check_word(0, 5, STAGES, back).answer == check_word(0, -1, STAGES, back).answer == "refuse"
    assert check_word(2, 0, ("collapsed", "leaned", "held")).answer == "ok"  # nothing says it only rises


def test_ice_that_does_not_add_up_is_weighed_again():
    assert check_mass_balance(40, 57, 100).answer == "ok"
    assert "8% of the ice is missing" in check_mass_balance(40, 52, 100).message
    assert "too much" in check_mass_balance(60, 60, 100).message
    with pytest.raises(ValueError, match="started"):
        check_mass_balance(1, 1, 0)
