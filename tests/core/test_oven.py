"""The oven: physics against closed forms, figures from curves, a drawing to scale."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.conftest import GOOD
from thermion.core.kinds import all_kinds, get_kind
from thermion.core.kinds.solar_oven.body import draw_oven, oven_hints, oven_model
from thermion.core.kinds.trials import Trace, Trial
from thermion.core.physics import oven
from thermion.core.physics.materials import AIR_W_MK, MATERIALS, blend_conductivity
from thermion.core.physics.oven import gathering_area
from thermion.core.plans import Part, Plan
from thermion.core.sim import OvenModel, observe, simulate_ovens

RIG = {"aperture_m2": 0.09, "load_kg": 0.15, "sun_deg": 50.0, "air_c": 20.0, "irradiance_w_m2": 600.0}
KIND = get_kind("solar_oven")


def levels_off(plan: Plan, rig=RIG) -> float:
    model = oven_model(plan, rig)
    return 20 + model.optical_gain * model.aperture_m2 * 600 / model.ua_w_k


def with_parts(*parts: Part, **factors: float) -> Plan:
    return Plan((*GOOD.parts, *parts), {**GOOD.factors, **factors})


def test_the_simulation_meets_its_closed_form_and_keeps_the_energy():
    model = OvenModel(0.09, 0.8, 1.2, 700.0)
    t = np.arange(0, 1801, 1.0)
    path = simulate_ovens([model], t, 600.0, 20.0, 20.0)[0]
    limit = 20 + 0.8 * 0.09 * 600 / 1.2
    assert path == pytest.approx(limit + (20 - limit) * np.exp(-t / (700 / 1.2)), abs=1e-9)
    gained = 700.0 * (path[-1] - path[0])
    came = 0.8 * 0.09 * 600 * 1800
    lost = 1.2 * np.trapezoid(path - 20, t)
    assert gained == pytest.approx(came - lost, rel=1e-5)


@given(st.lists(st.floats(0, 1000), min_size=30, max_size=30))
def test_passing_clouds_never_heat_beyond_the_brightest_moment(sun):
    model = OvenModel(0.09, 0.8, 1.2, 700.0)
    path = simulate_ovens([model], np.arange(30) * 60.0, sun, 20.0, 20.0)[0]
    assert path.max() <= 20 + 0.8 * 0.09 * max(sun) / 1.2 + 1e-9
    assert path.min() >= 20 - 1e-9


def test_better_boxes_are_better_for_the_right_reasons():
    good = levels_off(GOOD)
    no_window = Plan(GOOD.parts[1:], GOOD.factors)
    unsealed = Plan(GOOD.parts[:3], GOOD.factors)
    bright = Plan((GOOD.parts[0], *GOOD.parts[2:]), GOOD.factors)
    empty_walls = Plan((*GOOD.parts[:2], GOOD.parts[3]), GOOD.factors)
    for worse in (no_window, unsealed, bright, empty_walls):
        assert levels_off(worse) < good - 2
    flat = with_parts(Part(place="floor", material="newspaper", form="flat", units=2))
    shredded = with_parts(Part(place="floor", material="newspaper", form="shredded", units=2))
    assert levels_off(shredded) > levels_off(flat) > good
    aimed = with_parts(Part(place="reflector", material="foil", form="flat", units=1), reflector_deg=90.0)
    beside = with_parts(Part(place="reflector", material="foil", form="flat", units=1), reflector_deg=160.0)
    assert levels_off(aimed) > good + 5
    assert levels_off(beside) == pytest.approx(good)
    assert 45 < good < 95  # where classroom boxes end up


def test_packing_more_into_a_narrow_gap_stops_helping():
    narrow = {"gap_m": 0.01}
    gains = [
        levels_off(with_parts(Part(place="floor", material="newspaper", form="shredded", units=n), **narrow))
        for n in (1, 2, 4, 8, 40)
    ]
    assert gains[1] > gains[0]
    assert gains[4] < max(gains)


def test_loosened_sheets_lie_between_still_air_and_the_solid():
    for share in (0.05, 0.3, 0.9):
        assert AIR_W_MK < blend_conductivity(0.13, share) < 0.13
    for material in MATERIALS.values():
        parts = material.absorptance + material.transmittance + material.reflectance
        assert parts == pytest.approx(1.0, abs=0.011), material.key


def test_reflector_rays_by_hand():
    # upright mirror as long as the window, sun at 45°: all of its light lands on the window
    assert oven.reflector_gain(0.3, 0.3, 90, 45, 1.0) == pytest.approx(2.0)
    assert oven.reflector_gain(0.3, 0.6, 90, 45, 1.0) == pytest.approx(2.0)
    assert oven.reflector_gain(0.3, 0.0, 90, 45, 1.0) == 1.0
    with pytest.raises(ValueError, match="elevation_deg"):
        oven.reflector_gain(0.3, 0.3, 90, 0, 1.0)


def test_figures_of_merit_and_the_refusal_of_the_impossible():
    assert oven.efficiency(0.15, 40, 0.09, 600 * 1800).value == pytest.approx(
        0.15 * 4186 * 40 / (0.09 * 600 * 1800)
    )
    refused = oven.efficiency(5.0, 80, 0.01, 600 * 600)
    assert refused.value is None
    assert "more heat than light" in refused.reason
    assert oven.first_figure_of_merit(80, 20, 600).value == pytest.approx(0.1)
    assert oven.heat_loss_coefficient(0.15, 600).value == pytest.approx(0.15 * 4186 / 600)
    with pytest.raises(ValueError, match="load_kg"):
        oven.heat_loss_coefficient(-1, 600)
    same = oven.corrected_peak(70, 20, 500, to_air_c=20, to_irradiance=500)
    assert (same, oven.corrected_peak(70, 20, 500, to_air_c=18, to_irradiance=250)) == (70, 43)


def test_a_reflector_adds_the_area_it_cuts_out_of_the_beam():
    # upright (90°) behind a 0.3 m window, sun at 45°: as much level light again as its length
    assert gathering_area(0.09, 0.3, 90.0, 45.0) == pytest.approx(0.18)
    assert gathering_area(0.09, 0.3, 90.0, 90.0) == pytest.approx(0.09)  # edge to the sun
    assert gathering_area(0.09, 0.0, 90.0, 45.0) == pytest.approx(0.09)
    assert gathering_area(0.09, 0.3, 30.0, 45.0) == pytest.approx(0.09)  # its back to the sun
    with pytest.raises(ValueError, match="elevation_deg"):
        gathering_area(0.09, 0.3, 90.0, 0.0)


def test_a_trial_gives_back_the_physics_it_was_made_with():
    model = oven_model(GOOD, RIG)
    marks = np.arange(0, 1801, 300.0)
    warm = KIND.rehearsal.course(GOOD, RIG, "heating", marks, 20.0)
    cool = KIND.rehearsal.course(GOOD, RIG, "cooling", marks, float(warm[-1]))
    traces = {
        "heating": Trace(tuple(marks), tuple(observe(warm, seed=1))),
        "cooling": Trace(tuple(marks), tuple(observe(cool, seed=2))),
    }
    conditions = {**RIG, "level_c": 50.0, "fall_k": 10.0, "lost_min": 10.0}
    figures = KIND.analysis.fit([Trial(traces=traces, conditions=conditions)])[0].figures
    for key, true in (("limit", levels_off(GOOD)), ("tau_cool", model.time_constant_s / 60)):
        assert figures[key].value == pytest.approx(true, abs=3 * figures[key].se)
    assert figures["merit"].value == pytest.approx((levels_off(GOOD) - 20) / 600, rel=0.05)
    assert figures["peak"].value == pytest.approx(warm[-1], abs=1.0)


def test_a_box_that_never_warmed_has_bounds_and_no_invented_times():
    cold = Trace((0.0, 300.0, 600.0, 900.0), (20.0, 20.0, 20.5, 20.0))
    figures = KIND.analysis.fit([Trial(traces={"heating": cold}, conditions={**RIG, "level_c": 50.0})])[
        0
    ].figures
    assert (figures["to_level"].value, figures["to_level"].at_least) == (None, 15.0)
    assert figures["limit"].value is None
    assert figures["limit"].reason
    assert figures["rise"].value == 0.5


def test_the_drawing_is_to_scale_and_can_be_pointed_at_everywhere():
    drawing = draw_oven(GOOD, RIG)
    film = next(s for s in drawing.shapes if s.tone == "clear")
    assert film.place == "window"
    water = next(s for s in drawing.shapes if s.tone == "water")
    xs = [x for x, _ in water.points]
    assert max(xs) - min(xs) == 70  # the mug's inner diameter, mm
    assert {s.place for s in drawing.shapes} >= {p.key for p in KIND.build.places}
    wider = draw_oven(Plan(GOOD.parts, {**GOOD.factors, "gap_m": 0.08}), RIG)
    assert all(w.window[2] > d.window[2] for w, d in zip(wider.views, drawing.views, strict=True))


def test_a_lamp_hangs_as_high_as_it_does_and_the_sun_stands_where_it_does():
    lamp = {k: v for k, v in RIG.items() if k != "sun_deg"} | {"lamp_m": 0.30}
    low, high = (
        next(s for s in draw_oven(GOOD, {**lamp, "lamp_m": m}).shapes if s.tone == "lamp")
        for m in (0.30, 0.40)
    )
    assert high.points[0][1] - low.points[0][1] == pytest.approx(100)
    flat, steep = (
        next(s for s in draw_oven(GOOD, {**RIG, "sun_deg": a}).shapes if s.tone == "ray")
        for a in (20.0, 70.0)
    )
    (x0, y0), (x1, y1) = steep.points
    assert (y0 - y1) / (x1 - x0) == pytest.approx(np.tan(np.radians(70)))
    assert flat.points[0][1] < y0


def test_what_does_not_fit_on_the_floor_climbs_the_sides_and_what_is_too_little_leaves_gaps():
    def lining(units):
        plan = Plan((Part(place="absorber", material="black_paper", form="flat", units=units),), GOOD.factors)
        return [s for s in draw_oven(plan, RIG).views[0].shapes if s.tone == "dark"]

    assert len(lining(1)) == 1
    assert len(lining(3)) == 3
    (narrow,) = lining(1)
    xs = [x for x, _ in narrow.points]
    assert max(xs) - min(xs) == pytest.approx(300 * 0.0624 / 0.09)


def test_no_mug_no_water_and_no_boiling_limit():
    dry = {**RIG, "load_kg": 0.0, "irradiance_w_m2": 1000.0}
    assert not [s for s in draw_oven(GOOD, dry).shapes if s.tone in ("mug", "water")]
    hot = with_parts(Part(place="reflector", material="foil", form="flat", units=1), reflector_deg=90.0)
    wet = {**dry, "load_kg": 0.05}
    assert KIND.rehearsal.course(hot, wet, "heating", [7200.0], 20.0)[0] == 100.0
    assert KIND.rehearsal.course(hot, dry, "heating", [7200.0], 20.0)[0] > 100.0


def test_hints_ask_and_do_not_tell():
    assert oven_hints(GOOD) == []
    empty = oven_hints(Plan())
    assert len(empty) == 4
    assert all(h.endswith("?") for h in empty)


def test_every_family_is_found_and_speaks_of_itself_only():
    assert "solar_oven" in all_kinds()
    for kind in all_kinds().values():
        keys = kind.analysis.metric_units()
        assert set(kind.analysis.headline) <= set(keys)
        assert all(t.metric in keys for s in kind.brief.schools for t in s.terms)
        assert {m for m, _ in kind.build.materials} <= set(MATERIALS)
    with pytest.raises(ValueError, match="solar_oven"):
        get_kind("kite")
