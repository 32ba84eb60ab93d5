"""The marks of a challenge: when its builds are read."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from itertools import pairwise

from sqlalchemy import select
from sqlalchemy.orm import Session

from thermion.core.planning.rounds import slots
from thermion.records.errors import Refused
from thermion.records.planning.briefs import brief_of
from thermion.records.tables import Challenge, Mark, Run

MOST_MARKS, LONGEST_MARK_S = 40, 6 * 3600.0
CLOSEST_MARKS_S = 1.0  # nobody reads faster, and a mark between two others is a slip


def check_marks(times: Sequence[float]) -> None:
    """ValueError, in words, for marks of a phase [s] that no test can be read at."""
    if not times or times[0] != 0:
        raise ValueError("The first reading is at minute 0")
    if len(times) > MOST_MARKS or times[-1] > LONGEST_MARK_S:
        raise ValueError(f"At most {MOST_MARKS} marks within {LONGEST_MARK_S / 3600:g} hours")
    if any(b - a < CLOSEST_MARKS_S for a, b in pairwise(times)):
        raise ValueError("Two marks lie at least a second apart")
    slots(times)


def save_marks(session: Session, challenge: Challenge, marks: Mapping[str, Sequence[float]]) -> None:
    """Replace the marks of each phase given. Refused once a run has started with the old ones."""
    brief = brief_of(challenge)
    changed = {p: tuple(m) for p, m in marks.items() if tuple(m) != brief.marks.get(p)}
    if not changed:
        return
    if session.scalar(select(Run.id).where(Run.challenge_id == challenge.id).limit(1)):
        raise Refused("A run has been made with these marks, so they stay.", "marks")
    for phase, times in changed.items():
        try:
            check_marks(times)
        except ValueError as error:
            raise Refused(f"{error}.", phase) from None
    wanted = {(p, t) for p in brief.marks for t in changed.get(p, brief.marks[p])}
    there = {(m.phase, m.time_s) for m in challenge.marks}
    kept = [m for m in challenge.marks if (m.phase, m.time_s) in wanted]
    challenge.marks[:] = kept + [Mark(phase=p, time_s=t) for p, t in sorted(wanted - there)]
    session.flush()
    session.refresh(challenge, ["marks"])
