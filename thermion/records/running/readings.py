"""Readings: one saved at a time while a run is on, or many from a logger file at once.

A reading is checked, stored and committed before the answer is sent. The client's own id makes
a retry harmless; a correction supersedes and never overwrites.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import UTC, datetime
from typing import Any

from sqlalchemy import Row, bindparam, insert, select
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


# Built once: a save is the most frequent thing that happens while a run is on.
_STORED = select(Reading).where(Reading.client_id == bindparam("client_id"))
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
    )
    .join(Run, Run.id == Entry.run_id)
    .join(Challenge, Challenge.id == Run.challenge_id)
    .join(SchoolClass, SchoolClass.id == Challenge.class_id)
    .outerjoin(RunPhase, (RunPhase.run_id == Run.id) & (RunPhase.phase == bindparam("phase")))
    .where(Entry.id == bindparam("entry_id"), Run.id == bindparam("run_id"))
)
_MARKS = (
    select(Mark.time_s)
    .where(Mark.challenge_id == bindparam("challenge_id"), Mark.phase == bindparam("phase"))
    .order_by(Mark.time_s)
)
_successor = aliased(Reading)
_AROUND = (
    select(
        Reading.id,
        Reading.entry_id,
        Reading.mark_s,
        Reading.time_s,
        Reading.value,
        Reading.timed,
        Entry.position,
        Team.name,
    )
    .join(Entry, Entry.id == Reading.entry_id)
    .outerjoin(Version, Version.id == Entry.version_id)
    .outerjoin(Build, Build.id == Version.build_id)
    .outerjoin(Team, Team.id == Build.team_id)
    .outerjoin(_successor, _successor.supersedes_id == Reading.id)
    .where(Entry.run_id == bindparam("run_id"), Reading.phase == bindparam("phase"), _successor.id.is_(None))
    .order_by(Reading.entry_id, Reading.time_s)
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
_INSERT = insert(Reading).returning(Reading.id)


def save_reading(session: Session, run_id: int, item: ReadingInput, now: datetime | None = None) -> Saved:
    """Check and store one reading of a run; the caller commits before it answers.

    Raises Implausible or Refused (nothing stored), Conflict when the cell already holds a
    value that this one does not say it replaces, Gone when the row is not in this run.
    """
    arrived = now or datetime.now(UTC)
    place = _place(session, run_id, item)
    setting = Setting(place.temp_unit, place.decimal)
    quantity = _quantity(session, place)
    stored = session.scalar(_STORED, {"client_id": item.client_id})
    if stored is not None:
        check = Check("ok", stored.question, stored.suggestion)
        return Saved(stored, check, setting, quantity, repeated=True)
    marks = session.scalars(_MARKS, {"challenge_id": place.challenge_id, "phase": item.phase}).all()
    slot = next((s for s in slots(marks) if s.mark_s == item.mark_s), None) if marks else None
    if slot is None:
        raise Refused("There is no such mark in this run.", "mark")
    entered = min(item.entered_at, arrived)
    elapsed = (entered - place.started_at).total_seconds() * place.speed - place.offset_s
    if item.mark_s > elapsed + 5 * place.speed:  # seconds of a clock that runs ahead
        raise Refused("This mark has not come yet.", "mark")
    around = session.execute(_AROUND, {"run_id": place.run_id, "phase": item.phase}).all()
    mine = [r for r in around if r.entry_id == item.entry_id]
    before = _superseded(item, mine, setting, quantity)
    time_s, timed = _time(item, before, elapsed, slot)
    value, check = None, Check("ok")
    if not isinstance(item.given, str) or item.given.strip():
        known = _around(session, item, place, around, time_s, quantity)
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
        new_id = session.execute(_INSERT, row).scalar_one()
    except IntegrityError:
        raise Conflict("Another screen has just written here. Its value is kept.") from None
    return Saved(Reading(id=new_id, **row), check, setting, quantity)


def _quantity(session: Session, place: _Row) -> Quantity:
    """What is read in this row; the choices of the brief decide where a family has several."""
    if place.version_id is None and not place.device:
        return quantity_of(AIR)
    kind = get_kind(str(place.kind))
    choices = kind.brief.default_choices()
    if len(kind.test.reads) > 1:
        rows = session.scalars(
            select(ChallengeChoice).where(ChallengeChoice.challenge_id == place.challenge_id)
        )
        choices |= {row.key: row.value for row in rows}
    read = kind.test.grid_read(choices) or kind.test.reads[0]
    rig: dict[str, float] = {}
    if read.limit:
        settings = session.scalars(
            select(ChallengeSetting).where(ChallengeSetting.challenge_id == place.challenge_id)
        )
        rig = {row.key: row.value for row in settings}
    return quantity_of(read, rig)


def _around(
    session: Session,
    item: ReadingInput,
    place: _Row,
    around: Sequence[_Row],
    time_s: float,
    quantity: Quantity,
) -> Around:
    """What the readings so far lead one to expect here."""
    mine = [r for r in around if r.entry_id == item.entry_id]
    earlier = [r for r in mine if r.value is not None and r.time_s < time_s - 1e-6]
    before = float(earlier[-1].value) if earlier else None
    if quantity.unit != "degC":
        return Around(before=before)
    return Around(
        _expected(mine, time_s) or _from_phase_before(session, item) or _class_start(around, item),
        _neighbours(around, place, time_s),
        before,
    )


def _place(session: Session, run_id: int, item: ReadingInput) -> _Row:
    """The run, clock and class of an entry in one query."""
    found = session.execute(
        _PLACE, {"entry_id": item.entry_id, "phase": item.phase, "run_id": run_id}
    ).first()
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


def _from_phase_before(session: Session, item: ReadingInput) -> Expectation | None:
    """A phase begins near where the one before it ended, a little cooler or warmer."""
    last = session.scalar(_LAST, {"entry_id": item.entry_id, "phase": item.phase})
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


def _neighbours(around: Sequence[_Row], place: _Row, time_s: float) -> dict[str, Expectation]:
    """What the rows just above and below would read now, by team name."""
    if place.version_id is None:
        return {}
    out = {}
    for step in (-1, 1):
        rows = [r for r in around if r.position == place.position + step and r.name]
        expected = _expected(rows, time_s) if len(rows) > 1 else None
        if expected is not None:
            out[str(rows[0].name)] = expected
    return out
