"""Runs, readings and attempts as tables for pages and files."""

from __future__ import annotations

from collections.abc import Sequence
from zoneinfo import ZoneInfo

from sqlalchemy.orm import Session

from thermion.core.physics.units import stored_unit, unit_label
from thermion.formats.tables import Column, Table, plain_key
from thermion.records.planning.briefs import Brief
from thermion.records.running import attempts, runs
from thermion.records.tables import Entry, Run


def results_table(session: Session, items: Sequence[Run], brief: Brief) -> Table:
    """What was read in these runs: readings of a clocked test, attempts of one by turns."""
    if brief.kind.test.shape != "marks":
        return attempts_table(session, items, brief)
    return readings_table(session, items, brief)


def runs_table(items: Sequence[Run], brief: Brief, zone: str) -> Table:
    measured = [c for c in brief.kind.brief.settings(brief.choices) if c.actual]
    columns = [
        Column("run", "Run"),
        Column("made", f"Made ({zone})"),
        Column("rehearsal", "Rehearsal"),
        Column("speed", "Speed"),
        Column("builds", "Builds"),
        Column("closed", "Closed"),
    ]
    columns += [Column(plain_key(c.key), c.label, brief.setting.label(c.unit)) for c in measured]
    columns.append(Column("note", "Note"))
    rows = []
    for item in items:
        known = {c.key: c.value for c in item.conditions}
        rows.append(
            (
                item.number,
                item.created_at.astimezone(ZoneInfo(zone)).isoformat("T", "seconds"),
                item.rehearsal,
                item.speed,
                item.builds,
                item.closed_at is not None,
                *(brief.setting.from_si(known[c.key], c.unit) if c.key in known else None for c in measured),
                item.note,
            )
        )
    return Table("Runs", tuple(columns), rows)


def _nobody(entry: Entry) -> str:
    return "control" if entry.is_control else "air"


def _apart(run: Run, entry_id: int, phase: str = "", time_s: float = 0.0, phases: Sequence[str] = ()) -> str:
    """Why a reading or attempt does not count; empty where it does."""
    for a in run.aparts:
        if a.undone_at is not None or a.entry_id not in (None, entry_id):
            continue
        if not a.phase or a.after_s is None:
            return a.why
        if phase in phases and (phases.index(phase), time_s) > (phases.index(a.phase), a.after_s):
            return a.why
    return ""


def readings_table(session: Session, items: Sequence[Run], brief: Brief) -> Table:
    """Every reading ever entered, replaced ones too, in the class's unit and in the stored one.

    Each row names its units: the air is read in another than what melts, and what is left at the end.
    """
    columns = (
        Column("run", "Run"),
        Column("team", "Team"),
        Column("version", "Version"),
        Column("device", "Device"),
        Column("phase", "Phase"),
        Column("mark_min", "Mark", "min"),
        Column("time_s", "Time taken", "s", 1),
        Column("value", "Value"),
        Column("unit", "Unit"),
        Column("value_si", "Value in the stored unit"),
        Column("unit_si", "Stored unit"),
        Column("source", "Source"),
        Column("time_measured", "Time measured"),
        Column("entered_utc", "Entered (UTC)"),
        Column("reading", "Reading"),
        Column("replaces", "Replaces"),
        Column("current", "Current"),
        Column("set_apart", "Set apart, why"),
    )
    rows = []
    for item in items:
        entries = {e.id: e for e in item.entries}
        phases = [p.key for p in brief.kind.test.phases]
        found = runs.all_readings(session, item.id)
        replaced = {r.supersedes_id for r in found}
        for r in found:
            entry = entries[r.entry_id]
            version, later = entry.version, brief.kind.test.later_for(brief.choices)
            at = brief.read_at(entry.is_air)
            at = later.read if later is not None and r.phase == later.read.key else at
            rows.append(
                (
                    item.number,
                    version.build.team.letter if version else _nobody(entry),
                    version.number if version else None,
                    entry.device,
                    r.phase,
                    None if r.mark_s is None else r.mark_s / 60,
                    r.time_s,
                    None if r.value is None else brief.setting.from_si(r.value, at.unit),
                    brief.setting.label(at.unit),
                    r.value,
                    unit_label(stored_unit(at.unit)),
                    r.source,
                    r.timed,
                    r.entered_at.isoformat(),
                    r.id,
                    r.supersedes_id,
                    r.id not in replaced and r.value is not None,
                    _apart(item, r.entry_id, r.phase, r.time_s, phases),
                )
            )
    return Table("Readings", columns, rows)


def attempts_table(session: Session, items: Sequence[Run], brief: Brief) -> Table:
    """Every attempt that stands, for files."""
    reads = brief.kind.test.attempt_reads(brief.choices)
    columns = [Column(k, k.capitalize()) for k in ("run", "team", "version", "adjusted")]
    columns += [Column(plain_key(r.key), r.label, brief.setting.label(r.unit)) for r in reads]
    columns += [Column(k, k.capitalize()) for k in ("seen", "free", "note")]
    columns.append(Column("set_apart", "Set apart, why"))
    rows = []
    for item in items:
        by_id = {e.id: e for e in item.entries}
        for a in attempts.current_attempts(session, [item.id]):
            version = by_id[a.entry_id].version
            rows.append(
                (
                    item.number,
                    version.build.team.letter if version else _nobody(by_id[a.entry_id]),
                    version.number if version else "",
                    a.adjusted,
                    *(
                        brief.setting.from_si(a.values[r.key], r.unit) if r.key in a.values else None
                        for r in reads
                    ),
                    a.seen,
                    a.free,
                    a.note,
                    _apart(item, a.entry_id),
                )
            )
    return Table("Attempts", tuple(columns), rows)
