"""Curves: certified regression values, closed forms, and what must never be made up."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from thermion.core.physics import curves

# NIST/ITL StRD nonlinear regression, model b1·(1 − exp(−b2·x)): lower difficulty (Misra1a) and
# higher difficulty (BoxBOD); certified b1, b2, their standard deviations, residual s.d.
MISRA = (
    [77.6, 114.9, 141.1, 190.8, 239.9, 289, 332.8, 378.4, 434.8, 477.3, 536.8, 593.1, 689.1, 760],
    [10.07, 14.73, 17.94, 23.93, 29.61, 35.18, 40.02, 44.82, 50.76, 55.05, 61.01, 66.40, 75.47, 81.78],
    (2.3894212918e02, 5.5015643181e-04, 2.7070075241e00, 7.2668688436e-06, 1.0187876330e-01),
)
BOXBOD = (
    [1, 2, 3, 5, 7, 10],
    [109, 149, 149, 191, 213, 224],
    (2.1380940889e02, 5.4723748542e-01, 1.2354515176e01, 1.0455993237e-01, 1.7088072423e01),
)


@pytest.mark.parametrize(("x", "y", "certified"), [MISRA, BOXBOD])
def test_certified_regression_values_are_met_from_no_starting_value(x, y, certified):
    fit = curves.fit_approach(x, y, start=0.0)
    rate = 1 / fit.time_constant_s
    se_rate = fit.se_time_constant_s * rate**2
    found = (fit.asymptote, rate, fit.se_asymptote, se_rate, fit.residual_sd)
    assert found == pytest.approx(certified, rel=1e-6)
    assert fit.se_start == 0.0


@given(
    start=st.floats(-5, 40),
    change=st.floats(5, 90),
    sign=st.sampled_from([-1, 1]),
    tau=st.floats(150, 2500),
    shift=st.floats(-100, 5000),
)
def test_an_exact_curve_is_found_again_wherever_it_lies(start, change, sign, tau, shift):
    t = np.linspace(0, 1800, 10)
    v = start + sign * change * (1 - np.exp(-t / tau))
    fit = curves.fit_approach(t, v)
    assert fit.time_constant_s == pytest.approx(tau, rel=1e-5)
    assert fit.asymptote == pytest.approx(start + sign * change, abs=1e-4 * change)
    lifted = curves.fit_approach(t, v + shift)
    assert lifted.time_constant_s == pytest.approx(tau, rel=1e-4)


def test_a_whole_class_in_one_call_equals_each_curve_alone():
    rng = np.random.default_rng(3)
    t = np.linspace(0, 1800, 12)
    v = 60 - 40 * np.exp(-t / rng.uniform(300, 900, (20, 1))) + rng.normal(0, 0.3, (20, 12))
    mask = rng.random(v.shape) > 0.2
    many = curves.fit_approach_many(t, np.where(mask, v, np.nan), mask=mask)
    for row, keep, fit in zip(v, mask, many, strict=True):
        alone = curves.fit_approach(t[keep], row[keep])
        assert fit.time_constant_s == pytest.approx(alone.time_constant_s, rel=1e-6)
        assert fit.n == keep.sum()


def test_data_that_cannot_carry_a_figure_get_a_reason_and_a_bound():
    t = np.arange(0, 1801, 300.0)
    few = curves.fit_approach(t[:3], [20, 25, 28])
    assert few.asymptote is None
    assert "3 different times" in few.reason
    flat = curves.fit_approach(t, [20.0] * 7)
    assert (flat.reliable, flat.reason) == (False, "the readings do not change")
    rng = np.random.default_rng(1)
    straight = curves.fit_approach(t, 20 + t / 200 + rng.normal(0, 0.05, t.size))
    assert not straight.reliable
    assert "too short" in straight.reason
    assert straight.time_constant_at_least_s > 1800
    small = curves.fit_approach(t, 20 + 1.2 * (1 - np.exp(-t / 500)), resolution=0.5)
    assert "three steps" in small.reason


@pytest.mark.parametrize(
    ("t", "v", "named"),
    [
        ([], [], "time_s"),
        ([0, 1], [1], "value"),
        ([0, 0], [1, 2], "time_s"),
        ([1, 0], [1, 2], "time_s"),
        ([0, np.nan], [1, 2], "time_s"),
        ([0, 1], [1, np.inf], "value"),
    ],
)
def test_bad_input_names_the_argument(t, v, named):
    for function in (curves.fit_approach, curves.peak, lambda a, b: curves.first_crossing(a, b, 1)):
        with pytest.raises(ValueError, match=named):
            function(t, v)


def test_a_level_never_reached_is_a_bound_and_never_a_time():
    t = [0.0, 300, 600, 900]
    rising = [20.0, 30, 40, 45]
    seen = curves.first_crossing(t, rising, 35)
    assert (seen.time_s, seen.after_s, seen.before_s, seen.censored) == (450.0, 300, 600, False)
    never = curves.first_crossing(t, rising, 60)
    assert (never.time_s, never.after_s, never.before_s, never.censored) == (None, 900, None, True)
    before = curves.first_crossing(t, rising, 10, direction="up")
    assert (before.time_s, before.after_s, before.before_s) == (None, None, 0)


@given(st.floats(-3600, 3600))
def test_shifting_the_clock_changes_no_duration(shift):
    t = np.array([0.0, 300, 600, 900, 1200])
    v = [20.0, 48, 61, 52, 41]
    for now in (t, t + shift):
        assert curves.peak(now, v).value == 61
        assert curves.rise(now, v).value == 41
        assert curves.minutes_to_fall(now, v, 10).value == pytest.approx(5 + 5 / 11)
        assert curves.fall_after(now, v, 7.5).value == pytest.approx(14.5)
        assert curves.held_above(now, v, 50).value == pytest.approx((1 - 2 / 13) * 5 + 5 + 2 / 11 * 5)
        assert curves.initial_rate(now, v).value == pytest.approx(4.1)


def test_holding_and_falling_stop_where_the_readings_stop():
    t, v = [0.0, 300, 600], [60.0, 57, 55]
    held = curves.held_above(t, v, 50)
    assert (held.value, held.at_least) == (None, 10.0)
    fall = curves.minutes_to_fall(t, v, 10)
    assert (fall.value, fall.at_least) == (None, 10.0)
    late = curves.fall_after(t, v, 15)
    assert (late.value, late.at_least) == (None, 5.0)
    assert curves.degree_minutes_above(t, v, 20).value == pytest.approx(40 * 5 + 37 * 5 - 7.5 - 5)


def test_a_figure_that_leans_on_a_gap_says_so():
    t, v = [0.0, 300, 1500, 1800], [60.0, 57, 40, 38]
    assert "gap of 20 min" in curves.minutes_to_fall(t, v, 10, interval_s=300).notes[0]
    assert curves.minutes_to_fall(t, v, 2, interval_s=300).notes == ()
