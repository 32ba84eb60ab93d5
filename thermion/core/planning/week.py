"""A challenge's steps laid into a class's lessons: lengths, remedies when they do not fit, bell."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import datetime
from itertools import pairwise
from math import ceil

from thermion.core.kinds.base import Kind
from thermion.core.kinds.testing import even_marks
from thermion.core.planning.schedule import (
    Block,
    Lesson,
    Round,
    Step,
    Timeline,
    check_lessons,
    clocked_length,
    lay_out,
    most_attempts,
    reading_round,
    turns_length,
)
from thermion.core.planning.timetable import next_school_day
from thermion.core.values import Unfit, not_negative, positive, whole

LONGEST_S = 86400.0  # of anything that is timed
MOST = {"attempts": 20, "stations": 8, "readers": 12}


@dataclass(frozen=True)
class WorkStep:
    """A step of the work with its usual length [min]; a test's length is computed."""

    key: str
    label: str
    minutes: float
    test: bool = False


PHASES = (
    WorkStep("task", "Task", 10),
    WorkStep("ideas", "Ideas", 5),
    WorkStep("plan", "Plan", 15),
    WorkStep("build", "Build", 30),
    WorkStep("test", "Test", 0, True),
    WorkStep("findings", "Findings", 10),
    WorkStep("change", "Change", 20),
    WorkStep("retest", "Test again", 0, True),
    WorkStep("show", "Show", 15),
)

FORMER = {
    "ask": "task",
    "imagine": "ideas",
    "create": "build",
    "look": "findings",
    "improve": "change",
    "share": "show",
}  # what steps were called in files and open pages of before


def step_now(key: str) -> str:
    """The key of a step, by what it was called at any time."""
    return FORMER.get(key, key)


@dataclass(frozen=True)
class Timing:
    """What decides how long a test takes. Lengths in seconds; `in_row`: a team has all its attempts one after
    the other."""

    attempts: int = 3
    stations: int = 1
    readers: int = 1
    read_s: float = 10.0
    set_up_s: float = 300.0
    fit_s: float = 40.0
    run_s: float = 60.0
    reset_s: float = 30.0
    stagger: bool = False
    in_row: bool = False

    def check(self) -> None:
        """ValueError naming what cannot be."""
        for key, most in MOST.items():
            if whole(key, getattr(self, key)) > most:
                raise Unfit(key, f"expected 1 to {most}")
        for key in ("read_s", "run_s"):
            positive(key, getattr(self, key))
        for key in ("set_up_s", "fit_s", "reset_s"):
            not_negative(key, getattr(self, key))
        for key in ("read_s", "run_s", "set_up_s", "fit_s", "reset_s"):
            if getattr(self, key) > LONGEST_S:
                raise Unfit(key, "expected no more than a day")


def usual_timing(kind: Kind, attempts: int = 3) -> Timing:
    """The family's usual lengths."""
    b = kind.test.bench
    return Timing(
        attempts=1 if kind.test.shape == "races" else attempts,
        stations=1,
        readers=1,
        read_s=b.read_s,
        set_up_s=b.set_up_s,
        fit_s=b.fit_s,
        run_s=b.run_s,
        reset_s=b.reset_s,
    )


def in_turns(kind: Kind) -> bool:
    """True when builds are tested one after another at a station."""
    return kind.test.shape != "marks"


def shortest_interval(marks: Mapping[str, Sequence[float]]) -> float:
    """Between two marks of a phase [s]; 0 when no phase has two."""
    return min((b - a for m in marks.values() for a, b in pairwise(m)), default=0.0)


def round_of(timing: Timing, builds: int, marks: Mapping[str, Sequence[float]]) -> Round | None:
    """The reading round of a clocked test against its shortest interval; None without marks.

    `marks` [s] by phase. A reading that takes longer than an interval fits in no way.
    """
    step_s = shortest_interval(marks)
    if not step_s or builds < 1:
        return None
    found = reading_round(builds, timing.readers, min(timing.read_s, step_s), step_s)
    if timing.read_s <= step_s:
        return found
    length_s = ceil(builds / timing.readers) * timing.read_s
    return replace(found, fits=False, length_s=length_s, interval_s=length_s)


def _turns_length(timing: Timing, builds: int, tries: int) -> float:
    """Length [s] of so many attempts of each of some builds."""
    return turns_length(
        builds, tries, timing.stations, timing.fit_s, timing.run_s, timing.reset_s, in_row=timing.in_row
    )


def tries_length(
    kind: Kind, timing: Timing, builds: int, tries: int, marks: Mapping[str, Sequence[float]]
) -> float:
    """Length [s] of so many more tries of each of some builds: turns at the stations, or whole
    clocked tests of these builds together."""
    if in_turns(kind):
        return _turns_length(timing, builds, tries)
    return tries * test_length(kind, timing, builds, marks)


