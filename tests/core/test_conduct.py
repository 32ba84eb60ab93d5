"""Laws of a lesson as it is held: what a step is made of, its clock, turns, walks, and what it takes."""

from __future__ import annotations

from dataclasses import replace
from datetime import UTC, datetime, timedelta
from itertools import pairwise

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.core.test_week import lessons, task
from thermion.core.ages import AGES
from thermion.core.planning.acts import ACTS, acts_of
from thermion.core.planning.boards import by_itself
from thermion.core.planning.conduct import (
    StepClock,
    agenda,
    following,
    lengths,
    pace,
    reporting_order,
    stands_at,
    turning,
)
from thermion.core.planning.week import PHASES, plan_week

NINE = datetime(2026, 6, 1, 9, 0, tzinfo=UTC)


@given(
    st.integers(1, 12), st.integers(1, 6), st.integers(25, 90), st.sampled_from(["solar_oven", "wind_hoist"])
)
def test_what_the_lessons_hold_is_what_was_planned_for_them(teams, count, minutes, key):
    room, tasks = lessons(count, minutes), [task(key, teams=teams)]
    timeline = plan_week(room, tasks)
    for i in range(count):
        items = agenda(room, timeline, tasks, i)
        planned = sum(b.length_s for b in timeline.blocks if b.lesson == i)
        acts = [item for item in items if item.challenge]
        assert planned - 60 <= sum(item.length_s for item in acts) <= planned + 1e-6  # slivers are left out
        assert all(a.start_s + a.length_s <= b.start_s + 1e-6 for a, b in pairwise(acts))
        assert not items or (items[-1].phase, items[-1].start_s) == ("pack", room[i].room_s)


def test_each_step_is_made_of_acts_that_fill_it_and_are_said_for_three_ages():
    for phase in PHASES:
        for total in (60.0, 300.0, 3600.0):
            assert sum(length for _, length in lengths(phase.key, total, 420.0)) == pytest.approx(total)
    for phase in (*ACTS, "test", "retest", "pack"):
        for act in acts_of(phase):
            young, middle, old = (act.said(age) for age in AGES)
            assert len(young.split()) <= 11
            assert len({young, middle, old}) == 3


def test_two_challenges_side_by_side_share_the_lessons_and_the_next_waits_for_both():
    room = lessons(14)
    one, two, three = (task("wind_hoist", name=n) for n in "123")
    apart = plan_week(room, [one, two, three])
    beside = plan_week(room, [one, replace(two, beside=True), three])
    starts = {b.step: (b.lesson, b.start_s) for b in reversed(beside.blocks)}
    assert starts["1:task"] == starts["2:task"] == (0, 0.0)
    ends = max((b.lesson, b.start_s + b.length_s) for b in beside.blocks if b.step[0] in "12")
    assert starts["3:task"] >= ends
    assert max(b.lesson for b in beside.blocks) < max(b.lesson for b in apart.blocks)


@given(st.lists(st.tuples(st.floats(0, 600), st.floats(0, 600)), max_size=6), st.floats(60, 3600))
def test_a_clock_that_stood_for_a_while_has_lost_nothing(pauses, allowed):
    now, stood, went = NINE, 0.0, 0.0
    for goes, stands in pauses:
        now += timedelta(seconds=goes)
        went += goes
        held = StepClock(NINE, allowed, stood, now)
        now += timedelta(seconds=stands)
        assert held.elapsed_s(now) == pytest.approx(went, abs=1e-3)
        stood += stands
    assert StepClock(NINE, allowed, stood).left_s(now) == pytest.approx(allowed - went, abs=1e-3)


@given(st.integers(2, 16))
def test_on_a_walk_every_team_sees_every_other_place_once_and_no_place_is_crowded(teams):
    seen = {team: set() for team in range(teams)}
    for rotation in range(teams - 1):
        places = [stands_at(team, rotation, teams) for team in range(teams)]
        assert sorted(places) == list(range(teams))
        for team, place in enumerate(places):
            seen[team].add(place)
    assert all(seen[team] == set(range(teams)) - {team} for team in range(teams))


def test_a_walk_goes_on_at_its_signal_a_report_when_the_teacher_says_so_and_one_team_walks_nowhere():
    walk = next(a for a in ACTS["findings"] if a.turns == "walk")
    report = next(a for a in ACTS["show"] if a.turns == "report")
    found = turning(walk, 420.0, 8)
    assert (found.count, found.turn_s) == (7, 60.0)
    assert found.at(0, 0.0, 59.0) == (0, pytest.approx(1.0))
    assert found.at(0, 0.0, 130.0) == (2, pytest.approx(50.0))
    assert found.at(0, 0.0, 9999.0)[0] == 6  # the last rotation stays
    assert found.at(3, 100.0, 155.0) == (3, pytest.approx(5.0))  # sent on early, from there
    spoken = turning(report, 480.0, 8)
    assert (spoken.count, spoken.turn_s) == (8, 60.0)
    assert spoken.at(0, 0.0, 90.0) == (0, pytest.approx(-30.0))  # nobody is cut off
    assert turning(walk, 420.0, 1) is None
    assert turning(walk, 100.0, 8).count == 2  # no more rotations than there is time for


@given(st.integers(1, 12), st.integers(0, 50))
def test_everybody_reports_once_and_another_team_begins_each_time(teams, before):
    order = reporting_order(teams, before)
    assert sorted(order) == list(range(teams))
    assert teams == 1 or order[0] != reporting_order(teams, before + 1)[0]


def test_what_comes_next_follows_what_was_started_last():
    room, tasks = lessons(1, 80), [task("wind_hoist", teams=2, attempts=1)]
    items = agenda(room, plan_week(room, tasks), tasks, 0)
    first, second, third = items[:3]
    assert following(items, set(), ("", "", "")) == first
    assert following(items, {second.key}, second.key) == third  # a step that was jumped over stays behind
    assert following(items, {i.key for i in items}, items[-1].key) is None


def test_a_pace_is_told_only_when_enough_was_held():
    assert pace([(600.0, 900.0)]) is None
    assert pace([(300.0, 600.0), (300.0, 300.0)]) is None
    assert pace([(600.0, 900.0), (900.0, 1200.0)]) == pytest.approx(1.4)


def test_the_board_shows_the_run_of_what_is_tested_and_else_the_step():
    assert by_itself([], []).shows == "idle"
    assert by_itself([(1, "plan")], [(1, 7)]).shows == "step"
    assert by_itself([(1, "test")], [(1, 7), (2, 9)]).run_id == 7
    assert by_itself([(1, "test")], [(2, 9)]).shows == "step"
    assert by_itself([(1, "test"), (2, "plan")], [(1, 7)]).shows == "step"  # both are seen side by side
    assert by_itself([], [(2, 9)]).run_id == 9


def test_a_clock_says_the_same_moment_however_often_it_is_asked():
    clock = StepClock(NINE, 600.0, 30.0)
    assert clock.moment(600.0) == NINE + timedelta(seconds=630)
    for seconds in (0, 17.3, 299):
        now = NINE + timedelta(seconds=30 + seconds)
        assert clock.left_s(now) == pytest.approx((clock.moment(600.0) - now).total_seconds())
