"""What stands on a class's board."""

from __future__ import annotations

from typing import cast, get_args

from sqlalchemy.orm import Session

from thermion.core.planning.boards import Put, Shows
from thermion.records.errors import Gone
from thermion.records.tables import BoardRow, Challenge


def put_on(session: Session, class_id: int, put: Put | None) -> None:
    """Put something on the board; None: it shows again what is going on.

    Gone when the challenge is not of this class.
    """
    row = session.get(BoardRow, class_id)
    if put is None:
        if row is not None:
            session.delete(row)
        return
    if put.challenge_id:
        challenge = session.get(Challenge, put.challenge_id)
        if challenge is None or challenge.class_id != class_id:
            raise Gone("This challenge is no longer there. It may have been deleted in another tab.")
    if row is None:
        row = BoardRow(class_id=class_id)
        session.add(row)
    row.shows, row.step = put.shows, put.step
    row.challenge_id, row.run_id = put.challenge_id or None, put.run_id or None


def what_is_put(session: Session, class_id: int) -> Put | None:
    """What the Desk put on the board; None when it follows by itself."""
    row = session.get(BoardRow, class_id)
    if row is None or row.shows not in get_args(Shows):
        return None
    return Put(cast(Shows, row.shows), row.challenge_id or 0, row.run_id or 0, row.step)
