"""What is read once more after the test: ice weighed at the end, water left in a store."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from datetime import datetime

from sqlalchemy import select
from sqlalchemy.orm import Session, aliased

from thermion.core.judging.observed import quantity_of
from thermion.core.values import Check
from thermion.records import moments
from thermion.records.errors import Gone, Refused
from thermion.records.planning.briefs import Brief
from thermion.records.running.accepting import accept
from thermion.records.running.noting import note
from thermion.records.tables import Entry, Reading, Run


def current_later(session: Session, run: Run, brief: Brief) -> Mapping[int, Sequence[Reading]]:
    """What was read later of each row, in order, without what was taken back."""
    later = brief.kind.test.later_for(brief.choices)
    out: dict[int, list[Reading]] = {}
    if later is None:
        return out
    after = aliased(Reading)
    rows = session.scalars(
        select(Reading)
        .join(Entry, Entry.id == Reading.entry_id)
        .outerjoin(after, after.supersedes_id == Reading.id)
        .where(
            Entry.run_id == run.id,
            Reading.phase == later.read.key,
            after.id.is_(None),
            Reading.value.is_not(None),
        )
        .order_by(Reading.time_s, Reading.id)
    )
    for row in rows:
        out.setdefault(row.entry_id, []).append(row)
    return out


def save_later(
    session: Session,
    run: Run,
    brief: Brief,
    *,
    entry_id: int,
    typed: str,
    client_id: str,
    now: datetime | None = None,
    at_s: float | None = None,
) -> Check:
    """Keep one later reading at this moment, or at a time [s] that is given, from the start of the run.

    What the family doubts (ice that does not add up, water that grew) is kept and asked about.
    """
    later = brief.kind.test.later_for(brief.choices)
    entry = next((e for e in run.entries if e.id == entry_id and not e.is_air), None)
    if entry is None or later is None:
        raise Gone("This build is not in this run.")
    read = later.read
    if not run.phases:
        raise Refused("This run has not been started.")
    stored = session.scalar(select(Reading).where(Reading.client_id == client_id))
    if stored is not None:
        return Check("ok", "")  # asked when it came first
    if not typed.strip():
        raise Refused("Nothing typed yet.", read.key)
    value, found = accept(typed, quantity_of(read, brief.values), brief.setting, read.key)
    moment = now or moments.now()
    before = current_later(session, run, brief).get(entry.id, [])
    last = session.scalar(
        select(Reading.value)
        .where(Reading.entry_id == entry.id, Reading.phase != read.key, Reading.value.is_not(None))
        .order_by(Reading.time_s.desc(), Reading.id.desc())
        .limit(1)
    )
    earlier = [r.value for r in before if r.value is not None]
    check = found.check
    if check.answer == "ok":
        check = later.doubt(value, earlier, last, brief.values, brief.choices)
    start = min(p.started_at for p in run.phases)
    note(
        session,
        entry_id=entry.id,
        phase=read.key,
        time_s=(moment - start).total_seconds() * run.speed if at_s is None else at_s,
        value=value,
        client_id=client_id,
        at=moment,
        check=check,
    )
    return check


def take_later_back(session: Session, run: Run, brief: Brief, reading_id: int) -> None:
    """Take a later reading back; it stays in the record. A second time is harmless."""
    rows = current_later(session, run, brief)
    found = next((r for each in rows.values() for r in each if r.id == reading_id), None)
    if found is None:
        return
    note(
        session,
        entry_id=found.entry_id,
        phase=found.phase,
        time_s=found.time_s,
        value=None,
        client_id=f"back-{found.id}",
        at=moments.now(),
        instead_of=found.id,
    )
