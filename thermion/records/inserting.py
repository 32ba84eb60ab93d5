"""Tens of thousands of rows at once, such as a logger's file holds."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from datetime import UTC, datetime
from operator import itemgetter
from typing import Any

from sqlalchemy import bindparam, insert
from sqlalchemy.dialects import sqlite
from sqlalchemy.orm import Session
from sqlalchemy.sql.compiler import SQLCompiler

from thermion.records.acting import Brought, who
from thermion.records.tables import Base


def insert_many(
    session: Session, table: type[Base], same: Mapping[str, Any], rows: Sequence[Mapping[str, Any]]
) -> None:
    """Insert rows whose columns are `same` in all, and their own.

    What is the same is converted for the database once, not for every row; a row's own values are
    plain numbers and texts, which it takes as they are, and moments `as_stored`; all rows name the
    same columns in the same order. A quarter of the time of a usual insert.
    """
    if not rows:
        return
    if issubclass(table, Brought):
        same = {"by": who(), **same}
    names = [*same, *rows[0]]
    made = _compiled(session, table, names)._bind_processors  # how SQLAlchemy writes a moment or a truth
    fixed = tuple(made[name](value) if name in made else value for name, value in same.items())  # type: ignore[operator]
    insert_stored(session, table, names, [fixed + tuple(row.values()) for row in rows])


def insert_new(session: Session, table: type[Base], rows: Sequence[Mapping[str, Any]]) -> None:
    """Insert rows, but for those that are there already."""
    session.execute(sqlite.insert(table).on_conflict_do_nothing(), rows)


def insert_stored(
    session: Session, table: type[Base], names: Sequence[str], rows: Sequence[tuple[Any, ...]]
) -> None:
    """Insert rows of values in the order of `names`, already as the database takes them."""
    if not rows:
        return
    compiled = _compiled(session, table, names)
    order: list[str] = compiled.positiontup or list(names)
    if order != list(names):
        rows = list(map(itemgetter(*(names.index(name) for name in order)), rows))
    session.connection().exec_driver_sql(str(compiled), list(rows))


def _compiled(session: Session, table: type[Base], names: Sequence[str]) -> SQLCompiler:
    statement = insert(table.__table__).values({name: bindparam(name) for name in names})  # type: ignore[arg-type]
    compiled = statement.compile(dialect=session.connection().dialect)
    assert isinstance(compiled, SQLCompiler)
    return compiled


def as_stored(moment: datetime) -> str:
    """A moment as SQLAlchemy writes it into SQLite: in UTC, without its zone."""
    return moment.astimezone(UTC).replace(tzinfo=None).isoformat(" ", "microseconds")
