"""Ages are one ordered list: who has no words, or no limit, of its own has those of the next younger."""

from __future__ import annotations

from thermion.core.ages import AGES, in_order, reader, said_to
from thermion.core.kinds.briefing import Condition

DRINK = Condition(
    key="drink_c",
    label="Drink",
    unit="degC",
    default=60,
    tolerance=1,
    low=10,
    high=90,
    safe={"6-8": 45, "9-12": 50},
)


def test_words_of_a_younger_age_serve_an_older_one_that_has_none():
    young, middle, old = AGES
    assert said_to(old, {young: "pictures", middle: "words"}) == "words"
    assert said_to(middle, {old: "symbols"}) == "symbols"
    assert said_to(middle, in_order(("a", "b", "c"))) == "b"


def test_a_limit_holds_for_every_older_age_until_one_is_said_to_have_none():
    old = AGES[-1]
    assert [DRINK.at_age(age).high for age in AGES] == [45, 50, 50]
    free = {**DRINK.safe, old: None}
    assert Condition(**{**vars(DRINK), "safe": free}).at_age(old).high == 90


def test_only_the_youngest_read_plainly_and_only_the_oldest_read_symbols():
    assert [(reader(age).plain, reader(age).symbols) for age in AGES] == [
        (True, False),
        (False, False),
        (False, True),
    ]
