"""What teams have understood, as a teacher marked it while walking round."""

from __future__ import annotations

from collections.abc import Mapping

from sqlalchemy import select
from sqlalchemy.orm import Session

from thermion.core.planning.understanding import NEXT, OWN, Mark, Statement, own_key, statements
from thermion.records import moments
from thermion.records.errors import Gone, Refused
from thermion.records.tables import Challenge, Understood

MOST_OWN = 40


def marks_of(session: Session, challenge_id: int) -> dict[tuple[int, str], Mark]:
    """The mark that counts, by team and statement; what was taken back is not there."""
    rows = session.scalars(
        select(Understood).where(Understood.challenge_id == challenge_id).order_by(Understood.id)
    )
    newest = {(row.team_id, row.key): row.mark for row in rows}
    return {at: mark for at, mark in newest.items() if mark}


def statements_of(session: Session, challenge: Challenge) -> list[Statement]:
    """What is looked for in a challenge: of its age, and the class's own."""
    own = session.scalars(
        select(Understood.key)
        .join(Challenge, Challenge.id == Understood.challenge_id)
        .where(Challenge.class_id == challenge.class_id, Understood.key.startswith(f"{OWN}~"))
        .group_by(Understood.key)
        .order_by(Understood.key)
    )
    return statements(challenge.age_band, tuple(own))


def turn_mark(session: Session, challenge: Challenge, team_id: int, key: str, seen: str) -> Mark:
    """One tap further: not looked at, seen, not yet. `seen` is the mark that the page showed: a second tap of
    another screen on the same one changes nothing."""
    team = next((t for t in challenge.school_class.teams if t.id == team_id), None)
    known = {s.key for s in statements_of(session, challenge)}
    if team is None or key not in known:
        raise Gone("This team or statement is no longer there.")
    now = marks_of(session, challenge.id).get((team_id, key), "")
    if now != seen:
        return now
    mark = NEXT[now]
    session.add(Understood(challenge_id=challenge.id, team_id=team_id, key=key, mark=mark, at=moments.now()))
    session.flush()
    return mark


def add_own(session: Session, challenge: Challenge, phase: str, text: str) -> None:
    """A statement of the class's own; from then on it is like any other. A second time is harmless."""
    try:
        key = own_key(phase, text)
    except ValueError:
        raise Refused("Write it in 1 to 80 letters, e.g. “explains it to another team”.", "text") from None
    known = statements_of(session, challenge)
    if key in {s.key for s in known}:
        return
    if sum(s.key.startswith(OWN) for s in known) >= MOST_OWN:
        raise Refused(f"A class has at most {MOST_OWN} statements of its own.", "text")
    team = challenge.school_class.teams[0]
    session.add(Understood(challenge_id=challenge.id, team_id=team.id, key=key, mark="", at=moments.now()))
    session.flush()


def table_of(session: Session, challenge: Challenge) -> Mapping[int, Mapping[str, Mark]]:
    """The marks of each team by statement."""
    out: dict[int, dict[str, Mark]] = {}
    for (team_id, key), mark in marks_of(session, challenge.id).items():
        out.setdefault(team_id, {})[key] = mark
    return out
