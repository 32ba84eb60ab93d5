"""Temperatures as a class reads them, and figures read off fitted curves."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.optimize import curve_fit

from tests.core.test_families import ROTOR, WIND, figures, lift
from thermion.core.judging.budget import budget
from thermion.core.kinds import get_kind
from thermion.core.kinds.briefing import Condition
from thermion.core.kinds.luck import luck_of
from thermion.core.kinds.probes import Thermometer, air_of, checked_off, crossing, fall_by_reading, hottest
from thermion.core.kinds.trials import Trace, Trial
from thermion.core.physics.approach import fit_approach, no_fit
from thermion.core.physics.fitted import read_off

T = np.arange(0, 1801, 200.0)
PROBE = Thermometer(0.5, 0.5)


def model(t, start, end, tau):
    return end + (start - end) * np.exp(-t / tau)


def heated(values, **more) -> Trial:
    trace = Trace(tuple(200.0 * i for i in range(len(values))), tuple(map(float, values)))
    return Trial(traces={"heating": trace}, conditions={}, **more)


class TestReadOffACurve:
    @given(seed=st.integers(0, 200), tau=st.floats(300, 1500))
    def test_agrees_with_the_covariance_of_another_fit(self, seed, tau):
        v = model(T, 20, 70, tau) + np.random.default_rng(seed).normal(0, 0.5, T.size)
        fit = fit_approach(T, v)
        if not fit.reliable:
            return
        _, cov = curve_fit(model, T, v, p0=(20, 70, tau), maxfev=5000)
        found = read_off(fit, T, lambda start, end, tau: end - 0.3 * start, noise=0.0)
        g = np.array([-0.3, 1.0, 0.0])
        assert found.se == pytest.approx(float(g @ cov @ g) ** 0.5, rel=0.02)
        assert found.dof == T.size - 3

    def test_is_never_surer_than_the_instrument_however_well_it_fits(self):
        exact = fit_approach(T, model(T, 20, 70, 600))
        loose, tight = (read_off(exact, T, lambda s, e, tau: e, noise=n) for n in (0.5, 0.1))
        assert loose.se == pytest.approx(5 * tight.se)
        assert (loose.value, loose.dof) == (pytest.approx(70), float("inf"))

    def test_needs_a_fit(self):
        with pytest.raises(ValueError, match="no fit to read off"):
            read_off(no_fit("two readings"), T, lambda s, e, tau: e, noise=0.1)


class TestHottest:
    def test_is_as_sure_as_its_thermometer_and_says_so(self):
        peak, gain = hottest(heated([20, 40, 52, 58, 61, 62]), "heating", PROBE)
        assert (peak.value, gain.value) == (62, 42)
        assert "still rising at the last reading" in peak.notes
        assert budget(peak)[0].source == "the build's thermometer"
        assert gain.se < peak.se  # its offset goes out of a difference

    def test_among_many_equal_readings_is_the_luckiest_too(self):
        few, _ = hottest(heated([20, 40, 61, 55]), "heating", PROBE)
        many, _ = hottest(heated([20, *[61.0] * 12]), "heating", PROBE)
        assert many.se > few.se

    @given(st.integers(2, 50))
    def test_luck_is_the_size_of_the_largest_of_so_many(self, count):
        dice = np.random.default_rng(1)
        largest = dice.normal(0, 1, (4000, count)).max(axis=1)
        assert luck_of([0.0] * count, 1.0) == pytest.approx(float(np.sqrt((largest**2).mean())), rel=0.12)


class TestMinutesToALevel:
    def test_come_from_the_curve_not_from_a_chord(self):
        trial = heated(model(T, 20, 70, 600))
        found = crossing(trial, "heating", fit_approach(T, model(T, 20, 70, 600)), 50.0, PROBE)
        assert found.value == pytest.approx(600 / 60 * np.log(50 / 20))
        assert {s.source for s in budget(found)} == {"the readings", "the build's thermometer"}

    def test_are_between_two_readings_where_no_curve_fits(self):
        found = crossing(heated([20, 31, 44, 58, 49, 60]), "heating", no_fit("wild"), 50.0, PROBE)
        assert found.value is None
        assert (found.at_least, found.at_most) == (pytest.approx(400 / 60), pytest.approx(600 / 60))

    @pytest.mark.parametrize(
        ("values", "least", "most", "says"),
        [
            ([52, 60, 66], None, 0.0, "above the level"),
            ([20, 30, 38], 400 / 60, None, "never reached"),
            ([20, 40, 50.2], 200 / 60, None, "only just"),
        ],
    )
    def test_are_a_bound_where_the_moment_was_not_seen(self, values, least, most, says):
        found = crossing(heated(values), "heating", no_fit("short"), 50.0, PROBE)
        assert says in found.reason
        assert (found.at_least, found.at_most) == (least and pytest.approx(least), most)

    def test_say_that_they_lean_on_a_gap(self):
        t = np.array([0, 200, 400, 1400, 1600, 1800.0])
        trace = Trace(tuple(t), tuple(model(t, 20, 70, 900)))
        trial = Trial(traces={"heating": trace}, conditions={}, interval_s={"heating": 200.0})
        found = crossing(trial, "heating", fit_approach(t, model(t, 20, 70, 900)), 50.0, PROBE)
        assert found.notes == ("leans on a gap of 16.7 min without readings",)


class TestCoolingWithoutACurve:
    def test_a_fall_lies_between_the_readings_around_it(self):
        found = fall_by_reading(heated([60, 56, 49, 47]), "heating", 10.0, 10.0, PROBE)
        assert (found["held"].at_least, found["held"].at_most) == (
            pytest.approx(200 / 60),
            pytest.approx(400 / 60),
        )
        assert found["lost"].value == pytest.approx(13.0)
        assert found["lost"].se > 0.3

    def test_a_fall_never_seen_and_minutes_never_watched_are_bounds(self):
        found = fall_by_reading(heated([60, 58, 57]), "heating", 10.0, 30.0, PROBE)
        assert found["held"].at_least == pytest.approx(400 / 60)
        assert (found["lost"].value, found["lost"].at_least) == (None, 3.0)


class TestTheAir:
    def test_is_the_mean_of_what_was_read_with_its_thermometer(self):
        trial = Trial(
            traces={}, conditions={"air_c": 15.0}, air={"cooling": Trace((0.0, 60.0), (20.0, 21.0))}
        )
        air = air_of(trial, "cooling")
        assert air.value == 20.5
        assert air.se > 0.5

    def test_is_the_briefs_and_less_sure_where_nobody_read_it(self):
        air = air_of(Trial(traces={}, conditions={"air_c": 15.0}, uncertain={"air_c": 1.5}), "cooling")
        assert (air.value, air.se) == (15.0, 1.5)

    def test_a_thermometer_that_was_in_the_glass_is_surer(self):
        assert checked_off(0.5) < 0.35 < 0.5
        assert checked_off(0.1) < checked_off(0.5)


class TestConditions:
    SUN = get_kind("solar_oven").brief.conditions[4]

    @pytest.mark.parametrize(("how", "share"), [("measured", 0.05), ("estimated", 0.10), ("", 0.10)])
    def test_light_is_as_sure_as_it_was_obtained(self, how, share):
        assert self.SUN.key == "irradiance_w_m2"
        assert self.SUN.uncertainty(700.0, how) == pytest.approx(700 * share)

    def test_what_is_only_held_may_lie_anywhere_within(self):
        lamp = Condition(
            key="lamp_m", label="Lamp", unit="centimeter", default=30, tolerance=1, low=10, high=150
        )
        assert lamp.uncertainty(0.3) == pytest.approx(0.01 / 3**0.5)
        assert lamp.uncertainty(0.3, tolerance=0.03) == pytest.approx(0.03 / 3**0.5)

    @pytest.mark.parametrize(("family", "key"), [("wind_hoist", "wind_m_s"), ("sail_run", "wind_m_s")])
    def test_wind_is_measured_to_fifteen_hundredths(self, family, key):
        found = {c.key: c for c in get_kind(family).brief.conditions}[key]
        assert found.uncertainty(4.0, "measured") == pytest.approx(0.15)


def test_nine_tenths_of_a_power_coefficients_doubt_is_the_wind():
    cp = figures("wind_hoist", Trial(traces={}, conditions=WIND, plan=ROTOR, attempts=(lift(4, 0.6, 3.0),)))[
        "cp"
    ]
    first, *_ = budget(cp)
    assert (first.source, first.share > 0.5) == ("the wind speed", True)
    by_wind = next(p for p in cp.parts if p.name == "the wind speed")
    assert by_wind.effect == pytest.approx(-3 * cp.value * 0.15 / WIND["wind_m_s"])
