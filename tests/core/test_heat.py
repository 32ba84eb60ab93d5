"""Ice, warm drinks and the heat-through race: closed forms, balances, refusals."""

from __future__ import annotations

from math import exp, log, pi

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from thermion.core.physics.heat import (
    FUSION_J_KG,
    Cup,
    cup_height,
    cup_volume,
    heat_let_through,
    ice_run,
    time_to_target,
    to_common_start,
    warm_run,
)
from thermion.core.values import Figure

sizes = st.floats(0.005, 0.2)


@given(bottom=sizes, wider=st.floats(0, 0.2), tall=sizes, share=st.floats(0, 1))
def test_a_level_and_its_volume_lead_back_to_each_other(bottom, wider, tall, share):
    cup = Cup(bottom, bottom + wider, tall)
    level = share * tall
    assert float(cup_height(cup_volume(level, cup), cup)) == pytest.approx(level, abs=1e-9)


def test_a_straight_cup_is_a_cylinder_and_a_pointed_one_a_cone():
    assert float(cup_volume(0.05, Cup(0.03, 0.03, 0.1))) == pytest.approx(pi * 0.03**2 * 0.05)
    cone = Cup(1e-9, 0.03, 0.1)
    assert cone.volume_m3 == pytest.approx(pi * 0.03**2 * 0.1 / 3, rel=1e-6)
    assert float(cup_volume(0.05, cone)) == pytest.approx(cone.volume_m3 / 8, rel=1e-6)


@given(share=st.floats(0.05, 0.95))
def test_in_a_tapered_cup_half_the_height_is_less_than_half_the_water(share):
    cup = Cup(0.02, 0.04, 0.1)
    assert float(cup_volume(share * 0.1, cup)) < share * cup.volume_m3


@pytest.mark.parametrize("sizes", [(0.04, 0.03, 0.1), (0, 0.03, 0.1), (0.03, 0.03, -1)])
def test_a_cup_that_cannot_be_is_refused(sizes):
    with pytest.raises(ValueError, match=r"bottom_radius_m|height_m"):
        Cup(*sizes)


def test_a_level_beyond_the_rim_is_refused():
    cup = Cup(0.03, 0.04, 0.1)
    for level in (0.11, -0.01, np.nan):
        with pytest.raises(ValueError, match="height_m"):
            cup_volume(level, cup)
    with pytest.raises(ValueError, match="volume_m3"):
        cup_height(cup.volume_m3 * 1.01, cup)


def test_ice_by_hand():
    # 50 g in 3000 s is 50e-3·333 550/3000 = 5.5592 W; over 25 K that is 0.22237 W/K
    ice = ice_run(Figure(value=0.05, se=0.001), 3000, 25.0, 0.1)
    assert ice.heat_gain_w.value == pytest.approx(5.559167, rel=1e-6)
    assert ice.heat_gain_w.se == pytest.approx(0.001 * FUSION_J_KG / 3000)
    assert ice.ua_w_k.value == pytest.approx(0.2223667, rel=1e-6)
    assert ice.resistance_k_w.value == pytest.approx(1 / 0.2223667, rel=1e-6)
    assert ice.minutes_to_all.value == pytest.approx(100)
    assert ice.fraction_left.value == pytest.approx(0.5)
    assert ice.resistance_k_w.se / ice.resistance_k_w.value == pytest.approx(0.02)


@given(
    melted=st.floats(0.001, 0.09),
    seconds=st.floats(60, 7200),
    air=st.floats(1, 40),
    started=st.floats(0.1, 1.0),
)
def test_what_came_in_is_what_melted(melted, seconds, air, started):
    ice = ice_run(Figure(value=melted, se=0.0), seconds, air, started)
    assert ice.heat_gain_w.value * seconds == pytest.approx(melted * FUSION_J_KG)
    assert ice.ua_w_k.value * air * seconds == pytest.approx(melted * FUSION_J_KG)
    assert ice.fraction_left.value * started + melted == pytest.approx(started)
    assert ice.minutes_to_all.value * 60 >= seconds * (1 - 1e-9)


def test_melted_and_left_must_add_up_to_the_start():
    assert not ice_run(Figure(value=0.05), 600, 20, 0.1, left_kg=0.046).melted_kg.notes
    (missing,) = ice_run(Figure(value=0.05), 600, 20, 0.1, left_kg=0.04).melted_kg.notes
    assert missing.startswith("10% of the ice is missing")
    (much,) = ice_run(Figure(value=0.06), 600, 20, 0.1, left_kg=0.05).melted_kg.notes
    assert "too much" in much


def test_ice_that_says_nothing_gives_reasons_and_no_numbers():
    over = ice_run(Figure(value=0.2), 600, 20, 0.1)
    assert not over.heat_gain_w.known
    assert "more meltwater" in over.fraction_left.reason
    frost = ice_run(Figure(value=0.01), 600, -2, 0.1)
    assert "above 0 °C" in frost.ua_w_k.reason
    assert frost.heat_gain_w.known
    still = ice_run(Figure(value=0.0), 600, 20, 0.1)
    assert still.minutes_to_all.reason == still.resistance_k_w.reason == "nothing has melted yet"
    assert still.ua_w_k.value == 0
    assert ice_run(Figure(reason="not read"), 600, 20, 0.1).ua_w_k.reason == "not read"


