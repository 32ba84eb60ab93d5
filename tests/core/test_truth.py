"""A small version of `make truth`: intervals hold the simulator's truth, and a sun that only differs
from day to day makes nothing better. The whole of it, with its figures, is docs/truth.md."""

from __future__ import annotations

import pytest

from bench.truth import claims
from bench.truth.classes import CLASSES
from bench.truth.figures import coverage


@pytest.mark.parametrize("family", [f for f in CLASSES if f != "melt_pair"])
def test_intervals_hold_the_true_value_in_about_95_of_100(family):
    """With 120 classes the rate is known to some 2 %; a figure that is far off does not pass."""
    several = 5 if family == "keep_temp" else 1  # ways of reading, told apart
    for name, found in coverage(family, 120 * several, 12).items():
        if found.intervals >= 20:
            slack = 3 * (0.05 * 0.95 / found.intervals) ** 0.5
            assert found.coverage >= 0.92 - slack, name
        if found.bounds >= 10:
            assert found.true_bounds / found.bounds >= 0.85, name


def test_equal_ovens_have_no_winner():
    found = claims.equal_ovens(3, 12, 5)
    assert found.count["sole first"] == 0
    assert found.rate("clear") <= 0.06


@pytest.mark.parametrize("sticks", [0, 1])
def test_a_brighter_day_makes_no_second_version_better(sticks):
    found = claims.unchanged(sticks, 200.0, 8, 3, share=0.10)
    assert found.rate("clear gain") <= 0.10
    assert found.count["two or more in a class"] <= 1
