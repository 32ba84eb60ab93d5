"""What is deleted can come back for a while: its rows, and all that go with them, are kept as they were.

The rows are kept as SQLite holds them, by the names of their columns, so that nothing is translated on
the way out or in. What depends on a row is known from the tables' foreign keys alone.
"""

from __future__ import annotations

import base64
import json
import zlib
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Any

from sqlalchemy import Connection, Table, delete, select
from sqlalchemy.exc import IntegrityError
from sqlalchemy.orm import Session

from thermion.records import moments
from thermion.records.errors import Gone, Refused
from thermion.records.tables import Base, Deleted

KEPT_FOR = timedelta(days=30)
NUMBERED = {"runs": "challenge_id", "versions": "build_id"}  # `number` is counted within these
ONE_OF = {"builds": ("challenge_id", "team_id")}  # another with the same is taken instead
# By what a row is known again: numbers are given to others once it is deleted.
KNOWN_BY = {
    "classes": ("created_at",),
    "teams": ("class_id", "letter"),
    "challenges": ("class_id", "created_at"),
    "builds": ("challenge_id", "team_id"),
    "versions": ("build_id", "created_at"),
    "runs": ("challenge_id", "created_at"),
}
LINKS = {"carried"}  # nothing by themselves: left out when the other end is gone
CHUNK = 500  # ids in one question to SQLite

_Rows = dict[str, list[dict[str, Any]]]  # by table


@dataclass(frozen=True)
class Removed:
    """Something deleted: what it was (version, run, challenge, class), its title, when, until when."""

    id: int
    what: str
    title: str
    at: datetime

    @property
    def until(self) -> datetime:
        return self.at + KEPT_FOR


def delete_kept(session: Session, row: Any, what: str, title: str) -> Removed:
    """Delete a row and what goes with it, so that `bring_back` can undo it."""
    forget_old(session)
    session.flush()
    table: Table = row.__table__
    connection = session.connection()
    rows, pointing = _rows_with(connection, table, row.id), []
    for each, column, target in _pointing(rows):
        ids = [r["id"] for r in rows[target.name]]
        found = _matching(connection, each, column, ids)
        pointing += [[each.name, column, r] for r in found if not _has(rows, each, r)]
    content = [rows, pointing, _rows_above(connection, rows)]
    kept = Deleted(what=what, title=title[:200], at=moments.now(), rows=_packed(content))
    session.add(kept)
    session.flush()
    connection.execute(delete(table).where(table.c.id == row.id))  # the rest goes with it
    session.expire_all()
    return Removed(kept.id, kept.what, kept.title, kept.at)


def deleted(session: Session) -> Sequence[Removed]:
    """What can be brought back, the latest first."""
    since = moments.now() - KEPT_FOR
    found = select(Deleted.id, Deleted.what, Deleted.title, Deleted.at).where(Deleted.at > since)
    return [Removed(*row) for row in session.execute(found.order_by(Deleted.at.desc(), Deleted.id.desc()))]


def forget_old(session: Session) -> None:
    """Let go of what was deleted too long ago."""
    session.execute(delete(Deleted).where(Deleted.at <= moments.now() - KEPT_FOR))


def bring_back(session: Session, deleted_id: int) -> tuple[str, int]:
    """Put deleted rows back; (what, id) of the thing.

    Gone when it is back already; Refused when what it belongs to is deleted itself.
    """
    kept = session.get(Deleted, deleted_id)
    if kept is None:
        raise Gone("This is back already, or it was deleted more than 30 days ago.")
    rows, pointing, above = _unpacked(kept.rows)
    what, title = kept.what, kept.title
    session.delete(kept)
    session.flush()
    try:
        ids = _put_back(session.connection(), rows, above, title)
    except IntegrityError:
        raise Refused(f"{title} cannot come back: something else has taken its place.") from None
    for name, column, row in pointing:
        _point_again(session.connection(), Base.metadata.tables[name], column, row, ids)
    session.expire_all()
    first = next(iter(rows))
    return what, ids[first].get(rows[first][0]["id"], rows[first][0]["id"])


# ---- which rows go with a row


def _keys(table: Table, how: str) -> Iterator[tuple[str, Table]]:
    """(column, table it points to) of the keys of a table that go away with the other, or are emptied."""
    for key in table.foreign_keys:
        if key.ondelete == how:
            yield key.parent.name, key.column.table


