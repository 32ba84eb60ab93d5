"""What a team does next, as its pad says it."""

from __future__ import annotations

from itertools import product
from typing import get_args

import pytest

from thermion.core.ages import AGES
from thermion.core.planning.pads import Doing, Stands, State, doing
from thermion.web.places.pad import words


@pytest.mark.parametrize(
    ("stands", "does"),
    [
        (Stands(), "idea"),
        (Stands(phase="plan"), "plan"),
        (Stands(phase="ideas", state="draft"), "idea"),
        (Stands(phase="ideas", state="draft", asked=True), "answer"),
        (Stands(phase="build", state="draft"), "plan"),
        (Stands(state="waiting"), "waits"),
        (Stands(state="signed"), "fetch"),
        (Stands(state="issued"), "build"),
        (Stands(state="issued", reads=True), "read"),
        (Stands(state="issued", turns=True, phase="test"), "turn"),
        (Stands(state="issued", turns=True, on=True, phase="test"), "try"),
        (Stands(state="issued", tried=True), "results"),
        (Stands(state="issued", tried=True, phase="change"), "change"),
        (Stands(state="issued", reads=True, walking=True), "walk"),
    ],
)
def test_the_one_next_thing(stands, does):
    assert doing(stands) == does


def test_however_it_stands_there_is_one_next_thing_and_words_for_every_age():
    states: tuple[State, ...] = get_args(State)
    seen = set()
    for state, asked, reads, turns, on, tried, walking in product(states, *[(False, True)] * 6):
        for phase in ("", "task", "ideas", "plan", "build", "test", "findings", "change", "retest", "show"):
            stands = Stands(
                phase=phase,
                state=state,
                asked=asked,
                reads=reads,
                turns=turns,
                on=on,
                tried=tried,
                walking=walking,
            )
            seen.add(doing(stands))
    assert seen == set(get_args(Doing))
    for what in seen:
        said = [words.do(what, age) for age in AGES]
        assert len(said[0].split()) <= 6  # at 6 to 8 hardly a sentence that must be read
        assert all(said)
