"""Readings: one saved at a time while a run is on, or many from a logger file at once.

A reading is checked, stored and committed before the answer is sent. The client's own id makes
a retry harmless; a correction supersedes and never overwrites.
"""

from __future__ import annotations

import json
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import datetime
from functools import lru_cache
from typing import Any, Literal

from sqlalchemy import Connection, Row
from sqlalchemy.exc import IntegrityError
from sqlalchemy.orm import Session

from thermion.core.judging.observed import Around, Quantity, Source, known_of, quantity_of
from thermion.core.judging.plausibility import Expectation, expect
from thermion.core.kinds import get_kind
from thermion.core.kinds.testing import AIR, Reads
from thermion.core.physics.units import Setting
from thermion.core.planning.rounds import Slot, slots, true_time
from thermion.core.values import Check
from thermion.records import moments
from thermion.records.errors import Conflict, Gone, Refused, Way
from thermion.records.running import save_queries
from thermion.records.running.accepting import accept
from thermion.records.tables import Reading

_Row = Row[*tuple[Any, ...]]
ClashWay = Literal["", "mine", "both"]


@lru_cache(maxsize=64)
def slots_of(marks: tuple[float, ...]) -> list[Slot]:
    """Around each mark, when it is due; the same marks are asked for with every reading."""
    return slots(marks)


