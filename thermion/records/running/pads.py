"""Whether teams read at a test, on their own devices, and what of it is theirs."""

from __future__ import annotations

from typing import get_args

from thermion.core.planning.pads import Pads
from thermion.records.errors import Gone, Refused
from thermion.records.running.attempts import Queue
from thermion.records.tables import Entry, Run


def let_read(run: Run, how: str) -> None:
    """Whether teams read on their own devices: "" not, "typed" as they type, "looked" when it was looked at."""
    found = next((each for each in get_args(Pads) if each == how), None)
    if found is None:
        raise Refused("Pads read not at all, as typed, or after a look.", "pads")
    run.pads = found


def rows_of(run: Run, team_id: int | None) -> list[Entry]:
    """The rows of a team: its build, or each of its devices."""
    return [e for e in run.entries if e.version is not None and e.version.build.team_id == team_id]


def check_own(run: Run, entry_id: int, team_id: int | None) -> None:
    """Refuse what a team's device sends of a row that is not its team's, or of a test that the teacher reads.
    Without a team, whoever sends is none."""
    if team_id is None:
        return
    if entry_id not in {e.id for e in rows_of(run, team_id)}:
        raise Gone("This is not a row of your team. Nothing was stored.")
    if not run.pads:
        raise Refused("The teacher reads this test. Nothing was stored.")


def check_turn(queue: Queue, entry_id: int, team_id: int | None) -> None:
    """Refuse a team one attempt more than everybody has: the teacher may give it, at the Desk."""
    if team_id is not None and queue.done.get(entry_id, 0) >= queue.each:
        raise Refused("Your team has had all its tries. For one more, ask the teacher.")
