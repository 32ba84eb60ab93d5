"""Standardised cooking power on data whose answer is worked out by hand."""

from __future__ import annotations

import numpy as np
import pytest

from thermion.core.physics.cooking import standard_cooking_power

M, C = 1.0, 4186.0


def heating(powers_w, start=40.0):
    """Water of 1 kg that gains these powers, one for each ten minutes, read every five."""
    t = np.arange(0, 600 * len(powers_w) + 1, 300.0)
    steps = np.repeat(np.asarray(powers_w) * 300 / (M * C), 2)
    return t, np.concatenate([[start], start + np.cumsum(steps)])


def test_a_straight_line_by_hand():
    # air 30 °C, light 700 W/m²: P_s = P. Power falls along a line of the mean excess: solve
    # P_i = 80 − 0.8·(T_mean − 30) with T_mean = T + P·300/(m·c)
    t_now, powers = 36.0, []
    for _ in range(8):
        power = (80 - 0.8 * (t_now - 30)) / (1 + 0.8 * 300 / (M * C))
        powers.append(power)
        t_now += power * 600 / (M * C)
    time, water = heating(powers, 36.0)
    found = standard_cooking_power(time, water, 30.0, 700.0, M)
    assert found.n == 8
    assert found.power_w.value == pytest.approx(80 - 0.8 * 50, rel=1e-9)
    assert found.slope_w_k == pytest.approx(-0.8, rel=1e-9)
    assert found.intercept_w == pytest.approx(80, rel=1e-9)
    assert found.power_w.se == pytest.approx(0, abs=1e-6)
    assert found.r2 == pytest.approx(1)


def test_power_is_referred_to_700_watts():
    time, water = heating([70, 60, 50, 40])
    bright = standard_cooking_power(time, water, 30.0, 1000.0, M)
    assert [i.adjusted_w for i in bright.intervals] == pytest.approx([49, 42, 35, 28])
    assert [i.power_w for i in bright.intervals] == pytest.approx([70, 60, 50, 40])


def test_the_interval_of_a_noisy_line_is_that_of_the_textbook():
    time, water = heating([70, 58, 52, 40, 33])
    found = standard_cooking_power(time, water, 30.0, 700.0, M)
    x = np.array([i.excess_k for i in found.intervals])
    y = np.array([i.adjusted_w for i in found.intervals])
    design = np.stack([np.ones_like(x), x], axis=1)
    (a, b), rss, *_ = np.linalg.lstsq(design, y, rcond=None)
    covariance = rss[0] / 3 * np.linalg.inv(design.T @ design)
    se = np.sqrt(np.array([1, 50]) @ covariance @ np.array([1, 50]))
    assert found.power_w.value == pytest.approx(a + 50 * b)
    assert found.power_w.se == pytest.approx(se)
    assert found.high_w - found.power_w.value == pytest.approx(3.182446 * se, rel=1e-6)


def test_intervals_outside_the_standard_are_set_aside_with_the_reason():
    time, water = heating([70, 60, 50, 40, 30])
    light = np.full(time.shape, 700.0)
    light[2:4] = 300.0  # a cloud
    found = standard_cooking_power(time, water, 30.0, light, M)
    assert [bool(i.set_aside) for i in found.intervals] == [True, True, False, False, False]
    assert "sun" in found.intervals[1].set_aside
    assert found.n == 3
    cold = standard_cooking_power(time, water, 10.0, 700.0, M)
    assert "outside 20 to 35" in cold.intervals[0].set_aside
    assert cold.power_w.reason.startswith("0 usable")
    boiling = standard_cooking_power(time, water + 52, 30.0, 700.0, M)
    assert "boiling" in boiling.intervals[-1].set_aside
    fresh = standard_cooking_power(time, water - 8, 30.0, 700.0, M)
    assert "less than 5 K" in fresh.intervals[0].set_aside
    dim = standard_cooking_power(time, water, 30.0, 440.0, M)
    assert "outside 450" in dim.intervals[0].set_aside


def test_what_the_standard_would_have_asked_for_is_noted():
    time, water = heating([70, 60, 50, 40])
    notes = standard_cooking_power(time, water, 30.0, 700.0, M, aperture_m2=0.09).power_w.notes
    assert any("the standard asks for 7" in n for n in notes)
    assert any("asks for 30" in n for n in notes)
    assert any("50 K lies outside" in n for n in notes)
    loaded = standard_cooking_power(time, water, 30.0, 700.0, M, aperture_m2=1 / 7).power_w.notes
    assert not any("kg/m²" in n for n in loaded)


def test_bad_series_are_named():
    for name, change in {
        "air_c": {"air_c": [1, 2, 3]},
        "water_kg": {"water_kg": 0},
        "irradiance_w_m2": {"irradiance_w_m2": float("nan")},
    }.items():
        args = {
            "time_s": [0, 600],
            "water_c": [20, 30],
            "air_c": 20,
            "irradiance_w_m2": 700,
            "water_kg": 1,
            **change,
        }
        with pytest.raises(ValueError, match=name):
            standard_cooking_power(**args)
