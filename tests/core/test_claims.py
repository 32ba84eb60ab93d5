"""Claims: what is called sure is right at the rate it says, and never surer than the data."""

from __future__ import annotations

from dataclasses import replace
from itertools import combinations, pairwise

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy import stats
from statsmodels.stats.multicomp import pairwise_tukeyhsd
from statsmodels.stats.power import TTestIndPower

from thermion.core.judging import claims
from thermion.core.judging.budget import budget
from thermion.core.judging.claims import claim_from, compare, settle
from thermion.core.judging.intervals import places_by_intervals
from thermion.core.judging.layout import Cell, lay_out
from thermion.core.judging.spread import Spread, floors_of, pool, size
from thermion.core.judging.standings import range_quantile, standing
from thermion.core.physics.units import convert
from thermion.core.values import Figure, Source, mean_figure, measured, ratio

WORDS = ["not known", "too close to call", "leaning", "clear"]
several = st.lists(st.floats(10, 90), min_size=2, max_size=5)


def places(found) -> list[tuple]:
    return [(s.key, s.first, s.last) for s in found]


class TestHowMuchATryVaries:
    def test_is_pooled_over_all_that_was_tried_twice(self):
        assert pool([[1.0], [2.0], []]) is None
        found = pool([[1.0, 3.0], [5.0], [7.0, 7.0]])
        assert (found.sd, found.dof, found.source) == (pytest.approx(1.0), 2, "repeats")

    def test_is_never_less_than_rounding_hides(self):
        assert pool([[20.0, 20.0]], resolution=1.0).sd == pytest.approx(1 / 12**0.5)

    def test_leans_on_earlier_classes_by_degrees_of_freedom_and_says_so(self):
        before = Spread(sd=2.0, dof=6, source="earlier classes")
        alone = pool([[1.0], [2.0]], prior=before)
        assert (alone.sd, alone.dof, alone.source) == (2.0, 6, "earlier classes")
        both = pool([[1.0, 3.0]], prior=before)
        assert both.sd**2 == pytest.approx((6 * 4 + 1 * 2) / 7)
        assert (both.dof, both.source) == (7, "repeats and earlier classes")

    @pytest.mark.parametrize("bad", [float("nan"), float("inf")])
    def test_refuses_what_is_no_number(self, bad):
        with pytest.raises(ValueError, match="groups"):
            pool([[1.0, bad]])


class TestTwoBuilds:
    @given(a=several, b=several)
    def test_are_compared_by_the_pooled_t_test(self, a, b):
        spread = pool([a, b])
        if all(np.std(side) > 1e-3 for side in (a, b)):
            found, known = compare(a, b, resolution=0, spread=spread), stats.ttest_ind(a, b)
            low, high = known.confidence_interval(0.95)
            assert (found.low, found.high) == pytest.approx((low, high), abs=1e-6)
            assert (found.word == "clear") == (known.pvalue < 0.05)

    def test_are_not_known_where_nothing_was_tried_twice(self):
        found = compare([61.5], [20.0], resolution=0.5, spread=None)
        assert (found.word, found.low, found.high, found.difference) == ("not known", None, None, 41.5)
        assert "repeat one build" in found.why

    def test_prove_nothing_when_repeats_agree_exactly_and_no_step_is_given(self):
        exact = compare([20.0, 20.0], [21.0, 21.0], resolution=0, spread=pool([[20.0, 20.0], [21.0, 21.0]]))
        assert exact.word == "not known"
        equal = compare([20.0], [20.0], resolution=0, spread=Spread(sd=0.0, dof=1))
        assert (equal.difference, equal.word) == (0.0, "too close to call")

    @given(sd=st.floats(0.1, 5), more=st.floats(0, 5), gap=st.floats(-20, 20))
    def test_are_never_surer_for_more_noise(self, sd, more, gap):
        def word(sd: float) -> int:
            return WORDS.index(compare([gap], [0.0], resolution=0.5, spread=Spread(sd=sd, dof=3)).word)

        assert word(sd + more) <= word(sd)

    @given(common=st.floats(0, 5), gap=st.floats(-20, 20), dof=st.integers(1, 3))
    def test_are_never_surer_for_what_does_not_average_out(self, common, gap, dof):
        plain, shared = (
            compare([gap], [0.0], resolution=0.5, spread=Spread(sd=1.0, dof=dof), common_se=c)
            for c in (0, common)
        )
        assert WORDS.index(shared.word) <= WORDS.index(plain.word)
        assert shared.dof == dof  # few degrees of freedom are never more than they are

    @given(a=several, b=several, step=st.floats(0, 2))
    def test_have_the_same_verdict_in_fahrenheit(self, a, b, step):
        hot = [[convert(x, "degC", "degF") for x in y] for y in (a, b)]
        plain = compare(a, b, resolution=step, spread=pool([a, b], resolution=step))
        other = compare(*hot, resolution=step * 1.8, spread=pool(hot, resolution=step * 1.8))
        assert other.difference == pytest.approx(1.8 * plain.difference, abs=1e-6)
        if plain.se and plain.se > 1e-6:
            assert (other.low, other.high) == pytest.approx((1.8 * plain.low, 1.8 * plain.high), abs=1e-6)

    def test_need_a_try_on_each_side(self):
        with pytest.raises(ValueError, match=r"^b: expected at least one try"):
            compare([1.0], [], resolution=0, spread=None)


