"""Attempts at a station: the queue, what was noted, corrections, and who takes no more turns."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from itertools import pairwise, zip_longest
from typing import get_args

from sqlalchemy import select
from sqlalchemy.exc import IntegrityError
from sqlalchemy.orm import Session

from thermion.core.judging.doubts import Known
from thermion.core.judging.observed import Around, known_of, quantity_of
from thermion.core.kinds.testing import Reads, counted_out
from thermion.core.kinds.trials import Attempt
from thermion.core.planning.schedule import station_queues
from thermion.core.planning.week import Timing
from thermion.records import moments
from thermion.records.database import asked_once
from thermion.records.errors import Conflict, Gone, Refused, Way
from thermion.records.planning.briefs import Brief
from thermion.records.running.accepting import accept
from thermion.records.tables import AttemptRow, Entry, Run
from thermion.records.tables.runs import Left

SAME_TRY = timedelta(seconds=15)  # two screens that note one build within it may mean one try
FROM = "."  # between a screen and the id of what it sent
LEFT: tuple[Left, ...] = get_args(Left)


@dataclass(frozen=True, kw_only=True)
class AttemptInput:
    """An attempt as typed: numbers by what is read, in the class's units and style."""

    entry_id: int
    typed: Mapping[str, str]
    client_id: str
    seen: tuple[str, ...] = ()
    free: bool = False
    adjusted: bool = False
    note: str = ""
    supersedes_id: int | None = None
    race: str = ""
    machine: tuple[str, ...] = ()  # keys of what a machine read
    screen: str = ""  # which of the screens at this station sent it
    sure: bool = False  # another try than the one that another screen noted just before

    @property
    def stored_id(self) -> str:
        """The client's id, with the screen before it."""
        return f"{self.screen}{FROM}{self.client_id}" if self.screen else self.client_id


@dataclass(frozen=True)
class NotedAttempt:
    """A stored attempt, and what is asked about it; it counts meanwhile."""

    row: AttemptRow
    questions: tuple[str, ...] = ()


@dataclass(frozen=True)
class Queue:
    """Entry ids in the queue of each station, first the one that is on, and attempts of each entry."""

    stations: tuple[tuple[int, ...], ...]
    done: Mapping[int, int]
    each: int

    @property
    def on(self) -> tuple[int, ...]:
        """Who is on, station by station."""
        return tuple(queue[0] for queue in self.stations if queue)

    @property
    def after(self) -> tuple[int, ...]:
        """The turns after these, in the order in which they come up."""
        rounds = zip_longest(*(queue[1:] for queue in self.stations))
        return tuple(entry_id for turns in rounds for entry_id in turns if entry_id is not None)

    def of_station(self, number: int) -> tuple[int, ...]:
        """The queue of a station (from 1), then the others': what a screen there goes on with."""
        first = self.stations[number - 1] if 0 < number <= len(self.stations) else ()
        others = [*self.on, *self.after]
        return (*first, *(i for i in others if i not in first))

    def wait_s(self, entry_id: int, turn_s: float, again_s: float | None = None) -> float | None:
        """How long until this entry's next turn [s]; 0 at a station, None without one. A turn takes `turn_s`,
        another attempt in a row, of a build that is fitted, only `again_s`."""
        queue = next((q for q in self.stations if entry_id in q), None)
        if queue is None:
            return None
        before = queue[: queue.index(entry_id)]
        again = sum(a == b for a, b in pairwise(before))
        if not again or again_s is None:
            return len(before) * turn_s
        return (len(before) - again) * turn_s + again * again_s


def all_attempts(session: Session, run_ids: Sequence[int]) -> list[AttemptRow]:
    """Every attempt ever noted in these runs, replaced and withdrawn ones too, in order."""
    found = (
        select(AttemptRow)
        .join(Entry, Entry.id == AttemptRow.entry_id)
        .where(Entry.run_id.in_(run_ids))
        .order_by(AttemptRow.at, AttemptRow.id)
    )
    return asked_once(session, ("attempts", *run_ids), lambda: list(session.scalars(found)))


def current_attempts(session: Session, run_ids: Sequence[int]) -> list[AttemptRow]:
    """Attempts that nothing supersedes and that were not taken back, in order."""
    every = all_attempts(session, run_ids)
    followed = {row.supersedes_id for row in every}
    return [row for row in every if row.id not in followed and not row.withdrawn]


def earlier_attempts(session: Session, run: Run, entry: Entry) -> list[AttemptRow]:
    """What the same version gave in other real tests of its challenge."""
    if entry.version_id is None:
        return []
    others = session.scalars(
        select(Run.id)
        .join(Entry, Entry.run_id == Run.id)
        .where(Entry.version_id == entry.version_id, Run.id != run.id, Run.rehearsal.is_(False))
    ).all()
    found = current_attempts(session, others) if others else []
    rows = set(session.scalars(select(Entry.id).where(Entry.version_id == entry.version_id)))
    return [row for row in found if row.entry_id in rows]


