"""What was noted in a run, from a challenge file into the record: its readings and its attempts."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from thermion.formats.own_things import seen
from thermion.formats.schema import RunItem
from thermion.records.inserting import as_stored, insert_stored
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
    "by",
)


MOMENTS = {"entered_at", "arrived_at"}
COLUMNS = ("id", "entry_id", "supersedes_id", "client_id", *READING)


@dataclass(frozen=True, slots=True)
class NotedReading:
    """A reading of a file as the database takes it: its row in the run, which of the run's readings it
    corrects, and the columns `READING`."""

    entry: int
    corrects: int | None
    stored: tuple[float | str | bool | None, ...]


def noted_readings(item: RunItem) -> list[NotedReading]:
    """All that can be done for a run's readings before it is anybody's turn to write."""
    return [
        NotedReading(
            r.entry,
            r.supersedes,
            tuple(as_stored(getattr(r, key)) if key in MOMENTS else getattr(r, key) for key in READING),
        )
        for r in item.readings
    ]


def readings_in(session: Session, run: Run, readings: Sequence[NotedReading], token: str) -> None:
    """All readings in one go: nobody else can write while it lasts."""
    first = (session.scalar(select(func.max(Reading.id))) or 0) + 1
    entries = [entry.id for entry in run.entries]
    name = f"import-{token[:32]}-{run.number}"
    rows = [
        (
            first + i,
            entries[r.entry],
            None if r.corrects is None else first + r.corrects,
            f"{name}-{i}",
            *r.stored,
        )
        for i, r in enumerate(readings)
    ]
    insert_stored(session, Reading, COLUMNS, rows)


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
