"""What changed in the record, told apart by what is looked at.

A *run*: what was read in it. A *challenge*: its brief, plans, which runs it has and how they stand. A
*class*: its teams and settings. A *lesson*: what is on in a class. A *week*: all challenges of a class,
as its plan shows them. *Runs*: which there are anywhere. *Door*: codes, and which devices are in.

A stamp of something differs after any commit that may have changed it. Who writes says what it touches;
who says nothing, and any other program that writes to the file, touches everything.
"""

from __future__ import annotations

import threading
from collections.abc import Callable, Iterable
from typing import Literal

Thing = tuple[Literal["run", "challenge", "class", "lesson", "week", "runs", "door"], int]
RUNS: Thing = ("runs", 0)
DOOR: Thing = ("door", 0)


def of_challenge(challenge_id: int, class_id: int) -> tuple[Thing, ...]:
    """What is touched by a change of a challenge that is more than a reading."""
    return ("challenge", challenge_id), ("week", class_id), RUNS


def of_class(class_id: int) -> tuple[Thing, ...]:
    """What is touched by a change of a class, its lessons among them."""
    return ("class", class_id), ("lesson", class_id), ("week", class_id), RUNS


def shows_run(run_id: int, challenge_id: int, class_id: int) -> tuple[Thing, ...]:
    """What a page of a run is made of."""
    return ("run", run_id), ("challenge", challenge_id), ("class", class_id)


def shows_lesson(class_id: int) -> tuple[Thing, ...]:
    """What the line of a lesson is made of."""
    return ("lesson", class_id), ("week", class_id), ("class", class_id)


class Stamps:
    """Counts of changes. `version` is SQLite's data_version, asked on a connection that never writes:
    it differs after any commit by anybody."""

    def __init__(self, version: Callable[[], int]) -> None:
        self._version = version
        self._lock = threading.Lock()
        self._seen = -1
        self._any = self._wide = 0
        self._of: dict[Thing, int] = {}
        self._committing: frozenset[Thing] | None = None

    def stamp(self, *things: Thing) -> str:
        """Of these things; of everything when none is named."""
        with self._lock:
            self._notice()
            if not things:
                return str(self._any)
            return "-".join(str(n) for n in (self._wide, *(self._of.get(thing, 0) for thing in things)))

    def begins(self) -> None:
        """A writer has the lock of the file now: what changed before was by somebody else."""
        with self._lock:
            self._notice()

    def commits(self, things: Iterable[Thing] | None) -> None:
        """It commits next, and has touched no more than these things; None: anything."""
        with self._lock:
            self._committing = None if things is None else frozenset(things)

    def ended(self) -> None:
        """It has committed, or changed nothing."""
        with self._lock:
            self._notice()
            self._committing = None

    def everything(self) -> None:
        """The record is another one now."""
        with self._lock:
            self._any += 1
            self._wide += 1

    def _notice(self) -> None:
        version = self._version()
        if version == self._seen:
            return
        self._seen = version
        self._any += 1
        if self._committing is None:
            self._wide += 1
            return
        for thing in self._committing:  # nobody else can commit while a writer has the file's lock
            self._of[thing] = self._of.get(thing, 0) + 1
        self._committing = None