def pulse(session: Session, run: Run) -> str:
    """A word that differs as soon as anything was noted, started, closed or put aside in a run."""
    newest = max((row.id for row in all_attempts(session, [run.id])), default=0)
    left = " ".join(e.left for e in run.entries)
    return f"{newest} {len(run.phases)} {run.closed_at is None} {left}"


def replaced(session: Session, run_id: int, rows: Sequence[AttemptRow]) -> dict[int, list[AttemptRow]]:
    """What each of these attempts was before it was corrected, newest first."""
    every = {r.id: r for r in all_attempts(session, [run_id])}
    out: dict[int, list[AttemptRow]] = {}
    for row in rows:
        at = every.get(row.supersedes_id or 0)
        while at is not None:
            out.setdefault(row.id, []).append(at)
            at = every.get(at.supersedes_id or 0)
    return out


def as_core(row: AttemptRow) -> Attempt:
    return Attempt(dict(row.values), tuple(row.seen.split()), row.free)


def queue_of(run: Run, rows: Sequence[AttemptRow], timing: Timing) -> Queue:
    """Who is on, and who comes after: everyone once before anyone twice, or all attempts in a row; the control
    first."""
    entries = [e for e in run.entries if not e.is_air]
    done = {e.id: sum(r.entry_id == e.id and not r.free for r in rows) for e in entries}
    going = [e.id for e in entries if not e.left]
    at = [i for i, e in enumerate(entries) if not e.left]  # its station stays, whoever else goes away
    queues = station_queues(
        [done[i] for i in going], at, timing.stations, timing.attempts, in_row=timing.in_row
    )
    return Queue(tuple(tuple(going[i] for i in queue) for queue in queues), done, timing.attempts)


def save_attempt(
    session: Session, run: Run, brief: Brief, item: AttemptInput, now: datetime | None = None
) -> AttemptRow:
    """Check and store one attempt: see `note_attempt`."""
    return note_attempt(session, run, brief, item, now).row


def note_attempt(
    session: Session, run: Run, brief: Brief, item: AttemptInput, now: datetime | None = None
) -> NotedAttempt:
    """Check and store one attempt, and say what is asked about it.

    Refused, naming the field, for what cannot be: more than there is, a time of zero with a
    result, an entry that is not in the run or takes no more turns. Sending it twice stores it
    once. A correction that lost against another screen is a Conflict.
    """
    stored = session.scalar(select(AttemptRow).where(AttemptRow.client_id == item.stored_id))
    if stored is not None:
        return NotedAttempt(stored)
    entry = _in_turn(run, brief, item)
    known = {o.key for o in brief.kind.test.observations}
    every = current_attempts(session, [run.id])
    mine = [r for r in every if r.entry_id == entry.id]
    before = _superseded(mine, item)
    rest = [r for r in every if r is not before]
    values, questions = _values(brief, item.typed, rest, entry.id)
    at = now or moments.now()
    if before is None and mine and not item.sure:
        _ask_if_the_same(mine[-1], item, brief, at)
    row = AttemptRow(
        entry_id=entry.id,
        values=values,
        seen=" ".join(s for s in item.seen if s in known),
        adjusted=_letter(mine, before, item),
        note=item.note.strip()[:200],
        free=item.free,
        client_id=item.stored_id,
        at=at,
        race=item.race,
        machine=" ".join(key for key in dict.fromkeys(item.machine) if key in values),
    )
    if before is not None:  # a correction keeps its moment and its race
        row.at, row.race, row.supersedes_id = before.at, before.race, before.id
    session.add(row)
    try:
        session.flush()
    except IntegrityError:
        raise Conflict("Another screen has just corrected this attempt. Look again.") from None
    return NotedAttempt(row, tuple(questions))


def _in_turn(run: Run, brief: Brief, item: AttemptInput) -> Entry:
    """The row that an attempt is of; refused where no attempt can be noted there now."""
    entry = next((e for e in run.entries if e.id == item.entry_id), None)
    if entry is None:
        raise Gone("This build is not in the queue of this run.")
    new = item.supersedes_id is None
    if entry.left and new:
        raise Refused(f"This team is marked {entry.left}. Put it back into the queue first.")
    if run.closed_at is not None and new:
        raise Refused("This run is closed. Open it again for another turn.", "closed")
    if brief.kind.test.shape == "marks":
        raise Refused("This test is read at marks, not in turns.")
    return entry


