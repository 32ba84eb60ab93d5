"""A teacher's own ways: what the last challenges were given is what the next one begins with.

Taken are only things that a teacher brings along: what is read and how it counts, marks, instruments, hands
and stations. Never what was measured in a room, nor what an age limits to keep it from harm.
"""

from __future__ import annotations

from dataclasses import replace
from typing import Literal

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from thermion.core.physics.units import TEMP_UNITS
from thermion.records.planning.briefs import (
    Brief,
    brief_of,
    get_challenge,
    save_rule,
    save_settings,
    use_school,
)
from thermion.records.planning.marks import save_marks
from thermion.records.planning.week import save_timing, timing_of
from thermion.records.tables import Challenge, SchoolClass

Habit = Literal["choices", "instruments", "marks", "score", "hands"]


def last_of(session: Session, school_class: SchoolClass, kind: str = "") -> Challenge | None:
    """The newest challenge of a family, or of any: of this class if it has one, else of another."""
    own = func.iif(Challenge.class_id == school_class.id, 0, 1)
    found = select(Challenge.id).order_by(own, Challenge.created_at.desc(), Challenge.id.desc()).limit(1)
    if kind:
        found = found.where(Challenge.kind == kind)
    challenge_id = session.scalar(found)
    if challenge_id is None:
        return None
    return get_challenge(session, challenge_id)


def begin_alike(
    session: Session, made: Challenge, like: Challenge | None, last: Challenge | None
) -> list[Habit]:
    """Give a new challenge what `like` (of its family) and `last` (of any) have; what was changed by that.

    What is as usual anyway changes nothing and is not named.
    """
    before = brief_of(made)
    hands = timing_of(session, made, before)
    if like is not None:
        _of_family(session, made, like)
    for earlier in (like, last):
        if earlier is not None:
            _instruments(made, earlier)
            break
    session.flush()
    if like is None and last is not None:
        _score(made, last)
    _hands(session, made, like, last)
    session.flush()
    after = brief_of(made)
    found: dict[Habit, bool] = {
        "choices": before.choices != after.choices,
        "instruments": _steps(before) != _steps(after),
        "marks": before.marks != after.marks,
        "score": before.school != after.school or (after.school == "own" and before.rule != after.rule),
        "hands": hands != timing_of(session, made, after),
    }
    return [habit for habit, changed in found.items() if changed]


def _steps(brief: Brief) -> dict[str, float]:
    """The numbers of the instruments that this brief reads with."""
    every = [c for i in brief.kind.brief.instruments_for(brief.choices) for c in i.settings]
    return {c.key: brief.values[c.key] for c in every if c.key in brief.values}


def _of_family(session: Session, made: Challenge, like: Challenge) -> None:
    then = brief_of(like)
    save_settings(made, {}, then.choices)
    if made.dial == (like.dial or like.age_band):
        save_marks(session, made, then.marks)
    _score(made, like)
    made.credit = like.credit


def _score(made: Challenge, like: Challenge) -> None:
    """The same school, if this family has it; a rule of one's own only in the same family and unit."""
    now, then = brief_of(made), brief_of(like)
    before = made.school
    if like.school in {s.key for s in now.kind.brief.schools_for(now.choices)}:
        use_school(made, like.school)
    elif like.school == "own" and like.kind == made.kind:
        degrees = {t.unit for t in then.rule if t.unit in TEMP_UNITS}
        if degrees <= {now.setting.temp_unit}:
            save_rule(made, then.rule)
    if made.school != before or made.school == "own":  # what success is, was said for another rule
        made.success = like.success if like.kind == made.kind else ""


def _instruments(made: Challenge, like: Challenge) -> None:
    """Steps and uncertainties of instruments that both read with; a step in °F is none in °C."""
    now, then = brief_of(made), brief_of(like)
    if now.setting.temp_unit != then.setting.temp_unit:
        return
    mine, theirs = _steps(now), _steps(then)
    units = {c.key: c.unit for i in now.kind.brief.instruments for c in i.settings}
    same = {c.key for i in then.kind.brief.instruments for c in i.settings if units.get(c.key) == c.unit}
    save_settings(made, {key: (theirs[key], 0.0) for key in mine if key in theirs and key in same}, {})


def _hands(session: Session, made: Challenge, like: Challenge | None, last: Challenge | None) -> None:
    """How a test of this family was held; of another family, how many stations and readers there are."""
    now = brief_of(made)
    usual = timing_of(session, made, now)
    if like is not None:
        then = timing_of(session, like, brief_of(like))
        attempts = then.attempts if made.dial == (like.dial or like.age_band) else usual.attempts
        wanted = replace(then, attempts=attempts)
    elif last is not None and last.timing is not None:
        wanted = replace(usual, stations=last.timing.stations, readers=last.timing.readers)
    else:
        return
    if wanted != usual:
        save_timing(session, made.id, wanted)
