"""The questions a save asks, few and each built once: it is what happens most often while a run is on."""

from __future__ import annotations

from functools import cache
from typing import Any

from sqlalchemy import Insert, Select, bindparam, func, insert, select
from sqlalchemy.orm import aliased

from thermion.records.tables import (
    Build,
    Challenge,
    ChallengeChoice,
    ChallengeSetting,
    Entry,
    Mark,
    Reading,
    Run,
    RunPhase,
    SchoolClass,
    Team,
    Version,
)


@cache
def place() -> Select[*tuple[Any, ...]]:
    """The row with its run, clock and class; the marks, choices and rig; what was stored under this id."""
    return (
        select(
            Run.id.label("run_id"),
            Run.speed,
            Run.created_at,
            Run.closed_at,
            Run.rehearsal,
            RunPhase.started_at,
            Run.challenge_id,
            Challenge.kind,
            SchoolClass.temp_unit,
            SchoolClass.decimal,
            Entry.version_id,
            Entry.position,
            Entry.offset_s,
            Entry.device,
            select(func.group_concat(func.printf("%!.17g", Mark.time_s)))  # to the last bit
            .where(Mark.challenge_id == Run.challenge_id, Mark.phase == bindparam("phase"))
            .scalar_subquery()
            .label("marks"),
            select(func.json_group_object(ChallengeChoice.key, ChallengeChoice.value))
            .where(ChallengeChoice.challenge_id == Run.challenge_id)
            .scalar_subquery()
            .label("choices"),
            select(func.json_group_object(ChallengeSetting.key, ChallengeSetting.value))
            .where(ChallengeSetting.challenge_id == Run.challenge_id)
            .scalar_subquery()
            .label("settings"),
            select(Reading.id)
            .where(Reading.client_id == bindparam("client_id"))
            .scalar_subquery()
            .label("stored_id"),
        )
        .join(Run, Run.id == Entry.run_id)
        .join(Challenge, Challenge.id == Run.challenge_id)
        .join(SchoolClass, SchoolClass.id == Challenge.class_id)
        .outerjoin(RunPhase, (RunPhase.run_id == Run.id) & (RunPhase.phase == bindparam("phase")))
        .where(Entry.id == bindparam("entry_id"), Run.id == bindparam("run_id"))
    )


@cache
def _current() -> Select[*tuple[Any, ...]]:
    """What stands at marks of a phase; a logger's values are many, and no help to a save."""
    successor = aliased(Reading)
    return (
        select(
            Reading.id,
            Reading.entry_id,
            Reading.mark_s,
            Reading.time_s,
            Reading.value,
            Reading.timed,
            Reading.client_id,
            ((Entry.version_id.is_(None)) & (Entry.device == "")).label("is_air"),
        )
        .join(Entry, Entry.id == Reading.entry_id)
        .outerjoin(successor, successor.supersedes_id == Reading.id)
        .where(
            Entry.run_id == bindparam("run_id"),
            Reading.phase == bindparam("phase"),
            Reading.mark_s.is_not(None),
            successor.id.is_(None),
        )
        .order_by(Reading.entry_id, Reading.time_s)
    )


@cache
def around() -> Select[*tuple[Any, ...]]:
    """What stands in the row, in the others at the same mark, and in the air."""
    return _current().where(
        (Reading.entry_id == bindparam("entry_id"))
        | (Reading.mark_s == bindparam("mark_s"))
        | ((Entry.version_id.is_(None)) & (Entry.device == ""))
    )


@cache
def neighbours() -> Select[*tuple[Any, ...]]:
    """What stands in the rows above and below, with the name of their team."""
    return (
        _current()
        .add_columns(Entry.position, Team.name)
        .join(Version, Version.id == Entry.version_id)
        .join(Build, Build.id == Version.build_id)
        .join(Team, Team.id == Build.team_id)
        .where(Entry.position.in_((bindparam("above"), bindparam("below"))))
    )


@cache
def last() -> Select[Any]:
    """The last value of the row in another phase."""
    successor = aliased(Reading)
    return (
        select(Reading.value)
        .outerjoin(successor, successor.supersedes_id == Reading.id)
        .where(
            Reading.entry_id == bindparam("entry_id"),
            Reading.phase != bindparam("phase"),
            Reading.value.is_not(None),
            successor.id.is_(None),
        )
        .order_by(Reading.entered_at.desc(), Reading.time_s.desc())
        .limit(1)
    )


@cache
def store() -> Insert:
    """A reading, into its table."""
    return insert(Reading.__table__)  # type: ignore[arg-type]  # which SQLAlchemy types as wider
