"""What people type, and how a class writes numbers."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from thermion.core.physics.units import NotANumber, Setting, convert, parse_number, parse_temperature


def test_a_temperature_is_not_a_temperature_difference():
    assert convert(9, "delta_degF", "delta_degC") == pytest.approx(5)
    assert convert(9, "degF", "degC") == pytest.approx(-12.777778)
    with pytest.raises(ValueError, match="unit"):
        convert(9, "minute", "degC")


@pytest.mark.parametrize(
    ("typed", "unit", "celsius"),
    [
        ("21.5", "degC", 21.5),
        ("21,5", "degC", 21.5),
        (" 95 F", "degC", 35.0),
        ("35C", "degF", 35.0),
        ("−4", "degC", -4.0),
        (".5", "degC", 0.5),
        ("68°F", "degC", 20.0),
    ],
)
def test_a_suffix_wins_and_either_decimal_sign_is_understood(typed, unit, celsius):
    assert parse_temperature(typed, unit)[0] == pytest.approx(celsius)


@pytest.mark.parametrize("typed", ["", "warm", "2 1", "1.2.3", "21 min", "1,250", "--3", "nan"])
def test_what_cannot_be_read_is_said_and_never_guessed(typed):
    with pytest.raises(NotANumber):
        parse_temperature(typed, "degC")


def test_a_thousands_sign_is_asked_back_in_either_style():
    with pytest.raises(NotANumber, match=r"1\.250 or 1250"):
        parse_number("1,250", "point")
    with pytest.raises(NotANumber, match="1,250 or 1250"):
        parse_number("1.250", "comma")


@given(st.floats(-40, 190), st.sampled_from(["degC", "degF"]), st.sampled_from(["point", "comma"]))
def test_what_is_shown_can_be_typed_again(value, unit, decimal):
    setting = Setting(unit, decimal)
    shown = setting.show(value, "degC", 3)
    assert parse_temperature(shown, unit, decimal)[0] == pytest.approx(value, abs=1e-3)
    assert parse_temperature(setting.typed(value, "degC"), unit, decimal)[0] == pytest.approx(value, abs=1e-5)


@given(st.floats(-2e4, 2e4), st.integers(0, 4), st.sampled_from(["point", "comma"]))
def test_what_is_filled_into_a_field_is_the_number_whatever_zeros_it_ends_in(value, digits, decimal):
    for number in (value, round(value, -2)):  # 60 mL is never 6
        filled = Setting(decimal=decimal).typed(number, "dimensionless", digits)
        assert parse_number(filled, decimal) == (pytest.approx(round(number, digits), abs=1e-9), "")


def test_stored_quantities_are_written_in_the_unit_of_the_bench():
    setting = Setting("degF", "comma")
    assert setting.show(0.0905, "centimeter**2", 1) == "905,0 cm²"
    assert setting.show(5.0, "delta_degC", 1) == "9,0 °F"
    assert setting.write(-0.04) == "0,0"
