"""What a team is handed and charged over its versions, as laws of the store."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from thermion.core.planning.ledger import StoreMoved, bill, goes_out, held, wanted
from thermion.core.plans import Part

parts = st.lists(
    st.builds(
        lambda material, units, again: Part(
            place="wall", material=material, form="flat", units=float(units), reused=float(min(again, units))
        ),
        st.sampled_from(["newspaper", "foil", "felt"]),
        st.integers(1, 9),
        st.integers(0, 3),
    ),
    max_size=4,
).map(tuple)
builds = st.lists(parts, min_size=1, max_size=5)
PRICE = {"newspaper": 0.5, "foil": 2.0, "felt": 1.0}
POINTS = {"newspaper": 1.0, "foil": 5.0, "felt": 3.0}


@given(builds)
def test_all_that_goes_out_over_the_versions_is_what_the_team_then_has(versions):
    has: dict[str, float] = {}
    for i, made in enumerate(versions):
        before = held([StoreMoved(p) for p in versions[:i]])
        for material, units in goes_out(made, before).items():
            has[material] = has.get(material, 0.0) + units
        for material, units in wanted(made).items():
            assert has[material] >= units  # every plan can be built
    assert has == held([StoreMoved(p) for p in versions])


@given(builds)
def test_the_same_version_again_costs_nothing_more(versions):
    drawn = [StoreMoved(p) for p in versions]
    once = bill(drawn, price=PRICE, points=POINTS, credit=1.0)
    again = bill([*drawn, drawn[-1]], price=PRICE, points=POINTS, credit=1.0)
    assert (again.units, again.impact, again.cost) == pytest.approx((once.units, once.impact, once.cost))


@given(builds)
def test_versions_cost_at_most_what_each_would_alone_and_at_least_the_dearest(versions):
    together = bill([StoreMoved(p) for p in versions], price=PRICE, points=POINTS, credit=0.0).cost
    alone = [bill([StoreMoved(p)], price=PRICE, points=POINTS, credit=0.0).cost for p in versions]
    assert max(alone) - 1e-9 <= together <= sum(alone) + 1e-9


def test_what_came_back_goes_out_again_when_it_is_needed_again():
    four, one = (
        (Part(place="wall", material="felt", form="flat", units=4.0),),
        (Part(place="wall", material="felt", form="flat", units=1.0),),
    )
    returned = StoreMoved(one, back={"felt": 3.0})
    assert held([StoreMoved(four), returned]) == {"felt": 1.0}
    assert goes_out(four, held([StoreMoved(four), returned])) == {"felt": 3.0}
