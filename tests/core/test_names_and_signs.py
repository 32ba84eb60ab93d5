"""Every public number is refused by its own name, and signs that a sum could hide are pinned."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.special import stdtrit

from thermion.core.judging.claims import attribution
from thermion.core.judging.scoring import score_places
from thermion.core.physics import cooking, curves, heat, lift, oven, rain, sail
from thermion.core.planning import kit, schedule
from thermion.core.plans import impact
from thermion.core.values import Figure

CUP = heat.Cup(0.03, 0.04, 0.1)
T, V = (0.0, 600.0, 1200.0, 1800.0, 2400.0), (60.0, 50.0, 43.0, 37.0, 33.0)
CALLS = {
    heat.cup_volume: {"height_m": 0.05, "cup": CUP},
    heat.cup_height: {"volume_m3": 1e-4, "cup": CUP},
    heat.ice_run: {"melted_kg": Figure(value=0.05), "time_s": 600.0, "air_c": 20.0, "started_kg": 0.1},
    heat.warm_run: {"time_s": T, "temp_c": V, "air_c": 20.0, "load_kg": 0.2, "specific_heat": 4186.0},
    heat.to_common_start: {
        "seconds": Figure(value=50.0),
        "start_c": 22.0,
        "target_c": 35.0,
        "source_c": 45.0,
        "common_start_c": 20.0,
        "resolution": 0.1,
    },
    heat.heat_let_through: {"rise_k": 7.0, "control_rise_k": 15.0, "resolution": 0.5},
    lift.load_mass: {"count": 4.0, "unit_kg": 0.008, "cup_kg": 0.006},
    lift.lift_work: {"mass_kg": 0.1, "height_m": 0.6},
    lift.lift_power: {"mass_kg": 0.1, "height_m": 0.6, "time_s": 3.0},
    lift.air_density: {"temp_c": 15.0, "pressure_pa": 101325.0},
    lift.wind_power: {"speed_m_s": 4.0, "radius_m": 0.14, "density_kg_m3": 1.2},
    lift.turns: {"height_m": 0.6, "spool_m": 0.01, "string_m": 0.001},
    lift.tip_speed_ratio: {"turned": 10.0, "time_s": 4.0, "radius_m": 0.14, "speed_m_s": 4.0},
    sail.distance: {"stop_m": 1.2, "track_m": 2.4},
    sail.mean_speed: {"stop_m": 1.2, "time_s": 3.0},
    sail.start_acceleration: {"distance_m": 1.2, "time_s": 3.0},
    sail.net_thrust: {"mass_kg": 0.2, "acceleration_m_s2": 0.4},
    sail.thrust_per_area: {"thrust_n": 0.08, "sail_m2": 0.03},
    sail.thrust_coefficient: {"thrust_n": 0.08, "wind_m_s": 4.0, "sail_m2": 0.03, "density_kg_m3": 1.2},
    rain.squeeze_volume: {"volume_m3": 1.2e-5, "squeezes": 10.0, "resolution": 1e-6},
    rain.rain_depth: {"volume_m3": 2e-4, "tray_m2": 0.12},
    rain.rain_intensity_mm_h: {"depth_m": 0.002, "time_s": 60.0},
    rain.capture: {
        "caught_m3": Figure(value=1e-5),
        "poured_m3": Figure(value=2e-4),
        "mouth_m2": 0.01,
        "tray_m2": 0.12,
    },
    rain.roof_yield: {"depth_m": 0.02, "roof_m2": 80.0, "runoff_coefficient": 0.9, "first_flush_m3": 0.1},
    oven.useful_heat: {"load_kg": 0.2, "rise_k": 30.0, "specific_heat": 4186.0},
    oven.heat_loss_coefficient: {"load_kg": 0.2, "time_constant_s": 900.0},
    oven.efficiency: {"load_kg": 0.2, "rise_k": 30.0, "aperture_m2": 0.09, "radiant_exposure_j_m2": 1.5e6},
    oven.first_figure_of_merit: {"limit_c": 80.0, "air_c": 20.0, "irradiance_w_m2": 800.0},
    oven.best_reflector: {"window_m": 0.3, "length_m": 0.3, "elevation_deg": 50.0, "reflectance": 0.8},
    schedule.clocked_length: {"set_up_s": 300.0, "last_mark_s": 1800.0, "round_s": 60.0},
    schedule.turns_length: {
        "teams": 8.0,
        "attempts": 3.0,
        "stations": 1.0,
        "fit_s": 30.0,
        "run_s": 30.0,
        "reset_s": 30.0,
    },
    schedule.turns: {"teams": 8.0, "attempts": 3.0, "stations": 1.0, "turn_s": 90.0},
    schedule.reading_round: {"builds": 8.0, "readers": 1.0, "seconds_each": 10.0, "interval_s": 300.0},
}
NUMBERS = [(f, name) for f, args in CALLS.items() for name, v in args.items() if isinstance(v, float)]


@pytest.mark.parametrize(("call", "name"), NUMBERS, ids=lambda x: getattr(x, "__name__", x))
@pytest.mark.parametrize("bad", [float("nan"), float("inf"), "warm"])
def test_what_is_no_finite_number_is_refused_by_its_own_name(call, name, bad):
    call(**CALLS[call])  # the others are as they should be
    with pytest.raises(ValueError, match=rf"^{name}\b"):
        call(**{**CALLS[call], name: bad})


MUST_BE_ABOVE_ZERO = [
    (lift.lift_power, "time_s"),
    (lift.load_mass, "unit_kg"),
    (lift.turns, "spool_m"),
    (lift.tip_speed_ratio, "time_s"),
    (lift.tip_speed_ratio, "speed_m_s"),
    (sail.mean_speed, "time_s"),
    (sail.net_thrust, "mass_kg"),
    (sail.thrust_per_area, "sail_m2"),
    (rain.rain_depth, "tray_m2"),
    (rain.rain_intensity_mm_h, "time_s"),
    (rain.capture, "tray_m2"),
    (heat.ice_run, "time_s"),
    (heat.ice_run, "started_kg"),
    (heat.warm_run, "load_kg"),
    (schedule.clocked_length, "last_mark_s"),
    (schedule.turns_length, "run_s"),
]


@pytest.mark.parametrize(("call", "name"), MUST_BE_ABOVE_ZERO)
def test_what_must_be_above_zero_is_refused_at_zero_and_below(call, name):
    for bad in (0.0, -1.0):
        with pytest.raises(ValueError, match=rf"^{name}\b"):
            call(**{**CALLS[call], name: bad})


@given(st.floats(0, 5e3), st.floats(100, 9e3))
def test_a_leak_counts_from_the_first_reading_whenever_that_was(begin, span):
    t = [begin, begin + span / 3, begin + span]
    rate = rain.leak_rate(t, [9e-5, 4e-5, 3e-5], resolution=1e-6)
    assert rate.value == pytest.approx(6e-5 / span)


@given(st.floats(0, 2.39))
def test_a_share_of_the_track_is_distance_over_track(stop):
    assert sail.share_of_track(stop, 2.4) == pytest.approx(stop / 2.4)


def test_a_race_counts_from_its_own_first_reading():
    t, v = np.arange(500.0, 561.0, 10), np.linspace(20, 30, 7)
    assert heat.time_to_target(t, v, 35).at_least == 60
    assert heat.time_to_target(t, v, 22, resolution=0.1).value == pytest.approx(12)


def test_a_prediction_is_as_uncertain_as_the_textbook_says():
    t, air = np.array(T), 18.0
    v = np.array([60.2, 49.7, 41.9, 35.8, 31.6])
    run = heat.warm_run(t, v, air, 0.2)
    tau, start = run.fit.time_constant_s, run.fit.start
    e = np.exp(-t / tau)
    jacobian = np.stack([e, start * t / tau**2 * e], axis=1)
    later = np.exp(-3600 / tau) * np.array([1.0, start * 3600 / tau**2])
    spread = later @ np.linalg.inv(jacobian.T @ jacobian) @ later
    s = np.sqrt(((v - air - start * e) ** 2).sum() / 3)
    predicted, half = run.at(3600)
    assert predicted.value == pytest.approx(air + start * np.exp(-3600 / tau))
    assert predicted.se == pytest.approx(s * np.sqrt(1 + spread), rel=1e-6)
    assert half == pytest.approx(stdtrit(3, 0.975) * predicted.se)


def test_the_fit_of_cooking_power_and_both_ends_of_its_interval():
    t = np.arange(0, 3001, 300.0)
    powers = [70, 58, 52, 40, 33]
    water = 40 + np.concatenate([[0], np.cumsum(np.repeat(powers, 2) * 300 / 4186)])
    found = cooking.standard_cooking_power(t, water, 30.0, 700.0, 1.0)
    x, y = np.array([[i.excess_k, i.adjusted_w] for i in found.intervals]).T
    assert found.r2 == pytest.approx(np.corrcoef(x, y)[0, 1] ** 2)
    assert found.low_w < found.power_w.value < found.high_w
    assert found.power_w.value - found.low_w == pytest.approx(found.high_w - found.power_w.value)


def test_places_by_score_in_either_direction_or_none():
    totals = {"A": 3.0, "D": 1.0, "G": 3.0, "K": None}
    assert score_places(totals, "higher") == {"A": 1, "G": 1, "D": 3}
    assert score_places(totals, "lower") == {"D": 1, "A": 2, "G": 2}
    assert score_places(totals, "none") == {"A": 1, "D": 1, "G": 1}
    assert impact([(1, 0.5, 0)], credit=1) == 0.5
    assert impact([(1, 0.5, 1)], credit=1) == 0


def test_stations_and_offsets_are_whole_steps():
    found = schedule.turns(3, 2, 2, 60.0)
    assert [(t.team, t.attempt, t.station, t.start_s) for t in found] == [
        (0, 0, 0, 0),
        (1, 0, 1, 0),
        (2, 0, 0, 60),
        (0, 1, 1, 60),
        (1, 1, 0, 120),
        (2, 1, 1, 120),
    ]
    assert schedule.reading_round(5, 2, 10, 60).offsets_s == (0, 0, 10, 10, 20)
    one_mark = schedule.reading_round(4, 1, 30, 60)
    assert one_mark.marks_s(2, (0.0, 100.0)) == (200.0, 300.0)
    touching = [
        schedule.Lesson(datetime(2026, 6, 1, 9, tzinfo=UTC) + timedelta(hours=i), 3600, 0) for i in range(2)
    ]
    schedule.check_lessons(touching)


def test_boundaries_belong_to_the_side_they_are_said_to():
    assert float(heat.cup_volume(0.1, CUP)) == pytest.approx(CUP.volume_m3)
    assert float(heat.cup_height(CUP.volume_m3, CUP)) == pytest.approx(0.1)
    with pytest.raises(ValueError, match="volume_m3"):
        heat.cup_height(-1e-9, CUP)
    assert rain.capture(Figure(value=2e-4), Figure(value=2e-4), 0.12, 0.12).efficiency.value == 1
    assert heat.heat_let_through(1.0, 1.5, resolution=0.5).known
    assert not heat.heat_let_through(1.0, 1.49, resolution=0.5).known
    assert curves.degree_minutes_above([0, 60], [20, 30], 20).value == pytest.approx(5)
    assert curves.degree_minutes_above([0], [20], 20).reason
    (line,) = kit.kit_list([kit.Need(item="Straw", quantity=1, unit="piece")], 2, 0)
    assert (line.item, line.unit) == ("Straw", "piece")
    assert attribution(["lid"]).sentence == "Only one thing changed, so it may be the cause: lid"
    assert attribution(["lid"], told=False).sentence == "The difference is not sure enough to name a cause."
    assert "2 things" in attribution(["lid", "seal"]).sentence
    assert "repeat varies" in attribution([]).sentence


@pytest.mark.parametrize("elevation", [25.0, 40.0, 60.0])
def test_a_reflector_square_behind_the_window_adds_what_geometry_says(elevation):
    # standing upright (90°) behind the window, a mirror as long as it is wide throws back the
    # light that would have passed over: length·cos(elevation) against window·sin(elevation),
    # of which what lands beyond the window is lost
    window = length = 0.3
    gain = oven.reflector_gain(window, length, 90.0, elevation, 1.0)
    sun = np.radians(elevation)
    reach = length / np.tan(sun)
    share = min(1.0, window / reach)
    assert gain == pytest.approx(1 + share * length * np.cos(sun) / (window * np.sin(sun)))
    assert oven.reflector_gain(window, length, 90.0, elevation, 0.5) - 1 == pytest.approx((gain - 1) / 2)
    assert oven.reflector_gain(window, 0.0, 90.0, elevation, 1.0) == 1
    assert oven.corrected_peak(60, 20, 500, to_air_c=25, to_irradiance=1000) == 105
