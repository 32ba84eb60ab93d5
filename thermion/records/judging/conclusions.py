"""What a class concludes from one challenge, and the later challenges that begin from it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from sqlalchemy import delete, select
from sqlalchemy.orm import Session

from thermion.records import moments
from thermion.records.errors import Gone, Refused
from thermion.records.tables import Carried, Challenge, Conclusion

LONGEST = 300


@dataclass(frozen=True)
class CarriedHere:
    """A conclusion as a later challenge shows it: the sentence and the challenge it is from."""

    id: int
    text: str
    title: str
    challenge_id: int


@dataclass(frozen=True)
class Concluded:
    """A conclusion of a challenge, and the challenges that begin from it."""

    id: int
    text: str
    to: frozenset[int]


def conclusions_of(session: Session, challenge_id: int) -> list[Concluded]:
    """What was concluded from a challenge, in order, and where it was carried."""
    rows = session.execute(
        select(Conclusion.id, Conclusion.text, Carried.challenge_id)
        .outerjoin(Carried, Carried.conclusion_id == Conclusion.id)
        .where(Conclusion.challenge_id == challenge_id)
        .order_by(Conclusion.id)
    ).all()
    texts = {row.id: row.text for row in rows}
    return [
        Concluded(number, text, frozenset(r.challenge_id for r in rows if r.id == number and r.challenge_id))
        for number, text in texts.items()
    ]


def known_in(session: Session, challenge_id: int) -> list[CarriedHere]:
    """What was found before and carried into this challenge."""
    rows = session.execute(
        select(Conclusion.id, Conclusion.text, Challenge.title, Challenge.id)
        .join(Carried, Carried.conclusion_id == Conclusion.id)
        .join(Challenge, Challenge.id == Conclusion.challenge_id)
        .where(Carried.challenge_id == challenge_id)
        .order_by(Conclusion.id)
    )
    return [CarriedHere(*row) for row in rows]


@dataclass(frozen=True)
class Other:
    """Another challenge of the class, and whether it comes after the one that is looked at."""

    id: int
    title: str
    after: bool


def other_challenges(session: Session, challenge: Challenge) -> list[Other]:
    """The other challenges of the class, those that come after this one first."""
    rows = session.execute(
        select(Challenge.id, Challenge.title, Challenge.position)
        .where(Challenge.class_id == challenge.class_id, Challenge.id != challenge.id)
        .order_by(Challenge.position, Challenge.id)
    )
    mine = (challenge.position, challenge.id)
    found = [Other(number, title, (position, number) > mine) for number, title, position in rows]
    return sorted(found, key=lambda other: not other.after)


def conclude(session: Session, challenge: Challenge, text: str) -> Conclusion:
    """Keep a sentence; the same sentence is kept once."""
    words = " ".join(text.split())
    if not words:
        raise Refused("Write what was found, in one sentence.", "text")
    if len(words) > LONGEST:
        raise Refused(f"One sentence of up to {LONGEST} letters; this has {len(words)}.", "text")
    known = session.scalar(
        select(Conclusion).where(Conclusion.challenge_id == challenge.id, Conclusion.text == words)
    )
    if known is not None:
        return known
    made = Conclusion(challenge_id=challenge.id, text=words, at=moments.now())
    session.add(made)
    session.flush()
    return made


def carry(session: Session, challenge: Challenge, conclusion_id: int, to: Sequence[int]) -> None:
    """Make exactly these other challenges of the class begin from a conclusion."""
    found = session.get(Conclusion, conclusion_id)
    if found is None or found.challenge_id != challenge.id:
        raise Gone("This conclusion is no longer there.")
    if not set(to) <= {c.id for c in other_challenges(session, challenge)}:
        raise Refused("A conclusion goes to another challenge of the same class.", "to")
    session.execute(delete(Carried).where(Carried.conclusion_id == conclusion_id))
    session.add_all(Carried(conclusion_id=conclusion_id, challenge_id=c) for c in sorted(set(to)))
    session.flush()


def forget(session: Session, challenge: Challenge, conclusion_id: int) -> None:
    """Drop a conclusion, here and where it was carried to. A second time is harmless."""
    found = session.get(Conclusion, conclusion_id)
    if found is not None and found.challenge_id == challenge.id:
        session.delete(found)
        session.flush()