@pytest.mark.parametrize(("dof", "step"), [(1, 0.0), (1, 1.0), (2, 0.0), (4, 1.0), (8, 0.0), (8, 2.0)])
def test_equal_builds_are_called_clear_in_five_of_a_hundred_and_leaning_in_a_third(dof, step):
    """Two single tries compared beside repeats of other builds, 2500 times."""
    dice, count = np.random.default_rng(dof), 2500
    words = []
    for _ in range(count):
        y = dice.normal(0, 1, 2 + dof * 2) + dice.uniform(0, 10)
        y = np.round(y / step) * step if step else y
        spread = pool(y[2:].reshape(dof, 2), resolution=step)
        words.append(compare(y[:1], y[1:2], resolution=step, spread=spread).word)
    assert words.count("clear") / count <= 0.05 + 3 * (0.05 * 0.95 / count) ** 0.5
    if step <= 1:
        told = 1 - words.count("too close to call") / count
        assert told <= 0.32 + 3 * (0.32 * 0.68 / count) ** 0.5


class TestPlaces:
    def test_stand_on_a_table_that_is_scipys(self):
        for count, dof in ((2, 1), (8, 3), (12, 9), (5, 33)):
            exact = stats.studentized_range.ppf(0.95, count, dof)
            assert range_quantile(count, dof) == pytest.approx(exact, rel=1e-3)

    def test_are_those_of_all_pairs_in_another_package(self):
        dice = np.random.default_rng(3)
        tries = {k: dice.normal(2.0 * i, 1, 3) for i, k in enumerate("ADGKP")}
        found = standing(tries, "higher", resolution=0, spread=pool(tries.values()))
        names = [k for k, v in tries.items() for _ in v]
        table = pairwise_tukeyhsd(np.concatenate(list(tries.values())), names)
        pairs = zip(combinations(table.groupsunique, 2), table.reject, strict=True)
        apart = {frozenset(pair) for pair, sure in pairs if sure}
        means = {s.key: s.value for s in found}
        for s in found[1:]:  # the sole first is decided by its own test
            better = sum(frozenset((s.key, k)) in apart and means[k] > s.value for k in means)
            assert s.first == max(1 + better, 2 if found[0].last == 1 else 1)

    def test_are_intervals_a_leader_two_in_the_middle_and_one_behind(self):
        tries = {"A": [70, 70], "D": [60, 60.2], "G": [60.1], "K": [40, 41]}
        found = standing(tries, "higher", resolution=0, spread=Spread(sd=1.0, dof=10))
        assert places(found) == [("A", 1, 1), ("D", 2, 3), ("G", 2, 3), ("K", 4, 4)]
        turned = standing(tries, "lower", resolution=0, spread=Spread(sd=1.0, dof=10))
        assert places(turned)[0] == ("K", 1, 1)

    def test_one_try_never_looks_surer_than_two(self):
        found = standing(
            {"A": [5.0], "D": [5.0, 5.2]}, "higher", resolution=0.1, spread=Spread(sd=1.0, dof=1)
        )
        widths = {s.key: s.half_width for s in found}
        assert widths["A"] > widths["D"]

    def test_without_repeats_there_is_an_order_and_no_place(self):
        found = standing({"A": [5.0], "D": [7.0]}, "higher", resolution=0.5, spread=None)
        assert places(found) == [("D", None, None), ("A", None, None)]
        assert {(s.half_width, s.chance_best) for s in found} == {(None, None)}

    def test_of_builds_that_are_all_equal_all_zero_or_alone(self):
        zero = {k: [0.0, 0.0] for k in "ADG"}
        found = standing(zero, "higher", resolution=1.0, spread=pool(zero.values(), resolution=1.0))
        assert {(s.first, s.last) for s in found} == {(1, 3)}
        (alone,) = standing({"A": [3.0]}, "higher", resolution=0, spread=Spread(sd=1.0, dof=2))
        assert (alone.first, alone.last, alone.chance_best) == (1, 1, 1.0)

    def test_of_a_build_with_twenty_tries_beside_builds_with_one(self):
        tries = {"A": [50.0] * 10 + [51.0] * 10, "D": [53.0], "G": [40.0]}
        found = standing(tries, "higher", resolution=0.5, spread=pool(tries.values(), resolution=0.5))
        assert places(found) == [("D", 1, 1), ("A", 2, 2), ("G", 3, 3)]
        assert found[1].half_width < found[0].half_width / 4

    @given(st.permutations("ADGKP"), st.integers(0, 50))
    def test_chances_add_to_one_and_neither_order_nor_repetition_changes_them(self, order, seed):
        dice = np.random.default_rng(seed)
        values = {k: dice.normal(0, 2, 2) for k in sorted(order)}
        spread = pool(values.values())
        found = standing({k: values[k] for k in order}, "higher", resolution=0, spread=spread)
        chances = [s.chance_best for s in found]
        assert sum(chances) == pytest.approx(1.0)
        assert all(a >= b - 0.03 for a, b in pairwise(chances))
        assert found == standing(values, "higher", resolution=0, spread=spread)

    def test_of_intervals_that_overlap_both_winners_are_shared_with_them(self):
        seen = {"A": (0, 4), "D": (0, 4), "G": (2, 8), "K": (9, float("inf"))}
        found = places_by_intervals(seen, "lower")
        assert places(found) == [("A", 1, 3), ("D", 1, 3), ("G", 1, 3), ("K", 4, 4)]
        assert places(places_by_intervals(seen, "higher"))[0] == ("K", 1, 1)

    def test_one_check_apart_are_not_apart(self):
        """The eye errs by about a check: intervals that only touch stay together."""
        found = places_by_intervals({"A": (4, 6), "D": (6, 8), "G": (8.5, 10)}, "lower")
        assert places(found) == [("A", 1, 2), ("D", 1, 2), ("G", 3, 3)]


