"""Briefs without builds and runs: copied to other classes, kept on the shelf, taken into a new year."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from sqlalchemy import select
from sqlalchemy.orm import Session

from thermion.core.physics.units import TEMP_UNITS, unit_label
from thermion.formats.exchange import brief_in, challenge_file
from thermion.formats.intake import read_file
from thermion.formats.schema import ChallengeFile
from thermion.records import moments
from thermion.records.errors import Gone
from thermion.records.planning.briefs import get_challenge
from thermion.records.planning.classes import TeamInput, free_name, get_class, save_class
from thermion.records.tables import Challenge, KitItem, SchoolClass, ShelfBrief


@dataclass(frozen=True)
class Copied:
    """A challenge made from a brief, and what is to be looked at in it."""

    challenge: Challenge
    look_at: tuple[str, ...] = ()


def brief_file(session: Session, challenge_id: int) -> ChallengeFile:
    """A challenge file with the brief alone: nothing built, nothing tested, nothing concluded."""
    whole = challenge_file(session, challenge_id)
    bare = whole.challenge.model_copy(
        update={
            **{key: [] for key in ("builds", "runs", "rig", "conclusions", "ideas", "taken")},
            "cautions_seen_at": None,
        }
    )
    return whole.model_copy(update={"challenge": bare})


def put_into(session: Session, file: ChallengeFile, school_class: SchoolClass) -> Copied:
    """A brief in a class, in the class's own units. The cautions are to be read there anew.

    What is to be looked at: a rule of one's own that counts in another unit of temperature.
    """
    steps = [step.model_copy(update={"not_before": 0}) for step in file.challenge.steps]  # its own lessons
    item = file.challenge.model_copy(
        update={"created_at": moments.now(), "cautions_seen_at": None, "steps": steps}
    )
    made, _ = brief_in(session, school_class, item)
    made.cautions_seen_at = None
    session.flush()
    return Copied(made, tuple(_other_units(made, school_class)))


def _other_units(made: Challenge, school_class: SchoolClass) -> list[str]:
    if made.school != "own":
        return []
    other = {t.unit for t in made.terms if t.unit in TEMP_UNITS and t.unit != school_class.temp_unit}
    return [
        f"{school_class.name}: the score of {made.title} counts in {unit_label(unit)}, this class reads "
        f"{unit_label(school_class.temp_unit)}."
        for unit in sorted(other)
    ]


def copy_to(session: Session, challenge_id: int, class_ids: Sequence[int]) -> list[Copied]:
    """The brief of a challenge in other classes, each with the kit's packs and prices it did not know."""
    challenge = get_challenge(session, challenge_id)
    file = brief_file(session, challenge_id)
    out = []
    for class_id in dict.fromkeys(class_ids):
        school_class = get_class(session, class_id)
        out.append(put_into(session, file, school_class))
        _kit_too(session, challenge.class_id, class_id)
    return out


def _kit_too(session: Session, from_id: int, to_id: int) -> None:
    known = set(session.scalars(select(KitItem.item).where(KitItem.class_id == to_id)))
    for row in session.scalars(select(KitItem).where(KitItem.class_id == from_id)):
        if row.item not in known:
            session.add(KitItem(class_id=to_id, item=row.item, pack=row.pack, pack_cost=row.pack_cost))
    session.flush()


def next_year(session: Session, class_id: int) -> SchoolClass:
    """A new class from an earlier one: its units, the names of its teams, all its briefs with their own
    things and kit; no lessons, builds, runs."""
    old = get_class(session, class_id)
    made = save_class(
        session,
        name=free_name(session, old.name),
        temp_unit=old.temp_unit,
        decimal=old.decimal,
        zone=old.zone,
        teams=[
            TeamInput(name=t.name, id=None, letter=t.letter, shape=t.shape, colour=t.colour)
            for t in old.present
        ],
        learners=old.learners,
    )
    made.latitude_deg, made.longitude_deg = old.latitude_deg, old.longitude_deg
    made.altitude_m = old.altitude_m
    for challenge in sorted(old.challenges, key=lambda c: (c.position, c.id)):
        copied = put_into(session, brief_file(session, challenge.id), made)
        copied.challenge.beside = challenge.beside
    _kit_too(session, class_id, made.id)
    return made


def keep_on_shelf(session: Session, challenge_id: int) -> ShelfBrief:
    """Keep a brief; what was kept of the same lineage before is replaced."""
    challenge, content = get_challenge(session, challenge_id), brief_file(session, challenge_id)
    row = session.scalar(select(ShelfBrief).where(ShelfBrief.lineage == challenge.lineage))
    if row is None:
        row = ShelfBrief(lineage=challenge.lineage)
        session.add(row)
    row.title, row.kind, row.kept_at = challenge.title, challenge.kind, moments.now()
    row.content = content.model_dump_json(indent=1)
    session.flush()
    return row


def shelf(session: Session) -> Sequence[ShelfBrief]:
    """The briefs on the shelf, by title."""
    return session.scalars(select(ShelfBrief).order_by(ShelfBrief.title, ShelfBrief.id)).all()


def take_from_shelf(session: Session, shelf_id: int, school_class: SchoolClass) -> Copied:
    """A brief of the shelf in a class. Gone when it was taken off the shelf meanwhile."""
    row = session.get(ShelfBrief, shelf_id)
    if row is None:
        raise Gone("This brief is no longer on the shelf.")
    return put_into(session, read_file(row.content.encode()), school_class)


def take_off_shelf(session: Session, shelf_id: int) -> None:
    row = session.get(ShelfBrief, shelf_id)
    if row is not None:
        session.delete(row)
        session.flush()
