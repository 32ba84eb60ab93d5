"""Tens of thousands of rows at once, such as a logger's file holds."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from datetime import UTC, datetime
from typing import Any

from sqlalchemy import bindparam, insert
from sqlalchemy.orm import Session

from thermion.records.tables import Base


def insert_many(
    session: Session, table: type[Base], same: Mapping[str, Any], rows: Sequence[Mapping[str, Any]]
) -> None:
    """Insert rows whose columns are `same` in all, and their own.

    What is the same is converted for the database once, not for every row; a row's own values are
    plain numbers and texts, which it takes as they are, and moments `as_stored`. Half the time of a
    usual insert.
    """
    if not rows:
        return
    connection = session.connection()
    names = [*same, *rows[0]]
    statement = insert(table.__table__).values({name: bindparam(name) for name in names})  # type: ignore[arg-type]
    compiled = statement.compile(dialect=connection.dialect)
    order: list[str] = compiled.positiontup or names
    made = compiled._bind_processors  # how SQLAlchemy writes a moment or a truth
    fixed = {name: made[name](value) if name in made else value for name, value in same.items()}  # type: ignore[operator]
    connection.exec_driver_sql(str(compiled), [tuple({**fixed, **row}[n] for n in order) for row in rows])


def as_stored(moment: datetime) -> str:
    """A moment as SQLAlchemy writes it into SQLite: in UTC, without its zone."""
    return moment.astimezone(UTC).replace(tzinfo=None).isoformat(" ", "microseconds")