def test_among_equals_nobody_is_the_sole_first_in_more_than_five_of_a_hundred_classes():
    dice, count, sole, wrong = np.random.default_rng(8), 400, 0, 0
    for _ in range(count):
        y = dice.normal(0, 1, (8, 2))
        sole += standing(dict(enumerate(y)), "higher", resolution=0, spread=pool(y))[0].sole_first
        true = dice.normal(0, 2, 6)
        y = true[:, None] + dice.normal(0, 1, (6, 2))
        first, *_ = standing(dict(enumerate(y)), "higher", resolution=0, spread=pool(y))
        wrong += first.sole_first and first.key != true.argmax()
    assert sole / count <= 0.03
    assert wrong / count <= 0.03


def test_a_real_lead_is_told_as_often_as_the_pooled_t_test_can():
    dice, mine, best = np.random.default_rng(9), 0, 0
    for _ in range(300):
        y = dice.normal(0, 1, (6, 3))
        y[0] += 4
        first, *_ = standing(dict(enumerate(y)), "higher", resolution=0, spread=pool(y))
        mine += first.sole_first and first.key == 0
        rival = y[1:][np.argmax(y[1:].mean(axis=1))]
        s2 = ((y - y.mean(axis=1, keepdims=True)) ** 2).sum() / 12
        best += (y[0].mean() - rival.mean()) / (s2 * 2 / 3) ** 0.5 > stats.t.ppf(0.975, 12)
    assert mine >= 0.9 * best


