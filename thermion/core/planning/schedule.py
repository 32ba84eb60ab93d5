"""Will it fit? Phases laid into lessons, turns at stations, and the round of a reader.

Lengths in seconds, moments as aware datetimes. Turns and rounds count from zero.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from itertools import pairwise
from math import ceil, floor

from thermion.core.values import not_negative, positive, whole


@dataclass(frozen=True)
class Lesson:
    """One lesson: its start, its length, and the time at its end for packing up [s].

    ValueError when nothing is left beside packing up, or the start has no time zone.
    """

    start: datetime
    length_s: float
    pack_up_s: float = 300.0

    def __post_init__(self) -> None:
        if self.start.tzinfo is None:
            raise ValueError("start: expected a moment with a time zone")
        if positive("length_s", self.length_s) <= not_negative("pack_up_s", self.pack_up_s):
            raise ValueError("pack_up_s: expected less than the lesson's length")

    @property
    def room_s(self) -> float:
        return self.length_s - self.pack_up_s


@dataclass(frozen=True)
class Step:
    """A part of a challenge. `splits` when it may be broken off and gone on with next lesson;
    a clocked run may not. `not_before` is the lesson (from 0) it was moved to, if it was."""

    key: str
    label: str
    length_s: float
    splits: bool = True
    not_before: int = 0


@dataclass(frozen=True)
class Block:
    """A stretch of a step in a lesson, counted from its start [s]."""

    step: str
    lesson: int
    start_s: float
    length_s: float
    goes_on: bool = False


@dataclass(frozen=True)
class Timeline:
    """What goes where, and seconds of each step that found no room."""

    blocks: tuple[Block, ...]
    spills: tuple[tuple[str, float], ...]

    @property
    def fits(self) -> bool:
        return not self.spills

    @property
    def end(self) -> tuple[int, float]:
        """Where the last of it ends: lesson, seconds in it."""
        return max(((b.lesson, b.start_s + b.length_s) for b in self.blocks), default=(0, 0.0))


def check_lessons(lessons: Sequence[Lesson]) -> None:
    """ValueError when lessons overlap or are not in order."""
    for before, after in pairwise(lessons):
        if before.start + timedelta(seconds=before.length_s) > after.start:
            raise ValueError("lessons: expected lessons in order that do not overlap")


def lay_out(
    lessons: Sequence[Lesson],
    steps: Sequence[Step],
    *,
    least_s: float = 300.0,
    start: tuple[int, float] = (0, 0.0),
) -> Timeline:
    """Steps in order into the lessons, each after the one before, from `start` (lesson, seconds in it).

    A step that splits is broken at the pack-up and goes on in the next lesson (a piece shorter
    than `least_s` is not begun); one that does not waits for a lesson that holds it whole, and
    one that was moved waits for its lesson. What finds no room spills, with all that comes
    after it.
    """
    check_lessons(lessons)
    blocks: list[Block] = []
    spills: list[tuple[str, float]] = []
    at, used = start
    for step in steps:
        left = not_negative("length_s", step.length_s)
        if step.not_before > at and not spills:
            at, used = min(step.not_before, len(lessons)), 0.0
        while left > 0 and at < len(lessons) and not spills:
            free = lessons[at].room_s - used
            whole_fits = left <= free + 1e-9
            if whole_fits or (step.splits and free >= least_s):
                piece = min(left, free)
                blocks.append(
                    Block(step=step.key, lesson=at, start_s=used, length_s=piece, goes_on=not whole_fits)
                )
                used, left = used + piece, left - piece
                if left < 1e-9:
                    left = 0.0
                    break
            at, used = at + 1, 0.0
        if left > 0:
            spills.append((step.key, left))
    return Timeline(tuple(blocks), tuple(spills))


def clocked_length(set_up_s: float, last_mark_s: float, round_s: float) -> float:
    """Length of a clocked test: set-up, until the last mark, and the round that reads it [s]."""
    return (
        not_negative("set_up_s", set_up_s)
        + positive("last_mark_s", last_mark_s)
        + not_negative("round_s", round_s)
    )


def turns_length(
    teams: int,
    attempts: int,
    stations: int,
    fit_s: float,
    run_s: float,
    reset_s: float,
    *,
    in_row: bool = False,
) -> float:
    """ceil(teams × attempts / stations) × (fit + run + reset) [s]; with all attempts of a team `in_row` it is
    fitted once: ceil(teams / stations) × (fit + attempts × (run + reset))."""
    each = _turn(fit_s, run_s, reset_s)
    builds, tries, side = whole("teams", teams), whole("attempts", attempts), whole("stations", stations)
    if in_row:
        return ceil(builds / side) * (fit_s + tries * (each - fit_s))
    return ceil(builds * tries / side) * each


def most_attempts(
    room_s: float,
    teams: int,
    stations: int,
    fit_s: float,
    run_s: float,
    reset_s: float,
    *,
    in_row: bool = False,
) -> int:
    """The largest number of attempts for every team that fits into `room_s` [s]; 0 if none."""
    if in_row:
        rows = ceil(whole("teams", teams) / whole("stations", stations))
        left = not_negative("room_s", room_s) / rows - not_negative("fit_s", fit_s)
        return max(floor(left / (_turn(fit_s, run_s, reset_s) - fit_s) + 1e-9), 0)
    rounds = floor(not_negative("room_s", room_s) / _turn(fit_s, run_s, reset_s) + 1e-9)
    return floor(rounds * whole("stations", stations) / whole("teams", teams))


def _turn(fit_s: float, run_s: float, reset_s: float) -> float:
    return not_negative("fit_s", fit_s) + positive("run_s", run_s) + not_negative("reset_s", reset_s)


@dataclass(frozen=True)
class Turn:
    """One build's go at a station [s from the start of the test]."""

    team: int
    attempt: int
    station: int
    start_s: float
    end_s: float


