"""What was noted in a run, from a challenge file into the record: its readings and its attempts."""

from __future__ import annotations

from collections.abc import Mapping

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from thermion.formats.own_things import seen
from thermion.formats.schema import RunItem
from thermion.records.inserting import as_stored, insert_many
from thermion.records.tables import AttemptRow, Reading, Run

READING = (
    "phase",
    "mark_s",
    "time_s",
    "timed",
    "value",
    "source",
    "question",
    "suggestion",
    "entered_at",
    "arrived_at",
)


def readings_in(session: Session, run: Run, item: RunItem, token: str) -> None:
    """All readings in one go: nobody else can write while it lasts."""
    if not item.readings:
        return
    first = (session.scalar(select(func.max(Reading.id))) or 0) + 1
    entries = [entry.id for entry in run.entries]
    rows = [
        {
            **{key: getattr(r, key) for key in READING},
            "id": first + i,
            "entry_id": entries[r.entry],
            "client_id": f"import-{token[:32]}-{item.number}-{i}",
            "supersedes_id": None if r.supersedes is None else first + r.supersedes,
            "entered_at": as_stored(r.entered_at),
            "arrived_at": as_stored(r.arrived_at),
        }
        for i, r in enumerate(item.readings)
    ]
    insert_many(session, Reading, {}, rows)


def attempts_in(session: Session, run: Run, item: RunItem, token: str, words: Mapping[str, str]) -> None:
    stored: list[AttemptRow] = []
    for i, a in enumerate(item.attempts):
        row = AttemptRow(
            entry_id=run.entries[a.entry].id,
            client_id=f"import-{token[:32]}-{item.number}-a{i}",
            supersedes_id=None if a.supersedes is None else stored[a.supersedes].id,
            seen=seen(a.seen, words),
            **a.model_dump(exclude={"entry", "supersedes", "seen"}),
        )
        session.add(row)
        stored.append(row)
        session.flush()
