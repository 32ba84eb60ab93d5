"""A thinned series looks the same: its ends, its highest and its lowest values are all drawn."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from thermion.core.physics.thinning import keep_extremes

series = st.lists(st.floats(-50, 150), min_size=1, max_size=400)


@given(series, st.integers(4, 60))
def test_peaks_dips_and_ends_stay_and_the_order_too(values, most):
    times = [2.0 * i for i in range(len(values))]
    kept = keep_extremes(times, values, most)
    assert kept == sorted(set(kept))
    assert (kept[0], kept[-1]) == (0, len(values) - 1)
    drawn = [values[i] for i in kept]
    assert (min(drawn), max(drawn)) == (min(values), max(values))
    assert len(kept) <= most + 2 or len(values) <= most


@given(series)
def test_what_is_few_is_drawn_whole(values):
    times = list(range(len(values)))
    assert keep_extremes(times, values, 400) == times


def test_one_spike_among_thousands_of_a_logger_is_seen():
    values = [20.0] * 3600
    values[1234], values[2900] = 85.0, -127.0
    kept = keep_extremes(range(3600), values, 120)
    assert {1234, 2900} <= set(kept)
    assert len(kept) < 130


def test_readings_that_come_in_bursts_are_thinned_by_time_not_by_number():
    times = [i / 100 for i in range(1000)] + [1000.0 + 100 * i for i in range(20)]
    kept = keep_extremes(times, [float(i % 7) for i in range(1020)], 100)
    assert set(range(1000, 1020)) <= set(kept)  # the sparse end keeps every reading


@pytest.mark.parametrize("most", [4, 10, 120])
def test_readings_of_one_moment_do_no_harm(most):
    assert keep_extremes([5.0] * 300, [float(i) for i in range(300)], most)[-1] == 299