def _ask_if_the_same(last: AttemptRow, item: AttemptInput, brief: Brief, at: datetime) -> None:
    """Refuse until it is answered whether two screens noted one try."""
    screen, other, _ = last.client_id.partition(FROM)
    if not item.screen or not other or screen == item.screen or at - last.at > SAME_TRY:
        return
    shown = ", ".join(
        f"{r.label.lower()} {brief.setting.show(last.values[r.key], r.unit, r.digits)}"
        for r in brief.kind.test.attempt_reads(brief.choices)
        if r.key in last.values
    )
    raise Conflict(
        f"Another screen noted {shown} here a moment ago. Is this the same try?",
        ways=[Way("No, one more try: keep it too", {"sure": "1"})],
    )


def _superseded(mine: Sequence[AttemptRow], item: AttemptInput) -> AttemptRow | None:
    if item.supersedes_id is None:
        return None
    found = next((r for r in mine if r.id == item.supersedes_id), None)
    if found is None:
        raise Conflict("This attempt was corrected or taken back on another screen.")
    return found


def _letter(mine: Sequence[AttemptRow], before: AttemptRow | None, item: AttemptInput) -> str:
    """No letter at first; a, b … each time something was changed on the spot."""
    if before is not None:
        return before.adjusted
    last = mine[-1].adjusted if mine else ""
    if not item.adjusted:
        return last
    return chr(ord(last) + 1) if last and last < "z" else (last or "a")


def _values(
    brief: Brief, typed: Mapping[str, str], rows: Sequence[AttemptRow], entry_id: int
) -> tuple[dict[str, float], list[str]]:
    """What was typed by what is read [stored units], and what is asked about it beside what the run's
    other attempts gave."""
    reads = brief.kind.test.attempt_reads(brief.choices)
    values: dict[str, float] = {}
    questions = []
    for read in reads:
        text = typed.get(read.key, "").strip()
        if not text:
            if read.optional:
                continue
            raise Refused(f"{read.label}: a number is needed; nothing at all is 0.", read.key)
        quantity = quantity_of(read, brief.values, values)
        around = Around(known=_beside(brief, read, counted_out(reads, values), rows, entry_id))
        values[read.key], found = accept(text, quantity, brief.setting, read.key, around=around)
        if found.check.answer == "ask":
            questions.append(f"{read.label}: {found.check.message}")
        values = brief.kind.test.complete(values, brief.values)
    moved = any(values.get(r.key, 0.0) > 0 for r in reads if r.zero)
    if moved and values.get("time_s") == 0:
        raise Refused("A time of zero cannot be: leave it empty if it was not taken.", "time_s")
    return values, questions


def _beside(
    brief: Brief, read: Reads, counted: Mapping[str, float], rows: Sequence[AttemptRow], entry_id: int
) -> Known:
    """What the other attempts gave: a lift's time is that of its load, so only those with the same
    count."""
    like = [r for r in rows if read.key in r.values and counted.items() <= r.values.items()]
    return known_of(
        read,
        brief.values,
        brief.tolerance,
        earlier=[r.values[read.key] for r in like if r.entry_id == entry_id],
        others=[r.values[read.key] for r in like if r.entry_id != entry_id],
    )


def take_back(session: Session, run: Run, attempt_id: int, client_id: str) -> None:
    """Take an attempt back; it stays in the record as withdrawn. A second time is harmless."""
    _again(session, run, attempt_id, client_id, withdrawn=True)


def confirm(session: Session, run: Run, attempt_id: int, client_id: str) -> None:
    """What a team noted of itself is so: it stands once more, by who looked at it."""
    _again(session, run, attempt_id, client_id, withdrawn=False)


def _again(session: Session, run: Run, attempt_id: int, client_id: str, *, withdrawn: bool) -> None:
    found = next((r for r in current_attempts(session, [run.id]) if r.id == attempt_id), None)
    if found is None:
        return
    session.add(
        AttemptRow(
            entry_id=found.entry_id,
            values=dict(found.values),
            seen=found.seen,
            adjusted=found.adjusted,
            note=found.note,
            free=found.free,
            withdrawn=withdrawn,
            race=found.race,
            machine=found.machine,
            client_id=client_id,
            at=moments.now() if withdrawn else found.at,
            supersedes_id=found.id,
        )
    )
    session.flush()


def leave(session: Session, run: Run, entry_id: int, state: str) -> None:
    """Absent or broken: no more turns, what was noted stays. "" puts it back into the queue."""
    entry = next((e for e in run.entries if e.id == entry_id), None)
    if entry is None or state not in LEFT:
        raise Gone("This build is not in the queue of this run.")
    entry.left = next(known for known in LEFT if known == state)
    session.flush()
