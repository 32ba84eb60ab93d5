"""Somebody sets the computer's clock while a class is testing."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta

import pytest

from thermion.records import moments
from thermion.records.moments import OwnClock
from thermion.records.running import runs

NOON = datetime(2026, 5, 4, 12, tzinfo=UTC)


class Computer:
    """A computer whose clock can be set."""

    def __init__(self) -> None:
        self.seconds, self.set_by = 0.0, timedelta()

    def wall(self) -> datetime:
        return NOON + timedelta(seconds=self.seconds) + self.set_by

    def clock(self) -> OwnClock:
        return OwnClock(self.wall, lambda: self.seconds)


@pytest.fixture
def computer() -> Computer:
    return Computer()


@pytest.mark.parametrize("hours", [-24, -2, -1 / 3, 1 / 3, 2, 24])
def test_the_clock_of_a_run_goes_on_whatever_is_set_and_takes_the_new_time_after_it(computer, hours):
    clock = computer.clock()
    computer.seconds = 300
    computer.set_by = timedelta(hours=hours)
    clock.settle(newest=NOON)  # a run began at noon
    assert clock.now() == NOON + timedelta(minutes=5)
    assert clock.off() == computer.set_by
    clock.settle(newest=None)  # it was closed
    assert clock.now() == computer.wall()
    assert not clock.off()


def test_a_server_started_with_a_clock_set_back_begins_at_the_newest_stored_moment(computer):
    computer.set_by = timedelta(hours=-2)
    clock = computer.clock()
    clock.settle(newest=NOON)
    assert clock.now() == NOON
    computer.seconds = 60
    assert clock.now() == NOON + timedelta(minutes=1)


def test_a_run_forgotten_open_since_last_week_or_stored_by_a_wrong_clock_holds_nothing_up(computer):
    for away in (timedelta(days=-7), timedelta(days=400)):
        clock = computer.clock()
        clock.settle(newest=NOON + away)
        assert clock.now() == computer.wall()


def test_what_a_computer_corrects_by_itself_is_not_worth_a_word(computer):
    clock = computer.clock()
    computer.set_by = timedelta(seconds=15)
    assert not clock.off()
    computer.set_by = timedelta(seconds=25)
    assert clock.off() == computer.set_by


def test_the_newest_moment_is_that_of_a_run_that_is_open(crew):
    began = moments.now() - timedelta(minutes=6)
    run = crew.run(crew.plan("Avocet"), at=began)
    with crew.database.session() as session:
        assert moments.newest_of_open_runs(session) == began
    crew.read(crew.entries(run)["Avocet"], 5, "31", moment=moments.now())
    with crew.database.writing() as session:
        assert moments.newest_of_open_runs(session) > began
        runs.close_run(runs.get_run(session, run))
        session.flush()
        assert moments.newest_of_open_runs(session) is None
