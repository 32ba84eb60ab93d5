"""A logger's file in a run: laid on the run's clock, seen before it is stored, and taken back."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from datetime import UTC, datetime, timedelta
from itertools import pairwise
from typing import Literal
from zoneinfo import ZoneInfo

from sqlalchemy import select
from sqlalchemy.orm import Session

from thermion.core.judging.afterwards import FLOOR_K, lone_reading
from thermion.core.judging.observed import observe, possible_values, quantity_of
from thermion.core.physics.units import clock_text
from thermion.records import moments
from thermion.records.errors import Gone, Refused
from thermion.records.inserting import insert_many
from thermion.records.planning.briefs import Brief
from thermion.records.running.series import NOTHING, Series, series_of
from thermion.records.tables import Entry, Reading, Run, RunPhase

Overlap = Literal["both", "gaps"]
MOST_WRONG = 0.05  # of a channel's values that may be none of what its row reads
_FIELDS = {"mark_s": None, "timed": True, "source": "file", "question": ""}
FARTHEST_S = 2 * 86400.0  # of a file from the clock it is laid on


@dataclass(frozen=True)
class LoggedChannel:
    """A column of a file matched to a row of the run: times from the phase's start [s], values [unit].

    `line` names where each value stands in the file, where that is known.
    """

    entry_id: int
    time_s: tuple[float, ...]
    value: tuple[float, ...]
    unit: str


@dataclass(frozen=True, kw_only=True)
class FileLaid:
    """What storing a file would do: how many values, and how many would be left out for which reason."""

    stored: int
    before: int = 0  # before the test began
    beyond: int = 0  # no value of what is read there
    over: int = 0  # at moments that hold readings already
    marks: int = 0  # readings at marks within its time, which stay
    lone: tuple[tuple[str, float, float], ...] = ()  # row, time [s] and value [°C] of what lies apart
    channels: tuple[LoggedChannel, ...] = field(default=(), repr=False)


def logs_temperature(brief: Brief) -> bool:
    """Whether the builds of this challenge are read in what a temperature logger records."""
    return brief.kind.test.shape == "marks" and brief.read_at(air=False).unit == "degC"


def begins_at(
    run: Run, phase: str, starts_at: datetime | None, of_day_s: float | None, length_s: float, zone: str
) -> tuple[float, str]:
    """Where a file's first reading falls on the clock of a phase [s], and how that is known.

    ``date``, ``clock`` (of the day on which the phase began) or ``""``: nobody says, it ends now or with the
    test. A file without a running phase begins with it.
    """
    local = ZoneInfo(zone)
    started = next((p.started_at for p in run.phases if p.phase == phase), None)
    if started is None:
        return 0.0, "date" if starts_at is not None else ""
    if starts_at is not None:
        moment = starts_at if starts_at.tzinfo else starts_at.replace(tzinfo=local)
        return (moment.astimezone(UTC) - started).total_seconds(), "date"
    if of_day_s is not None:
        day = started.astimezone(local).replace(hour=0, minute=0, second=0, microsecond=0)
        shift = (day + timedelta(seconds=of_day_s) - started).total_seconds()
        return min((shift + d * 86400.0 for d in (-1, 0, 1)), key=abs), "clock"
    return 0.0, ""


def lay(
    session: Session,
    run: Run,
    brief: Brief,
    phase: str,
    channels: Sequence[LoggedChannel],
    overlap: Overlap = "both",
) -> FileLaid:
    """What would be stored of a file as it is laid now, and what not.

    Refused, naming the row and the moment, when a channel is hardly ever what its row reads.
    """
    entries = {e.id: e for e in run.entries}
    if any(channel.entry_id not in entries for channel in channels):
        raise Gone("The file was matched to a run that has changed. Match it again.")
    there = series_of(session, [run])
    out, before, beyond, over, marks = [], 0, 0, 0, 0
    lone = []
    for channel in channels:
        inside = [(t, v) for t, v in zip(channel.time_s, channel.value, strict=True) if t >= 0]
        before += len(channel.time_s) - len(inside)
        kept, wrong = _possible(entries[channel.entry_id], _with(channel, inside), brief)
        beyond += wrong
        apart = lone_reading([t for t, _ in kept], [v for _, v in kept], FLOOR_K) if kept else None
        if apart is not None:
            lone.append((row_name(entries[channel.entry_id]), kept[apart.index][0], apart.value))
        series = there.get((channel.entry_id, phase), NOTHING)
        clashing = _taken(kept, series)
        over += len(clashing)
        if kept:
            marks += sum(kept[0][0] <= m <= kept[-1][0] for m in series.marks)
        if overlap == "gaps":
            kept = [pair for i, pair in enumerate(kept) if i not in clashing]
        out.append(replace(_with(channel, kept), unit="degC"))
    return FileLaid(
        stored=sum(len(c.time_s) for c in out),
        before=before,
        beyond=beyond,
        over=over,
        marks=marks,
        lone=tuple(lone),
        channels=tuple(out),
    )


def _with(channel: LoggedChannel, pairs: Sequence[tuple[float, float]]) -> LoggedChannel:
    return replace(channel, time_s=tuple(t for t, _ in pairs), value=tuple(v for _, v in pairs))


def _taken(pairs: Sequence[tuple[float, float]], series: Series) -> set[int]:
    """Which values fall where a logger or a probe has left readings already, within its own interval."""
    if not series.loose.time_s or not pairs:
        return set()
    times = series.loose.time_s
    gaps = sorted(b - a for a, b in pairwise(times))
    room = max(gaps[len(gaps) // 2] if gaps else 0.0, 0.5)
    return {i for i, (t, _) in enumerate(pairs) if abs(times[series.loose.nearest(t)] - t) <= room}


def add_logged(
    session: Session,
    run: Run,
    brief: Brief,
    phase: str,
    started_at: datetime,
    channels: Sequence[LoggedChannel],
    file_id: str,
    now: datetime | None = None,
    overlap: Overlap = "both",
) -> int:
    """Store a whole file's values, or none. Sending the same file again stores nothing twice.

    The phase's clock is set to `started_at` if it has none yet. Returns how many were stored.
    Values before the start, and those that cannot be what their row reads, are left out.
    """
    arrived = now or moments.now()
    prefix = _prefix(session, file_id, phase)
    if prefix is None:
        return 0
    laid = lay(session, run, brief, phase, channels, overlap)
    if phase not in {p.phase for p in run.phases}:
        run.phases.append(RunPhase(phase=phase, started_at=started_at))
        session.flush()
    same = _FIELDS | {"phase": phase, "entered_at": arrived, "arrived_at": arrived}
    values = ((t, c.entry_id, v) for c in laid.channels for t, v in zip(c.time_s, c.value, strict=True))
    rows = [
        {"entry_id": entry_id, "time_s": time_s, "value": value, "client_id": f"{prefix}-{i}"}
        for i, (time_s, entry_id, value) in enumerate(sorted(values))
    ]
    insert_many(session, Reading, same, rows)
    return len(rows)


def _prefix(session: Session, file_id: str, phase: str) -> str | None:
    """How the readings of a file are called; None while it is in. One taken back can be laid in again."""
    for again in range(100):
        prefix = _name(file_id, phase, again)
        if session.scalar(select(Reading.id).where(Reading.client_id == f"{prefix}-0")) is None:
            return prefix
        if session.scalar(select(Reading.id).where(Reading.client_id == f"back-{prefix}-0")) is None:
            return None
    return None


def _name(file_id: str, phase: str, again: int) -> str:
    return f"file-{file_id}-{phase}" + (f".{again}" if again else "")


def is_in(session: Session, file_id: str, phase: str) -> bool:
    """Whether a file stands in a phase of the run that `file_id` names."""
    return _prefix(session, file_id, phase) is None


def take_back(session: Session, file_id: str, phase: str) -> int:
    """Take a file's readings out of a run again; what it held stays in the record, replaced by nothing."""
    for again in range(100):
        prefix = _name(file_id, phase, again)
        if session.scalar(select(Reading.id).where(Reading.client_id == f"back-{prefix}-0")) is not None:
            continue
        rows = session.execute(
            select(Reading.id, Reading.entry_id, Reading.time_s)
            .where(Reading.client_id.startswith(f"{prefix}-", autoescape=True))
            .order_by(Reading.id)
        ).all()
        at = moments.now()
        same = _FIELDS | {"phase": phase, "value": None, "entered_at": at, "arrived_at": at}
        gone = [
            {"entry_id": e, "time_s": t, "supersedes_id": of, "client_id": f"back-{prefix}-{i}"}
            for i, (of, e, t) in enumerate(rows)
        ]
        insert_many(session, Reading, same, gone)
        return len(rows)
    return 0


