"""One value noted without a mark: of a race, of a later reading, of what is taken back."""

from __future__ import annotations

from datetime import datetime

from sqlalchemy.orm import Session

from thermion.core.values import Check
from thermion.records.tables import Reading


def note(
    session: Session,
    *,
    entry_id: int,
    phase: str,
    time_s: float,
    value: float | None,
    client_id: str,
    at: datetime,
    arrived: datetime | None = None,
    check: Check | None = None,
    instead_of: int | None = None,
) -> Reading:
    """Add a reading: taken `at`, with the question of its `check` if there is one; of `value` None nothing
    is left of the one that it stands `instead_of`."""
    row = Reading(
        entry_id=entry_id,
        phase=phase,
        time_s=time_s,
        value=value,
        client_id=client_id,
        entered_at=at,
        arrived_at=arrived or at,
        supersedes_id=instead_of,
    )
    if check is not None and check.answer == "ask":
        row.question, row.suggestion = check.message, check.suggestion
    session.add(row)
    session.flush()
    return row
