"""What stands in each row of a run, as series; remembered until a reading is added to that row.

A logger leaves thousands of readings in a row. Readings are only ever added, so their number and
the newest of them say whether a row is as it was when it was read last.
"""

from __future__ import annotations

from bisect import bisect_left
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from sqlalchemy import and_, func, or_, select, tuple_
from sqlalchemy.orm import Session, aliased

from thermion.core.kinds.trials import Trace
from thermion.records.database import asked_once, memory_of
from thermion.records.tables import Entry, Reading, Run


@dataclass(frozen=True)
class Loose:
    """Readings at no mark, a logger's or a probe's, in order of time."""

    time_s: tuple[float, ...] = ()
    value: tuple[float, ...] = ()
    id: tuple[int, ...] = ()
    source: tuple[str, ...] = ()

    def nearest(self, time_s: float) -> int:
        """Where the reading nearest in time stands; there must be one."""
        after = bisect_left(self.time_s, time_s)
        near = range(max(after - 1, 0), min(after + 1, len(self.time_s)))
        return min(near, key=lambda i: abs(self.time_s[i] - time_s))


UNREAD = Trace()


@dataclass(frozen=True)
class Series:
    """Readings of one row in one phase that nothing supersedes and that were not taken back.

    Two of one moment are averaged in `trace`. `marks` were read, `asked` are in question.
    """

    trace: Trace = UNREAD
    marks: frozenset[float] = frozenset()
    asked: frozenset[float] = frozenset()
    loose: Loose = Loose()


Spot = tuple[int, str]  # entry, phase
_Read = tuple[float, float, float | None, str, int, str]  # time, value, mark, question, id, source
NOTHING = Series()


def series_of(session: Session, runs: Sequence[Run]) -> dict[Spot, Series]:
    """The series of every row and phase of these runs that has any, in at most three queries.

    Asked again in the same session, which sees one state of the record, it costs nothing.
    """
    found = asked_once(session, ("series", *(run.id for run in runs)), lambda: _found(session, runs))
    return {spot: series for run in runs for spot, series in found[run.id].items()}


def _found(session: Session, runs: Sequence[Run]) -> dict[int, dict[Spot, Series]]:
    memory, since = memory_of(session), {run.id: run.created_at for run in runs}
    newest = select(func.max(Reading.id)).where(Reading.entry_id == Entry.id).scalar_subquery()
    stamps = {
        (run_id, entry_id): (since[run_id], last)
        for run_id, entry_id, last in session.execute(
            select(Entry.run_id, Entry.id, newest).where(Entry.run_id.in_(since))
        )
        if last is not None
    }
    kept: dict[Spot, tuple[int, dict[str, Series]]] = {
        key: memory.find(("series", key[1]), stamp[0]) or (0, {}) for key, stamp in stamps.items()
    }
    changed = {key[1]: kept[key] for key, (_, last) in stamps.items() if kept[key][0] != last}
    fresh = _load(session, changed)
    out: dict[int, dict[Spot, Series]] = {run.id: {} for run in runs}
    for (run_id, entry_id), (made_at, last) in stamps.items():
        row = kept[run_id, entry_id][1]
        if entry_id in changed:
            row = fresh.get(entry_id, {})
            memory.keep(("series", entry_id), made_at, (last, row))
        out[run_id] |= {(entry_id, phase): series for phase, series in row.items()}
    return out


def _load(
    session: Session, changed: Mapping[int, tuple[int, dict[str, Series]]]
) -> dict[int, dict[str, Series]]:
    """By row and phase; of a phase to which nothing was added, what was known before."""
    if not changed:
        return {}
    touched = (
        select(Reading.entry_id, Reading.phase)
        .where(or_(*(and_(Reading.entry_id == e, Reading.id > last) for e, (last, _) in changed.items())))
        .distinct()
    )
    spots = [(entry_id, phase) for entry_id, phase in session.execute(touched)]
    out = {entry_id: dict(known) for entry_id, (_, known) in changed.items()}
    for entry_id, phase in spots:
        out[entry_id].pop(phase, None)
    successor = aliased(Reading)
    rows = session.execute(
        select(
            Reading.entry_id,
            Reading.phase,
            Reading.time_s,
            Reading.value,
            Reading.mark_s,
            Reading.question,
            Reading.id,
            Reading.source,
        )
        .outerjoin(successor, successor.supersedes_id == Reading.id)
        .where(
            tuple_(Reading.entry_id, Reading.phase).in_(spots),
            successor.id.is_(None),
            Reading.value.is_not(None),
        )
        .order_by(Reading.entry_id, Reading.phase, Reading.time_s, Reading.id)
    )
    by: dict[Spot, list[_Read]] = {}
    for entry_id, phase, time_s, value, mark_s, question, number, source in rows:
        by.setdefault((entry_id, phase), []).append((time_s, value or 0.0, mark_s, question, number, source))
    for (entry_id, phase), each in by.items():
        out[entry_id][phase] = _series(each)
    return out


def _series(rows: Sequence[_Read]) -> Series:
    times: list[float] = []
    values: list[float] = []
    for time_s, value, *_ in rows:
        if times and times[-1] == time_s:
            values[-1] = (values[-1] + value) / 2
        else:
            times.append(time_s)
            values.append(value)
    loose = [(t, v, number, source) for t, v, mark, _, number, source in rows if mark is None]
    return Series(
        Trace(tuple(times), tuple(values)),
        frozenset(mark for _, _, mark, *_ in rows if mark is not None),
        frozenset(mark for _, _, mark, question, *_ in rows if mark is not None and question),
        Loose(*zip(*loose, strict=True)) if loose else Loose(),
    )
