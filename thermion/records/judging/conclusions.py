"""What a class concludes from one challenge, and the later challenges that begin from it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import UTC, datetime

from sqlalchemy import delete, select
from sqlalchemy.orm import Session

from thermion.records.errors import Gone, Refused
from thermion.records.tables import Carried, Challenge, Conclusion

LONGEST = 300


@dataclass(frozen=True)
class Known:
    """A conclusion as a later challenge shows it: the sentence and the challenge it is from."""

    id: int
    text: str
    title: str
    challenge_id: int


def conclusions_of(session: Session, challenge_id: int) -> Sequence[Conclusion]:
    """What was concluded from a challenge, in order."""
    return session.scalars(
        select(Conclusion).where(Conclusion.challenge_id == challenge_id).order_by(Conclusion.id)
    ).all()


def carried_from(session: Session, challenge_id: int) -> dict[int, set[int]]:
    """For each conclusion of a challenge, the later challenges that begin from it."""
    out: dict[int, set[int]] = {}
    for conclusion_id, to in session.execute(
        select(Carried.conclusion_id, Carried.challenge_id)
        .join(Conclusion)
        .where(Conclusion.challenge_id == challenge_id)
    ):
        out.setdefault(conclusion_id, set()).add(to)
    return out


def known_in(session: Session, challenge_id: int) -> list[Known]:
    """What was found before and carried into this challenge."""
    rows = session.execute(
        select(Conclusion.id, Conclusion.text, Challenge.title, Challenge.id)
        .join(Carried, Carried.conclusion_id == Conclusion.id)
        .join(Challenge, Challenge.id == Conclusion.challenge_id)
        .where(Carried.challenge_id == challenge_id)
        .order_by(Conclusion.id)
    )
    return [Known(*row) for row in rows]


def challenges_after(session: Session, challenge: Challenge) -> Sequence[Challenge]:
    """The challenges of the class that come after this one."""
    return session.scalars(
        select(Challenge)
        .where(
            Challenge.class_id == challenge.class_id,
            (Challenge.position > challenge.position)
            | ((Challenge.position == challenge.position) & (Challenge.id > challenge.id)),
        )
        .order_by(Challenge.position, Challenge.id)
    ).all()


def conclude(session: Session, challenge: Challenge, text: str) -> Conclusion:
    """Keep a sentence; the same sentence is kept once."""
    words = " ".join(text.split())
    if not words:
        raise Refused("Write what was found, in one sentence.", "text")
    if len(words) > LONGEST:
        raise Refused(f"One sentence of up to {LONGEST} letters; this has {len(words)}.", "text")
    for known in conclusions_of(session, challenge.id):
        if known.text == words:
            return known
    made = Conclusion(challenge_id=challenge.id, text=words, at=datetime.now(UTC))
    session.add(made)
    session.flush()
    return made


def carry(session: Session, challenge: Challenge, conclusion_id: int, to: Sequence[int]) -> None:
    """Make exactly these later challenges begin from a conclusion."""
    found = session.get(Conclusion, conclusion_id)
    if found is None or found.challenge_id != challenge.id:
        raise Gone("This conclusion is no longer there.")
    allowed = {c.id for c in challenges_after(session, challenge)}
    if not set(to) <= allowed:
        raise Refused("A conclusion goes to a later challenge of the same class.", "to")
    session.execute(delete(Carried).where(Carried.conclusion_id == conclusion_id))
    session.add_all(Carried(conclusion_id=conclusion_id, challenge_id=c) for c in sorted(set(to)))
    session.flush()


def forget(session: Session, challenge: Challenge, conclusion_id: int) -> None:
    """Drop a conclusion, here and where it was carried to. A second time is harmless."""
    found = session.get(Conclusion, conclusion_id)
    if found is not None and found.challenge_id == challenge.id:
        session.delete(found)
        session.flush()
