"""The lesson that is held, in words."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime
from zoneinfo import ZoneInfo

from thermion.core.planning.acts import Act, acts_of
from thermion.core.planning.conduct import Item
from thermion.core.planning.schedule import Lesson
from thermion.core.planning.week import PHASES
from thermion.records.planning.conduct import Held, LessonNow
from thermion.web.components.conducted import act_name, minutes_words, step_name
from thermion.web.components.frame import clock_time

PLACES = {
    "task": "brief.index",
    "ideas": "ideas.index",
    "plan": "builds.index",
    "build": "store.index",
    "test": "runs.index",
    "findings": "findings.index",
    "change": "builds.index",
    "retest": "runs.index",
    "show": "findings.index",
}
BELL = {
    "marks": "The bell: {title} is still running.",
    "turns": "The bell: {title} still has turns.",
    "races": "The bell: {title} still has turns.",
}


@dataclass(frozen=True, kw_only=True)
class AgendaLine:
    """An act of the agenda: its words, what was planned and what it took."""

    item: Item
    name: str
    state: str
    planned: str
    took: str
    left_over: bool


@dataclass(frozen=True, kw_only=True)
class StepGroup:
    """A step of a challenge with its acts, and others that can be put in."""

    challenge: str
    title: str
    step: str
    phase: str
    lines: tuple[AgendaLine, ...]
    also: tuple[Act, ...]
    is_on: bool


def bell(title: str, held: str) -> str:
    return BELL[held].format(title=title)


def lesson_title(number: int, lesson: Lesson | None, zone: str, now: datetime) -> str:
    """Which lesson is meant, and when it is."""
    if lesson is None:
        return "No lesson is planned"
    local = lesson.start.astimezone(ZoneInfo(zone))
    ends = local.timestamp() + lesson.length_s
    end = clock_time(datetime.fromtimestamp(ends, ZoneInfo(zone)), zone)
    same = local.date() == now.astimezone(ZoneInfo(zone)).date()
    day = "today" if same else f"{local:%A} {local.day} {local:%b}"
    return f"Lesson {number + 1}, {day}, {local:%H:%M}–{end}"


def took(held: Held) -> str:
    """What it took, once it was begun."""
    return minutes_words(held.took_s) if held.state else ""


def groups(lesson: LessonNow, titles: Mapping[str, str]) -> list[StepGroup]:
    """The agenda step by step."""
    out: list[StepGroup] = []
    rows: dict[tuple[str, str], list[Held]] = {}
    for held in lesson.held:
        rows.setdefault((held.item.challenge, held.item.phase), []).append(held)
    for (challenge, phase), mine in rows.items():
        lines = tuple(
            AgendaLine(
                item=h.item,
                name=act_name(phase, h.item.act),
                state=h.state,
                planned=minutes_words(h.item.length_s),
                took=took(h),
                left_over=h.left_over,
            )
            for h in mine
        )
        there = {line.item.act for line in lines}
        also = tuple(a for a in acts_of(phase) if a.key not in there and challenge)
        on = any(line.state == "on" for line in lines)
        out.append(
            StepGroup(
                challenge=challenge,
                title=titles.get(challenge, ""),
                step=step_name(phase),
                phase=phase,
                lines=lines,
                also=also,
                is_on=on,
            )
        )
    return out


def other_steps(lesson: LessonNow, titles: Mapping[str, str]) -> list[tuple[str, list[tuple[str, str]]]]:
    """Every act of every challenge that this lesson does not hold, as (what is sent, its name)."""
    there = {h.item.key for h in lesson.held}
    return [
        (
            title,
            [
                (f"{challenge} {phase.key} {act.key}", f"{phase.label}: {act.label}")
                for phase in PHASES
                for act in acts_of(phase.key)
                if act.usual and (challenge, phase.key, act.key) not in there
            ],
        )
        for challenge, title in titles.items()
    ]


def pace(ratio: float | None) -> str:
    """What this class took beside what was planned."""
    if ratio is None:
        return ""
    if 0.95 < ratio < 1.05:
        return "This class takes about as long as planned."
    return f"This class needs about {ratio:.1f} times the planned time."


def put_words(shows: str, titles: Mapping[int, str], challenge_id: int) -> str:
    """What stands on the board."""
    title = titles.get(challenge_id, "")
    return {
        "": "what is going on, by itself",
        "step": "the step",
        "run": "a test",
        "results": f"results of {title}",
        "findings": f"what {title} says",
        "codes": "the codes of the teams",
    }.get(shows, "nothing")