def test_the_chance_of_being_best_is_true_in_every_tenth():
    dice, said, was = np.random.default_rng(4), [], []
    for i in range(600):
        true = dice.normal(0, (0.3, 1, 3)[i % 3], 5)
        y = true[:, None] + dice.normal(0, 1, (5, 2))
        for s in standing(dict(enumerate(y)), "higher", resolution=0, spread=pool(y)):
            said.append(s.chance_best)
            was.append(s.key == true.argmax())
    tenths = np.minimum((np.array(said) * 10).astype(int), 9)
    for tenth in range(10):
        mine = tenths == tenth
        if mine.sum() > 60:
            assert np.mean(np.array(was)[mine]) == pytest.approx(np.mean(np.array(said)[mine]), abs=0.12)


class TestWhatWouldSettleIt:
    @pytest.mark.parametrize("gap", [1.0, 1.5, 2.5])
    def test_agrees_with_another_packages_power(self, gap):
        more = settle(gap, Spread(sd=1.0, dof=2), 2, 2)

        def known(tries: int) -> float:  # two groups of so many tries have just that spread's freedom
            return TTestIndPower().power(effect_size=gap, nobs1=tries, alpha=0.05, ratio=1.0)

        assert known(2 + more) >= 0.8 > known(2 + more - 1)

    def test_is_true_when_the_tries_are_made(self):
        dice, gap, hits = np.random.default_rng(5), 2.0, 0
        more = settle(gap, Spread(sd=1.0, dof=3), 1, 1)
        for _ in range(2000):
            a, b = dice.normal(gap, 1, 1 + more), dice.normal(0, 1, 1 + more)
            spread = pool([*dice.normal(0, 1, (3, 2)), a, b])
            hits += compare(a, b, resolution=0, spread=spread).word == "clear"
        assert 0.78 <= hits / 2000 <= 0.9

    def test_says_to_call_it_a_tie_and_when_nothing_is_needed(self):
        assert settle(0.1, Spread(sd=1.0, dof=5), 2, 2) is None
        assert settle(0.0, Spread(sd=1.0, dof=5), 2, 2) is None
        assert settle(1.0, None, 1, 1) is None
        assert settle(50.0, Spread(sd=1.0, dof=5), 2, 2) == 0
        assert settle(3.0, Spread(sd=1.0, dof=5), 1, 1, common_se=3.0) is None


def tries_in(cells: dict, floor: float | None = None) -> dict:
    """Cells of tries that vary alike, or in proportion above a floor."""
    return {
        key: Cell(
            values=y,
            sizes=tuple(size(float(np.mean(y)), c) for c in floors_of(floor)),
            firm=floor is None or float(np.mean(y)) >= floor,
        )
        for key, y in cells.items()
    }


