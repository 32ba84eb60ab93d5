"""A class's own things: materials, words for what is seen, cautions of its room."""

from __future__ import annotations

from collections.abc import Sequence

from sqlalchemy import select, update
from sqlalchemy.orm import Session

from thermion.core.ages import AgeBand
from thermion.core.physics.materials import MATERIALS, OWN, like_by_name, own_key
from thermion.core.planning.safety import Warned, cautions
from thermion.core.values import Unfit
from thermion.records import moments
from thermion.records.errors import Refused
from thermion.records.planning.briefs import Brief
from thermion.records.tables import Challenge, OwnCaution, OwnMaterial, OwnWord

MOST = 60  # of each kind of thing in a class


def cautions_of(
    session: Session, challenge: Challenge, brief: Brief, age: AgeBand | None = None
) -> list[Warned]:
    """The cautions of a challenge in the words of its age or another, those of this room first."""
    found = cautions(
        brief.kind, brief.choices, age or challenge.age_band, challenge.tools.split(), brief.setting
    )
    return [*(Warned(c.text, False) for c in own_cautions(session, challenge.class_id)), *found]


def own_materials(session: Session, class_id: int) -> Sequence[OwnMaterial]:
    found = select(OwnMaterial).where(OwnMaterial.class_id == class_id).order_by(OwnMaterial.id)
    return session.scalars(found).all()


def add_material(
    session: Session,
    class_id: int,
    name: str,
    unit: str,
    like: str,
    *,
    limit: float | None = None,
    points: float | None = None,
) -> OwnMaterial:
    """A material of the class's own, which behaves about like a known one ("": as its name says).

    One of the same name is taken as it is. Refused, naming the field, without a name or unit, or
    when a shipped material is called that.
    """
    there = own_materials(session, class_id)
    said = " ".join(name.split()).casefold()
    known = next((m for m in there if MATERIALS[m.key].name.casefold() == said), None)
    if known is not None:
        return known
    if MATERIALS.named(name):
        raise Refused(f"{name.strip()} is already in the list: tick it there.", "own_name")
    if len(there) >= MOST:
        raise Refused(f"A class has at most {MOST} materials of its own.", "own_name")
    like = like or like_by_name(name) or ""
    try:
        key = own_key(name, unit or "piece", like)
    except Unfit as error:
        words = {
            "name": "Give it a name of at most 40 letters.",
            "unit": "One piece of it is called what? At most 24 letters, e.g. sheet.",
            "like": "Which known material does it behave about like? Its name does not say.",
        }
        raise Refused(words[error.argument], f"own_{error.argument}") from None
    row = OwnMaterial(
        class_id=class_id,
        key=key,
        limit_units=limit,
        points=MATERIALS[like].points if points is None else points,
    )
    session.add(row)
    session.flush()
    return row


def know_material(session: Session, class_id: int, key: str, points: float) -> None:
    """A class that is brought a plan or a brief with another class's material has it in its list too."""
    if OWN in key and not any(m.key == key for m in own_materials(session, class_id)):
        session.add(OwnMaterial(class_id=class_id, key=key, points=points))
        session.flush()


def forget_material(session: Session, class_id: int, key: str) -> None:
    """Take a material off the class's list. Briefs and builds that use it keep it."""
    for row in own_materials(session, class_id):
        if row.key == key:
            session.delete(row)


def add_word(session: Session, class_id: int, kind: str, seen: str, ask: str = "") -> OwnWord | None:
    """A word for what was seen, with its question; one that is there already is offered again.

    None without a word.
    """
    said = " ".join(seen.split())[:60]
    if not said:
        return None
    rows = session.scalars(select(OwnWord).where(OwnWord.class_id == class_id, OwnWord.kind == kind)).all()
    found = next((w for w in rows if w.seen.casefold() == said.casefold()), None)
    if found is None:
        if len(rows) >= MOST:
            raise Refused(f"A class has at most {MOST} words of its own for a family.", "own_seen")
        found = OwnWord(class_id=class_id, kind=kind, seen=said)
        session.add(found)
    found.gone_at = None
    if ask.strip():
        found.ask = " ".join(ask.split())[:160]
    session.flush()
    return found


def forget_word(session: Session, class_id: int, word: str) -> None:
    """Offer a word no more. Where it was noted it stays."""
    for row in session.scalars(select(OwnWord).where(OwnWord.class_id == class_id)):
        if row.word == word:
            row.gone_at = moments.now()


def own_cautions(session: Session, class_id: int) -> Sequence[OwnCaution]:
    found = select(OwnCaution).where(OwnCaution.class_id == class_id).order_by(OwnCaution.id)
    return session.scalars(found).all()


def add_caution(session: Session, class_id: int, text: str) -> None:
    """A caution or rule of this room; it is read with the class before the next run of any challenge."""
    said = " ".join(text.split())[:200]
    there = own_cautions(session, class_id)
    if not said or any(c.text.casefold() == said.casefold() for c in there):
        return
    if len(there) >= MOST:
        raise Refused(f"A class has at most {MOST} cautions of its own.", "own_caution")
    session.add(OwnCaution(class_id=class_id, text=said))
    session.execute(update(Challenge).where(Challenge.class_id == class_id).values(cautions_seen_at=None))
    session.flush()
    session.expire_all()


def forget_caution(session: Session, class_id: int, caution_id: int) -> None:
    row = session.get(OwnCaution, caution_id)
    if row is not None and row.class_id == class_id:
        session.delete(row)
