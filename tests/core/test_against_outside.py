"""The fit against another implementation, and laws that hold for any sensible data."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.optimize import curve_fit

from thermion.core.physics.curves import Approach, fit_approach, fit_approach_many
from thermion.core.sim import OvenModel, observe, simulate_ovens


def model(t, start, asymptote, tau):
    return asymptote + (start - asymptote) * np.exp(-t / tau)


@given(seed=st.integers(0, 10_000), tau=st.floats(250, 1200), top=st.floats(20, 80), n=st.integers(7, 25))
def test_equal_to_a_general_least_squares_with_good_starting_values(seed, tau, top, n):
    t = np.linspace(0, 1800, n)
    v = model(t, 20, 20 + top, tau) + np.random.default_rng(seed).normal(0, 0.2, n)
    mine = fit_approach(t, v)
    theirs, covariance = curve_fit(model, t, v, p0=(20, 20 + top, tau), maxfev=5000)
    found = (mine.start, mine.asymptote, mine.time_constant_s)
    rss = ((v - mine.at(t)) ** 2).sum()
    assert rss <= ((v - model(t, *theirs)) ** 2).sum() * (1 + 1e-9)
    assert found == pytest.approx(tuple(theirs), rel=2e-4)
    se = (mine.se_start, mine.se_asymptote, mine.se_time_constant_s)
    assert se == pytest.approx(tuple(np.sqrt(np.diag(covariance))), rel=2e-3)


@given(scale=st.floats(0.2, 5), offset=st.floats(-300, 300), stretch=st.floats(0.1, 60))
def test_a_change_of_units_changes_only_the_units(scale, offset, stretch):
    t = np.linspace(0, 1800, 10)
    v = model(t, 20, 75, 600) + np.random.default_rng(5).normal(0, 0.3, 10)
    base = fit_approach(t, v)
    other = fit_approach(t * stretch, v * scale + offset)
    assert other.time_constant_s == pytest.approx(base.time_constant_s * stretch, rel=1e-5)
    assert other.asymptote == pytest.approx(base.asymptote * scale + offset, rel=1e-5, abs=1e-4)
    assert other.se_asymptote == pytest.approx(base.se_asymptote * scale, rel=1e-4)
    assert other.reliable == base.reliable


def test_fixed_ends_are_held_and_cost_a_degree_of_freedom_less():
    t = np.linspace(0, 1200, 6)
    v = model(t, 60, 20, 500) + np.array([0.2, -0.1, 0.1, 0.0, -0.2, 0.1])
    free, held = fit_approach(t, v), fit_approach(t, v, asymptote=20.0)
    both = fit_approach(t, v, start=60.0, asymptote=20.0)
    assert (held.asymptote, held.se_asymptote) == (20.0, 0.0)
    assert (both.start, both.asymptote) == (60.0, 20.0)
    assert held.se_time_constant_s < free.se_time_constant_s
    assert both.time_constant_s == pytest.approx(500, rel=0.05)


@given(st.integers(0, 500))
def test_true_values_lie_within_three_standard_errors_as_often_as_they_should(seed):
    t = np.linspace(0, 1800, 20)
    rng = np.random.default_rng(seed)
    v = model(t, 20, 70, 600) + rng.normal(0, 0.3, (40, 20))
    z = [(f.time_constant_s - 600) / f.se_time_constant_s for f in fit_approach_many(t, v)]
    assert np.mean(np.abs(z) < 3) >= 0.9


def test_an_approach_without_a_fit_cannot_be_drawn():
    nothing = fit_approach([0.0, 60.0], [20.0, 21.0])
    assert isinstance(nothing, Approach)
    with pytest.raises(ValueError, match="2 different times"):
        nothing.at([0.0])


@pytest.mark.parametrize(
    ("time", "value", "mask", "named"),
    [
        ([0, 1, 2], [[1, 2]], None, "time_s"),
        ([0, 1], [[1, np.nan]], None, "value"),
        ([0, 1], [[1, 2]], [[True]], "mask"),
    ],
)
def test_a_class_of_curves_that_does_not_fit_together_is_refused(time, value, mask, named):
    with pytest.raises(ValueError, match=named):
        fit_approach_many(time, value, mask=mask)


@given(ua=st.floats(0.3, 3), gain=st.floats(0.1, 1.2), heat=st.floats(100, 3000), step=st.integers(2, 40))
def test_the_simulation_does_not_depend_on_its_step(ua, gain, heat, step):
    oven = OvenModel(0.09, gain, ua, heat)
    fine = simulate_ovens([oven], np.linspace(0, 1800, 1801), 600.0, 20.0, 20.0)[0]
    coarse = simulate_ovens([oven], np.linspace(0, 1800, step + 1), 600.0, 20.0, 20.0)[0]
    assert coarse[-1] == pytest.approx(fine[-1], abs=1e-8)


def test_several_ovens_at_once_equal_each_alone_and_readings_follow_the_scale():
    ovens = [OvenModel(0.09, g, u, 700.0) for g, u in ((0.5, 1.0), (0.8, 0.6), (1.1, 2.0))]
    t = np.arange(0, 1801, 60.0)
    together = simulate_ovens(ovens, t, 600.0, 20.0, [20.0, 21.0, 22.0])
    for oven, start, row in zip(ovens, (20.0, 21.0, 22.0), together, strict=True):
        assert simulate_ovens([oven], t, 600.0, 20.0, start)[0] == pytest.approx(row)
    read = observe(together, seed=1, resolution=0.5, noise_k=0.2)
    assert np.all(read * 2 == np.round(read * 2))
    assert np.abs(read - together).max() < 1.5
    with pytest.raises(ValueError, match="models"):
        simulate_ovens([OvenModel(0.09, 0.5, -1.0, 700.0)], t, 600.0, 20.0, 20.0)
