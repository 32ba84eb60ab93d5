"""Scores: the class's own units, arithmetic that adds up, no zero for what is not known."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from thermion.core.judging.scoring import score, sensitivity
from thermion.core.kinds import get_kind
from thermion.core.kinds.briefing import Term
from thermion.core.physics.units import Setting
from thermion.core.plans import impact
from thermion.core.values import Figure, Source, measured

UNITS = get_kind("solar_oven").analysis.metric_units()


def test_thrift_in_celsius_and_in_fahrenheit_are_different_rules():
    kind = get_kind("solar_oven")
    figures = {"peak": measured(60.0, [Source("reading", 0.1)]), "units": Figure(value=11.0, se=0.0)}
    celsius = score(kind.brief.rule("thrift", Setting(), {}), figures, UNITS)
    fahrenheit = score(kind.brief.rule("thrift", Setting("degF"), {}), figures, UNITS)
    assert celsius.total == pytest.approx(60 - 11)
    assert fahrenheit.total == pytest.approx(140 - 11)
    assert [s.effect for s in (*celsius.sources, *fahrenheit.sources)] == pytest.approx([0.1, 0.18])


def test_green_counts_a_rise_as_a_difference_and_holding_up_to_the_last_mark():
    kind = get_kind("solar_oven")
    rule = kind.brief.rule("green", Setting("degF"), {"cooling": 1200.0})
    figures = {"rise": Figure(value=30.0), "held": Figure(at_least=20.0), "impact": Figure(value=18.0)}
    found = score(rule, figures, UNITS)
    assert [t.contribution for t in found.terms] == pytest.approx([54.0, 20.0, -18.0])
    assert found.terms[1].capped
    assert found.total == pytest.approx(56.0)


def test_missing_data_is_no_score_with_the_reason_and_not_zero():
    figures = {"peak": Figure(value=60.0), "held": Figure(at_least=8.0, reason="had not fallen")}
    found = score(
        [Term(metric="peak", unit="degC"), Term(metric="held", unit="minute", cap=20)], figures, UNITS
    )
    assert (found.total, found.reason) == (None, "had not fallen")
    assert score([Term(metric="peak", unit="degC")], {}, UNITS).total is None


@given(st.floats(0.1, 5), st.floats(-5, 5), st.floats(1, 10))
def test_the_terms_always_add_up_to_the_total(w1, w2, divisor):
    rule = [
        Term(metric="peak", unit="degC", weight=w1, divisor=divisor),
        Term(metric="units", unit="count", weight=w2),
    ]
    found = score(rule, {"peak": Figure(value=71.5), "units": Figure(value=9.0)}, UNITS)
    assert found.total == pytest.approx(w1 * 71.5 / divisor + w2 * 9)
    assert found.total == pytest.approx(sum(t.contribution for t in found.terms))


@pytest.mark.parametrize(
    ("rule", "named"),
    [
        ([Term(metric="speed", unit="degC")], "metric"),
        ([], "rule"),
        ([Term(metric="peak", unit="minute")], "unit"),
        ([Term(metric="peak", unit="degC", divisor=0)], "divisor"),
        ([Term(metric="peak", unit="degC", weight=float("nan"))], "weight"),
    ],
)
def test_a_rule_that_makes_no_sense_is_refused_by_name(rule, named):
    with pytest.raises(ValueError, match=named):
        score(rule, {"peak": Figure(value=60.0)}, UNITS)


def test_smallest_change_of_a_weight_that_changes_the_winner():
    rule = [Term(metric="peak", unit="degC"), Term(metric="units", unit="count", weight=-1.0)]
    builds = {
        "A": {"peak": Figure(value=70.0), "units": Figure(value=12.0)},
        "D": {"peak": Figure(value=64.0), "units": Figure(value=8.0)},
    }
    found = sensitivity(rule, builds, presets={"raw": [Term(metric="peak", unit="degC")]})
    # A leads 58 to 56; units would have to weigh 1.5 times as much, hottest a third less
    assert (found.term, found.winner) == (0, "D")
    assert found.change == pytest.approx(-1 / 3)
    assert found.ranks == {"raw": {"A": 1, "D": 2}}
    turned = [
        Term(metric="peak", unit="degC", weight=1 + found.change * 1.01),
        Term(metric="units", unit="count", weight=-1.0),
    ]
    again = {
        k: score(turned, {"peak": Figure(value=p), "units": Figure(value=u)}, UNITS).total
        for k, p, u in (("A", 70.0, 12.0), ("D", 64.0, 8.0))
    }
    assert again["D"] > again["A"]


@given(st.lists(st.tuples(st.floats(0, 20), st.floats(0, 9), st.floats(0, 20)), max_size=6))
def test_impact_is_never_below_zero(uses):
    assert impact(uses, credit=2.0) >= 0
    assert impact([(4, 3, 1)], credit=2.0) == 10
