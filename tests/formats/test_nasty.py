"""Files that nobody made for a reader: right, asked about with a right answer, or refused; never silently wrong."""

from __future__ import annotations

import random

import pytest

from tests.formats.nasty import every
from tests.formats.nasty_scored import mutated, score, wrong_in

GOOD = ("right", "asked", "refused")
CASES = every()


def test_every_nasty_file_is_read_right_or_asked_about_with_a_right_answer_or_refused_where_it_must_be():
    found = {case.name: score(case) for case in CASES}
    assert {name: verdict for name, verdict in found.items() if verdict[0] not in GOOD} == {}
    assert len(found) >= 120


@pytest.mark.parametrize("seed", range(3))
def test_whatever_is_done_to_one_of_them_it_is_never_read_wrong_without_a_word(seed):
    draw = random.Random(seed)
    tried = [m for case in CASES if (m := mutated(case, draw)) is not None]
    assert {m.name: why for m in tried if (why := wrong_in(m))} == {}


def test_the_scorer_sees_a_file_that_is_read_wrong():
    """A table whose truth is another is found out, whatever the reader says of it."""
    case = next(c for c in CASES if c.name == "names A/B/C/D/E/F under Time (s)")
    swapped = type(case)(name="swapped", text=case.data.replace(b"A,B,", b"B,A,"), truth=case.truth)
    assert score(swapped)[0] == "wrong"
    assert wrong_in(swapped) != ""
