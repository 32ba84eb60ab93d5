"""The runs of a challenge with the plans that they test; loaded anew only when any of it was changed."""

from __future__ import annotations

from collections.abc import Sequence

from sqlalchemy import CompoundSelect, Table, func, literal, select, union_all
from sqlalchemy.orm import Session

from thermion.records.database import memory_of
from thermion.records.running.runs import load_runs
from thermion.records.tables import (
    Base,
    Build,
    Entry,
    FactorRow,
    PartRow,
    Run,
    RunCondition,
    RunPhase,
    SetApart,
    Team,
    Version,
)


def tested_runs(session: Session, challenge_id: int, *, rehearsal: bool) -> Sequence[Run]:
    """Real runs, or rehearsals, in order; in one query while nothing of them was changed.

    All that they hold is asked for as text, which is little and quick to compare, and made into
    objects only when it is not what it was.
    """
    memory, key = memory_of(session), ("tested", challenge_id, rehearsal)
    content = tuple(session.execute(_content(challenge_id, rehearsal)).scalars())
    found: Sequence[Run] | None = memory.find(key, content)
    if found is None:
        found = session.scalars(
            select(Run)
            .where(Run.challenge_id == challenge_id, Run.rehearsal == rehearsal)
            .order_by(Run.number)
        ).all()
        load_runs(session, found)
        memory.keep(key, content, found)
    return found


def _content(challenge_id: int, rehearsal: bool) -> CompoundSelect[tuple[str]]:
    """Every row of the runs, their clocks and conditions, and of the builds in them, as text."""
    mine = select(Run.id).where(Run.challenge_id == challenge_id, Run.rehearsal == rehearsal)
    versions = select(Entry.version_id).where(Entry.run_id.in_(mine))
    builds = select(Version.build_id).where(Version.id.in_(versions))
    teams = select(Build.team_id).where(Build.id.in_(builds))
    which = (
        (Run, Run.id.in_(mine)),
        (RunPhase, RunPhase.run_id.in_(mine)),
        (RunCondition, RunCondition.run_id.in_(mine)),
        (SetApart, SetApart.run_id.in_(mine)),
        (Entry, Entry.run_id.in_(mine)),
        (Version, Version.id.in_(versions)),
        (PartRow, PartRow.version_id.in_(versions)),
        (FactorRow, FactorRow.version_id.in_(versions)),
        (Build, Build.id.in_(builds)),
        (Team, Team.id.in_(teams)),
    )
    return union_all(
        *(
            select(func.json_array(literal(table.name), *table.c)).where(condition)
            for table, condition in ((_table(row), condition) for row, condition in which)
        )
    )


def _table(row: type[Base]) -> Table:
    table = row.__table__
    assert isinstance(table, Table)
    return table
