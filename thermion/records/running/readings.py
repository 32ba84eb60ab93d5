"""Readings: one saved at a time while a run is on, or many from a logger file at once.

A reading is checked, stored and committed before the answer is sent. The client's own id makes
a retry harmless; a correction supersedes and never overwrites.
"""

from __future__ import annotations

import json
from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import UTC, datetime
from functools import lru_cache
from typing import Any

from sqlalchemy import Connection, Row, bindparam, func, insert, select
from sqlalchemy.exc import IntegrityError
from sqlalchemy.orm import Session, aliased

from thermion.core.judging.observed import Around, Quantity, Source, quantity_of
from thermion.core.judging.plausibility import Expectation, expect
from thermion.core.kinds import get_kind
from thermion.core.kinds.testing import AIR
from thermion.core.physics.units import Setting
from thermion.core.planning.rounds import Slot, slots, true_time
from thermion.core.values import Check
from thermion.records.errors import Conflict, Gone, Refused
from thermion.records.running.door import accept
from thermion.records.tables import (
    Build,
    Challenge,
    ChallengeChoice,
    ChallengeSetting,
    Entry,
    Mark,
    Reading,
    Run,
    RunPhase,
    SchoolClass,
    Team,
    Version,
)

_Row = Row[*tuple[Any, ...]]


@lru_cache(maxsize=64)
def slots_of(marks: tuple[float, ...]) -> list[Slot]:
    """Around each mark, when it is due; the same marks are asked for with every reading."""
    return slots(marks)


@dataclass(frozen=True)
class ReadingInput:
    """A value as it came from a screen (text) or a probe (a number in the stored unit).

    `given` empty takes the reading back. `at_s` is a time given by hand; otherwise the moment
    of entry counts while the mark is due. `keep` says a doubtful value stands as it is.
    """

    entry_id: int
    phase: str
    mark_s: float
    given: str | float
    client_id: str
    entered_at: datetime
    supersedes_id: int | None = None
    source: Source = "hand"
    at_s: float | None = None
    keep: bool = False


@dataclass(frozen=True)
class Saved:
    """The stored reading; `repeated` when this client id had been stored before."""

    reading: Reading
    check: Check
    setting: Setting
    quantity: Quantity
    repeated: bool = False


# Built once, and few: a save is the most frequent thing that happens while a run is on.
_PLACE = (
    select(
        Run.id.label("run_id"),
        Run.speed,
        RunPhase.started_at,
        Run.challenge_id,
        Challenge.kind,
        SchoolClass.temp_unit,
        SchoolClass.decimal,
        Entry.version_id,
        Entry.position,
        Entry.offset_s,
        Entry.device,
        select(func.group_concat(func.printf("%!.17g", Mark.time_s)))  # to the last bit
        .where(Mark.challenge_id == Run.challenge_id, Mark.phase == bindparam("phase"))
        .scalar_subquery()
        .label("marks"),
        select(func.json_group_object(ChallengeChoice.key, ChallengeChoice.value))
        .where(ChallengeChoice.challenge_id == Run.challenge_id)
        .scalar_subquery()
        .label("choices"),
        select(func.json_group_object(ChallengeSetting.key, ChallengeSetting.value))
        .where(ChallengeSetting.challenge_id == Run.challenge_id)
        .scalar_subquery()
        .label("settings"),
        select(Reading.id)
        .where(Reading.client_id == bindparam("client_id"))
        .scalar_subquery()
        .label("stored_id"),
    )
    .join(Run, Run.id == Entry.run_id)
    .join(Challenge, Challenge.id == Run.challenge_id)
    .join(SchoolClass, SchoolClass.id == Challenge.class_id)
    .outerjoin(RunPhase, (RunPhase.run_id == Run.id) & (RunPhase.phase == bindparam("phase")))
    .where(Entry.id == bindparam("entry_id"), Run.id == bindparam("run_id"))
)
_successor = aliased(Reading)
_CURRENT = (  # at marks: a logger's values are many, and no help here
    select(Reading.id, Reading.entry_id, Reading.mark_s, Reading.time_s, Reading.value, Reading.timed)
    .join(Entry, Entry.id == Reading.entry_id)
    .outerjoin(_successor, _successor.supersedes_id == Reading.id)
    .where(
        Entry.run_id == bindparam("run_id"),
        Reading.phase == bindparam("phase"),
        Reading.mark_s.is_not(None),
        _successor.id.is_(None),
    )
    .order_by(Reading.entry_id, Reading.time_s)
)
_AROUND = _CURRENT.where(
    (Reading.entry_id == bindparam("entry_id")) | (Reading.mark_s == bindparam("mark_s"))
)
_NEIGHBOURS = (
    _CURRENT.add_columns(Entry.position, Team.name)
    .join(Version, Version.id == Entry.version_id)
    .join(Build, Build.id == Version.build_id)
    .join(Team, Team.id == Build.team_id)
    .where(Entry.position.in_((bindparam("above"), bindparam("below"))))
)
_LAST = (
    select(Reading.value)
    .outerjoin(_successor, _successor.supersedes_id == Reading.id)
    .where(
        Reading.entry_id == bindparam("entry_id"),
        Reading.phase != bindparam("phase"),
        Reading.value.is_not(None),
        _successor.id.is_(None),
    )
    .order_by(Reading.entered_at.desc(), Reading.time_s.desc())
    .limit(1)
)
_INSERT = insert(Reading.__table__)  # type: ignore[arg-type]  # a table, which SQLAlchemy types as wider


