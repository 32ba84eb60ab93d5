"""A probe that falls silent, jumps, sticks, is still in a hand or has a wrong clock is said to."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from thermion.core.judging.probing import SentValue, trouble_of


def sent(*values: float, every: float = 1.0, age: float = 0.5, late: float = 0.0) -> SentValue:
    times = [i * every for i in range(len(values))]
    return SentValue(times, list(values), times[-1] + age + late, late)


@pytest.mark.parametrize(
    ("seen", "started", "trouble"),
    [
        (sent(20, 20.1, 20.2), True, ""),
        (sent(20, 20.1, 20.2, age=40), True, "silent"),
        (sent(20, 20.1, 20.2, every=60, age=90), True, ""),  # it sends once a minute
        (sent(20, 20.1, 52), True, "jumped"),
        (sent(20, 20.1, 52, every=60), True, ""),  # within a minute it may be so
        (sent(*[21.5] * 400), True, "stuck"),
        (sent(*[21.5] * 200), True, ""),
        (sent(20, 31, 33), False, "in the hand"),
        (sent(20, 31, 33), True, ""),  # a box that warms
        (sent(20, 20.1, late=600), True, "clock"),
        (SentValue([], [], 0.0), True, "silent"),
    ],
)
def test_what_is_wrong_with_a_probe(seen, started, trouble):
    assert trouble_of(seen, [20.0, 21.0, 20.5], started=started).trouble == trouble


@given(st.floats(-20, 150), st.floats(0.1, 10), st.integers(3, 60))
def test_a_probe_that_follows_a_box_is_never_in_trouble(start, rate, count):
    values = [start + rate * i / 10 for i in range(count)]
    assert trouble_of(sent(*values), [start], started=True).trouble == ""