def _target(table: Table, column: str) -> str:
    (key,) = table.c[column].foreign_keys
    return str(key.column.table.name)


def _rows_with(connection: Connection, root: Table, row_id: int) -> _Rows:
    rows: _Rows = {root.name: _matching(connection, root, "id", [row_id])}
    for table in Base.metadata.sorted_tables:
        found: list[dict[str, Any]] = []
        for column, target in _keys(table, "CASCADE"):
            if target is not table and target.name in rows:
                ids = [r["id"] for r in rows[target.name] if "id" in r]
                found += _matching(connection, table, column, ids)
        unique = {tuple(r.items()): r for r in found}  # two ways can lead to one row
        if unique and table is not root:
            rows[table.name] = sorted(unique.values(), key=lambda r: r.get("id", 0))
    return rows


def _pointing(rows: _Rows) -> Iterator[tuple[Table, str, Table]]:
    for table in Base.metadata.sorted_tables:
        for column, target in _keys(table, "SET NULL"):
            if target.name in rows:
                yield table, column, target


def _has(rows: _Rows, table: Table, row: dict[str, Any]) -> bool:
    return any(r["id"] == row["id"] for r in rows.get(table.name, ()))


def _matching(connection: Connection, table: Table, column: str, ids: Sequence[int]) -> list[dict[str, Any]]:
    """Rows as SQLite holds them, in the order of their ids."""
    out: list[dict[str, Any]] = []
    order = "id" if "id" in table.c else column
    for start in range(0, len(ids), CHUNK):
        some = ids[start : start + CHUNK]
        marks = ",".join("?" * len(some))
        asked = f'SELECT * FROM "{table.name}" WHERE "{column}" IN ({marks}) ORDER BY {order}'  # noqa: S608 - our names
        out += [dict(r._mapping) for r in connection.exec_driver_sql(asked, tuple(some))]
    return out


# ---- putting them back


def _rows_above(connection: Connection, rows: _Rows) -> _Rows:
    """What the rows belong to, up to their class."""
    above: _Rows = {}
    for table in reversed(Base.metadata.sorted_tables):
        for column, target in _keys(table, "CASCADE"):
            mine = (*rows.get(table.name, ()), *above.get(table.name, ()))
            there = {r["id"] for r in rows.get(target.name, ()) if "id" in r}
            ids = {r[column] for r in mine} - there - {None}
            have = {r["id"] for r in above.get(target.name, ())}
            above.setdefault(target.name, []).extend(_matching(connection, target, "id", sorted(ids - have)))
    return {name: found for name, found in above.items() if found}


def _find_above(connection: Connection, above: _Rows, ids: dict[str, dict[int, int]], title: str) -> None:
    """Where what the rows belong to is now; a team that was taken off the class's list comes back."""
    for table in Base.metadata.sorted_tables:
        for row in above.get(table.name, ()):
            wanted = dict(row)
            for key in table.foreign_keys:
                column = key.parent.name
                wanted[column] = ids[key.column.table.name].get(wanted[column], wanted[column])
            asked = [table.c[name] for name in KNOWN_BY.get(table.name, ("id",))]
            marks = " AND ".join(f'"{c.name}" = ?' for c in asked)
            values = tuple(wanted[c.name] for c in asked)
            found = _scalar(
                connection,
                f'SELECT id FROM "{table.name}" WHERE {marks} ORDER BY id <> ? LIMIT 1',  # noqa: S608 - our names
                *values,
                row["id"],
            )
            if not found and table.name == "teams" and _there(connection, "classes", wanted["class_id"]):
                if _there(connection, "teams", row["id"]):
                    wanted["id"] = _scalar(connection, 'SELECT max(id) + 1 FROM "teams"')
                _insert(connection, table, [wanted])
                found = wanted["id"]
            if not found and table.name in KNOWN_BY:
                raise Refused(f"{title} belongs to something that was deleted too. Bring that back first.")
            ids[table.name][row["id"]] = found or row["id"]


def _point_again(
    connection: Connection, table: Table, column: str, row: dict[str, Any], ids: dict[str, dict[int, int]]
) -> None:
    """Let a row that lost what it pointed to point there again, if it is still that row."""
    kept = [c.name for c in table.c if not c.foreign_keys]
    same = " AND ".join(f'"{name}" IS ?' for name in kept)
    put = f'UPDATE "{table.name}" SET "{column}" = ? WHERE "{column}" IS NULL AND {same}'  # noqa: S608 - our names
    target = ids[_target(table, column)].get(row[column], row[column])
    connection.exec_driver_sql(put, (target, *(row[name] for name in kept)))


