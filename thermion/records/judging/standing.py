"""Where each challenge stands, counted in a fixed number of queries."""

from __future__ import annotations

from collections.abc import Sequence, Set
from datetime import UTC, datetime
from typing import Any

from sqlalchemy import CompoundSelect, case, func, literal, select, union_all
from sqlalchemy.orm import Session, aliased

from thermion.core.kinds import get_kind
from thermion.core.planning.path import READ, Clocked, Path, Standing, path_of, run_step
from thermion.records.tables import Build, Challenge, Entry, Mark, Run, RunPhase, Team, Version

RUN_STATES = ("going", "ready", "closed")


def _counts(ids: Sequence[int], class_ids: Set[int]) -> CompoundSelect[Any]:
    """(what is counted, of which challenge or class, its state, how many)."""
    newest = aliased(Version)
    later = (
        select(newest.id).where(newest.build_id == Version.build_id, newest.number > Version.number).exists()
    )
    versions = select(literal("state"), Build.challenge_id, Version.state, func.count()).join(
        Version, Version.build_id == Build.id
    )
    tested = (
        select(Entry.id)
        .join(Run, Run.id == Entry.run_id)
        .where(Entry.version_id == Version.id, Run.rehearsal.is_(False))
        .exists()
    )
    untested = select(literal("untested"), Build.challenge_id, literal(""), func.count()).join(
        Version, Version.build_id == Build.id
    )
    started = select(RunPhase.id).where(RunPhase.run_id == Run.id).exists()
    state = case((Run.closed_at.is_not(None), "closed"), (started, "going"), else_="ready")
    return union_all(
        select(literal("teams"), Team.class_id, literal(""), func.count())
        .where(Team.class_id.in_(class_ids))
        .group_by(Team.class_id),
        versions.where(Build.challenge_id.in_(ids), ~later).group_by(Build.challenge_id, Version.state),
        untested.where(Build.challenge_id.in_(ids), Version.state == "issued", ~tested).group_by(
            Build.challenge_id
        ),
        select(literal("run"), Run.challenge_id, state, func.count())
        .where(Run.challenge_id.in_(ids), Run.rehearsal.is_(False))
        .group_by(Run.challenge_id, state),
    )


def _run_steps(session: Session, challenges: Sequence[Challenge], now: datetime | None) -> dict[int, str]:
    """What the newest clocked run that is on waits for, by challenge."""
    kinds = {c.id: get_kind(c.kind) for c in challenges if get_kind(c.kind).test.held == "marks"}
    if not kinds:
        return {}
    marks = (
        select(func.group_concat(Mark.time_s))
        .where(Mark.challenge_id == Run.challenge_id, Mark.phase == RunPhase.phase)
        .scalar_subquery()
    )
    rows = session.execute(
        select(Run.challenge_id, Run.id, Run.speed, RunPhase.phase, RunPhase.started_at, marks)
        .join(RunPhase, RunPhase.run_id == Run.id)
        .where(Run.challenge_id.in_(kinds), Run.rehearsal.is_(False), Run.closed_at.is_(None))
        .order_by(Run.id)
    )
    now = now or datetime.now(UTC)
    started: dict[int, dict[str, Clocked]] = {}
    newest: dict[int, int] = {}
    for challenge_id, run_id, speed, phase, since, times in rows:
        if newest.get(challenge_id) != run_id:
            started[challenge_id], newest[challenge_id] = {}, run_id
        at = tuple(sorted(float(t) for t in (times or "0").split(",")))
        started[challenge_id][phase] = Clocked(phase, at, (now - since).total_seconds() * speed)
    return {
        challenge_id: run_step([of.get(p.key, Clocked(p.begin)) for p in kinds[challenge_id].test.phases])
        for challenge_id, of in started.items()
    }


def paths(session: Session, challenges: Sequence[Challenge], now: datetime | None = None) -> dict[int, Path]:
    """The path of each challenge, by id, in one query, and one more if clocks are running."""
    ids = [c.id for c in challenges]
    states: dict[int, dict[str, int]] = {i: {} for i in ids}
    untested = dict.fromkeys(ids, 0)
    runs: dict[int, list[int]] = {i: [0, 0, 0] for i in ids}
    teams: dict[int, int] = {}
    for what, owner, state, count in session.execute(_counts(ids, {c.class_id for c in challenges})):
        match what:
            case "teams":
                teams[owner] = count
            case "state":
                states[owner][state] = count
            case "untested":
                untested[owner] = count
            case _:
                runs[owner][RUN_STATES.index(state)] = count
    out, steps = {}, _run_steps(session, [c for c in challenges if runs[c.id][0]], now)
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
                untested[c.id],
                get_kind(c.kind).test.held != "marks",
                steps.get(c.id, READ),
            )
        )
    return out
