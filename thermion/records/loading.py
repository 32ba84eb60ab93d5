"""Several collections of the same rows in one statement, so that a page asks few questions."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from sqlalchemy import and_, inspect, literal, select, union_all
from sqlalchemy.orm import Session
from sqlalchemy.orm.attributes import InstrumentedAttribute, set_committed_value
from sqlalchemy.orm.interfaces import ORMOption


def load_together(
    session: Session,
    owners: Sequence[object],
    *collections: InstrumentedAttribute[Any],
    options: Sequence[ORMOption] = (),
) -> None:
    """Fill these collections of all owners (of one class) with one statement.

    Each collection is joined to a row of its own (1, 2, …), so nothing is multiplied with
    anything. `options` go on to what is loaded, such as a `joinedload` from a member.
    """
    relations = [collection.property for collection in collections]
    (own_key,) = inspect(type(owners[0])).primary_key if owners else (None,)
    if not owners:
        return
    name = inspect(type(owners[0])).get_property_by_column(own_key).key
    ids = {getattr(owner, name) for owner in owners}
    row = union_all(*(select(literal(i).label("n")) for i in range(len(relations)))).subquery()
    statement = select(row.c.n, *(r.mapper.class_ for r in relations)).select_from(row)
    for i, relation in enumerate(relations):
        ((_, theirs),) = relation.local_remote_pairs
        statement = statement.outerjoin(relation.mapper.class_, and_(row.c.n == i, theirs.in_(ids)))
    found: list[dict[int, list[Any]]] = [{} for _ in relations]
    keys = [r.mapper.get_property_by_column(r.local_remote_pairs[0][1]).key for r in relations]
    for n, *members in session.execute(statement.options(*options)):
        if members[n] is not None:
            found[n].setdefault(getattr(members[n], keys[n]), []).append(members[n])
    for relation, by_owner in zip(relations, found, strict=True):
        order = [relation.mapper.get_property_by_column(c).key for c in relation.order_by or ()]
        for owner in owners:
            mine = by_owner.get(getattr(owner, name), [])
            mine.sort(key=lambda item, order=order: [getattr(item, key) for key in order])  # type: ignore[misc]
            set_committed_value(owner, relation.key, mine)
