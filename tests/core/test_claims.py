"""Claims: words that say no more than the data, places that are shared, causes that are fair."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from thermion.core.judging import claims
from thermion.core.physics.units import convert

tries = st.lists(st.floats(10, 90), min_size=1, max_size=4)
WORDS = ["too close to call", "leaning", "clear"]


def test_welch_on_values_worked_by_hand():
    # a: mean 62, s² 4; b: mean 57, s² 1; n = 3 each: se = √(5/3), dof = (5/3)²/((4/3)²/2+(1/3)²/2)
    claim = claims.compare([60, 62, 64], [56, 57, 58], resolution=0)
    assert claim.difference == 5
    assert claim.se == pytest.approx((5 / 3) ** 0.5)
    dof = (5 / 3) ** 2 / ((4 / 3) ** 2 / 2 + (1 / 3) ** 2 / 2)
    assert dof == pytest.approx(2.941, abs=1e-3)
    assert claim.high - 5 == pytest.approx(3.22 * claim.se, rel=0.01)  # t(0.975; 2.94)
    assert claim.word == "clear"


def test_half_a_degree_on_one_try_each_is_too_close_to_call():
    assert claims.compare([61.5], [61.0], resolution=2.0).word == "too close to call"
    assert claims.compare([61.5], [61.0], resolution=1.0).word == "leaning"  # and never more
    spread = claims.compare([61.5], [61.0], resolution=1.0, pooled_sd=1.0)
    assert spread.word == "too close to call"


@given(a=st.floats(0, 100), b=st.floats(0, 100), step=st.floats(0, 5))
def test_single_tries_with_no_known_spread_are_never_clear(a, b, step):
    claim = claims.compare([a], [b], resolution=step)
    assert claim.word != "clear"
    assert "unknown" in claim.why


@given(a=tries, b=tries, sd=st.floats(0.1, 10), step=st.floats(0, 2))
def test_unit_changes_never_change_a_verdict(a, b, sd, step):
    celsius = claims.compare(a, b, resolution=step, pooled_sd=sd)
    fahrenheit = claims.compare(
        [convert(x, "degC", "degF") for x in a],
        [convert(x, "degC", "degF") for x in b],
        resolution=step * 1.8,
        pooled_sd=sd * 1.8,
    )
    near = min(abs(abs(celsius.difference) - r * celsius.se) for r in (1, 1.96, 0))
    if near > 1e-6 and not (len(a) > 1 and len(b) > 1):
        assert celsius.word == fahrenheit.word
    assert fahrenheit.difference == pytest.approx(celsius.difference * 1.8, abs=1e-6)


@given(a=st.floats(0, 100), b=st.floats(0, 100), sd=st.floats(0.1, 5), more=st.floats(0, 20))
def test_more_noise_never_makes_a_claim_surer(a, b, sd, more):
    quiet = claims.compare([a], [b], resolution=0.5, pooled_sd=sd)
    noisy = claims.compare([a], [b], resolution=0.5, pooled_sd=sd + more)
    assert WORDS.index(noisy.word) <= WORDS.index(quiet.word)


def test_builds_that_cannot_be_told_apart_share_a_place():
    found = claims.rank({"A": [70.0], "D": [69.8], "G": [50.0]}, "higher", resolution=0.5, pooled_sd=1.0)
    assert [(p.key, p.place, p.shared) for p in found] == [("A", 1, True), ("D", 1, True), ("G", 3, False)]
    turned = claims.rank({"A": [70.0], "G": [50.0]}, "lower", resolution=0.5, pooled_sd=1.0)
    assert [p.key for p in turned] == ["G", "A"]


@given(st.permutations(["A", "D", "G", "K"]))
def test_order_of_builds_changes_no_place(order):
    values = {"A": [70.0], "D": [70.0], "G": [50.0], "K": [42.0]}
    found = claims.rank({k: values[k] for k in order}, "higher", resolution=0.5, pooled_sd=1.0)
    assert [(p.key, p.place) for p in found] == [("A", 1), ("D", 1), ("G", 3), ("K", 4)]


def test_lower_is_better_where_the_metric_says_so():
    verdict, claim = claims.improvement([12.0], [9.0], "lower", resolution=0.5, pooled_sd=0.5)
    assert (verdict, claim.difference, claim.word) == ("better", -3.0, "clear")
    assert claims.improvement([12.0], [9.0], "higher", resolution=0.5)[0] == "worse"


def test_one_change_is_a_candidate_several_are_not_and_none_is_a_repeat():
    assert claims.attribution(["foil added"]).verdict == "candidate"
    assert claims.attribution(["foil added", "gap wider"]).verdict == "cannot say which"
    assert claims.attribution([]).verdict == "repeatability"


def test_runs_compare_only_within_the_tolerance_of_what_both_know():
    a, b = {"air_c": 18.0, "sun": 620.0}, {"air_c": 20.0, "sun": 740.0, "lamp_m": 0.3}
    found = claims.comparable(a, b, {"air_c": 3.0, "sun": 80.0, "lamp_m": 0.01})
    assert [(m.key, m.a, m.b) for m in found] == [("sun", 620.0, 740.0)]


def test_pooled_spread_needs_a_repeat_somewhere():
    assert claims.pooled_sd([[1.0], [2.0]]) is None
    assert claims.pooled_sd([[1.0, 3.0], [5.0], [7.0, 7.0]]) == pytest.approx(1.0)
    with pytest.raises(ValueError, match="a"):
        claims.compare([], [1.0], resolution=0.5)
    with pytest.raises(ValueError, match="b"):
        claims.compare([1.0], [np.nan], resolution=0.5)
