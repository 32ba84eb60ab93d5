"""One door for what is observed: a value, a question or a refusal, whoever brings it."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from thermion.core.judging.doubts import Known
from thermion.core.judging.observed import Around, observe, observe_many, predicted, quantity_of
from thermion.core.judging.plausibility import Expectation
from thermion.core.kinds import all_kinds, get_kind
from thermion.core.kinds.testing import AIR
from thermion.core.physics.units import (
    NotANumber,
    Setting,
    convert,
    parse_minutes,
    parse_minutes_list,
    stored_unit,
)

KINDS = list(all_kinds().values())
READS = [(k.key, read) for k in KINDS for read in k.test.reads]
PLAIN, COMMA, FAHRENHEIT = Setting(), Setting("degC", "comma"), Setting("degF")


def read_of(family: str, key: str):
    return next(r for r in get_kind(family).test.reads if r.key == key)


def prediction(family: str, typed: str, setting: Setting = PLAIN, **choices: str):
    kind = get_kind(family)
    chosen = kind.brief.default_choices() | choices
    return observe(typed, predicted(kind, chosen, kind.brief.default_rig()), setting)


def test_the_same_slip_gets_the_same_answer_from_every_side():
    """999 in an oven: typed, sent by a probe, read from a file, one by one or at once."""
    oven = quantity_of(read_of("solar_oven", "temp_c"))
    typed, probe, file = (
        observe(x, oven, Setting(), source=s) for x, s in (("999", "hand"), (999.0, "probe"), (999.0, "file"))
    )
    _, first, check = observe_many([20.0, 999.0], oven, Setting())
    assert first == 1
    assert {typed.check.message, probe.check.message, file.check.message, check.message} == {
        "999 °C cannot be here: this test reads -20 to 200 °C."
    }
    assert typed.refused
    assert probe.refused


def test_limits_are_those_of_the_quantity_that_is_read():
    """Keep cold reads mL or °C by its choice; 500 mL of water is fine, 500 °C of a drink is not."""
    water, drink = (quantity_of(read_of("keep_temp", key)) for key in ("volume_m3", "temp_c"))
    assert observe("500", water, Setting()).value == pytest.approx(5e-4)
    assert observe(500.0, drink, Setting(), source="file").refused
    huge = observe(40.44, water, Setting(), source="file")  # 40,440,000 mL
    assert (huge.refused, huge.check.message) == (True, "Water drained can be at most 2000 mL.")


def test_a_unit_behind_the_number_is_understood_or_refused_and_never_dropped():
    stop = quantity_of(read_of("sail_run", "stop_m"), {"track_m": 2.4})
    assert observe("120", stop, Setting()).value == pytest.approx(1.2)
    metres = observe("1,2 m", stop, COMMA)
    assert (metres.value, metres.check.message) == (pytest.approx(1.2), "Read as 1,2 m, stored as 120 cm.")
    assert observe("3 m", stop, Setting()).check.message == "Where it stopped can be at most 240 cm."
    assert "this is in cm" in observe("3 s", stop, Setting()).check.message
    assert observe("8 weights", quantity_of(read_of("wind_hoist", "load")), Setting()).value == 8


def test_what_bounds_a_value_is_what_was_noted_before_it_or_the_rig():
    caught = read_of("rain_catch", "caught_m3")
    assert quantity_of(caught, {"dose_m3": 2e-4}).high == pytest.approx(2e-4)
    assert quantity_of(caught, {"dose_m3": 2e-4}, {"poured_m3": 3e-4}).high == pytest.approx(3e-4)
    assert quantity_of(caught).high == pytest.approx(5e-3)


@pytest.mark.parametrize(
    ("family", "typed", "stored"),
    [
        ("sail_run", "2 m", 2.0),
        ("sail_run", "150", 1.5),
        ("solar_oven", "140 F", 60.0),
        ("solar_oven", "60", 60.0),
        ("wind_hoist", "7", 7.0),
        ("heat_through", "2 min", 120.0),
        ("keep_temp", "75", 0.75),
        ("melt_pair", "20", 20.0),
    ],
)
def test_a_prediction_comes_through_the_same_door(family, typed, stored):
    assert prediction(family, typed).value == pytest.approx(stored)


@pytest.mark.parametrize(
    ("family", "typed"),
    [
        ("sail_run", "far"),
        ("sail_run", "9 m"),
        ("solar_oven", "450"),
        ("keep_temp", "140"),
        ("wind_hoist", "7.5"),
        ("wind_hoist", "-1"),
        ("rain_catch", "12 kg"),
        ("heat_through", "1,250"),
    ],
)
def test_a_prediction_that_cannot_be_is_refused_in_words(family, typed):
    found = prediction(family, typed)
    assert found.refused
    assert found.check.message.endswith((".", "?"))


def test_a_predicted_rise_of_nine_fahrenheit_is_five_kelvin():
    assert prediction("keep_temp", "9 °F", FAHRENHEIT, measure="temp").refused is False
    lost = next(m for m in get_kind("keep_temp").analysis.metrics if m.key == "lost")
    assert FAHRENHEIT.parse("9 °F", lost.unit)[0] == pytest.approx(5.0)


def test_a_device_is_not_asked_about_slips_and_a_hand_is():
    oven = quantity_of(read_of("solar_oven", "temp_c"))
    around = Around(expected=Expectation(35.5, 4.0))
    hand = observe("95", oven, Setting(), around=around)
    assert (hand.check.answer, hand.check.suggestion) == ("ask", pytest.approx(35.0))
    assert observe(95.0, oven, Setting(), source="probe", around=around).check.answer == "ok"


def test_a_word_of_a_scale_is_its_number():
    stage = quantity_of(read_of("melt_pair", "stage"))
    assert observe("slumped", stage, Setting()).value == observe("3", stage, Setting()).value == 3.0
    assert "0 firm, 1 glossy" in observe("5", stage, Setting()).check.message
    assert observe("1", stage, Setting(), around=Around(before=3.0)).check.code == "backwards"
    assert observe(2.5, stage, Setting(), source="file").refused


@given(st.sampled_from(READS), st.floats(0, 1), st.sampled_from([Setting(), COMMA, FAHRENHEIT]))
def test_what_is_shown_of_any_family_goes_in_again(item, share, setting):
    _, read = item
    quantity = quantity_of(read)
    value = quantity.low + share * (quantity.high - quantity.low)
    if read.whole or read.words:
        value = float(round(value))
    text = str(int(value)) if read.words else setting.typed(value, read.unit)
    again = observe(text, quantity, setting, source="file")
    assert again.value == pytest.approx(value, abs=1e-6 * convert(1, "meter", "meter"))


@given(st.sampled_from(READS), st.lists(st.floats(-1e7, 1e7), min_size=1, max_size=20))
def test_many_at_once_and_one_by_one_agree(item, numbers):
    quantity = quantity_of(item[1])
    values, wrong, _ = observe_many(numbers, quantity, Setting(), unit=item[1].unit)
    each = [observe(n, quantity, Setting(), unit=item[1].unit, source="file") for n in numbers]
    refused = [i for i, found in enumerate(each) if found.refused]
    assert wrong == (refused[0] if refused else None)
    if wrong is None:
        assert np.allclose(values, [found.value for found in each])


@given(st.sampled_from([*READS, ("air", AIR)]), st.text(max_size=12))
def test_no_text_breaks_the_door(item, typed):
    quantity = quantity_of(item[1])
    found = observe(typed, quantity, Setting())
    assert found.refused == (found.check.answer == "refuse")
    if found.value is not None:
        room = 1e-6 * max(1.0, abs(quantity.high))
        assert quantity.low - room <= found.value <= quantity.high + room


@pytest.mark.parametrize(
    ("typed", "decimal", "minutes"),
    [
        ("0; 2,5; 5", "comma", [0, 2.5, 5]),
        ("0; 2,5; 5", "point", [0, 2.5, 5]),
        ("0, 5, 2.5", "point", [0, 2.5, 5]),
        ("0 2,5 5", "comma", [0, 2.5, 5]),
        ("0, 2,5, 5", "comma", [0, 2.5, 5]),
        ("0,5,10", "point", [0, 5, 10]),
        ("0\n5\n5", "point", [0, 5]),
        ("", "point", []),
    ],
)
def test_marks_are_read_as_the_class_writes_them(typed, decimal, minutes):
    assert parse_minutes_list(typed, decimal) == [m * 60 for m in minutes]
    shown = Setting("degC", decimal).minutes([m * 60 for m in minutes])
    assert parse_minutes_list(shown, decimal) == [m * 60 for m in minutes]


@pytest.mark.parametrize(
    ("typed", "decimal"), [("0,5,10", "comma"), ("0 2,5 5", "point"), ("0; five", "point")]
)
def test_marks_that_could_be_read_in_two_ways_are_asked_back(typed, decimal):
    with pytest.raises(NotANumber):
        parse_minutes_list(typed, decimal)


def test_a_time_is_minutes_with_or_without_seconds():
    assert [parse_minutes(x) for x in ("7:30", "7.5", "7,5", "450 s", "0:05")] == [450, 450, 450, 450, 5]
    for wrong in ("7:75", "soon", "1:2:3", "-1:30", ""):
        with pytest.raises(NotANumber):
            parse_minutes(wrong)


def test_every_quantity_is_kept_in_one_unit():
    for _, read in READS:
        assert stored_unit(stored_unit(read.unit)) == stored_unit(read.unit)


@pytest.mark.parametrize(
    ("family", "key", "typed", "around"),
    [
        ("solar_oven", "temp_c", "140 F", Around(expected=Expectation(20.0, 4.0))),
        ("heat_through", "time_s", "3:10", Around(known=Known(earlier=(40.0, 42.0)))),
    ],
)
def test_what_is_said_of_how_it_was_read_swallows_no_question(family, key, typed, around):
    reads = [*get_kind(family).test.reads, *get_kind(family).test.attempt_reads({})]
    quantity = quantity_of(next((r for r in reads if r.key == key), reads[0]))
    alone = observe(typed, quantity, PLAIN).check
    beside = observe(typed, quantity, PLAIN, around=around).check
    assert (alone.answer, bool(alone.message)) == ("ok", True)
    assert beside.answer == "ask"


def test_nothing_that_is_counted_is_below_zero_or_broken():
    load = quantity_of(read_of("wind_hoist", "load"))
    for typed in ("-3", "-0.5", "2.5", "−1"):
        assert observe(typed, load, PLAIN).refused, typed
    assert observe("0", load, PLAIN).value == 0
