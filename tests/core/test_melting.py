"""Stages seen by eye: intervals are compared, never their middles."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from thermion.core.kinds import get_kind
from thermion.core.kinds.melt_pair.body import melt_model
from thermion.core.physics.melting import Bounds, Reached, protection_ratio, sooner, stage_intervals
from thermion.core.plans import Offer, Part, Plan, check_limits

T = [0, 120, 240, 360, 480]


def test_a_stage_lies_between_the_last_check_without_and_the_first_with_it():
    glossy, blurred, slumped, liquid = stage_intervals(T, [0, 0, 1, 3, 3])
    assert (glossy.after_s, glossy.before_s) == (120, 240)
    assert (blurred.after_s, blurred.before_s) == (240, 360)  # skipped: between the same checks
    assert (slumped.after_s, slumped.before_s) == (240, 360)
    assert (liquid.after_s, liquid.before_s) == (480, None)
    assert slumped.known
    assert not liquid.known


def test_there_from_the_start_is_a_bound_too():
    glossy, *_ = stage_intervals(T, [1, 1, 1, 2, 2])
    assert (glossy.after_s, glossy.before_s) == (None, 0)


def test_a_sample_seen_to_go_back_says_so():
    glossy, blurred, *_ = stage_intervals(T, [0, 2, 1, 2, 2])
    assert (blurred.after_s, blurred.before_s) == (0, 120)
    assert "go back" in glossy.note


@pytest.mark.parametrize("stages", [[0, 5], [0, -1], [0, 0.5], [0, float("nan")], [0]])
def test_what_is_no_stage_is_refused(stages):
    with pytest.raises(ValueError, match=r"stage|value"):
        stage_intervals([0, 60], stages)


def interval(a: float, length: float) -> Reached:
    return Reached(a, a + length)


def test_overlapping_intervals_are_within_one_check():
    early, late = Reached(120, 240), Reached(240, 360)
    assert sooner(early, late) == "sooner"
    assert sooner(late, early) == "later"
    assert sooner(early, Reached(180, 300)) == "within one check"
    assert sooner(early, early) == "within one check"
    never = Reached(480, None)
    assert sooner(early, never) == "sooner"
    assert sooner(never, Reached(360, 600)) == "within one check"
    assert sooner(never, never) == "not known"


@given(
    a=st.floats(0, 900),
    la=st.floats(1, 300),
    b=st.floats(0, 900),
    lb=st.floats(1, 300),
    shift=st.floats(0, 1e4),
)
def test_no_verdict_depends_on_the_clock_or_on_who_is_named_first(a, la, b, lb, shift):
    x, y = interval(a, la), interval(b, lb)
    other = {"sooner": "later", "later": "sooner", "within one check": "within one check"}
    assert sooner(y, x) == other[sooner(x, y)]
    moved = sooner(interval(a + shift, la), interval(b + shift, lb))
    if min(abs(a + la - b), abs(b + lb - a)) > 1e-6:
        assert moved == sooner(x, y)


@given(
    a=st.floats(1, 900),
    la=st.floats(1, 300),
    b=st.floats(1, 900),
    lb=st.floats(1, 300),
    u=st.floats(0, 1),
    w=st.floats(0, 1),
)
def test_the_true_ratio_lies_in_its_bounds(a, la, b, lb, u, w):
    bounds = protection_ratio(interval(a, la), interval(b, lb))
    true = (a + u * la) / (b + w * lb)
    assert bounds.low * (1 - 1e-12) <= true <= bounds.high * (1 + 1e-12)


def test_never_reached_is_an_open_ratio():
    control = Reached(100, 200)
    assert protection_ratio(Reached(600, None), control) == Bounds(3.0, None)
    assert protection_ratio(Reached(600, None), Reached(600, None)) is None
    assert protection_ratio(Reached(None, 50), control) == Bounds(0.0, 0.5)
    assert protection_ratio(Reached(100, 200), Reached(600, None)) == Bounds(0.0, 200 / 600)


def test_an_open_side_and_a_shared_wall_make_the_slow_one_melt_sooner():
    plan = Plan(
        (Part(place="slow_wrap", material="felt", form="flat", units=3),), {"fast_m": 0.1, "slow_m": 0.08}
    )
    rig = {"air_c": 28.0, "irradiance_w_m2": 0.0}
    closed, opened, joined = (
        melt_model(plan, "slow", {**rig, **more}) for more in ({}, {"open_sides": 2.0}, {"shared_walls": 1.0})
    )
    assert opened.ua_w_k > closed.ua_w_k
    assert joined.air_c == pytest.approx(29.0)  # a sixth of what is around it is 6 K warmer
    assert joined.ua_w_k == closed.ua_w_k


def test_limits_count_for_both_devices_or_for_each_as_the_brief_has_it():
    kind = get_kind("melt_pair")
    plan = Plan(
        (
            Part(place="fast_base", material="foil", form="flat", units=3),
            Part(place="slow_shade", material="foil", form="flat", units=2),
        ),
        {},
    )
    offers = [Offer("foil", 3, 5)]
    for pair, over in (("stock", 1), ("open", 1), ("joined", 1), ("own", 0)):
        assert len(check_limits(plan, offers, kind.build.stocks({"pair": pair}))) == over
    more = Plan((*plan.parts, Part(place="slow_wrap", material="foil", form="flat", units=2)), {})
    (found,) = check_limits(more, offers, kind.build.stocks({"pair": "own"}))
    assert found.message == "Aluminium foil of the stock for the slow one: 4 used, the limit is 3."
