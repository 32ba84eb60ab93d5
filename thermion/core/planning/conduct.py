"""A lesson as it is held: what is done when, the clock of a step, whose minute it is, who stands where."""

from __future__ import annotations

from collections.abc import Sequence, Set
from dataclasses import dataclass
from datetime import datetime, timedelta
from math import floor

from thermion.core.planning.acts import RIG, Act, act_of, acts_of
from thermion.core.planning.schedule import Lesson, Timeline
from thermion.core.planning.week import Task
from thermion.core.values import whole

PACK = "pack"
LONGEST_S = 4 * 3600.0  # of one act
SHORTEST_S = 30.0  # a stretch of an act that is worth a line of its own


@dataclass(frozen=True, kw_only=True)
class Item:
    """An act at its place in a lesson: of which challenge (its task's name; "" to pack up), how long [s]."""

    challenge: str
    phase: str
    act: str
    start_s: float
    length_s: float

    @property
    def key(self) -> tuple[str, str, str]:
        return self.challenge, self.phase, self.act

    @property
    def what(self) -> Act:
        found = act_of(self.phase, self.act)
        assert found is not None  # made from the acts themselves
        return found


def lengths(phase: str, length_s: float, set_up_s: float) -> list[tuple[Act, float]]:
    """The usual acts of a step with their lengths [s], which add up to the step's."""
    acts = [act for act in acts_of(phase) if act.usual]
    if acts[0] is RIG:
        rig = min(set_up_s, length_s)
        return [(acts[0], rig), (acts[1], length_s - rig)]
    total = sum(act.share for act in acts)
    return [(act, length_s * act.share / total) for act in acts]


def agenda(lessons: Sequence[Lesson], timeline: Timeline, tasks: Sequence[Task], lesson: int) -> list[Item]:
    """What a lesson holds, in order: each step's acts, those of a broken-off step from where it stands."""
    by_name = {task.name: task for task in tasks}
    before: dict[str, float] = {}
    whole_s: dict[str, float] = {}
    for block in timeline.blocks:
        whole_s[block.step] = whole_s.get(block.step, 0.0) + block.length_s
    for step, spilt_s in timeline.spills:
        whole_s[step] = whole_s.get(step, 0.0) + spilt_s
    out: list[Item] = []
    for block in timeline.blocks:
        gone = before.get(block.step, 0.0)
        before[block.step] = gone + block.length_s
        if block.lesson != lesson:
            continue
        name, _, phase = block.step.partition(":")
        at = 0.0
        for act, length in lengths(phase, whole_s[block.step], by_name[name].timing.set_up_s):
            begins, ends = max(at, gone), min(at + length, gone + block.length_s)
            if ends - begins >= min(SHORTEST_S, length) and length > 0:
                out.append(
                    Item(
                        challenge=name,
                        phase=phase,
                        act=act.key,
                        start_s=block.start_s + begins - gone,
                        length_s=ends - begins,
                    )
                )
            at += length
    out.sort(key=lambda item: item.start_s)
    if out:
        room = lessons[lesson].room_s
        out.append(Item(challenge="", phase=PACK, act=PACK, start_s=room, length_s=lessons[lesson].pack_up_s))
    return out


def following(
    items: Sequence[Item], done: Set[tuple[str, str, str]], last: tuple[str, str, str]
) -> Item | None:
    """The item to go on with: the first that is not done after the one that was started last."""
    keys = [item.key for item in items]
    at = keys.index(last) + 1 if last in keys else 0
    return next((item for item in items[at:] if item.key not in done), None)


@dataclass(frozen=True)
class StepClock:
    """The clock of an act: when it started, how long it may last, and how long it stood [s].

    While `paused_at` is set it stands.
    """

    started: datetime
    allowed_s: float
    stood_s: float = 0.0
    paused_at: datetime | None = None

    def elapsed_s(self, now: datetime) -> float:
        """Seconds it has gone on, without the time it stood; never negative."""
        until = self.paused_at or now
        return max((until - self.started).total_seconds() - self.stood_s, 0.0)

    def left_s(self, now: datetime) -> float:
        """Seconds left; negative when it is over."""
        return self.allowed_s - self.elapsed_s(now)

    def moment(self, elapsed_s: float) -> datetime:
        """When it will have gone on so long, unless it stands meanwhile."""
        return self.started + timedelta(seconds=self.stood_s + elapsed_s)


@dataclass(frozen=True)
class Turning:
    """Turns inside an act: how many, how long each is [s], and whether they go on by themselves."""

    count: int
    turn_s: float
    by_itself: bool

    def at(self, turn: int, from_s: float, elapsed_s: float) -> tuple[int, float]:
        """(which turn it is, seconds left in it), when `turn` began at `from_s` of the act's clock.

        The last turn stays; its seconds left then go below zero.
        """
        gone = max(elapsed_s - from_s, 0.0)
        more = floor(gone / self.turn_s) if self.by_itself else 0
        now = min(turn + more, self.count - 1)
        return now, self.turn_s - (gone - (now - turn) * self.turn_s)


def turning(act: Act, length_s: float, teams: int) -> Turning | None:
    """How an act's turns go; None when it has none.

    A report: a turn for each team. A walk: a turn for each other place, or as many as the time
    holds; it goes on by itself, at the signal. One team alone walks nowhere.
    """
    if not act.turns or teams < 1:
        return None
    low, high = act.turn_s
    if act.turns == "report":
        return Turning(teams, min(max(length_s / teams, low), high), False)
    if teams < 2:
        return None
    each = min(max(length_s / (teams - 1), low), high)
    return Turning(min(teams - 1, max(1, floor(length_s / each + 1e-9))), each, True)


def reporting_order(teams: int, before: int) -> tuple[int, ...]:
    """Who reports in which order, by place in the room: each time another team begins.

    `before` is how many reports this class has had.
    """
    count = whole("teams", teams)
    return tuple((before + i) % count for i in range(count))


def stands_at(team: int, rotation: int, teams: int) -> int:
    """At whose place a team stands in a rotation (from 0), all counted by place in the room.

    Each place has one team at a time; in `teams` − 1 rotations each team has been at every place
    but its own.
    """
    return (team + rotation + 1) % teams


def pace(planned_and_took: Sequence[tuple[float, float]]) -> float | None:
    """How many times as long as planned a class took, over acts that were held to their end.

    None for less than two of them or a quarter of an hour: too little to plan by.
    """
    known = [(planned, took) for planned, took in planned_and_took if planned > 0 and took > 0]
    planned_s = sum(planned for planned, _ in known)
    if len(known) < 2 or planned_s < 900.0:
        return None
    return sum(took for _, took in known) / planned_s
