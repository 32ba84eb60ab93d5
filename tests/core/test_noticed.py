"""Laws at the ends: where a rule begins to hold, a changed line would be seen here first."""

from __future__ import annotations

from math import sqrt

import pytest

from bench.truth import unlike
from thermion.core.judging.advice import advise
from thermion.core.judging.claims import Claim, claim_from, t_quantile
from thermion.core.judging.doubts import Known, doubt_of
from thermion.core.judging.findings import analyse
from thermion.core.judging.layout import Cell, lay_out
from thermion.core.judging.scoring import score
from thermion.core.judging.spread import Spread
from thermion.core.kinds.briefing import Term
from thermion.core.values import Figure

UNITS = {"peak": "degC", "stop": "meter"}


def spread(dof: float, sd: float = 2.0) -> Spread:
    return Spread(sd=sd, dof=dof, source="repeats")


class TestAClaim:
    def test_what_all_share_is_added_as_a_variance(self):
        found = claim_from(10.0, 16.0, spread(20), common_se=3.0)
        assert found.se == pytest.approx(5.0)

    @pytest.mark.parametrize(("dof", "as_many"), [(3, True), (4, False)])
    def test_few_degrees_of_freedom_are_never_made_more_by_what_is_shared(self, dof, as_many):
        found = claim_from(10.0, 1.0, spread(dof), common_se=5.0)
        reach = t_quantile(0.975, dof) * found.se
        assert (found.high - found.difference == pytest.approx(reach)) is as_many
        assert found.high - found.difference <= reach + 1e-9

    def test_its_chance_is_that_of_equals_and_one_where_nothing_is_known(self):
        at_the_limit = claim_from(t_quantile(0.975, 9), 1.0, spread(9))
        assert at_the_limit.chance == pytest.approx(0.05)
        unknown = Claim(difference=3.0, se=1.0, dof=None, low=None, high=None, word="not known")
        assert unknown.chance == 1.0


class TestAnInterval:
    def test_of_one_try_is_widened_at_both_ends_by_what_a_try_varies(self):
        stops = ([1.0, 1.1], [1.4, 1.3], [0.8, 0.9])
        tried = [unlike.sailed(i, each) for i, each in enumerate(stops, 1)]
        measured = analyse(unlike.SAIL, tried, unlike.FARTHEST, {}).score
        low, high = measured.widened((40.0, 50.0))
        assert low < 40.0
        assert high > 50.0
        assert high - 50.0 > 40.0 - low  # more varies more
        assert measured.widened((40.0, float("inf")))[1] == float("inf")

    @pytest.mark.parametrize("fits", [2, 3, 5, 8])
    def test_never_more_tries_are_advised_than_fit(self, fits):
        stops = ([1.50, 1.58], [1.42, 1.36], [1.40, 1.35], [0.6, 0.62])
        found = analyse(
            unlike.SAIL, [unlike.sailed(i, each) for i, each in enumerate(stops, 1)], unlike.FARTHEST, {}
        )
        ranked = [p.key for p in found.places]
        advice = advise(found.score, ranked, ranked[1], fits, together=False)
        assert sum(advice.again.values()) <= fits


class TestALayout:
    def test_what_does_not_vary_is_added_to_what_does(self):
        found = lay_out({("A", 1): Cell(values=[10.0, 12.0], zero=20.0)})
        assert (found.value["A"], found.varying["A"]) == (31.0, 11.0)

    def test_the_variance_of_a_mean_goes_with_the_square_of_the_size_over_the_tries(self):
        found = lay_out({("A", 1): Cell(values=[10.0, 12.0], sizes=(3.0,)), ("D", 1): Cell(values=[5.0])})
        assert found.alone("A").tolist() == [pytest.approx(9.0 / 2)]
        assert found.squares == (pytest.approx(2.0 / 9.0),)


class TestASumOfTerms:
    TERMS = (Term(metric="peak", unit="degC", cap=50.0),)

    def test_a_value_below_its_cap_counts_as_it_is(self):
        (term,) = score(self.TERMS, {"peak": Figure(value=42.0)}, UNITS).terms
        assert (term.value, term.capped) == (42.0, False)

    def test_a_bound_at_the_cap_is_the_cap_and_one_below_it_is_nothing(self):
        (term,) = score(self.TERMS, {"peak": Figure(at_least=50.0)}, UNITS).terms
        assert (term.value, term.capped) == (50.0, True)
        assert score(self.TERMS, {"peak": Figure(at_least=49.0)}, UNITS).total is None


class TestASlip:
    def test_metres_for_centimetres_are_asked_about_only_where_they_could_have_been(self):
        def asked(value: float) -> str:
            found = doubt_of(value, "centimeter", Known(earlier=(0.4,)), lambda x: f"{x:g} m", end=0.6)
            return found.message if found else ""

        assert "metres" in asked(0.006)
        assert "metres" not in asked(0.0064)  # 64 cm of a string of 60

    def test_small_amounts_of_others_are_looked_at_too(self):
        others = Known(others=(0.4, 0.5, 0.6, 0.5))
        found = doubt_of(5.0, "milliliter", others, lambda x: f"{x:g}")
        assert found is not None
        assert found.suggestion == pytest.approx(0.5)


def test_the_half_width_of_two_tries_is_that_of_one_over_root_two():
    one, two = (claim_from(0.0, 4.0 / n, spread(12)).high for n in (1, 2))
    assert one / two == pytest.approx(sqrt(2))
