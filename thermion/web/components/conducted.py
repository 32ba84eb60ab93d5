"""The line of a lesson that is on: the step with its clock, what can be done, what comes next."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime

from thermion.core.planning.acts import act_of
from thermion.core.planning.conduct import PACK, Item, reporting_order
from thermion.core.planning.week import PHASES
from thermion.records.planning.conduct import LessonNow, OnNow, reports_before
from thermion.records.tables import SchoolClass, Team
from thermion.web.sessions import read_session

STEP_NAMES: Mapping[str, str] = {p.key: p.label for p in PHASES} | {PACK: "Pack up"}


@dataclass(frozen=True, kw_only=True)
class StepShown:
    """An act that is on: whose it is, its names, when its clock ends (or what is left while it stands)."""

    row: int
    challenge: str
    step: str
    act: str
    ends_at: str  # "" while it stands
    left_s: float
    allowed_s: float
    turn: str  # whose minute it is, or which rotation
    turn_ends_at: str
    by_itself: bool
    has_turns: bool

    @property
    def name(self) -> str:
        return self.step if self.step == self.act else f"{self.step}: {self.act}"


@dataclass(frozen=True, kw_only=True)
class LineShown:
    """What is on in a class, and the words of what comes next; `mark` is the state that was seen."""

    class_id: int
    mark: str
    steps: tuple[StepShown, ...]
    next: str
    next_long: str
    can_go_back: bool
    bell: str  # what is asked when the bell rings in a test
    bell_run: int
    now: str

    @property
    def empty(self) -> bool:
        return not (self.steps or self.next or self.bell)


def act_name(phase: str, act: str) -> str:
    found = act_of(phase, act)
    return found.label if found else act


def step_name(phase: str) -> str:
    return STEP_NAMES.get(phase, phase)


def item_words(item: Item, titles: Mapping[str, str], after: Sequence[tuple[str, str]] = ()) -> str:
    """A step that comes: its act alone within the same step; its challenge when that is another one.

    `after`: challenge and phase of what is on.
    """
    act = act_name(item.phase, item.act)
    if (item.challenge, item.phase) in after:
        return act
    step = step_name(item.phase)
    words = step if step == act else f"{step}: {act}"
    title = titles.get(item.challenge, "")
    another = title and after and item.challenge not in {challenge for challenge, _ in after}
    return f"{title}. {words}" if another else words


def what_is_on(lesson: LessonNow) -> list[tuple[str, str]]:
    """Challenge and phase of what is on."""
    return [(str(each.row.challenge_id or ""), each.row.phase) for each in lesson.on]


def minutes_words(seconds: float) -> str:
    """A length as a teacher says it: whole minutes, seconds below one."""
    return f"{seconds / 60:.0f} min" if seconds >= 59.5 else f"{seconds:.0f} s"


def order_of(each: OnNow, teams: Sequence[Team]) -> list[Team]:
    """In which order the teams report in an act."""
    if each.act.turns != "report" or not teams:
        return list(teams)
    before = reports_before(read_session(), each.row.class_id, each.row.id)
    return [teams[i] for i in reporting_order(len(teams), before)]


def turn_words(each: OnNow, teams: Sequence[Team], now: datetime) -> str:
    """Whose minute it is, or which rotation of a walk."""
    found = each.turn(now)
    if found is None or each.turns is None:
        return ""
    if each.act.turns == "report":
        return order_of(each, teams)[found[0]].name
    return f"{found[0] + 1} of {each.turns.count}"


def _turn_ends(each: OnNow, turn: int) -> datetime:
    """When the turn that is on ends; the same moment however often it is asked for."""
    row, turn_s = each.row, each.turns.turn_s if each.turns else 0.0
    return each.clock.moment(row.turn_from_s + (turn - row.turn + 1) * turn_s)


def step_shown(each: OnNow, school_class: SchoolClass, titles: Mapping[str, str], now: datetime) -> StepShown:
    row, clock = each.row, each.clock
    left = clock.left_s(now)
    stands = clock.paused_at is not None
    turn = each.turn(now)
    return StepShown(
        row=row.id,
        challenge=titles.get(str(row.challenge_id or ""), ""),
        step=step_name(row.phase),
        act=each.act.label,
        ends_at="" if stands else clock.moment(clock.allowed_s).isoformat(),
        left_s=left if stands else 0.0,
        allowed_s=row.allowed_s,
        turn=turn_words(each, school_class.present, now),
        turn_ends_at="" if stands or turn is None else _turn_ends(each, turn[0]).isoformat(),
        by_itself=each.turns is not None and each.turns.by_itself,
        has_turns=each.turns is not None,
    )


def line_shown(
    school_class: SchoolClass,
    lesson: LessonNow,
    titles: Mapping[str, str],
    now: datetime,
    bell: tuple[str, int] = ("", 0),
) -> LineShown:
    """The line, empty between lessons while nothing is on."""
    shown = lesson.is_on or bool(lesson.on)
    follows = lesson.next if shown else None
    words = "" if follows is None else item_words(follows, titles, what_is_on(lesson))
    question, run_id = bell
    return LineShown(
        class_id=school_class.id,
        mark=lesson.mark,
        steps=tuple(step_shown(each, school_class, titles, now) for each in lesson.on),
        next=words,
        next_long="" if follows is None else f"{words}, {minutes_words(follows.length_s)}",
        can_go_back=any(h.state == "done" for h in lesson.held),
        bell=question,
        bell_run=run_id,
        now=now.isoformat(),
    )