def save_reading(session: Session, run_id: int, item: ReadingInput, now: datetime | None = None) -> Saved:
    """Check and store one reading of a run; the caller commits before it answers.

    Raises Implausible or Refused (nothing stored), Conflict when the cell already holds a
    value that this one does not say it replaces, Gone when the row is not in this run.
    """
    arrived, connection = now or datetime.now(UTC), session.connection()
    place = _place(connection, run_id, item)
    setting = Setting(place.temp_unit, place.decimal)
    quantity = _quantity(place)
    if place.stored_id is not None:
        stored = session.get_one(Reading, place.stored_id)
        check = Check("ok", stored.question, stored.suggestion)
        return Saved(stored, check, setting, quantity, repeated=True)
    marks = tuple(sorted(float(mark) for mark in (place.marks or "").split(",") if mark))
    slot = next((s for s in slots_of(marks) if s.mark_s == item.mark_s), None) if marks else None
    if slot is None:
        raise Refused("There is no such mark in this run.", "mark")
    entered = min(item.entered_at, arrived)
    elapsed = (entered - place.started_at).total_seconds() * place.speed - place.offset_s
    if item.mark_s > elapsed + 5 * place.speed:  # seconds of a clock that runs ahead
        raise Refused("This mark has not come yet.", "mark")
    keys = {"run_id": run_id, "phase": item.phase, "entry_id": item.entry_id, "mark_s": item.mark_s}
    around = connection.execute(_AROUND, keys).all()
    mine = [r for r in around if r.entry_id == item.entry_id]
    before = _superseded(item, mine, setting, quantity)
    time_s, timed = _time(item, before, elapsed, slot)
    value, check = None, Check("ok")
    if not isinstance(item.given, str) or item.given.strip():
        known = _around(connection, item, around, time_s, quantity)
        value, found = accept(item.given, quantity, setting, "value", source=item.source, around=known)
        if found.check.code == "jump":  # it may be a neighbour's
            known = replace(known, neighbours=_neighbours(connection, run_id, item, place, time_s))
            value, found = accept(item.given, quantity, setting, "value", source=item.source, around=known)
        check = found.check
    elif before is None:
        raise Refused("Nothing typed yet.", "value")
    doubtful = check.answer == "ask" and not item.keep
    row = {
        "entry_id": item.entry_id,
        "phase": item.phase,
        "mark_s": item.mark_s,
        "time_s": time_s,
        "timed": timed,
        "value": value,
        "source": item.source,
        "question": check.message if doubtful else "",
        "suggestion": check.suggestion if doubtful else None,
        "client_id": item.client_id,
        "entered_at": entered,
        "arrived_at": arrived,
        "supersedes_id": before.id if before else None,
    }
    try:
        new_id = connection.execute(_INSERT, row).lastrowid
    except IntegrityError:
        raise Conflict("Another screen has just written here. Its value is kept.") from None
    return Saved(Reading(id=new_id, **row), check, setting, quantity)