@pytest.mark.parametrize(
    ("name", "args"),
    [
        ("time_s", (Figure(value=0.1), 0, 20, 1)),
        ("started_kg", (Figure(value=0.1), 60, 20, -1)),
        ("melted_kg", (Figure(value=-0.1), 60, 20, 1)),
        ("air_c", (Figure(value=0.1), 60, float("nan"), 1)),
    ],
)
def test_impossible_ice_is_named(name, args):
    with pytest.raises(ValueError, match=name):
        ice_run(*args)


def test_a_cooling_drink_gives_back_what_it_was_made_with():
    t = np.arange(0, 3601, 300.0)
    v = 18 + (62 - 18) * np.exp(-t / 2500)
    run = warm_run(t, v, 18.0, 0.2)
    assert run.time_constant_s.value == pytest.approx(2500, rel=1e-6)
    assert run.ua_w_k.value == pytest.approx(0.2 * 4186 / 2500, rel=1e-6)
    assert run.resistance_k_w.value * run.ua_w_k.value == pytest.approx(1)
    assert "own heat capacity" in run.ua_w_k.notes[0]
    later, half = run.at(7200)
    assert later.value == pytest.approx(18 + 44 * exp(-7200 / 2500), abs=1e-6)
    assert half == pytest.approx(0, abs=1e-3)


def test_the_interval_of_a_prediction_holds_the_truth_19_times_in_20():
    t = np.arange(0, 2401, 300.0)
    rng, inside = np.random.default_rng(1), 0
    for _ in range(400):
        v = 20 + 40 * np.exp(-t / 1800) + rng.normal(0, 0.3, t.size)
        later, half = warm_run(t, v, 20.0, 0.2).at(4800)
        next_reading = 20 + 40 * exp(-4800 / 1800) + rng.normal(0, 0.3)
        inside += abs(next_reading - later.value) <= half
    assert 0.92 <= inside / 400 <= 0.98


def test_a_drink_that_hardly_cooled_has_a_bound_and_a_reason():
    t = np.arange(0, 601, 120.0)
    run = warm_run(t, 60 - t / 600, 20.0, 0.2, resolution=0.5)
    assert not run.time_constant_s.known
    assert run.time_constant_s.reason
    assert not run.ua_w_k.known
    assert run.at(1200)[1] is None


@given(
    start=st.floats(15, 25),
    common=st.floats(15, 25),
    target=st.floats(30, 40),
    source=st.floats(45, 60),
    tau=st.floats(5, 600),
)
def test_races_from_different_starts_are_brought_to_one(start, common, target, source, tau):
    seconds = tau * log((source - start) / (source - target))
    same = tau * log((source - common) / (source - target))
    moved = to_common_start(Figure(value=seconds), start, target, source, common, resolution=0.0)
    assert moved.value == pytest.approx(same, rel=1e-6)


def test_a_warmer_start_would_have_taken_longer_from_the_common_one():
    moved = to_common_start(Figure(value=50.0, se=1.0), 24, 35, 45, 20, resolution=0.5)
    assert moved.value > 50
    assert moved.se > 1
    assert to_common_start(Figure(value=50.0), 20.4, 35, 45, 20, resolution=0.5) == Figure(value=50.0)
    unknown = to_common_start(Figure(value=50.0), 24, 35, None, 20, resolution=0.5)
    assert unknown.value == 50.0
    assert "not comparable" in unknown.notes[0]
    assert "hotter" in to_common_start(Figure(value=5.0), 24, 35, 35, 20, resolution=0.5).reason
    assert "below the target" in to_common_start(Figure(value=5.0), 36, 35, 45, 20, resolution=0.5).reason


def test_a_target_never_reached_is_a_bound_through_every_step():
    t, v = np.arange(0, 61, 10.0), np.linspace(20, 30, 7)
    time = time_to_target(t, v, 35)
    assert time.value is None
    assert time.at_least == 60
    assert to_common_start(time, 22, 35, 45, 20, resolution=0.1).at_least > 60
    assert time_to_target(t, v, 19).at_most == 0
    assert time_to_target(t + 500, v, 25).value == pytest.approx(30)
    assert time_to_target(t, v, 25, resolution=0.5).se == pytest.approx(0.5 / 12**0.5 * 6)


def test_heat_let_through_is_a_share_of_the_bare_rise():
    half = heat_let_through(7.5, 15, resolution=0.5)
    assert half.value == pytest.approx(50)
    assert half.se == pytest.approx(100 * 0.5 / 6**0.5 * 1.25**0.5 / 15)
    assert "hardly rose" in heat_let_through(0.5, 1, resolution=0.5).reason
    assert heat_let_through(0, 15).value == 0