class TestBuildsAndRunsApart:
    def test_what_a_day_adds_is_what_the_yardsticks_leave_open_and_nothing_within_one_run(self):
        """Variances over s²: two builds of one run 1/n + 1/m; of two runs also the yardstick's two tries."""
        found = lay_out(
            tries_in({("A", 1): [10.0], ("B", 1): [12.0, 12.5], ("B", 2): [15.0], ("C", 2): [20.0]})
        )
        only = lay_out(tries_in({("A", 1): [10.0], ("D", 1): [11.0, 12.0]}))
        assert only.factors("A", "D") == pytest.approx(1 + 1 / 2)
        assert only.itself("A") + only.itself("D") == pytest.approx(only.factors("A", "D"))
        assert found.factors("A", "C") == pytest.approx(1 + 1 + 1 / 2 + 1)
        assert found.factors("A", "C") - found.itself("A") - found.itself("C") == pytest.approx(1 / 2 + 1)

    def test_a_yardstick_takes_the_days_effect_out(self):
        found = lay_out(tries_in({("A1", 1): [10.0], ("B", 1): [12.0], ("A2", 2): [20.0], ("B", 2): [15.0]}))
        assert found.value["A2"] - found.value["A1"] == pytest.approx(10 - 3)
        assert found.factors("A2", "A1") == pytest.approx(2 + 2)  # its own two tries, and the yardstick's
        assert found.dof == 0

    def test_where_another_day_is_a_factor_the_yardstick_tells_it(self):
        """A day on which all takes a quarter longer; what a yardstick of 20 leaves open grows with the build."""
        cells = {("A", 1): [100.0], ("B", 1): [20.0], ("A again", 2): [125.0], ("B", 2): [25.0]}
        found = lay_out(tries_in(cells, 5.0), to=2, factor=True)
        assert found.day == {1: pytest.approx(-np.log(1.25)), 2: 0.0}
        assert found.value["A again"] - found.value["A"] == pytest.approx(0.0)
        g = {y: (y**2 + 25.0) / y**2 for y in (20.0, 25.0, 100.0, 125.0)}
        of_the_day = 125.0**2 * (g[20.0] + g[25.0])
        own = 125.0**2 * (g[100.0] + g[125.0])
        assert found.factors("A again", "A")[0] == pytest.approx(own + of_the_day)

    def test_a_yardstick_too_small_for_a_ratio_ties_nothing(self):
        cells = {("A", 1): [100.0], ("B", 1): [4.0], ("A again", 2): [125.0], ("B", 2): [5.0]}
        found = lay_out(tries_in(cells, 6.0), factor=True)
        assert found.factors("A again", "A") is None

    def test_what_stood_at_the_end_says_nothing_of_how_much_a_try_varies(self):
        cells = tries_in({("A", 1): [2.4, 2.4, 2.4], ("B", 1): [1.0, 1.2]}, 0.1)
        assert lay_out(cells).dof == 3
        cells["A", 1] = replace(cells["A", 1], stuck=True)
        assert lay_out(cells).dof == 1

    def test_two_yardsticks_also_tell_how_much_a_try_varies(self):
        cells = {("B", 1): [5.0], ("C", 1): [9.0], ("B", 2): [7.0], ("C", 2): [10.0]}
        found = lay_out(tries_in(cells))
        assert found.dof == 1
        assert found.squares == pytest.approx((0.25,))  # of 2 and 1 beside their mean shift

    def test_runs_without_a_common_build_stay_apart(self):
        found = lay_out(tries_in({("A", 1): [1.0, 2.0], ("B", 2): [4.0]}))
        assert found.factors("A", "B") is None
        assert found.value == {"A": pytest.approx(1.5), "B": pytest.approx(4.0)}
        assert (found.dof, found.squares) == (1, pytest.approx((0.5,)))

    @pytest.mark.parametrize("floor", [None, 4.0], ids=["alike", "in proportion"])
    def test_where_nothing_changed_few_gains_are_clear(self, floor):
        """Eight teams, two days, one to three yardsticks: one gain in twenty, rarely two in a class."""
        dice, singles, classes, count = np.random.default_rng(6), 0, 0, 300
        usual = (50, 4) if floor is None else (80, 30)

        def tried(true: float, n: int, day: float) -> list[float]:
            if floor is None:
                return list(true + day + dice.normal(0, 1, n))
            return list(true * np.exp(day / 20) * np.exp(dice.normal(0, 0.06, n)) + dice.normal(0, 0.24, n))

        for i in range(count):
            sticks, day = 1 + i % 3, dice.normal(0, 5)
            cells: dict[tuple[object, int], list[float]] = {}
            for b, true in enumerate(np.maximum(dice.normal(*usual, 8 + sticks), 10.0)):
                cells[b, 1] = tried(true, 1 + (b < 2), 0.0)
                cells[b if b >= 8 else f"{b} again", 2] = tried(true, 1, day)
            found = lay_out(tries_in(cells, floor), factor=floor is not None)
            s2 = np.array(found.squares) / found.dof
            said = [
                claim_from(
                    found.value[f"{b} again"] - found.value[b],
                    float((s2 * found.factors(f"{b} again", b)).max()),
                    Spread(sd=float(s2[0]) ** 0.5, dof=found.dof),
                ).word
                for b in range(8)
            ]
            singles += said.count("clear")
            classes += said.count("clear") >= 2
        assert singles / (8 * count) <= 0.07
        assert classes / count <= 0.14


