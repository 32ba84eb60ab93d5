"""A logger's file in a run: all of it or nothing, each value held against what its row reads."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime

from sqlalchemy import insert, select
from sqlalchemy.orm import Session

from thermion.core.judging.observed import observe_many, quantity_of
from thermion.core.physics.units import clock_text
from thermion.records import moments
from thermion.records.errors import Gone, Refused
from thermion.records.planning.briefs import Brief
from thermion.records.tables import Entry, Reading, Run, RunPhase


@dataclass(frozen=True)
class LoggedChannel:
    """A column of a file matched to a row of the run: times from the phase's start [s], values [unit]."""

    entry_id: int
    time_s: tuple[float, ...]
    value: tuple[float, ...]
    unit: str


def logs_temperature(brief: Brief) -> bool:
    """Whether the builds of this challenge are read in what a temperature logger records."""
    return brief.kind.test.held == "marks" and brief.read_at(air=False).unit == "degC"


def add_logged(
    session: Session,
    run: Run,
    brief: Brief,
    phase: str,
    started_at: datetime,
    channels: Sequence[LoggedChannel],
    file_id: str,
    now: datetime | None = None,
) -> int:
    """Store a whole file's values, or none. Sending the same file again stores nothing twice.

    The phase's clock is set to `started_at` if it has none yet. Returns how many were stored.
    Refused, naming the row and the moment, when a value cannot be what that row reads.
    """
    arrived = now or moments.now()
    prefix = f"file-{file_id}-{phase}"
    if session.scalar(select(Reading.id).where(Reading.client_id == f"{prefix}-0")) is not None:
        return 0
    entries = {e.id: e for e in run.entries}
    if any(channel.entry_id not in entries for channel in channels):
        raise Gone("The file was matched to a run that has changed. Match it again.")
    found = [(c, _stored(entries[c.entry_id], c, brief)) for c in channels]
    if phase not in {p.phase for p in run.phases}:
        run.phases.append(RunPhase(phase=phase, started_at=started_at))
        session.flush()
    rows = [
        {
            "entry_id": channel.entry_id,
            "phase": phase,
            "mark_s": None,
            "time_s": time_s,
            "timed": True,
            "value": value,
            "source": "file",
            "question": "",
            "entered_at": arrived,
            "arrived_at": arrived,
        }
        for time_s, channel, value in sorted(
            ((t, c, v) for c, values in found for t, v in zip(c.time_s, values, strict=True)),
            key=lambda x: x[0],
        )
    ]
    if rows:
        session.execute(
            insert(Reading), [{**row, "client_id": f"{prefix}-{i}"} for i, row in enumerate(rows)]
        )
    return len(rows)


def _stored(entry: Entry, channel: LoggedChannel, brief: Brief) -> list[float]:
    """The values of a channel in the stored unit."""
    quantity = quantity_of(brief.read_at(entry.is_air), brief.values)
    if quantity.unit != "degC":
        unit = brief.setting.label(quantity.unit)
        raise Refused(
            f"This run reads {quantity.label.lower()}{f' in {unit}' if unit else ''}, "
            "and this file holds temperatures.",
            "match",
        )
    values, wrong, check = observe_many(channel.value, quantity, brief.setting, unit=channel.unit)
    if wrong is None:
        return [float(v) for v in values]
    name = "the air"
    if entry.version is not None:
        name = entry.version.build.team.name
    elif entry.is_control:
        name = "the control"
    moment = clock_text(channel.time_s[wrong])
    raise Refused(f"{moment} of {name}: {check.message} Is the column's unit right?", "match")
