"""Sail run: where it stopped, how fast, and what the end of the track may not hide."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from thermion.core.physics import sail


def test_a_run_by_hand():
    # 1.80 m in 3.0 s from rest: a = 3.6/9 = 0.4 m/s²; 0.20 kg: 80 mN; on 0.03 m²: 2.667 N/m²
    assert sail.mean_speed(1.8, 3.0) == pytest.approx(0.6)
    assert sail.start_acceleration(1.8, 3.0) == pytest.approx(0.4)
    thrust = sail.net_thrust(0.2, 0.4)
    assert thrust == pytest.approx(0.08)
    assert sail.thrust_per_area(thrust, 0.03) == pytest.approx(2.6667, rel=1e-4)
    expected = 0.08 / (0.5 * 1.225 * 16 * 0.03)
    assert sail.thrust_coefficient(thrust, 4.0, 0.03) == pytest.approx(expected)


def test_the_end_of_the_track_is_a_bound_on_the_distance():
    end = sail.distance(2.4, 2.4)
    assert end.value is None
    assert end.at_least == 2.4
    assert sail.share_of_track(2.4, 2.4) == 1.0
    assert sail.distance(1.2, 2.4, resolution=0.01).se == pytest.approx(0.01 / 12**0.5)
    assert sail.share_of_track(0, 2.4) == 0
    for stop in (2.5, -0.1, float("nan")):
        with pytest.raises(ValueError, match="stop_m"):
            sail.distance(stop, 2.4)
    for call in (lambda: sail.mean_speed(1, 0), lambda: sail.start_acceleration(1, -1)):
        with pytest.raises(ValueError, match="time_s"):
            call()


def test_at_the_end_time_decides_and_before_it_distance():
    runs = {"A": (2.4, 5.0), "D": (2.4, 4.0), "G": (2.3, 2.0), "K": (2.4, None), "P": (0.0, None)}
    assert sail.order(runs, 2.4) == ["D", "A", "K", "G", "P"]


@given(st.permutations(["A", "D", "G", "K"]))
def test_the_order_of_builds_changes_no_place(names):
    runs = {"A": (2.4, 5.0), "D": (1.1, 4.0), "G": (1.3, 2.0), "K": (2.4, 3.0)}
    assert sail.order({n: runs[n] for n in names}, 2.4) == ["K", "A", "G", "D"]
