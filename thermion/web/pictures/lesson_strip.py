"""The lessons of a week as a strip to scale: what stands where, ready to be drawn."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from datetime import timedelta

from thermion.core.planning.schedule import Block
from thermion.core.planning.week import PHASES, side_by_side
from thermion.records.planning.week import WeekPlan
from thermion.web.components.frame import clock_time
from thermion.web.pictures.leaders import text_width

LEFT, WIDE = 176, 1000  # room for a lesson's name, width of the whole
TALL, LOW, MANY = 46, 29, 5  # height of a lesson; lower when there are many


@dataclass(frozen=True, kw_only=True)
class StepBar:
    """A stretch of a step on the strip (px); `mine` when it belongs to the challenge shown."""

    phase: str
    label: str
    words: str  # the step, and whose it is where there is room: what fits on it
    title: str
    x: float
    wide: float
    lesson: int
    minutes: float
    mine: bool
    test: bool
    goes_on: bool
    lane: int = 0  # of so many `lanes`: challenges side by side share the height
    lanes: int = 1


@dataclass(frozen=True, kw_only=True)
class LessonBar:
    """A lesson: its name, its bar (px), where packing up begins, what is free in it [min]."""

    name: str
    hours: str
    x: float
    wide: float
    pack_x: float
    free: float
    bars: tuple[StepBar, ...]


@dataclass(frozen=True, kw_only=True)
class Strip:
    rows: tuple[LessonBar, ...]
    height: int
    row: int
    px_per_min: float
    spills: tuple[tuple[str, float, bool], ...]  # (what, minutes, of this challenge)
    later: int  # other challenges that find no room
    mine_fits: bool


TESTS = {p.key for p in PHASES if p.test}


@dataclass(frozen=True, kw_only=True)
class _Drawing:
    """What the bars of a strip are drawn by: whose challenge leads, names, lanes of those side by side,
    and minutes to the scale; `low` rows have room for a number at their end."""

    mine: str
    labels: Mapping[str, str]
    titles: Mapping[str, str]
    lanes: Mapping[str, tuple[int, int]]
    scale: float
    low: bool

    def bars(self, lesson: int, blocks: Sequence[Block]) -> Iterator[StepBar]:
        """The steps of a lesson; another challenge's first one bears its name."""
        named: set[str] = set()
        for block in blocks:
            owner, phase = block.step.split(":")
            wide = max(block.length_s * self.scale, 2.0)
            whose = self.titles[owner] if owner != self.mine and owner not in named else ""
            named.add(owner)
            lane, of_lanes = self.lanes[owner]
            room = wide - (26 if self.low and wide > 90 else 4)
            yield StepBar(
                phase=phase,
                label=self.labels[block.step],
                words=_fitting(self.labels[block.step], whose, room),
                title=self.titles[owner],
                x=LEFT + block.start_s * self.scale,
                wide=wide,
                lesson=lesson,
                minutes=block.length_s / 60,
                mine=owner == self.mine,
                test=phase in TESTS,
                goes_on=block.goes_on,
                lane=lane,
                lanes=of_lanes,
            )

    def spilled(self, key: str, seconds: float) -> tuple[str, float, bool]:
        """What finds no room: its name, minutes, and whether it is of the challenge that leads."""
        owner = key.partition(":")[0]
        own = owner == self.mine
        return (self.labels[key] if own else f"{self.titles[owner]}: {self.labels[key]}"), seconds / 60, own


def strip_of(plan: WeekPlan, challenge_id: int, zone: str) -> Strip:
    """The whole week with one challenge in front."""
    mine = str(challenge_id)
    labels = {s.key: s.label for t in plan.tasks for s in t.steps()}
    titles = {str(c.id): c.title for c in plan.challenges}
    lanes = {t.name: (i, len(g)) for g in side_by_side(plan.tasks) for i, t in enumerate(g)}
    longest = max((x.length_s for x in plan.lessons), default=3600.0)
    scale = (WIDE - LEFT - 70) / longest
    tall = TALL if len(plan.lessons) <= MANY else LOW
    drawn = _Drawing(mine=mine, labels=labels, titles=titles, lanes=lanes, scale=scale, low=tall == LOW)
    rows = []
    for i, lesson in enumerate(plan.lessons):
        here = [b for b in plan.timeline.blocks if b.lesson == i]
        end = lesson.start + timedelta(seconds=lesson.length_s)
        used = max((b.start_s + b.length_s for b in here), default=0.0)
        rows.append(
            LessonBar(
                name=f"{i + 1}  {_day(plan, i, zone)}",
                hours=f"{clock_time(lesson.start, zone)}–{clock_time(end, zone)}",
                x=LEFT,
                wide=lesson.length_s * scale,
                pack_x=LEFT + lesson.room_s * scale,
                free=max(lesson.room_s - used, 0.0) / 60,
                bars=tuple(drawn.bars(i, here)),
            )
        )
    spills = tuple(drawn.spilled(key, seconds) for key, seconds in plan.timeline.spills)
    return Strip(
        rows=tuple(rows),
        height=tall * max(len(rows), 1) + 8,
        row=tall,
        px_per_min=scale * 60,
        spills=spills,
        later=len({key.split(":")[0] for key, _ in plan.timeline.spills} - {mine}),
        mine_fits=not any(own for _, _, own in spills),
    )


def _fitting(step: str, whose: str, room: float) -> str:
    """The step and, if there is room, the challenge it belongs to; shorter where it must be."""
    both = f"{step}: {whose}"
    if whose and text_width(both, 13) <= room:
        return both
    cut = next(
        (n for n in range(len(step), 1, -1) if text_width(step[:n], 13) <= room - 9 * (n < len(step))), 0
    )
    return step if cut == len(step) else step[:cut] + "…" if cut > 1 else ""


def _day(plan: WeekPlan, index: int, zone: str) -> str:
    from zoneinfo import ZoneInfo

    local = plan.lessons[index].start.astimezone(ZoneInfo(zone))
    return f"{local:%a} {local.day} {local:%b}"