def _put_back(connection: Connection, rows: _Rows, above: _Rows, title: str) -> dict[str, dict[int, int]]:
    """Insert the rows; by table, the ids that differ from what they were."""
    ids: dict[str, dict[int, int]] = {t.name: {} for t in Base.metadata.sorted_tables}
    known: dict[str, set[int]] = {name: set() for name in ids}  # rows that are there for certain
    _find_above(connection, above, ids, title)
    for table in Base.metadata.sorted_tables:
        old = rows.get(table.name, [])
        taken = {r["id"] for r in _matching(connection, table, "id", [r["id"] for r in old if "id" in r])}
        free = _scalar(connection, f'SELECT max(id) + 1 FROM "{table.name}"') if taken else 0  # noqa: S608 - our names
        free = max([free, *(r["id"] + 1 for r in old if "id" in r)])
        waiting: list[dict[str, Any]] = []
        for row in old:
            new = dict(row)
            if not _point(connection, table, new, ids, known):
                if table.name in LINKS:
                    continue
                raise Refused(f"{title} belongs to something that was deleted too. Bring that back first.")
            same = _same(connection, table, new)
            if same is not None:
                ids[table.name][row["id"]] = same
                continue
            _number(connection, table, new)
            if row.get("id") in taken:
                new["id"] = ids[table.name][row["id"]] = free
                free += 1
            known[table.name].add(new.get("id", 0))
            waiting.append(new)
            if table.name in NUMBERED:  # the next one counts on from it
                _insert(connection, table, waiting)
                waiting = []
        _insert(connection, table, waiting)
    return ids


def _point(
    connection: Connection,
    table: Table,
    row: dict[str, Any],
    ids: dict[str, dict[int, int]],
    known: dict[str, set[int]],
) -> bool:
    """Let a row's keys point to where the others are now; False when one of them is nowhere."""
    for key in table.foreign_keys:
        column, target = key.parent.name, key.column.table.name
        if row.get(column) is None:
            continue
        row[column] = ids[target].get(row[column], row[column])
        if row[column] in known[target]:
            continue
        if _there(connection, target, row[column]):
            known[target].add(row[column])
        elif key.ondelete == "SET NULL":
            row[column] = None
        else:
            return False
    return True


def _scalar(connection: Connection, asked: str, *values: Any) -> int:
    return int(connection.exec_driver_sql(asked, values).scalar() or 0)


def _there(connection: Connection, table: str, row_id: int) -> bool:
    return bool(_scalar(connection, f'SELECT count(*) FROM "{table}" WHERE id = ?', row_id))  # noqa: S608 - our names


def _same(connection: Connection, table: Table, row: dict[str, Any]) -> int | None:
    columns = ONE_OF.get(table.name)
    if columns is None:
        return None
    found = select(table.c.id).where(*(table.c[c] == row[c] for c in columns))
    same: int | None = connection.execute(found).scalar()
    return same


def _number(connection: Connection, table: Table, row: dict[str, Any]) -> None:
    """The number it had, or the next one when another has it now."""
    column = NUMBERED.get(table.name)
    if column is None:
        return
    taken = set(connection.execute(select(table.c.number).where(table.c[column] == row[column])).scalars())
    if row["number"] in taken:
        row["number"] = max(taken) + 1


def _insert(connection: Connection, table: Table, rows: Sequence[dict[str, Any]]) -> None:
    if not rows:
        return
    columns = [name for name in rows[0] if name in table.c]
    names, marks = ",".join(f'"{name}"' for name in columns), ",".join("?" * len(columns))
    put = f'INSERT INTO "{table.name}" ({names}) VALUES ({marks})'  # noqa: S608 - our names
    connection.exec_driver_sql(put, [tuple(row[name] for name in columns) for row in rows])


# ---- as they are kept


def _packed(content: object) -> bytes:
    text = json.dumps(content, default=lambda value: {"bytes": base64.b64encode(value).decode("ascii")})
    return zlib.compress(text.encode("utf-8"))


def _unpacked(packed: bytes) -> Any:
    def read(found: dict[str, Any]) -> Any:
        return base64.b64decode(found["bytes"]) if found.keys() == {"bytes"} else found

    return json.loads(zlib.decompress(packed), object_hook=read)
