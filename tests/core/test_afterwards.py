"""A slip that got through: found among all the others afterwards, and honest numbers left in peace."""

from __future__ import annotations

import numpy as np
import pytest

from thermion.core.judging.afterwards import FLOOR_K, NotedTry, doubtful_tries, lone_reading
from thermion.core.judging.observed import quantity_of
from thermion.core.kinds import get_kind
from thermion.core.physics.units import Setting
from thermion.core.sim.oven import OvenModel, simulate_ovens

SETTING = Setting("degC", "point")


def oven(dice, n: int = 11, trouble: str = "") -> tuple[np.ndarray, np.ndarray]:
    """What hands read of a box: late, rounded, under clouds or with its door opened in the middle."""
    t = np.arange(n) * 180.0 + np.r_[0, dice.uniform(0, 30, n - 1)]
    fine = np.arange(0, t[-1] + 11, 10.0)
    model = OvenModel(dice.uniform(0.04, 0.1), 0.7, dice.uniform(0.3, 1.2), dice.uniform(300, 1500))
    sun = np.full(fine.size, 800.0)
    for _ in range(2 if trouble == "clouds" else 0):
        begins = dice.uniform(0, fine[-1])
        sun[(fine > begins) & (fine < begins + 240)] *= 0.4
    true = simulate_ovens([model], fine, sun, 22.0, 20.0)[0]
    if trouble == "door":
        at = int(dice.integers(1, fine.size - 1))
        rest = simulate_ovens([model], fine[at:] - fine[at], sun[at:], 22.0, true[at] - 10.0)[0]
        true = np.r_[true[:at], rest]
    if trouble == "boiling":
        true = np.minimum(true * 1.8, 100.0)
    return t, np.round(np.interp(t, fine, true) + dice.normal(0, 0.2, n), 1)


class TestOneReading:
    @pytest.mark.parametrize("trouble", ["", "clouds", "door", "boiling"])
    def test_an_honest_curve_is_hardly_ever_asked_about(self, trouble):
        dice = np.random.default_rng(1)
        named = sum(lone_reading(*oven(dice, trouble=trouble), FLOOR_K) is not None for _ in range(200))
        assert named <= 8  # of 200; a door opened at a mark looks like a slip at times

    def test_a_slip_between_two_others_is_named_and_no_neighbour_of_it(self):
        dice, right, wrong = np.random.default_rng(2), 0, 0
        for _ in range(200):
            t, v = oven(dice)
            at = int(dice.integers(1, t.size - 1))
            v[at] += dice.choice([-20.0, -12.0, 12.0, 20.0])
            found = lone_reading(t, v, FLOOR_K)
            right += found is not None and found.index == at
            wrong += found is not None and found.index != at
        assert right >= 150
        assert wrong <= 2

    def test_the_first_and_the_last_reading_have_nothing_on_their_other_side(self):
        t, v = np.arange(8) * 300.0, np.array([20.0, 30, 38, 44, 49, 53, 56, 58])
        for at in (0, 7):
            odd = v.copy()
            odd[at] += 30
            assert lone_reading(t, odd, FLOOR_K) is None
        assert lone_reading(t[:4], [20.0, 90.0, 38.0, 44.0], FLOOR_K) is None  # too few to say

    def test_in_a_loggers_record_one_wild_value_but_no_step(self):
        t = np.arange(600) * 2.0
        calm = 20 + 40 * (1 - np.exp(-t / 400)) + np.random.default_rng(3).normal(0, 0.1, t.size)
        assert lone_reading(t, calm, FLOOR_K) is None
        wild, stepped = calm.copy(), calm.copy()
        wild[250] = 85.0
        stepped[250:] -= 15.0
        assert lone_reading(t, wild, FLOOR_K).index == 250
        assert lone_reading(t, stepped, FLOOR_K) is None


class TestTries:
    KIND = get_kind("sail_run")

    def named(self, *tries: tuple[str, float]) -> list[tuple[int, str]]:
        rig = self.KIND.brief.default_rig()
        reads = [(r, quantity_of(r, rig)) for r in self.KIND.test.attempt_reads({})]
        noted = [NotedTry(build, {"stop_m": stop}) for build, stop in tries]
        return [(d.index, d.question) for d in doubtful_tries(noted, reads, rig, SETTING)]

    def test_the_first_number_typed_is_asked_about_once_the_others_are_there(self):
        """At the hand nothing stood beside it: 1.6 cm for 160."""
        found = self.named(("A", 0.016), ("A", 1.62), ("B", 1.5), ("C", 1.9), ("D", 1.2))
        assert found == [(0, "Was that in metres? Then it is 160 cm.")]

    def test_of_two_tries_that_contradict_each_other_the_odd_one_among_all_is_named(self):
        assert [i for i, _ in self.named(("A", 0.15), ("A", 1.5), ("B", 1.4), ("C", 1.7))] == [0]
        assert [i for i, _ in self.named(("A", 0.15), ("A", 1.5), ("B", 0.14), ("C", 0.17))] == [1]

    def test_a_poor_sail_among_good_ones_is_no_slip(self):
        assert self.named(("A", 0.4), ("A", 0.45), ("B", 1.4), ("C", 1.9), ("D", 2.2)) == []
        assert self.named(("A", 0.0), ("A", 0.0), ("B", 1.4), ("C", 1.9)) == []
