"""The record's own clock: what moments are written by, however the computer's clock is set meanwhile.

It begins at the computer's clock and goes on by a counter that nobody sets and that counts sleep
(Linux: CLOCK_BOOTTIME). While a run is open it goes its own way, so that no test grows or shrinks by
what somebody set; when none is, it takes the computer's time again.
"""

from __future__ import annotations

import time
from collections.abc import Callable
from datetime import UTC, datetime, timedelta
from typing import Any

from sqlalchemy import Select, func, select, union_all
from sqlalchemy.orm import Session

from thermion.records.tables import AttemptRow, Conducted, Entry, Reading, Run, RunPhase

NOTICED = timedelta(seconds=20)  # less is what a clock is corrected by after sleep: no one need be asked
OF_NOW = timedelta(hours=36)  # an open run whose newest moment is further away goes on no more


def counter() -> float:
    """Seconds of a counter that is never set."""
    for name in ("CLOCK_BOOTTIME", "CLOCK_MONOTONIC"):
        if hasattr(time, name):
            return time.clock_gettime(getattr(time, name))
    return time.monotonic()  # Windows, where it counts sleep


class OwnClock:
    """`wall` is the clock that people set, `counter` the one that nobody does (seconds)."""

    def __init__(
        self, wall: Callable[[], datetime] = lambda: datetime.now(UTC), counter: Callable[[], float] = counter
    ) -> None:
        self._wall, self._counter = wall, counter
        self._goes_on_from(wall())
        self._first = self._base

    def steady(self) -> datetime:
        """This moment by a clock that never steps while this process lives, whoever sets which clock."""
        moment, count = self._first
        return moment + timedelta(seconds=self._counter() - count)

    def _goes_on_from(self, moment: datetime) -> None:
        self._base = (moment, self._counter())

    def now(self) -> datetime:
        """This moment, in UTC."""
        moment, count = self._base
        return moment + timedelta(seconds=self._counter() - count)

    def off(self) -> timedelta:
        """By how much the computer's clock is ahead of this one; zero when it is not worth a word."""
        found = self._wall() - self.now()
        return found if abs(found) > NOTICED else timedelta()

    def follow(self) -> None:
        """Take the computer's time, whatever is on: somebody said that it is right now."""
        self._goes_on_from(self._wall())

    def wall(self) -> datetime:
        """What the computer's clock says."""
        return self._wall()

    def settle(self, newest: datetime | None) -> None:
        """Take the computer's time, unless a run is on, of which `newest` is the newest stored moment.

        Never behind that: a run whose clock was seen at ten past does not go back to five past.
        """
        here, wall = self.now(), self._wall()
        if newest is not None and abs(newest - here) < OF_NOW:
            self._goes_on_from(max(here, newest))
        elif newest is not None and abs(newest - wall) < OF_NOW:
            self._goes_on_from(max(wall, newest))
        else:
            self._goes_on_from(wall)


OWN = OwnClock()


def now() -> datetime:
    """This moment by the record's own clock, in UTC."""
    return OWN.now()


def steady() -> datetime:
    """The same by a clock that never steps while this process lives: what devices are let in by."""
    return OWN.steady()


def newest_of_open_runs(session: Session) -> datetime | None:
    """The newest moment that a run or a step which is still open has stored; None when none has begun."""

    def latest(moment: Any, *tables: Any) -> Select[Any]:
        found = select(func.max(moment).label("at")).select_from(Run)
        for table in tables:
            found = found.join(table)
        return found.where(Run.closed_at.is_(None))

    moments = union_all(
        latest(RunPhase.started_at, RunPhase),
        latest(Reading.arrived_at, Entry, Reading),
        latest(AttemptRow.at, Entry, AttemptRow),
        select(func.max(Conducted.started_at).label("at")).where(Conducted.ended_at.is_(None)),
    ).subquery()
    found: datetime | None = session.scalar(select(func.max(moments.c.at)))
    return found


def clock_off(session: Session) -> timedelta:
    """By how much the computer's clock is off the one that the open runs go by; zero when none is on."""
    if OWN.off():
        OWN.settle(newest_of_open_runs(session))
    return OWN.off()
