"""A table that was typed elsewhere into a run: all of it or nothing, and out again as one."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import Literal

from sqlalchemy import select
from sqlalchemy.orm import Session, aliased

from thermion.core.judging.observed import observe, quantity_of
from thermion.records import moments
from thermion.records.errors import Refused
from thermion.records.planning.briefs import Brief
from thermion.records.running.attempts import AttemptInput, current_attempts, note_attempt, take_back
from thermion.records.running.later_readings import save_later
from thermion.records.running.noting import note
from thermion.records.running.on_paper import hold_on_paper
from thermion.records.running.readings import ReadingInput, save_reading
from thermion.records.running.runs import cells
from thermion.records.tables import AttemptRow, Entry, Reading, Run

NAME = "table"  # begins the client id of all that came with one
Over = Literal["ask", "keep", "replace"]


@dataclass(frozen=True, kw_only=True)
class PlacedValue:
    """One value of a test at marks, at its row, phase and mark [s]; `at_s` is the time taken where it is
    known. A later reading has its key as the phase, and no mark. `where` is its cell in the table, `row` its
    line there, in words."""

    where: str
    row: str = ""
    line: int
    phase: str
    mark_s: float | None
    typed: str
    at_s: float | None = None


@dataclass(frozen=True, kw_only=True)
class Attempted:
    """One attempt, as typed, by the key of what is read."""

    where: str
    line: int
    typed: Mapping[str, str]
    seen: tuple[str, ...] = ()
    note: str = ""


@dataclass(frozen=True)
class Clash:
    """A value of the table where another stands already [both as written]."""

    where: str
    stands: str
    typed: str


@dataclass(kw_only=True)
class Outcome:
    """What a table would do, or did: values `stored`, the `same` as stand there, those that `clash`; what
    cannot be taken and what is asked about, each at its cell and in words."""

    stored: int = 0
    same: int = 0
    clash: list[Clash] = field(default_factory=list)
    wrong: list[tuple[str, str]] = field(default_factory=list)
    asked: list[tuple[str, str]] = field(default_factory=list)

    @property
    def whole(self) -> bool:
        """Whether nothing stands in its way."""
        return not self.wrong and not self.clash


def put_in(
    session: Session,
    run: Run,
    brief: Brief,
    values: Sequence[PlacedValue | Attempted],
    table_id: str,
    over: Over = "ask",
) -> Outcome:
    """Note everything a table holds; the caller commits only what is `whole`.

    A test at marks whose clock was never started is held on paper from now on. `over` says what becomes of
    a value where another stands already. Refused where the table stands in this run.
    """
    if is_in(session, run, table_id):
        raise Refused("This table is in this test already. Take it back first.")
    if run.closed_at is not None and any(isinstance(one, Attempted) for one in values):
        raise Refused("This test is closed. Open it again there, then bring the table.")
    prefix = f"{NAME}-{table_id[:16]}-{_times(session, table_id)}"
    if brief.kind.test.shape == "marks" and not run.phases:
        hold_on_paper(session, run, brief)
    out = Outcome()
    standing = cells(session, run) if brief.kind.test.shape == "marks" else {}
    current = {spot: cell.reading for spot, cell in standing.items() if cell.reading is not None}
    in_order = sorted(values, key=lambda v: getattr(v, "mark_s", None) or 0.0)
    for number, one in enumerate(in_order):
        client_id = f"{prefix}-{number}"
        try:
            if isinstance(one, Attempted):
                _attempt(session, run, brief, one, client_id, out)
            elif one.mark_s is None:
                _later(session, run, brief, one, client_id, out)
            else:
                _reading(session, run, brief, one, client_id, current, over, out)
        except Refused as refused:
            out.wrong.append((one.where, refused.message))
    return out


def _times(session: Session, table_id: str) -> int:
    """How many values of this table were ever put in: so it can come again after it was taken back."""
    found = f"{NAME}-{table_id[:16]}-"
    return sum(
        len(session.scalars(select(table.id).where(table.client_id.startswith(found, autoescape=True))).all())
        for table in (Reading, AttemptRow)
    )


def _attempt(session: Session, run: Run, brief: Brief, one: Attempted, client_id: str, out: Outcome) -> None:
    noted = note_attempt(
        session,
        run,
        brief,
        AttemptInput(
            entry_id=one.line, typed=one.typed, client_id=client_id, seen=one.seen, note=one.note, sure=True
        ),
    )
    out.stored += 1
    out.asked += [(one.where, question) for question in noted.questions]


def _later(session: Session, run: Run, brief: Brief, one: PlacedValue, client_id: str, out: Outcome) -> None:
    check = save_later(
        session, run, brief, entry_id=one.line, typed=one.typed, client_id=client_id, at_s=one.at_s
    )
    out.stored += 1
    if check.message:
        out.asked.append((one.where, check.message))


def _reading(
    session: Session,
    run: Run,
    brief: Brief,
    one: PlacedValue,
    client_id: str,
    current: Mapping[tuple[int, str, float], Reading],
    over: Over,
    out: Outcome,
) -> None:
    entry = next((e for e in run.entries if e.id == one.line), None)
    before = current.get((one.line, one.phase, one.mark_s or 0.0))
    if before is not None and before.value is not None and entry is not None:
        quantity = quantity_of(brief.read_at(entry.is_air), brief.values)
        found = observe(one.typed, quantity, brief.setting)
        if found.value is not None and abs(found.value - before.value) <= 1e-9 * max(1.0, abs(before.value)):
            out.same += 1
            return
        if over != "replace":
            stands = brief.setting.show(before.value, quantity.unit, quantity.digits)
            if over == "ask":
                out.clash.append(Clash(one.where, stands, one.typed))
            return
    saved = save_reading(
        session,
        run.id,
        ReadingInput(
            entry_id=one.line,
            phase=one.phase,
            mark_s=one.mark_s or 0.0,
            given=one.typed,
            client_id=client_id,
            entered_at=moments.now(),
            supersedes_id=before.id if before is not None else None,
            at_s=one.at_s,
            planned=one.at_s is None,
        ),
    )
    out.stored += 1
    if saved.check.answer == "ask":
        out.asked.append((one.where, saved.check.message))


def _rows(session: Session, run: Run, table_id: str) -> tuple[list[Reading], list[AttemptRow]]:
    """What came with a table into a run, and was neither corrected nor taken back since."""
    prefix = f"{NAME}-{table_id[:16]}-"
    after = aliased(Reading)
    noted = session.scalars(
        select(Reading)
        .join(Entry, Entry.id == Reading.entry_id)
        .outerjoin(after, after.supersedes_id == Reading.id)
        .where(
            Entry.run_id == run.id, Reading.client_id.startswith(prefix, autoescape=True), after.id.is_(None)
        )
        .order_by(Reading.id)
    )
    tried = [a for a in current_attempts(session, [run.id]) if a.client_id.startswith(prefix)]
    return list(noted), tried


def is_in(session: Session, run: Run, table_id: str) -> bool:
    """Whether anything of a table stands in a run as it came."""
    noted, tried = _rows(session, run, table_id)
    return bool(noted or tried)


def take_table_back(session: Session, run: Run, table_id: str) -> int:
    """Take back what came with a table and was not corrected since; what it replaced stands again.

    Returns how many values. All of it stays in the record.
    """
    noted, tried = _rows(session, run, table_id)
    earlier = {
        r.id: r
        for r in session.scalars(
            select(Reading).where(Reading.id.in_([n.supersedes_id for n in noted if n.supersedes_id]))
        )
    }
    at = moments.now()
    for row in noted:
        before = earlier.get(row.supersedes_id or 0)
        stands = before if before is not None else row
        again = note(
            session,
            entry_id=row.entry_id,
            phase=row.phase,
            time_s=stands.time_s,
            value=None if before is None else before.value,
            client_id=f"back-{row.client_id}",
            at=at,
            instead_of=row.id,
        )
        again.mark_s, again.timed = row.mark_s, stands.timed
    for tried_one in tried:
        take_back(session, run, tried_one.id, f"back-{tried_one.client_id}")
    session.flush()
    return len(noted) + len(tried)