def _possible(entry: Entry, channel: LoggedChannel, brief: Brief) -> tuple[list[tuple[float, float]], int]:
    """Times and values [stored unit] that can be what the row reads, and how many cannot."""
    quantity = quantity_of(brief.read_at(entry.is_air), brief.values)
    if quantity.unit != "degC":
        unit = brief.setting.label(quantity.unit)
        raise Refused(
            f"This run reads {quantity.label.lower()}{f' in {unit}' if unit else ''}, "
            "and this file holds temperatures.",
            "match",
        )
    values, possible = possible_values(channel.value, quantity, unit=channel.unit)
    wrong = len(channel.value) - sum(possible)
    if wrong > max(3, MOST_WRONG * len(channel.value)):
        first = possible.index(False)
        given = observe(channel.value[first], quantity, brief.setting, unit=channel.unit, source="file")
        moment = clock_text(channel.time_s[first])
        raise Refused(
            f"{moment} of {row_name(entry)}: {given.check.message} Is the column's unit right?", "match"
        )
    return [(t, v) for t, v, ok in zip(channel.time_s, values, possible, strict=True) if ok], wrong


def likely_rows(entries: Sequence[Entry], headings: Sequence[str]) -> list[int]:
    """The row that each column is likely of, by its heading (0: none); no row is taken twice.

    A team's whole name says more than its letter, which may be a letter of another's column.
    """
    out = [0] * len(headings)
    for tells in (_named, _lettered):
        for i, heading in enumerate(headings):
            if not out[i]:
                out[i] = next((e.id for e in entries if e.id not in out and tells(e, heading)), 0)
    return out


def _named(entry: Entry, heading: str) -> bool:
    if entry.version is not None:
        return entry.version.build.team.name.casefold() in heading.casefold()
    said = set(heading.casefold().replace("_", " ").split())
    return bool({"air", "outside", "ambient"} & said) if entry.is_air else "control" in said


def _lettered(entry: Entry, heading: str) -> bool:
    said = set(heading.casefold().replace("_", " ").split())
    return entry.version is not None and entry.version.build.team.letter.casefold() in said


def row_name(entry: Entry) -> str:
    """What a row of a run is called."""
    if entry.version is not None:
        return entry.version.build.team.name
    return "the control" if entry.is_control else "the air"
