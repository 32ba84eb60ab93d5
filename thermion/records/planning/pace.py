"""What steps took beside what was planned, and how the class's pace would change a plan."""

from __future__ import annotations

from dataclasses import dataclass, replace
from datetime import datetime

from sqlalchemy.orm import Session

from thermion.core.planning.conduct import pace
from thermion.core.planning.week import PHASES
from thermion.records.planning.conduct import rows_of, took_s
from thermion.records.planning.week import WeekPlan


@dataclass(frozen=True, kw_only=True)
class StepTook:
    """A step of a challenge as it was held: planned and taken [s], and whether it was cut by a bell."""

    challenge_id: int
    phase: str
    planned_s: float
    took_s: float
    cut: bool


def what_it_took(session: Session, class_id: int, now: datetime) -> list[StepTook]:
    """Each step that was held in a class, its acts together, beside what was planned for those acts."""
    out: dict[tuple[int, str], StepTook] = {}
    for row in rows_of(session, class_id):
        if row.ended_at is None or row.challenge_id is None:
            continue
        key = (row.challenge_id, row.phase)
        old = out.get(key, StepTook(challenge_id=key[0], phase=key[1], planned_s=0.0, took_s=0.0, cut=False))
        out[key] = replace(
            old,
            planned_s=old.planned_s + row.planned_s,
            took_s=old.took_s + took_s(row, now),
            cut=old.cut or row.cut,
        )
    return list(out.values())


def pace_of(session: Session, class_id: int, now: datetime) -> float | None:
    """How many times as long as planned this class took, test steps aside; None while little is known."""
    tests = {p.key for p in PHASES if p.test}
    found = [
        (t.planned_s, t.took_s)
        for t in what_it_took(session, class_id, now)
        if t.phase not in tests and not t.cut
    ]
    return pace(found)


@dataclass(frozen=True)
class AtPace:
    """How a challenge's steps to come would be planned at the pace of the class: phase, minutes."""

    ratio: float
    steps: tuple[tuple[str, float], ...]


def at_pace(session: Session, plan: WeekPlan, challenge_id: int, now: datetime) -> AtPace | None:
    """The steps of a challenge that were not begun and stand as usual, at the pace of its class.

    None where the pace is not known, or is the planned one within a tenth.
    """
    class_id = plan.challenges[plan.index(challenge_id)].class_id
    ratio = pace_of(session, class_id, now)
    if ratio is None or abs(ratio - 1) < 0.1:
        return None
    begun = {t.phase for t in what_it_took(session, class_id, now) if t.challenge_id == challenge_id}
    task = plan.tasks[plan.index(challenge_id)]
    steps = [
        (p.key, float(max(round(p.minutes * ratio), 1)))
        for p in PHASES
        if not p.test and p.key not in begun and task.lengths_s.get(p.key) == p.minutes * 60
    ]
    return AtPace(ratio, tuple(steps)) if steps else None
