"""What stands in each row of a run, as series; remembered until a reading is added to that row.

A logger leaves thousands of readings in a row. Readings are only ever added, so their number and
the newest of them say whether a row is as it was when it was read last.
"""

from __future__ import annotations

from bisect import bisect_left
from collections.abc import Mapping, Sequence, Set
from dataclasses import dataclass
from typing import Any

from sqlalchemy import Row, and_, func, or_, select, tuple_
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


@dataclass(frozen=True, kw_only=True)
class Series:
    """Readings of one row in one phase that nothing supersedes and that were not taken back.

    Two of one moment are averaged in `trace`. `marks` were read, `asked` are in question; `sources` are
    all who read, `by_hand` the moments at which a hand did.
    """

    trace: Trace = UNREAD
    marks: frozenset[float] = frozenset()
    asked: frozenset[float] = frozenset()
    loose: Loose = Loose()
    sources: frozenset[str] = frozenset()
    by_hand: frozenset[float] = frozenset()


Spot = tuple[int, str]  # entry, phase
_Read = tuple[float, float, float | None, str, int, str]  # time, value, mark, question, id, source
NOTHING = Series()
_COLUMNS = (
    Reading.entry_id,
    Reading.phase,
    Reading.time_s,
    Reading.value,
    Reading.mark_s,
    Reading.question,
    Reading.id,
    Reading.source,
)


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
    """By row and phase: what was known before, with what was added since."""
    if not changed:
        return {}
    since = or_(*(and_(Reading.entry_id == e, Reading.id > last) for e, (last, _) in changed.items()))
    added: dict[Spot, list[_Read]] = {}
    again: set[Spot] = set()  # where something was replaced or taken back
    for row in session.execute(select(*_COLUMNS, Reading.supersedes_id).where(since).order_by(Reading.id)):
        added.setdefault((row.entry_id, row.phase), []).append(_read(row))
        if row.supersedes_id is not None or row.value is None:
            again.add((row.entry_id, row.phase))
    out = {entry_id: dict(known) for entry_id, (_, known) in changed.items()}
    for (entry_id, phase), rows in added.items():
        known = out[entry_id].pop(phase, NOTHING)
        moments = {time_s for time_s, *_ in rows} | set(known.trace.time_s)
        if (entry_id, phase) in again or len(moments) < len(rows) + len(known.trace.time_s):
            again.add((entry_id, phase))
        else:
            out[entry_id][phase] = _grown(known, rows)
    for (entry_id, phase), series in _whole(session, again).items():
        out[entry_id][phase] = series
    return out


def _read(row: Row[*tuple[Any, ...]]) -> _Read:
    return row.time_s, row.value or 0.0, row.mark_s, row.question, row.id, row.source


def _grown(known: Series, rows: Sequence[_Read]) -> Series:
    """A series with readings at other moments than it has."""
    more = _series(sorted(rows))
    points = sorted(
        zip((*known.trace.time_s, *more.trace.time_s), (*known.trace.value, *more.trace.value), strict=True)
    )
    pairs = zip(
        (*known.loose.time_s, *more.loose.time_s),
        (*known.loose.value, *more.loose.value),
        (*known.loose.id, *more.loose.id),
        (*known.loose.source, *more.loose.source),
        strict=True,
    )
    loose = sorted(pairs)
    return Series(
        trace=Trace(*zip(*points, strict=True)),
        marks=known.marks | more.marks,
        asked=known.asked | more.asked,
        loose=Loose(*zip(*loose, strict=True)) if loose else Loose(),
        sources=known.sources | more.sources,
        by_hand=known.by_hand | more.by_hand,
    )


def _whole(session: Session, spots: Set[Spot]) -> dict[Spot, Series]:
    """Series read from the beginning."""
    if not spots:
        return {}
    successor = aliased(Reading)
    rows = session.execute(
        select(*_COLUMNS)
        .outerjoin(successor, successor.supersedes_id == Reading.id)
        .where(
            tuple_(Reading.entry_id, Reading.phase).in_(list(spots)),
            successor.id.is_(None),
            Reading.value.is_not(None),
        )
        .order_by(Reading.entry_id, Reading.phase, Reading.time_s, Reading.id)
    )
    by: dict[Spot, list[_Read]] = {}
    for row in rows:
        by.setdefault((row.entry_id, row.phase), []).append(_read(row))
    return {spot: _series(each) for spot, each in by.items()}


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
        trace=Trace(tuple(times), tuple(values)),
        marks=frozenset(mark for _, _, mark, *_ in rows if mark is not None),
        asked=frozenset(mark for _, _, mark, question, *_ in rows if mark is not None and question),
        loose=Loose(*zip(*loose, strict=True)) if loose else Loose(),
        sources=frozenset(row[5] for row in rows),
        by_hand=frozenset(row[0] for row in rows if row[5] == "hand"),
    )
