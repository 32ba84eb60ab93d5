"""Rain catch and life size: water is conserved, and nothing gives more than went in."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from thermion.core.physics import rain
from thermion.core.values import Figure

ML = 1e-6


def test_a_squeeze_is_measured_by_many():
    one = rain.squeeze_volume([12 * ML, 12.6 * ML, 11.4 * ML], 10, resolution=0.5 * ML)
    assert one.value == pytest.approx(1.2 * ML)
    spread = 0.6 / 3**0.5 / 10
    instrument = 0.5 / 12**0.5 / 3**0.5 / 10
    assert one.se == pytest.approx((spread**2 + instrument**2) ** 0.5 * ML)
    assert "measured once" in rain.squeeze_volume(12 * ML, 10).notes[0]
    for fills, squeezes in (([], 10), ([0.0], 10), ([12 * ML], 0), ([12 * ML], 2.5)):
        with pytest.raises(ValueError, match=r"volume_m3|squeezes"):
            rain.squeeze_volume(fills, squeezes)


def test_depth_and_intensity_of_a_shower():
    depth = rain.rain_depth(240 * ML, 0.12)
    assert depth == pytest.approx(0.002)
    assert rain.rain_intensity_mm_h(depth, 120) == pytest.approx(60)


def test_a_collector_that_gathers_from_beyond_its_mouth():
    got = rain.capture(Figure(value=60 * ML, se=ML), Figure(value=200 * ML, se=ML), 0.018, 0.12)
    assert got.efficiency.value == pytest.approx(0.3)
    assert got.efficiency.se == pytest.approx(((1 / 200) ** 2 + (0.3 / 200) ** 2) ** 0.5)
    assert got.concentration.value == pytest.approx(2.0)
    mouth_only = rain.capture(Figure(value=30 * ML), Figure(value=200 * ML), 0.018, 0.12)
    assert mouth_only.concentration.value == pytest.approx(1.0)
    assert rain.capture(Figure(value=0.0), Figure(value=200 * ML), 0.018, 0.12).efficiency.value == 0


def test_more_out_than_in_is_refused_with_the_likely_cause():
    got = rain.capture(Figure(value=210 * ML, se=ML), Figure(value=200 * ML, se=ML), 0.018, 0.12)
    assert not got.efficiency.known
    assert "left from before" in got.concentration.reason
    near = rain.capture(Figure(value=201 * ML, se=ML), Figure(value=200 * ML, se=ML), 0.018, 0.12)
    assert near.efficiency.known
    with pytest.raises(ValueError, match="mouth_m2"):
        rain.capture(Figure(value=ML), Figure(value=ML), 0.2, 0.12)
    with pytest.raises(ValueError, match="poured_m3"):
        rain.capture(Figure(value=ML), Figure(value=0.0), 0.01, 0.12)
    unread = rain.capture(Figure(reason="spilled"), Figure(value=ML), 0.01, 0.12)
    assert unread.efficiency.reason == "spilled"


def test_a_leak_below_the_measure_is_a_bound():
    rate = rain.leak_rate([0, 600], [100 * ML, 88 * ML], resolution=ML)
    assert rate.value == pytest.approx(0.02 * ML)
    each = (0.5**2 + 1 / 12) ** 0.5  # of reading a step, beside its rounding
    assert rate.se == pytest.approx(each * 2**0.5 * ML / 600)
    small = rain.leak_rate([0, 600], [100 * ML, 99 * ML], resolution=ML)
    assert small.value is None
    assert small.at_most == pytest.approx((1 + 2 * 2**0.5 * each) * ML / 600)
    assert "more water" in rain.leak_rate([0, 600], [90 * ML, 99 * ML], resolution=ML).reason
    assert "one reading" in rain.leak_rate([0], [90 * ML]).reason


def test_a_roof_by_hand():
    # 25 mm on 80 m² at 0.9 is 1.8 m³, less 0.1 m³ of first flush
    assert rain.roof_yield(0.025, 80, 0.9, 0.1) == pytest.approx(1.7)
    assert rain.roof_yield(0.001, 80, 0.9, 0.1) == 0
    with pytest.raises(ValueError, match="runoff_coefficient"):
        rain.roof_yield(0.025, 80, 1.2)


months = st.lists(st.floats(0, 20), min_size=12, max_size=12)


@given(months, st.floats(0, 30), st.floats(0.01, 1))
def test_water_in_a_tank_is_conserved(inflow, room, use):
    year = rain.tank_year(inflow, room, use, start_m3=room / 2)
    there = room / 2 + sum(inflow)
    assert year.used_m3 + year.overflow_m3 + year.end_m3 == pytest.approx(there, abs=1e-6)
    assert 0 <= year.share_met <= 1 + 1e-9
    assert year.used_m3 == pytest.approx(year.share_met * use * 365)
    assert (year.dry_days == 0) == (year.share_met > 1 - 1e-9)
    level = room / 2
    for came, month in zip(inflow, year.months, strict=True):
        assert level + came == pytest.approx(month.used_m3 + month.overflow_m3 + month.end_m3, abs=1e-6)
        assert month.end_m3 <= room + 1e-9
        level = month.end_m3


@given(months, st.floats(0.005, 0.5))
def test_the_smallest_tank_never_runs_dry_and_a_smaller_one_does(inflow, use):
    tank = rain.smallest_tank(inflow, use)
    if tank.value is None:
        assert sum(inflow) <= use * 365 * (1 + 1e-9)
        return
    size = tank.value

    def dry(room: float) -> int:
        first = rain.tank_year(inflow, room, use, start_m3=room)
        return rain.tank_year(inflow, room, use, start_m3=min(first.end_m3, room)).dry_days

    assert dry(size + 2 * use) == 0
    if size > 5 * use:
        assert dry(size * 0.9 - 2 * use) > 0


def test_a_year_has_twelve_months():
    for inflow in (np.ones(11), [-1] * 12, [float("nan")] * 12):
        with pytest.raises(ValueError, match="inflow_m3"):
            rain.tank_year(inflow, 1, 0.1)
    with pytest.raises(ValueError, match="start_m3"):
        rain.tank_year([1] * 12, 1, 0.1, start_m3=2)