@dataclass(frozen=True, kw_only=True)
class ReadingInput:
    """A value as it came from a screen (text) or a probe (a number in the stored unit).

    `given` empty takes the reading back. `at_s` is a time given by hand; otherwise the moment of entry
    counts while the mark is due, and the `planned` one of what was noted elsewhere. `keep` says a doubtful
    value stands as it is. It replaces `supersedes_id`, or what came under the client id `after`; against
    what another screen wrote meanwhile, `way` says "mine" or "both" (theirs stands, this is kept among the
    earlier values). `ask` is a question that it comes with, whatever its value: somebody else is to look.
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
    planned: bool = False
    keep: bool = False
    after: str = ""
    way: ClashWay = ""
    ask: str = ""


@dataclass(frozen=True, kw_only=True)
class Saved:
    """The stored reading; `repeated` when this client id had been stored before. `learn_again` names the
    challenge of a closed real run: what is learned from it is another now."""

    reading: Reading
    check: Check
    setting: Setting
    quantity: Quantity
    repeated: bool = False
    learn_again: int | None = None


def save_reading(
    session: Session, run_id: int, item: ReadingInput, now: datetime | None = None, made: str = ""
) -> Saved:
    """Check and store one reading of a run; the caller commits before it answers.

    Raises Implausible or Refused (nothing stored), Conflict when the cell already holds a
    value that this one does not say it replaces, Gone when the row is not in this run, or the run is
    not the one that was `made` at that moment.
    """
    arrived, connection = now or moments.now(), session.connection()
    place = _place(connection, run_id, item)
    same_run(place.created_at, made)
    setting = Setting(place.temp_unit, place.decimal)
    read, rig = _read(place), json.loads(place.settings or "{}")
    quantity = quantity_of(read, rig)
    if place.stored_id is not None:
        stored = session.get_one(Reading, place.stored_id)
        check = Check("ok", stored.question, stored.suggestion)
        return Saved(reading=stored, check=check, setting=setting, quantity=quantity, repeated=True)
    slot = _slot(place, item)
    entered = min(item.entered_at, arrived)
    elapsed = (entered - place.started_at).total_seconds() * place.speed - place.offset_s
    if item.mark_s > elapsed + 5 * place.speed:  # seconds of a clock that runs ahead
        raise Refused("This mark has not come yet.", "mark")
    keys = {"run_id": run_id, "phase": item.phase, "entry_id": item.entry_id, "mark_s": item.mark_s}
    around = connection.execute(save_queries.around(), keys).all()
    mine = [r for r in around if r.entry_id == item.entry_id]
    before = _superseded(item, mine, setting, quantity)
    time_s, timed = _time(item, None if item.way else before, elapsed, slot)
    value, check = None, Check("ok")
    if not isinstance(item.given, str) or item.given.strip():
        known = _around(connection, item, around, time_s, read, rig)
        value, found = accept(item.given, quantity, setting, "value", source=item.source, around=known)
        if found.check.code == "jump":  # it may be a neighbour's
            known = replace(known, neighbours=_neighbours(connection, run_id, item, place, time_s))
            value, found = accept(item.given, quantity, setting, "value", source=item.source, around=known)
        check = found.check
    elif before is None:
        raise Refused("Nothing typed yet.", "value")
    row = {
        "entry_id": item.entry_id,
        "phase": item.phase,
        "mark_s": item.mark_s,
        "time_s": time_s,
        "timed": timed,
        "value": value,
        "source": item.source,
        "question": "",
        "suggestion": None,
        "client_id": item.client_id,
        "entered_at": entered,
        "arrived_at": arrived,
        "supersedes_id": before.id if before else None,
    }
    if check.answer == "ask" and not item.keep:
        row |= {"question": check.message, "suggestion": check.suggestion}
    elif item.ask and value is not None:
        row["question"] = item.ask
    stored = _store(connection, row, before if item.way == "both" else None)
    again = place.challenge_id if place.closed_at is not None and not place.rehearsal else None
    return Saved(reading=stored, check=check, setting=setting, quantity=quantity, learn_again=again)


def _slot(place: _Row, item: ReadingInput) -> Slot:
    """The mark that a reading is for, with the time within which it counts as taken then."""
    marks = tuple(sorted(float(mark) for mark in (place.marks or "").split(",") if mark))
    for slot in slots_of(marks) if marks else ():
        if slot.mark_s == item.mark_s:
            return slot
    raise Refused("There is no such mark in this run.", "mark")


def _store(connection: Connection, row: dict[str, Any], theirs: _Row | None) -> Reading:
    """Add a row, and `theirs`, which stood there and shall stand, again after it."""
    try:
        new_id = connection.execute(save_queries.store(), row).lastrowid
        if theirs is not None:
            row = _theirs_again(row, theirs, new_id)
            new_id = connection.execute(save_queries.store(), row).lastrowid
    except IntegrityError:
        raise Conflict("Another screen has just written here. Its value is kept.") from None
    return Reading(id=new_id, **row)


def _theirs_again(mine: dict[str, Any], theirs: _Row, mine_id: int) -> dict[str, Any]:
    """What stood there stands again, after mine."""
    return mine | {
        "time_s": theirs.time_s,
        "timed": theirs.timed,
        "value": theirs.value,
        "question": "",
        "suggestion": None,
        "client_id": f"{mine['client_id'][:56]}-theirs",
        "supersedes_id": mine_id,
    }


def same_run(created_at: datetime, made: str) -> None:
    """Numbers of deleted runs are given again: what was typed for the earlier one is not for this one."""
    if made and created_at.isoformat() != made:
        raise Gone("The run this was typed in was deleted. Nothing was stored.")


def _read(place: _Row) -> Reads:
    """What is read in this row; the choices of the brief decide where a family has several."""
    if place.version_id is None and not place.device:
        return AIR
    kind = get_kind(str(place.kind))
    choices = kind.brief.default_choices() | json.loads(place.choices)
    return kind.test.grid_read(choices) or kind.test.reads[0]


def _around(
    connection: Connection,
    item: ReadingInput,
    around: Sequence[_Row],
    time_s: float,
    read: Reads,
    rig: Mapping[str, float],
) -> Around:
    """What the readings so far lead one to expect here."""
    mine = [r for r in around if r.entry_id == item.entry_id]
    earlier = [r for r in mine if r.value is not None and r.time_s < time_s - 1e-6]
    before = float(earlier[-1].value) if earlier else None
    if read.unit != "degC":
        others = [float(r.value) for r in _at_this_mark(around, item) if not r.is_air]
        return Around(before=before, known=known_of(read, rig, {}, others=others))
    expected = _expected(mine, time_s)
    expected = expected or _from_phase_before(connection, item) or _class_start(around, item)
    air_c = None if read is AIR else _air(around, time_s, rig)
    return Around(expected=expected, before=before, air_c=air_c, above_air=read.above_air)


def _at_this_mark(around: Sequence[_Row], item: ReadingInput) -> list[_Row]:
    """What the other rows have at the same mark."""
    return [
        r for r in around if r.mark_s == item.mark_s and r.value is not None and r.entry_id != item.entry_id
    ]


def _air(around: Sequence[_Row], time_s: float, rig: Mapping[str, float]) -> float | None:
    """The air's temperature nearest in time, else what the brief says of it."""
    air = [r for r in around if r.is_air and r.value is not None]
    nearest = min(air, key=lambda r: abs(r.time_s - time_s), default=None)
    return rig.get("air_c") if nearest is None else float(nearest.value)