def _quantity(place: _Row) -> Quantity:
    """What is read in this row; the choices of the brief decide where a family has several."""
    if place.version_id is None and not place.device:
        return quantity_of(AIR)
    kind = get_kind(str(place.kind))
    choices = kind.brief.default_choices() | json.loads(place.choices)
    read = kind.test.grid_read(choices) or kind.test.reads[0]
    return quantity_of(read, json.loads(place.settings))


def _around(
    connection: Connection, item: ReadingInput, around: Sequence[_Row], time_s: float, quantity: Quantity
) -> Around:
    """What the readings so far lead one to expect here."""
    mine = [r for r in around if r.entry_id == item.entry_id]
    earlier = [r for r in mine if r.value is not None and r.time_s < time_s - 1e-6]
    before = float(earlier[-1].value) if earlier else None
    if quantity.unit != "degC":
        return Around(before=before)
    return Around(
        _expected(mine, time_s) or _from_phase_before(connection, item) or _class_start(around, item),
        before=before,
    )


def _place(connection: Connection, run_id: int, item: ReadingInput) -> _Row:
    """The run, clock and class of an entry in one query."""
    keys = {"entry_id": item.entry_id, "phase": item.phase, "run_id": run_id, "client_id": item.client_id}
    found = connection.execute(_PLACE, keys).first()
    if found is None:
        raise Gone("This row is no longer in this run. Your value is still on this screen.")
    if found.started_at is None:
        raise Refused("The clock of this phase has not been started.", "phase")
    return found


def _superseded(
    item: ReadingInput, mine: Sequence[_Row], setting: Setting, quantity: Quantity
) -> _Row | None:
    """The reading this one replaces; Conflict if the cell holds another than the screen knew."""
    current = next((r for r in mine if r.mark_s == item.mark_s), None)
    if current is None:
        if item.supersedes_id is None:
            return None
        raise Conflict("What this should correct is no longer there. Enter it again.")
    if current.id != item.supersedes_id and current.value is not None:
        shown = setting.show(current.value, quantity.unit, quantity.digits)
        raise Conflict(f"Another screen has written {shown} here meanwhile. Enter again to replace it.")
    return current


def _time(item: ReadingInput, before: _Row | None, elapsed: float, slot: Slot) -> tuple[float, bool]:
    if item.at_s is not None:
        if item.at_s < 0 or item.at_s > elapsed + 1:
            raise Refused("That time is not within the run so far.", "time")
        return item.at_s, True
    if before is not None and before.value is not None:  # a correction keeps its moment
        return float(before.time_s), bool(before.timed)
    return true_time(elapsed, item.mark_s, slot)


def _expected(rows: Sequence[_Row], time_s: float) -> Expectation | None:
    past = {float(r.time_s): float(r.value) for r in rows if r.value is not None and r.time_s < time_s - 1e-6}
    return expect(list(past), list(past.values()), time_s)


def _from_phase_before(connection: Connection, item: ReadingInput) -> Expectation | None:
    """A phase begins near where the one before it ended, a little cooler or warmer."""
    last = connection.scalar(_LAST, {"entry_id": item.entry_id, "phase": item.phase})
    return None if last is None else Expectation(last, 20.0)


def _class_start(around: Sequence[_Row], item: ReadingInput) -> Expectation | None:
    """Before a build has readings of its own, those of the others at this mark are the guide."""
    others = sorted(
        float(r.value)
        for r in around
        if r.mark_s == item.mark_s and r.value is not None and r.entry_id != item.entry_id
    )
    if len(others) < 2:
        return None
    middle = others[len(others) // 2]
    return Expectation(middle, max(12.0, 1.5 * (others[-1] - others[0])))


def _neighbours(
    connection: Connection, run_id: int, item: ReadingInput, place: _Row, time_s: float
) -> dict[str, Expectation]:
    """What the rows just above and below would read now, by team name."""
    if place.version_id is None:
        return {}
    beside = {"above": place.position - 1, "below": place.position + 1}
    by: dict[str, list[_Row]] = {}
    for row in connection.execute(_NEIGHBOURS, {"run_id": run_id, "phase": item.phase, **beside}):
        by.setdefault(str(row.name), []).append(row)
    expected = {name: _expected(rows, time_s) for name, rows in by.items() if len(rows) > 1}
    return {name: found for name, found in expected.items() if found is not None}
