"""What came in by a file although no page would let it get so far: listed, since a brief may change afterwards.

A plan that was signed and is beyond a limit today was perhaps inside it then; a run held before the cautions
were read may have been held before other tools were chosen. Neither can be told from the file, so neither is
refused: the rules of the pages themselves say what they would ask for now.
"""

from __future__ import annotations

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from thermion.records.building.builds import STATES, builds_of, problems
from thermion.records.planning.briefs import brief_of
from thermion.records.tables import Challenge, Run


def let_through(session: Session, challenge: Challenge) -> list[str]:
    """Sentences, each with its build: what its plan lacks that was handed in; tests before the cautions."""
    brief = brief_of(challenge)
    out = []
    for build in builds_of(session, challenge.id):
        for version in build.versions:
            found = [] if version.state == "draft" else problems(version, brief)
            if found:
                lacks = " ".join(p.message for p in found)
                out.append(f"{build.team.letter}{version.number} is {STATES[version.state]}: {lacks}")
    if challenge.cautions_seen_at is None and _held(session, challenge.id):
        out.append(f"Tests of “{challenge.title}” were held, and its safety cautions stand unread.")
    return out


def _held(session: Session, challenge_id: int) -> int:
    """How many tests that were no rehearsals were made."""
    real = select(func.count(Run.id)).where(Run.challenge_id == challenge_id, Run.rehearsal.is_(False))
    return session.scalar(real) or 0
