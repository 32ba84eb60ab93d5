"""What the materials did, and what is said of intervals: hints with their caution, no winners."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import assume, given
from hypothesis import strategies as st
from scipy.stats import ttest_ind

from tests.conftest import letter_of, subject
from thermion.core.judging.effects import material_effects
from thermion.core.judging.findings import Tried, analyse
from thermion.core.kinds import get_kind
from thermion.core.kinds.briefing import Term
from thermion.core.kinds.trials import Attempt, Trace, Trial
from thermion.core.plans import Part, Plan


def build(team: str, result: float, *materials: str) -> tuple[str, Plan, float]:
    return team, Plan(tuple(Part(place="wall", material=m, form="flat", units=1) for m in materials)), result


def test_a_material_is_compared_only_where_two_builds_have_it_and_two_do_not():
    builds = [
        build("A", 50, "felt", "tape"),
        build("D", 52, "felt"),
        build("G", 40, "foil"),
        build("K", 41, "foil", "wool"),
    ]
    found = {e.materials: e for e in material_effects(builds, "higher")}
    assert set(found) == {("felt",), ("foil",)}  # tape and wool: one build each
    felt = found["felt",]
    assert (felt.used_by, felt.without, felt.verdict) == (("A", "D"), ("G", "K"), "better")
    assert felt.claim.difference == pytest.approx(10.5)
    assert "hint" in felt.caution
    assert material_effects(builds[:3], "higher") == []


def test_materials_that_always_go_together_cannot_be_told_apart():
    builds = [build("A", 50, "felt", "tape"), build("D", 52, "felt", "tape"), build("G", 40), build("K", 41)]
    (both,) = material_effects(builds, "lower")
    assert both.materials == ("felt", "tape")
    assert both.verdict == "worse"
    assert "nobody can say which" in both.caution


@given(
    st.lists(st.integers(-50, 50), min_size=2, max_size=6),
    st.lists(st.integers(-50, 50), min_size=2, max_size=6),
)
def test_one_comparison_is_students_t(a, b):
    assume(len(set(a)) > 1 and len(set(b)) > 1)
    builds = [build(f"x{i}", v, "felt") for i, v in enumerate(a)]
    builds += [build(f"y{i}", v) for i, v in enumerate(b)]
    (found,) = material_effects(builds, "higher")
    known = ttest_ind(a, b)
    low, high = known.confidence_interval(0.95)
    assert found.claim.low == pytest.approx(low, abs=1e-6)
    assert found.claim.high == pytest.approx(high, abs=1e-6)
    word = "clear" if known.pvalue < 0.05 else "leaning" if known.pvalue < 0.3173 else "too close"
    assert found.claim.word.startswith(word)


def test_the_effect_that_stands_out_most_comes_first():
    builds = [
        build("A", 50, "felt", "foil"),
        build("D", 52, "felt"),
        build("G", 30, "foil", "wool"),
        build("K", 31, "wool"),
        build("P", 33),
        build("T", 47, "felt", "wool"),
    ]
    found = material_effects(builds, "higher")
    sizes = [abs(e.claim.difference) / e.claim.se for e in found]
    assert sizes == sorted(sizes, reverse=True)
    assert found[0].materials == ("felt",)
    assert "differ in other ways" in found[0].caution


def test_among_twenty_materials_without_effect_a_clear_one_is_rare():
    """Bonferroni: in far fewer than one class of ten is anything called clear."""
    dice = np.random.default_rng(4)
    names = ["felt", "foil", "wool", "straw", "tape", "card", "cork", "foam", "nylon", "cotton"]
    alarms = 0
    for _ in range(200):
        builds = [
            build(str(i), float(dice.normal(50, 4)), *[n for n in names if dice.random() < 0.5])
            for i in range(8)
        ]
        alarms += any(e.claim.word == "clear" for e in material_effects(builds, "higher"))
    assert alarms <= 20


def melted(team: str, slow: list[int], *, version=1, run=1, plan=None) -> Tried:
    t = tuple(120.0 * i for i in range(len(slow)))
    trial = Trial(
        traces={"fast": Trace(t, (0.0, *[4.0] * (len(t) - 1))), "slow": Trace(t, tuple(map(float, slow)))},
        conditions={"stage": 3.0},
        control={"stage": Trace(t, (0, 0, 3, 4, 4, 4))},
    )
    return Tried(subject=subject(team, version), run=run, plan=plan or Plan(()), trial=trial)


def test_a_race_of_intervals_has_no_sum_and_places_only_once_something_was_tried_twice():
    kind, rule = get_kind("melt_pair"), [Term(metric="slow", unit="minute")]
    tried = [
        melted("A", [0, 0, 0, 0, 0, 0]),
        melted("D", [0, 0, 0, 3, 4, 4]),
        melted("G", [0, 0, 0, 3, 3, 4]),
        melted("K", [0, 3, 4, 4, 4, 4]),
    ]
    found = analyse(kind, tried, rule, {}, "higher")
    assert {letter_of(p.key) for p in found.places} == set("ADGK")
    assert {(p.first, p.last) for p in found.places} == {(None, None)}  # how much a try varies is not known
    again = [melted("G", [0, 0, 0, 3, 4, 4], run=2), melted("K", [0, 3, 4, 4, 4, 4], run=2)]
    found = analyse(kind, [*tried, *again, melted("D", [0, 0, 0, 3, 4, 4], run=2)], rule, {}, "higher")
    assert {letter_of(p.key): (p.first, p.last) for p in found.places}["A"][0] == 1  # now there are some
    assert found.lead is None
    assert found.facts == {}
    assert found.without_score == ()


def test_a_second_pair_is_better_only_where_the_intervals_lie_apart():
    kind, rule = get_kind("melt_pair"), [Term(metric="beats", unit="dimensionless")]
    more = Plan((Part(place="slow", material="felt", form="flat", units=1),))
    tried = [
        melted("A", [0, 3, 4, 4, 4, 4]),
        melted("A", [0, 0, 0, 0, 3, 4], version=2, run=2, plan=more),
        melted("D", [0, 0, 3, 4, 4, 4]),
        melted("D", [0, 1, 1, 3, 4, 4], version=2, run=2, plan=more),
    ]
    found = analyse(kind, tried, rule, {})
    gains = {letter_of(g.after): {b.metric: b.good for b in g.bounds} for g in found.gains}
    assert gains["A"]["slow"] is True
    assert gains["D"]["slow"] is None  # one check later


def sails(*runs: tuple[str, list[float]]) -> list[Tried]:
    def run(team: str, stops: list[float]) -> Tried:
        tries = tuple(Attempt({"stop_m": s}) for s in stops)
        return Tried(
            subject=subject(team),
            run=1,
            plan=Plan(()),
            trial=Trial(traces={}, conditions={"track_m": 2.4}, attempts=tries),
        )

    return [run(*each) for each in runs]


def test_attempts_that_are_the_same_test_again_tell_how_much_a_try_varies():
    kind, rule = get_kind("sail_run"), [Term(metric="share", unit="percent")]
    steady = analyse(kind, sails(("A", [2.0, 2.02, 1.99]), ("D", [1.2, 1.21, 1.19])), rule, {})
    assert (steady.lead.word, steady.spread.dof) == ("clear", 4)
    wild = analyse(kind, sails(("A", [2.0, 0.6, 1.1]), ("D", [1.9, 0.4, 1.2])), rule, {})
    assert wild.lead.word == "too close to call"
    once = analyse(kind, sails(("A", [2.0]), ("D", [1.2])), rule, {})
    assert (once.spread, once.lead.word) == (None, "not known")


def test_the_best_of_three_is_a_fact_and_the_typical_try_a_claim():
    kind, rule = get_kind("sail_run"), [Term(metric="distance", unit="centimeter")]
    found = analyse(kind, sails(("A", [1.0, 1.02, 2.2]), ("D", [1.6, 1.62, 1.64])), rule, {})
    assert {letter_of(s): place for s, place in found.facts.items()} == {"A": 1, "D": 2}
    assert found.latest()[ord("A")].score.total == pytest.approx(220.0)
    typical = {letter_of(p.key): p.value for p in found.places}
    assert typical == pytest.approx({"A": 422 / 3, "D": 162.0})
    assert letter_of(found.places[0].key) == "D"


def test_a_try_that_is_only_a_bound_is_never_averaged_with_numbers():
    kind, rule = get_kind("sail_run"), [Term(metric="distance", unit="centimeter")]
    found = analyse(kind, sails(("A", [1.0, 2.4]), ("D", [1.2, 1.22, 1.18]), ("G", [2.4, 2.4])), rule, {})
    by = {letter_of(p.key): p for p in found.places}
    assert (by["A"].value, by["G"].value) == (None, None)
    assert [(by[k].first, by[k].last) for k in "GAD"] == [(1, 2), (1, 2), (3, 3)]  # A: 1.7 m or more
