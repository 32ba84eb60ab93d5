"""What of a challenge file is a class's own: its words, ideas, what teams take from each other."""

from __future__ import annotations

from base64 import b64encode
from collections.abc import Mapping

from sqlalchemy import select
from sqlalchemy.orm import Session, undefer

from thermion.core.physics.materials import MATERIALS
from thermion.formats.schema import ChallengeItem, IdeaItem, RungItem, TakenItem, UnderstoodItem
from thermion.records.planning import own
from thermion.records.tables import Challenge, Idea, OwnWord, Taken, Understood


def words_of(challenge: Challenge) -> list[OwnWord]:
    return [w for w in challenge.school_class.own_words if w.kind == challenge.kind]


def words_out(challenge: Challenge) -> dict[str, str]:
    """The class's own words as the file calls them, by their keys here."""
    return {w.word: f"own{i + 1}" for i, w in enumerate(words_of(challenge))}


def seen(keys: str, words: Mapping[str, str]) -> str:
    return " ".join(words.get(key, key) for key in keys.split())


def ideas_out(session: Session, challenge: Challenge) -> list[IdeaItem]:
    letters = {t.id: t.letter for t in challenge.school_class.teams}
    found = select(Idea).where(Idea.challenge_id == challenge.id).options(undefer(Idea.data))
    return [
        IdeaItem(
            team=letters[i.team_id],
            number=i.number,
            strokes=i.strokes,
            picks=i.picks,
            why=i.why,
            photograph=None if i.data is None else b64encode(i.data),
            at=i.at,
            by=i.by,
        )
        for i in session.scalars(found.order_by(Idea.team_id, Idea.number))
    ]


def understood_out(session: Session, challenge: Challenge) -> list[UnderstoodItem]:
    """Every mark on what a team has understood, in order."""
    letters = {t.id: t.letter for t in challenge.school_class.teams}
    rows = session.scalars(
        select(Understood).where(Understood.challenge_id == challenge.id).order_by(Understood.id)
    )
    return [UnderstoodItem(team=letters[u.team_id], key=u.key, mark=u.mark, at=u.at, by=u.by) for u in rows]


def rungs_out(challenge: Challenge) -> list[RungItem]:
    """Both rungs that were set, with the letters of the teams on them."""
    letters = {t.id: t.letter for t in challenge.school_class.teams}
    return [
        RungItem(
            key=r.key,
            share=r.share,
            words=r.words,
            aim=r.aim,
            teams=[letters[on.team_id] for on in challenge.on_rungs if on.key == r.key],
        )
        for r in challenge.rungs
    ]


def taken_out(session: Session, challenge: Challenge) -> list[TakenItem]:
    letters = {t.id: t.letter for t in challenge.school_class.teams}
    found = select(Taken).where(Taken.challenge_id == challenge.id).order_by(Taken.id)
    return [
        TakenItem(team=letters[t.team_id], source=letters[t.from_id], what=t.what, at=t.at, by=t.by)
        for t in session.scalars(found)
    ]


def ideas_in(
    session: Session,
    challenge: Challenge,
    item: ChallengeItem,
    token: str,
    photographs: Mapping[int, tuple[bytes, int, int]],
) -> None:
    """Ideas and what teams take from each other, in a class that has these teams."""
    teams = {t.letter: t.id for t in challenge.school_class.teams}
    for i, idea in enumerate(item.ideas):
        row = Idea(
            challenge_id=challenge.id,
            team_id=teams[idea.team],
            client_id=f"import-{token[:32]}-{idea.team}-{idea.number}",
            **idea.model_dump(exclude={"team", "photograph"}),
        )
        if i in photographs:
            row.data, row.width, row.height = photographs[i]
        session.add(row)
    session.add_all(
        Taken(
            challenge_id=challenge.id,
            team_id=teams[t.team],
            from_id=teams[t.source],
            what=t.what,
            at=t.at,
            by=t.by,
        )
        for t in item.taken
    )


def own_things_in(session: Session, challenge: Challenge, item: ChallengeItem) -> dict[str, str]:
    """The class gets what it lacks of another class's own things; new keys of its words by the old ones."""
    class_id, seen_at = challenge.class_id, challenge.cautions_seen_at
    for text in item.own_cautions:
        own.add_caution(session, class_id, text)
    if not challenge.school_class.challenges[1:]:  # of a class of its own they were read as the file says
        challenge.cautions_seen_at = seen_at
    for offer in item.offers:
        own.know_material(session, class_id, offer.material, offer.points)
    for part in (p for b in item.builds for v in b.versions for p in v.parts):
        own.know_material(session, class_id, part.material, MATERIALS[part.material].points)
    out = {}
    for word in item.own_words:
        made = own.add_word(session, class_id, challenge.kind, word.seen, word.ask)
        if made is not None:
            out[word.word] = made.word
    session.refresh(challenge.school_class, ["own_words"])
    return out
