"""One dial for how hard a challenge is."""

from __future__ import annotations

from dataclasses import replace

import pytest

from thermion.core.kinds import all_kinds
from thermion.core.planning.difficulty import STEPS, turned, usual_setup

KINDS = list(all_kinds().values())


@pytest.mark.parametrize("kind", KINDS, ids=lambda k: k.key)
def test_turned_there_and_back_a_challenge_is_what_it_was(kind):
    for at in STEPS:
        now = usual_setup(kind, at)
        for to in STEPS:
            then = turned(kind, now, at, to)
            assert then == usual_setup(kind, to)
            assert turned(kind, then, to, at) == now


@pytest.mark.parametrize("kind", KINDS, ids=lambda k: k.key)
def test_a_step_between_asks_no_less_than_the_younger_and_no_more_than_the_older(kind):
    for young, between, old in (STEPS[:3], STEPS[2:]):
        low, middle, high = (usual_setup(kind, step) for step in (young, between, old))
        assert middle.words == low.words  # nobody is spoken to above their age
        assert low.attempts <= middle.attempts <= high.attempts
        for phase, marks in middle.marks.items():
            assert len(low.marks[phase]) <= len(marks) <= len(high.marks[phase])
        for material, limit in middle.limits.items():
            if limit is not None:
                assert min(low.limits[material], high.limits[material]) <= limit
                assert limit <= max(low.limits[material], high.limits[material])


def test_what_the_teacher_set_stays_as_it_was_set():
    kind = all_kinds()["solar_oven"]
    usual = usual_setup(kind, "9-12")
    mine = replace(
        usual,
        story="Our own story.",
        limits={**usual.limits, "newspaper": 3.0, "feathers": 2.0},
        marks={**usual.marks, "heating": (0.0, 600.0)},
    )
    then = turned(kind, mine, "9-12", "13-16")
    assert then.story == "Our own story."
    assert (then.limits["newspaper"], then.limits["feathers"]) == (3.0, 2.0)
    assert then.marks["heating"] == (0.0, 600.0)
    assert then.limits["straw"] < usual.limits["straw"]
    assert then.school != usual.school
    with pytest.raises(ValueError, match="step"):
        usual_setup(kind, "3-5")