def tries_that_fit(
    kind: Kind, timing: Timing, builds: int, marks: Mapping[str, Sequence[float]], room_s: float
) -> int:
    """How many more tries fit into `room_s` [s]: turns at all stations, or whole clocked tests of so many
    builds together."""
    one = tries_length(kind, timing, 1 if in_turns(kind) else builds, 1, marks)
    if one <= 0:
        return 0
    return int(room_s // one) * (timing.stations if in_turns(kind) else 1)


def test_length(kind: Kind, timing: Timing, teams: int, marks: Mapping[str, Sequence[float]]) -> float:
    """Length of one test of all teams [s], set-up included.

    Turns: ceil(teams × attempts / stations) turns. Clocked: until the last mark of the last
    phase and the round that reads it; staggered in waves when one round is too short for all.
    """
    if in_turns(kind):
        return timing.set_up_s + _turns_length(timing, teams, timing.attempts)
    last = sum(m[-1] for m in marks.values() if m)
    found = round_of(timing, teams, marks)
    if found is None or last <= 0:
        return timing.set_up_s
    if not timing.stagger or found.waves == 1:
        return clocked_length(timing.set_up_s, last, found.length_s)
    return timing.set_up_s + found.waves * (last + max(found.offsets_s) + timing.read_s)


@dataclass(frozen=True)
class Task:
    """One challenge in the week: its steps in order, and whether its test can be broken off.

    `beside` when it shares its lessons, side by side, with the one before.
    """

    name: str
    kind: Kind
    timing: Timing
    teams: int
    marks: Mapping[str, Sequence[float]]
    lengths_s: Mapping[str, float]  # by phase; a phase that is not there is left out
    moved: Mapping[str, int]  # phase -> lesson it was moved to
    beside: bool = False

    def steps(self) -> list[Step]:
        """What is laid out: named `challenge:phase`."""
        test_s = test_length(self.kind, self.timing, self.teams, self.marks)
        out = []
        for phase in PHASES:
            if phase.key not in self.lengths_s:
                continue
            seconds = test_s if phase.test else self.lengths_s[phase.key]
            splits = not phase.test or in_turns(self.kind)
            out.append(
                Step(
                    key=f"{self.name}:{phase.key}",
                    label=phase.label,
                    length_s=seconds,
                    splits=splits,
                    not_before=self.moved.get(phase.key, 0),
                )
            )
        return out


def side_by_side(tasks: Sequence[Task]) -> list[list[Task]]:
    """The tasks in groups that share their lessons, in order."""
    groups: list[list[Task]] = []
    for task in tasks:
        if task.beside and groups:
            groups[-1].append(task)
        else:
            groups.append([task])
    return groups


def plan_week(lessons: Sequence[Lesson], tasks: Sequence[Task]) -> Timeline:
    """All steps of all challenges laid into the lessons: one challenge after the other, those side by
    side from the same moment on. After one that finds no room, none of the next group does."""
    check_lessons(lessons)
    blocks: list[Block] = []
    spills: list[tuple[str, float]] = []
    start = (0, 0.0)
    for group in side_by_side(tasks):
        begin = (len(lessons), 0.0) if spills else start
        for task in group:
            laid = lay_out(lessons, task.steps(), start=begin)
            blocks += laid.blocks
            spills += laid.spills
            start = max(start, laid.end)
    return Timeline(tuple(sorted(blocks, key=lambda b: (b.lesson, b.start_s))), tuple(spills))


@dataclass(frozen=True)
class Remedy:
    """One thing that would help: what it is in words, and the task or the lesson it makes.

    `fits` when everything has room with it.
    """

    key: str
    words: str
    fits: bool
    task: Task | None = None
    lesson: Lesson | None = None


def remedies(
    lessons: Sequence[Lesson], tasks: Sequence[Task], index: int, *, extra: Lesson | None = None
) -> list[Remedy]:
    """What could be done when the week spills, each alone on task `index`, best first.

    Fewer attempts, more stations, a shorter clocked run, more readers instead of waves, one more
    lesson: `extra`, else like the last one on the next day of school. Of each the least that makes everything
    fit, or else the most that helps.
    """
    before = _spilt(plan_week(lessons, tasks))
    if before == 0:
        return []
    out: list[Remedy] = []
    for options in _options(tasks[index]):
        tried = [
            (_spilt(plan_week(lessons, [*tasks[:index], made, *tasks[index + 1 :]])), i)
            for i, (_, _, made) in enumerate(options)
        ]
        spilt, at = next(((s, i) for s, i in tried if s == 0), min(tried, default=(before, 0)))
        if spilt < before - 1e-6:
            key, words, made = options[at]
            out.append(Remedy(key=key, words=words, fits=spilt == 0, task=made))
    if lessons:
        extra = extra or replace(lessons[-1], start=next_school_day(lessons[-1].start, ()))
        spilt = _spilt(plan_week([*lessons, extra], tasks))
        if spilt < before - 1e-6:
            words = f"One more lesson, {extra.start:%A}"
            out.append(Remedy(key="lesson", words=words, fits=spilt == 0, lesson=extra))
    return sorted(out, key=lambda r: not r.fits)


_Option = tuple[str, str, Task]


def _options(task: Task) -> list[list[_Option]]:
    """Groups of changes to a task, each from the least to the most."""
    t = task.timing
    if in_turns(task.kind):
        fewer: list[_Option] = [
            (
                "attempts",
                f"{n} {'attempt' if n == 1 else 'attempts'} each",
                replace(task, timing=replace(t, attempts=n)),
            )
            for n in range(t.attempts - 1, 0, -1)
        ]
        wider: list[_Option] = [
            ("stations", f"{n} stations side by side", replace(task, timing=replace(t, stations=n)))
            for n in range(t.stations + 1, min(MOST["stations"], task.teams) + 1)
        ]
        return [fewer, wider]
    shorter: list[_Option] = []
    for share in (0.75, 0.5, 0.25):
        marks = {p: [m for m in ms if m <= share * ms[-1]] for p, ms in task.marks.items() if ms}
        if marks and all(len(m) > 1 for m in marks.values()):
            minutes = sum(m[-1] for m in marks.values()) / 60
            shorter.append(("shorter", f"A run of {minutes:.0f} min", replace(task, marks=marks)))
    found = round_of(t, task.teams, task.marks)
    together: list[_Option] = []
    if found is not None and t.stagger and found.waves > 1 and found.readers <= MOST["readers"]:
        made = replace(task, timing=replace(t, readers=found.readers, stagger=False))
        together.append(("readers", f"{found.readers} readers, all builds at once", made))
    return [shorter, together]


def round_remedies(task: Task) -> list[Remedy]:
    """What could be done when one reading round takes longer than the marks are apart.

    Staggered starts in waves, more readers, or marks further apart: each alone makes it fit. When a
    single reading takes longer than that, only marks further apart do.
    """
    found = round_of(task.timing, task.teams, task.marks)
    if found is None or found.fits or task.timing.stagger:
        return []
    out = []
    one_fits = task.timing.read_s <= shortest_interval(task.marks)
    if one_fits:
        timing = replace(task.timing, stagger=True)
        said = f"Start in {found.waves} waves, one after the other"
        out.append(Remedy(key="stagger", words=said, fits=True, task=replace(task, timing=timing)))
    if one_fits and found.readers <= MOST["readers"]:
        timing = replace(task.timing, readers=found.readers)
        out.append(
            Remedy(
                key="readers", words=f"{found.readers} readers", fits=True, task=replace(task, timing=timing)
            )
        )
    every = ceil(found.interval_s / 60) * 60.0
    ends = [m[-1] for m in task.marks.values() if m]
    if every <= min(ends):
        marks = {p: even_marks(max(m[-1] // every * every, every), every) for p, m in task.marks.items() if m}
        out.append(
            Remedy(
                key="interval",
                words=f"Marks every {every / 60:.0f} min",
                fits=True,
                task=replace(task, marks=marks),
            )
        )
    return out


def _spilt(timeline: Timeline) -> float:
    return sum(seconds for _, seconds in timeline.spills)


@dataclass(frozen=True)
class Bell:
    """The lesson that is on: seconds until packing up begins and until the bell."""

    lesson: int
    until_pack_up_s: float
    until_bell_s: float


def bell(lessons: Sequence[Lesson], now: datetime) -> Bell | None:
    """The lesson that is on at a moment; None between lessons."""
    for i, lesson in enumerate(lessons):
        since = (now - lesson.start).total_seconds()
        if 0 <= since < lesson.length_s:
            return Bell(i, max(lesson.room_s - since, 0.0), lesson.length_s - since)
    return None


def still_fits(
    kind: Kind, timing: Timing, teams: int, marks: Mapping[str, Sequence[float]], room_s: float
) -> str:
    """What of a test still fits before packing up, in words."""
    if in_turns(kind):
        turn = timing.fit_s + timing.run_s + timing.reset_s
        count = int(room_s // turn) * timing.stations
        if count == 0:
            return "no further turn fits"
        whole_round = most_attempts(
            room_s, teams, timing.stations, timing.fit_s, timing.run_s, timing.reset_s, in_row=timing.in_row
        )
        each = f", {whole_round} for each team" if whole_round else ", not one for each team"
        return f"{count} {'turn fits' if count == 1 else 'turns fit'}{each}"
    need = test_length(kind, timing, teams, marks)
    if need <= room_s:
        return f"a whole test of {need / 60:.0f} min fits"
    first = next(iter(marks.values()), ())
    reach = [m for m in first if m > 0 and timing.set_up_s + m <= room_s]
    if reach:
        return f"a test fits only up to minute {max(reach) / 60:g}"
    return "no test fits any more"