class TestBudgets:
    def test_the_end_gauge_of_the_guide(self):
        """JCGM 100:2008, H.1: u = 32 nm on 16 degrees of freedom."""
        sources = [
            Source("the standard's calibration", 25.0, dof=18),
            Source("repeated readings", 5.8, dof=24),
            Source("the comparator, random", 3.9, dof=5),
            Source("the comparator, systematic", 6.7, dof=8),
            Source("expansion", 2.9, dof=50),
            Source("temperature of both", 16.6, dof=2),
        ]
        figure = measured(50_000_838.0, sources)
        assert figure.se == pytest.approx(32, abs=0.5)
        assert int(figure.dof) == 16
        first, *_ = budget(figure)
        assert first.source == "the standard's calibration"
        assert first.share == pytest.approx(25**2 / 32**2, rel=0.03)
        assert sum(s.share for s in budget(figure)) == pytest.approx(1.0)

    def test_relative_uncertainties_of_a_ratio_add_in_quadrature(self):
        """JCGM 100:2008, 5.1.6."""
        resistance = ratio(
            measured(5.0, [Source("voltmeter", 0.05)]), measured(0.02, [Source("ammeter", 0.0003)])
        )
        assert resistance.se / resistance.value == pytest.approx((0.01**2 + 0.015**2) ** 0.5)

    def test_what_is_the_same_in_both_goes_out_of_a_ratio(self):
        top = measured(2.0, [Source("the air", 0.2, "run"), Source("reading", 0.1)])
        bottom = measured(4.0, [Source("the air", 0.4, "run"), Source("reading", 0.1)])
        assert ratio(top, bottom).se == pytest.approx((0.025**2 + 0.0125**2) ** 0.5)

    def test_repeats_share_their_thermometer_but_not_their_readings(self):
        sources = [Source("thermometer", 0.5, "build"), Source("reading", 0.2)]
        mean = mean_figure([measured(x, sources) for x in (60.0, 61.0, 62.0, 63.0)])
        assert mean.value == 61.5
        assert mean.se == pytest.approx((0.5**2 + 0.1**2) ** 0.5)

    def test_a_bound_is_never_averaged_to_a_number_nor_a_broken_test_with_whole_ones(self):
        both = mean_figure([Figure(value=12.0), Figure(at_least=20.0, reason="still on")])
        assert (both.value, both.at_least) == (None, 16.0)
        broken = Figure(at_least=31.0, reason="the test broke off", partial=True)
        assert mean_figure([Figure(value=92.0, se=0.5), broken]).value == 92.0
        assert mean_figure([broken]).at_least == 31.0
        assert budget(broken) == []


def test_one_change_is_a_candidate_several_are_not_and_none_is_a_repeat():
    assert claims.attribution(["foil added"]).verdict == "candidate"
    assert claims.attribution(["foil added", "gap wider"]).verdict == "cannot say which"
    assert claims.attribution([]).verdict == "repeatability"


def test_runs_compare_only_within_the_tolerance_of_what_both_know():
    a, b = {"air_c": 18.0, "sun": 620.0}, {"air_c": 20.0, "sun": 740.0, "lamp_m": 0.3}
    found = claims.comparable(a, b, {"air_c": 3.0, "sun": 80.0, "lamp_m": 0.01})
    assert [(m.key, m.a, m.b) for m in found] == [("sun", 620.0, 740.0)]
