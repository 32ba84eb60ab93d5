"""Numbers that everything else contradicts, in all that was noted of a challenge, and where they stand."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from sqlalchemy.orm import Session

from thermion.core.judging.afterwards import FLOOR_K, NotedTry, doubtful_tries, lone_reading
from thermion.core.judging.observed import quantity_of
from thermion.core.kinds.testing import Reads, counted_out
from thermion.records.planning.briefs import Brief
from thermion.records.running.attempts import current_attempts
from thermion.records.running.series import Series, Spot, series_of
from thermion.records.running.set_apart import apart_in
from thermion.records.tables import Entry, Run

FLOOR_STEPS = 8.0  # of the instrument: anything else nearer than this to what the others make of it


@dataclass(frozen=True, kw_only=True)
class DoubtedReading:
    """A reading at a mark that lies apart from all others of its row [stored unit]."""

    run: Run
    entry: Entry
    phase: str
    mark_s: float
    read: Reads
    value: float
    expected: float


@dataclass(frozen=True, kw_only=True)
class DoubtedAttempt:
    """An attempt with a number that the other attempts contradict [stored unit], and the question."""

    run: Run
    entry: Entry
    attempt_id: int
    read: Reads
    value: float
    question: str


Doubted = DoubtedReading | DoubtedAttempt


def doubted_in(session: Session, brief: Brief, runs: Sequence[Run]) -> list[Doubted]:
    """Every such number in these runs; what was set apart is not looked at."""
    if brief.kind.test.shape == "marks":
        found = series_of(session, runs)
        return [doubt for run in runs for doubt in _readings(found, brief, run)]
    return list(_attempts(session, brief, runs))


def _readings(found: Mapping[Spot, Series], brief: Brief, run: Run) -> list[Doubted]:
    apart = apart_in(run, tuple(p.key for p in brief.kind.test.phases))
    entries = {e.id: e for e in run.entries if not apart.leaves_out(e)}
    out: list[Doubted] = []
    for (entry_id, phase), series in found.items():
        entry, marks = entries.get(entry_id), brief.marks.get(phase, ())
        if entry is None or not marks:
            continue
        read = brief.read_at(entry.is_air)
        trace = apart.trace(entry, phase, series.trace)
        if read.words or not trace.time_s:
            continue
        floor = FLOOR_K if read.unit == "degC" else FLOOR_STEPS * read.step_si
        lone = lone_reading(trace.time_s, trace.value, floor)
        if lone is None:
            continue
        at = trace.time_s[lone.index] - entry.offset_s
        mark = min(marks, key=lambda m: abs(m - at))
        out.append(
            DoubtedReading(
                run=run,
                entry=entry,
                phase=phase,
                mark_s=mark,
                read=read,
                value=lone.value,
                expected=lone.expected,
            )
        )
    return out


def _attempts(session: Session, brief: Brief, runs: Sequence[Run]) -> list[Doubted]:
    reads = brief.kind.test.attempt_reads(brief.choices)
    by_id = {run.id: run for run in runs}
    entries = {
        e.id: e
        for run in runs
        for e in run.entries
        if e.version_id is not None and not apart_in(run, ()).leaves_out(e)
    }
    rows = [r for r in current_attempts(session, list(by_id)) if r.entry_id in entries]
    noted = [
        NotedTry(entries[r.entry_id].version_id, r.values, tuple(counted_out(reads, r.values).values()))
        for r in rows
    ]
    known = [(read, quantity_of(read, brief.values)) for read in reads]
    out: list[Doubted] = []
    for doubt in doubtful_tries(noted, known, brief.values, brief.setting):
        row, entry = rows[doubt.index], entries[rows[doubt.index].entry_id]
        out.append(
            DoubtedAttempt(
                run=by_id[entry.run_id],
                entry=entry,
                attempt_id=row.id,
                read=doubt.read,
                value=row.values[doubt.read.key],
                question=doubt.question,
            )
        )
    return out