def turns(teams: int, attempts: int, stations: int, turn_s: float) -> tuple[Turn, ...]:
    """Who is where when: all first attempts, then all second ones, stations side by side.

    No station has two builds at once and no team is at two stations at once; a station waits
    when there are fewer teams than stations.
    """
    n, tries = whole("teams", teams), whole("attempts", attempts)
    side = min(whole("stations", stations), n)
    each = positive("turn_s", turn_s)
    out = []
    for i in range(n * tries):
        start = (i // side) * each
        out.append(Turn(team=i % n, attempt=i // n, station=i % side, start_s=start, end_s=start + each))
    return tuple(out)


def turn_order(done: Sequence[int], each: int, *, in_row: bool = False) -> tuple[int, ...]:
    """Whose turns are left, in order: `done` attempts so far of each build, `each` wanted.

    Always a build with the fewest attempts, in the order of the room; nobody goes twice before
    everyone went once. With all attempts `in_row` a build that has begun goes on, then the next one.
    """
    tries = whole("each", each)
    if in_row:
        begun = sorted(range(len(done)), key=lambda i: (not 0 < done[i] < tries, i))
        return tuple(i for i in begun for _ in range(done[i], tries))
    left = [(have, i) for i, count in enumerate(done) for have in range(count, tries)]
    return tuple(i for _, i in sorted(left))


def station_queues(
    done: Sequence[int], at: Sequence[int], stations: int, each: int, *, in_row: bool = False
) -> tuple[tuple[int, ...], ...]:
    """Whose turns are left at each station, first whose turn it is.

    `done` attempts so far of each build, `at` the station (from 0) at which it queues. A station whose queue
    is through takes over the build that waits last in the longest other one, with all its turns: no build
    stands in two queues, and none waits while a station is free.
    """
    side = whole("stations", stations)
    order = turn_order(done, each, in_row=in_row)
    queues = [[i for i in order if at[i] % side == station] for station in range(side)]
    for queue in queues:
        longest = max(queues, key=len)
        if not queue and len(set(longest)) > 1:
            last = list(dict.fromkeys(longest))[-1]
            queue += [i for i in longest if i == last]
            longest[:] = [i for i in longest if i != last]
    return tuple(tuple(queue) for queue in queues)


@dataclass(frozen=True)
class Round:
    """Can the readers get round before the next mark?

    `offsets_s` is when each build is truly read after its mark. When the round does not fit,
    these remedies hold, each alone: staggered starts in `waves` (`wave` of each build, a wave
    begins when the one before is done), a longer interval, or more `readers`.
    """

    fits: bool
    length_s: float
    offsets_s: tuple[float, ...]
    interval_s: float
    readers: int
    waves: int
    wave: tuple[int, ...]

    def marks_s(self, build: int, marks_s: Sequence[float]) -> tuple[float, ...]:
        """When build number `build` (from 0) is truly read at each mark [s], its wave included.

        The first wave's clock is zero; a wave begins one interval after the last mark of the
        one before.
        """
        step = marks_s[-1] - marks_s[-2] if len(marks_s) > 1 else self.interval_s
        late = self.offsets_s[build] + self.wave[build] * (marks_s[-1] + step)
        return tuple(mark + late for mark in marks_s)


def reading_round(builds: int, readers: int, seconds_each: float, interval_s: float) -> Round:
    """The round of `readers` over `builds`, `seconds_each` [s] a reading, marks `interval_s` [s]
    apart. It fits when ceil(n/r)·s is no more than the interval; a reading that takes longer
    than the interval itself is a ValueError naming seconds_each.
    """
    n, hands = whole("builds", builds), whole("readers", readers)
    each, interval = positive("seconds_each", seconds_each), positive("interval_s", interval_s)
    if each > interval * (1 + 1e-9):
        raise ValueError("seconds_each: expected no more than the interval between marks")
    length = ceil(n / hands) * each
    per_reader = floor(interval / each + 1e-9)
    size = min(per_reader * hands, n)
    return Round(
        fits=length <= interval * (1 + 1e-9),
        length_s=length,
        offsets_s=tuple((i % size // hands) * each for i in range(n)),
        interval_s=length,
        readers=ceil(n / per_reader),
        waves=ceil(n / size),
        wave=tuple(i // size for i in range(n)),
    )