def _place(connection: Connection, run_id: int, item: ReadingInput) -> _Row:
    """The run, clock and class of an entry in one query."""
    keys = {"entry_id": item.entry_id, "phase": item.phase, "run_id": run_id, "client_id": item.client_id}
    found = connection.execute(save_queries.place(), keys).first()
    if found is None:
        raise Gone("This run, or this row of it, was deleted. Nothing was stored.")
    if found.started_at is None:
        raise Refused("The clock of this phase has not been started.", "phase")
    return found


def _superseded(
    item: ReadingInput, mine: Sequence[_Row], setting: Setting, quantity: Quantity
) -> _Row | None:
    """The reading this one replaces; Conflict if the cell holds another than the screen knew."""
    current = next((r for r in mine if r.mark_s == item.mark_s), None)
    if current is None:
        if item.supersedes_id is None or item.way:
            return None
        mine_now = Way("Write it there", {"way": "mine"})
        raise Conflict("What this should correct is no longer there.", ways=[mine_now])
    known = item.way or current.id == item.supersedes_id or current.client_id == item.after
    if known or current.value is None:
        return current
    shown = setting.show(current.value, quantity.unit, quantity.digits)
    typed = str(item.given)
    ways = [
        Way(f"Write {typed}", {"way": "mine"}),
        Way(f"Keep both: {shown} stands, {typed} beside it", {"way": "both"}),
    ]
    raise Conflict(f"Another screen has written {shown} here meanwhile.", "value", ways)


def _time(item: ReadingInput, before: _Row | None, elapsed: float, slot: Slot) -> tuple[float, bool]:
    if item.at_s is not None:
        if item.at_s < 0 or item.at_s > elapsed + 1:
            raise Refused("That time is not within the run so far.", "time")
        return item.at_s, True
    if before is not None and before.value is not None:  # a correction keeps its moment
        return float(before.time_s), bool(before.timed)
    if item.planned:
        return item.mark_s, False
    return true_time(elapsed, item.mark_s, slot)


def _expected(rows: Sequence[_Row], time_s: float) -> Expectation | None:
    past = {float(r.time_s): float(r.value) for r in rows if r.value is not None and r.time_s < time_s - 1e-6}
    return expect(list(past), list(past.values()), time_s)


def _from_phase_before(connection: Connection, item: ReadingInput) -> Expectation | None:
    """A phase begins near where the one before it ended, a little cooler or warmer."""
    last = connection.scalar(save_queries.last(), {"entry_id": item.entry_id, "phase": item.phase})
    return None if last is None else Expectation(last, 20.0)


def _class_start(around: Sequence[_Row], item: ReadingInput) -> Expectation | None:
    """Before a build has readings of its own, those of the others at this mark are the guide."""
    others = sorted(float(r.value) for r in _at_this_mark(around, item))
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
    for row in connection.execute(
        save_queries.neighbours(), {"run_id": run_id, "phase": item.phase, **beside}
    ):
        by.setdefault(str(row.name), []).append(row)
    expected = {name: _expected(rows, time_s) for name, rows in by.items() if len(rows) > 1}
    return {name: found for name, found in expected.items() if found is not None}
