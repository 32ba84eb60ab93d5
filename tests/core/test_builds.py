"""Builds as data: counting, limits, differences; marks of a round; the path's next step."""

from __future__ import annotations

from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.conftest import GOOD
from thermion.core.kinds import get_kind
from thermion.core.kinds.testing import even_marks
from thermion.core.planning.path import CLOSE, READ, Clocked, HowFar, path_of, run_step
from thermion.core.planning.rounds import slots, true_time
from thermion.core.plans import Offer, Part, Plan, check_limits, differences, tally
from thermion.core.teams import look, pick_letters

KIND = get_kind("solar_oven")
PLACES = {p.key: p.label for p in KIND.build.places}
FACTORS = {f.key: (f.label, f.unit) for f in KIND.build.factors}


def test_going_over_a_limit_names_it_at_its_row_across_places():
    plan = Plan(
        (
            Part(place="wall", material="foil", form="flat", units=2),
            Part(place="floor", material="foil", form="flat", units=2),
            Part(place="seal", material="clay", form="flat", units=1),
        )
    )
    found = check_limits(plan, [Offer("foil", 3, 5)])
    assert [(p.part, p.message) for p in found] == [
        (1, "Aluminium foil: 4 used, the limit is 3."),
        (2, "Modelling clay is not on offer in this challenge."),
    ]
    count = tally(plan, [Offer("foil", None, 5), Offer("clay", None, 2)], credit=1)
    assert (count.units, count.impact) == (5, 22)


def test_differences_name_what_changed_and_only_that():
    after = Plan(
        (
            Part(place="window", material="acetate", form="flat", units=1),
            *GOOD.parts[1:],
            Part(place="floor", material="felt", form="flat", units=2),
        ),
        {**GOOD.factors, "height_m": 0.1},
    )
    assert [c.sentence for c in differences(GOOD, after, PLACES, FACTORS)] == [
        "Floor: no wool felt → 2 flat wool felt",
        "Window: 2 flat clear film → 1 flat clear acetate",
        "Inner height: 12 → 10 cm",
    ]
    assert differences(GOOD, GOOD, PLACES, FACTORS) == []


def test_a_mark_is_due_until_the_next_one():
    heat = slots([0, 300, 600])
    assert [s.state(301) for s in heat] == ["past", "due", "ahead"]
    assert [s.state(899) for s in heat] == ["past", "past", "due"]
    for bad in ([], [60, 120], [0, 300, 300]):
        with pytest.raises(ValueError, match="marks_s"):
            slots(bad)


@given(st.integers(1, 7200), st.integers(1, 900))
def test_even_marks_begin_at_zero_and_hold_the_end(until, every):
    marks = even_marks(until, every)
    assert (marks[0], marks[-1]) == (0, until)
    assert len(slots(marks)) == len(marks)


def test_the_true_time_counts_while_the_mark_is_due_and_the_planned_one_later():
    due = slots([0, 300, 600])[1]
    assert true_time(347.0, 300, due) == (347.0, True)
    assert true_time(690.0, 300, due) == (690.0, True)  # a round that runs over
    assert true_time(2400.0, 300, due) == (300, False)  # from paper, afterwards


@pytest.mark.parametrize(
    ("change", "place", "step"),
    [
        ({"brief_done": False}, "brief", "Finish the brief"),
        ({"states": {"waiting": 4}}, "builds", "4 plans wait for your check"),
        ({"states": {"waiting": 1}}, "builds", "1 plan waits for your check"),
        ({"states": {"signed": 2}}, "builds", "Hand out materials to 2 teams"),
        ({"states": {"issued": 8}, "untested": 8}, "runs", "Test 8 builds"),
        ({"runs_open": 1, "states": {"waiting": 1}}, "runs", "Read the next mark"),
        ({"states": {"issued": 8}, "runs_closed": 1}, "findings", "Look at what came out"),
    ],
)
def test_there_is_always_one_next_step(change, place, step):
    given_ = {
        "brief_done": True,
        "teams": 8,
        "states": {},
        "runs_open": 0,
        "runs_ready": 0,
        "runs_closed": 0,
        "untested": 0,
    }
    found = path_of(HowFar(**{**given_, **change}))
    assert (found.next_place, found.next_step) == (place, step)


def test_a_clocked_run_waits_for_a_mark_the_next_clock_or_to_be_closed():
    heat = Clocked("Start heating", (0.0, 300.0, 600.0))
    cool = Clocked("Start cooling", (0.0, 300.0))

    def at(heating: float | None, cooling: float | None = None) -> str:
        return run_step([replace(heat, elapsed_s=heating), replace(cool, elapsed_s=cooling)])

    assert (at(0), at(601), at(899)) == (READ, READ, READ)  # the last mark is due as long as the one before
    assert at(901) == "Start cooling"
    assert (at(901, 0), at(901, 601)) == (READ, CLOSE)
    assert (
        path_of(
            HowFar(
                brief_done=True,
                teams=8,
                states={},
                runs_open=1,
                runs_ready=0,
                runs_closed=0,
                untested=0,
                run_step=CLOSE,
            )
        ).next_step
        == "Close the run"
    )


def test_no_two_of_sixteen_teams_look_alike():
    assert len({look(i) for i in range(16)}) == 16


def test_every_team_gets_a_letter_of_its_own():
    assert pick_letters([("Knot", ""), ("Kite", ""), ("Kestrel", "k"), ("åk", "")]) == ["K", "I", "E", "Å"]
    assert pick_letters([("Team A", ""), ("Team B", ""), ("Team A 2", "")]) == ["A", "B", "2"]
    assert pick_letters([("Knot", "")]) == ["K"]
    many = pick_letters([("Aa", "")] * 30)
    assert len(set(many)) == 30
