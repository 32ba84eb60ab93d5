"""Where each challenge stands, counted in a fixed number of queries."""

from __future__ import annotations

from collections.abc import Sequence

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from thermion.core.kinds import get_kind
from thermion.core.planning.path import Path, Standing, path_of
from thermion.records.tables import Build, Challenge, Entry, Run, RunPhase, Team, Version


def paths(session: Session, challenges: Sequence[Challenge]) -> dict[int, Path]:
    """The path of each challenge, by id."""
    ids = [c.id for c in challenges]
    teams = dict(
        session.execute(
            select(Team.class_id, func.count())
            .where(Team.class_id.in_({c.class_id for c in challenges}))
            .group_by(Team.class_id)
        ).all()
    )
    newest = (
        select(Version.build_id, func.max(Version.number).label("number"))
        .group_by(Version.build_id)
        .subquery()
    )
    states: dict[int, dict[str, int]] = {i: {} for i in ids}
    for challenge_id, state, count in session.execute(
        select(Build.challenge_id, Version.state, func.count())
        .join(Version, Version.build_id == Build.id)
        .join(newest, (newest.c.build_id == Build.id) & (newest.c.number == Version.number))
        .where(Build.challenge_id.in_(ids))
        .group_by(Build.challenge_id, Version.state)
    ):
        states[challenge_id][state] = count
    tested = (
        select(Entry.version_id)
        .join(Run, Run.id == Entry.run_id)
        .where(Run.rehearsal.is_(False), Entry.version_id.is_not(None))
    )
    untested = dict(
        session.execute(
            select(Build.challenge_id, func.count())
            .join(Version, Version.build_id == Build.id)
            .where(Build.challenge_id.in_(ids), Version.state == "issued", Version.id.not_in(tested))
            .group_by(Build.challenge_id)
        ).all()
    )
    runs: dict[int, list[int]] = {i: [0, 0, 0] for i in ids}
    started = select(RunPhase.run_id).distinct().subquery()
    for challenge_id, closed, phase in session.execute(
        select(Run.challenge_id, Run.closed_at, started.c.run_id)
        .outerjoin(started, started.c.run_id == Run.id)
        .where(Run.challenge_id.in_(ids), Run.rehearsal.is_(False))
    ):
        runs[challenge_id][2 if closed else 0 if phase else 1] += 1
    out = {}
    for c in challenges:
        count = teams.get(c.class_id, 0)
        states[c.id]["none"] = count - sum(states[c.id].values())
        going, ready, closed_runs = runs[c.id]
        out[c.id] = path_of(
            Standing(
                c.brief_done_at is not None,
                count,
                states[c.id],
                going,
                ready,
                closed_runs,
                untested.get(c.id, 0),
                get_kind(c.kind).test.held != "marks",
            )
        )
    return out
