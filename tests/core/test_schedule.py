"""Will it fit? Laws of lessons, stations and reading rounds."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta
from itertools import combinations, pairwise
from math import ceil

import pytest
from hypothesis import given
from hypothesis import strategies as st

from thermion.core.planning import schedule
from thermion.core.planning.schedule import Lesson, Step

MONDAY = datetime(2026, 6, 1, 9, 0, tzinfo=UTC)


def lessons(count: int, minutes: float = 60, pack_up: float = 5) -> list[Lesson]:
    return [Lesson(MONDAY + timedelta(days=i), minutes * 60, pack_up * 60) for i in range(count)]


steps = st.lists(
    st.builds(
        lambda i, m, s: Step(key=f"s{i}", label="", length_s=m * 60.0, splits=s),
        st.integers(0, 99),
        st.integers(1, 120),
        st.booleans(),
    ),
    max_size=12,
)


@given(steps, st.integers(1, 6), st.integers(20, 90))
def test_nothing_overlaps_nothing_is_lost_and_packing_up_is_kept(wanted, count, minutes):
    plan = schedule.lay_out(lessons(count, minutes), wanted)
    laid = sum(b.length_s for b in plan.blocks) + sum(s for _, s in plan.spills)
    assert laid == pytest.approx(sum(s.length_s for s in wanted))
    for number in range(count):
        here = [b for b in plan.blocks if b.lesson == number]
        ends = [(b.start_s, b.start_s + b.length_s) for b in here]
        assert all(end <= begin + 1e-6 for (_, end), (begin, _) in pairwise(ends))
        assert all(end <= (minutes - 5) * 60 + 1e-6 for _, end in ends)
    unbroken = {s.key for s in wanted if not s.splits}
    if len(unbroken | {s.key for s in wanted if s.splits}) == len(wanted):
        for key in unbroken:
            assert len([b for b in plan.blocks if b.step == key]) <= 1


def test_a_step_goes_on_next_lesson_and_a_run_waits_for_one_that_holds_it():
    build, run = (
        Step(key="build", label="Create", length_s=40 * 60),
        Step(key="run", label="Test", length_s=30 * 60, splits=False),
    )
    plan = schedule.lay_out(lessons(3), [build, run])
    assert [(b.step, b.lesson, b.start_s) for b in plan.blocks] == [("build", 0, 0), ("run", 1, 0)]
    long = schedule.lay_out(lessons(2), [Step(key="build", label="Create", length_s=80 * 60)])
    assert [(b.lesson, b.length_s, b.goes_on) for b in long.blocks] == [(0, 3300, True), (1, 1500, False)]
    short = schedule.lay_out(lessons(1), [build, run, Step(key="talk", label="Look", length_s=60)])
    assert not short.fits
    assert dict(short.spills) == {"run": 1800, "talk": 60}


def test_lessons_that_cannot_be_are_refused():
    with pytest.raises(ValueError, match="pack_up_s"):
        Lesson(MONDAY, 300, 300)
    with pytest.raises(ValueError, match="time zone"):
        Lesson(MONDAY.replace(tzinfo=None), 3600)
    overlapping = [Lesson(MONDAY, 3600), Lesson(MONDAY + timedelta(minutes=59), 3600)]
    with pytest.raises(ValueError, match="overlap"):
        schedule.lay_out(overlapping, [])


def test_lengths_of_tests_by_hand():
    assert schedule.clocked_length(420, 1800, 90) == 2310
    # 8 teams, 3 attempts, 2 stations: 12 turns of 110 s
    assert schedule.turns_length(8, 3, 2, 40, 40, 30) == 1320
    assert schedule.turns_length(7, 1, 2, 40, 40, 30) == 440
    for name, args in {"teams": (0, 1, 1), "attempts": (1, 0, 1), "stations": (1, 1, 0)}.items():
        with pytest.raises(ValueError, match=name):
            schedule.turns_length(*args, 10, 10, 10)


@given(st.floats(0, 7200), st.integers(1, 12), st.integers(1, 4), st.integers(20, 300))
def test_the_largest_number_of_attempts_fits_and_one_more_does_not(room, teams, stations, turn):
    most = schedule.most_attempts(room, teams, stations, 0, turn, 0)
    if most:
        assert schedule.turns_length(teams, most, stations, 0, turn, 0) <= room + 1e-6
    assert schedule.turns_length(teams, most + 1, stations, 0, turn, 0) > room - 1e-6


@given(st.integers(1, 12), st.integers(1, 6), st.integers(1, 4), st.floats(0, 300))
def test_all_attempts_in_a_row_fit_each_build_once(teams, attempts, stations, fit):
    rounds = schedule.turns_length(teams, attempts, stations, fit, 60, 30)
    in_row = schedule.turns_length(teams, attempts, stations, fit, 60, 30, in_row=True)
    if teams % stations == 0:
        assert in_row == pytest.approx(rounds - teams // stations * (attempts - 1) * fit)
    assert schedule.most_attempts(in_row, teams, stations, fit, 60, 30, in_row=True) == attempts
    order = schedule.turn_order([0] * teams, attempts, in_row=True)
    assert order == tuple(i for i in range(teams) for _ in range(attempts))
    if teams > 2 and attempts > 1:  # who has begun goes on, those who had theirs are not asked
        done = [0, 1, attempts, *[0] * (teams - 3)]
        left = schedule.turn_order(done, attempts, in_row=True)
        assert left[: attempts - 1] == (1,) * (attempts - 1)
        assert left.count(0) == attempts
        assert 2 not in left


@given(st.integers(1, 12), st.integers(1, 5), st.integers(1, 5))
def test_no_station_has_two_builds_and_no_team_is_in_two_places(teams, attempts, stations):
    found = schedule.turns(teams, attempts, stations, 100.0)
    assert len(found) == teams * attempts
    for a, b in combinations(found, 2):
        together = a.start_s < b.end_s and b.start_s < a.end_s
        assert not (together and (a.station == b.station or a.team == b.team))
    assert {(t.team, t.attempt) for t in found} == {(i, k) for i in range(teams) for k in range(attempts)}
    if stations <= teams:
        last = max(t.end_s for t in found)
        assert last == schedule.turns_length(teams, attempts, stations, 0, 100, 0)


@given(
    st.lists(st.integers(0, 4), max_size=12), st.integers(1, 4), st.integers(1, 4), st.booleans(), st.data()
)
def test_each_station_has_its_queue_and_none_stands_free_while_a_build_waits(
    done, stations, each, in_row, data
):
    at = [data.draw(st.integers(0, stations - 1)) for _ in done]
    queues = schedule.station_queues(done, at, stations, each, in_row=in_row)
    assert len(queues) == stations
    left = sorted(i for queue in queues for i in queue)
    assert left == sorted(schedule.turn_order(done, each, in_row=in_row))
    for one, other in combinations(queues, 2):
        assert not set(one) & set(other)
        free, full = sorted((one, other), key=len)
        assert free or len(set(full)) <= 1  # a build alone cannot be in two places
    if len(set(at)) == stations and all(have < each for have in done):  # nobody changes the queue then
        assert all(at[i] == station for station, queue in enumerate(queues) for i in queue)


@given(st.integers(1, 40), st.integers(1, 4), st.integers(2, 30), st.integers(30, 600))
def test_a_round_fits_or_each_remedy_makes_it_fit(builds, readers, each, interval):
    found = schedule.reading_round(builds, readers, each, interval)
    assert found.fits == (ceil(builds / readers) * each <= interval)
    assert max(found.offsets_s) < interval
    assert schedule.reading_round(builds, readers, each, found.interval_s).fits
    assert schedule.reading_round(builds, found.readers, each, interval).fits
    for wave in range(found.waves):
        size = found.wave.count(wave)
        assert schedule.reading_round(size, readers, each, interval).fits
    assert found.waves == max(found.wave) + 1
    at_once: dict[float, int] = {}
    for i in range(builds):
        for mark in found.marks_s(i, (0.0, float(interval))):
            at_once[mark] = at_once.get(mark, 0) + 1
    assert max(at_once.values()) <= readers


def test_staggered_builds_are_read_in_their_own_wave():
    found = schedule.reading_round(8, 1, 60, 300)
    assert not found.fits
    assert (found.length_s, found.readers, found.waves) == (480, 2, 2)
    assert found.marks_s(0, (0, 300, 600)) == (0, 300, 600)
    assert found.marks_s(4, (0, 300, 600)) == (240, 540, 840)
    assert found.marks_s(5, (0, 300, 600)) == (900, 1200, 1500)
    with pytest.raises(ValueError, match="seconds_each"):
        schedule.reading_round(3, 1, 400, 300)
