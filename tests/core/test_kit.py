"""Kit and cutting: enough for everyone, and every length fits its stock."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from thermion.core.kinds.testing import Need
from thermion.core.planning.kit import cut_plan, kit_list


def test_quantities_are_added_spared_and_rounded_to_packs():
    needs = [
        Need(item="Straw", quantity=2, pack=50, pack_cost=1.5),
        Need(item="Fan", quantity=1, per="class", spare=0),
        Need(item="Goggles", quantity=1, per="learner", spare=0),
        Need(item="Straw", quantity=1, spare=0),
    ]
    straw, fan, goggles = kit_list(needs, teams=24, learners=28)
    assert straw.needed == pytest.approx(24 * 2 * 1.1 + 24)
    assert (straw.packs, straw.total, straw.cost) == (2, 100, 3.0)
    assert (fan.packs, goggles.packs) == (1, 28)


def test_a_full_pack_is_not_rounded_up_by_the_last_bit():
    (line,) = kit_list([Need(item="Dowel", quantity=0.1, spare=0, pack=0.3)], teams=3, learners=0)
    assert line.packs == 1


@pytest.mark.parametrize(
    ("name", "need", "teams"),
    [
        ("teams", Need(item="a", quantity=1), 0),
        ("quantity", Need(item="a", quantity=-1), 2),
        ("pack", Need(item="a", quantity=1, pack=0), 2),
        ("spare", Need(item="a", quantity=1, spare=-0.1), 2),
        ("per", Need(item="a", quantity=1, per="pupil"), 2),
    ],
)
def test_what_cannot_be_listed_is_named(name, need, teams):
    with pytest.raises(ValueError, match=name):
        kit_list([need], teams, 5)


pieces = st.lists(st.tuples(st.floats(0.01, 1.0), st.integers(0, 6)), max_size=8)


@given(pieces, st.floats(0, 0.004))
def test_every_piece_is_cut_once_and_no_stock_is_longer_than_it_is(wanted, kerf):
    plan = cut_plan(wanted, 1.0, kerf_m=kerf)
    cut = sorted(x for stock in plan.stocks for x in stock)
    assert cut == sorted(length for length, count in wanted for _ in range(count))
    for stock in plan.stocks:
        assert sum(stock) + kerf * (len(stock) - 1) <= 1.0 + 1e-6
    assert plan.waste_m == pytest.approx(len(plan.stocks) - sum(cut))
    assert plan.waste_share <= 1
    assert len(cut) - len(plan.stocks) <= plan.cuts <= len(cut)
    assert len(plan.stocks) <= 2 * sum(x + kerf for x in cut) + 1


def test_three_thirds_take_one_stock_and_two_cuts():
    plan = cut_plan([(0.3, 3)], 0.9)
    assert plan.stocks == ((0.3, 0.3, 0.3),)
    assert (plan.cuts, plan.waste_m) == (2, pytest.approx(0))
    assert len(cut_plan([(0.3, 3)], 0.9, kerf_m=0.002).stocks) == 2
    with pytest.raises(ValueError, match="pieces"):
        cut_plan([(1.2, 1)], 0.9)
