"""Where each challenge stands, counted in a fixed number of queries."""

from __future__ import annotations

import json
from collections.abc import Mapping, Sequence, Set
from datetime import UTC, datetime
from typing import Any

from sqlalchemy import (
    CompoundSelect,
    Select,
    String,
    case,
    func,
    literal,
    or_,
    select,
    type_coerce,
    union_all,
)
from sqlalchemy.orm import Session, aliased

from thermion.core.kinds import get_kind
from thermion.core.planning.path import READ, TYPE, Clocked, HowFar, Path, path_of, run_step
from thermion.records import moments
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
    asked = select(Team.id).where(Team.id == Build.team_id, Team.left_at.is_(None)).exists()
    here = or_(asked, Version.state == "issued")  # nobody waits for the plan of a team that has left
    started = select(RunPhase.id).where(RunPhase.run_id == Run.id).exists()
    state = case((Run.closed_at.is_not(None), "closed"), (started, "going"), else_="ready")
    return union_all(
        select(
            literal("team"), Team.class_id, func.ifnull(type_coerce(Team.joined_at, String), ""), Team.id
        ).where(Team.class_id.in_(class_ids), Team.left_at.is_(None)),
        select(literal("built"), Build.challenge_id, literal(""), Build.team_id)
        .join(Version, Version.build_id == Build.id)
        .where(Build.challenge_id.in_(ids)),
        select(literal("first"), Run.challenge_id, func.min(type_coerce(Run.closed_at, String)), literal(0))
        .where(Run.challenge_id.in_(ids), Run.rehearsal.is_(False), Run.closed_at.is_not(None))
        .group_by(Run.challenge_id),
        versions.where(Build.challenge_id.in_(ids), ~later, here).group_by(Build.challenge_id, Version.state),
        untested.where(Build.challenge_id.in_(ids), Version.state == "issued", ~tested).group_by(
            Build.challenge_id
        ),
        select(literal("run"), Run.challenge_id, state, func.count())
        .where(Run.challenge_id.in_(ids), Run.rehearsal.is_(False))
        .group_by(Run.challenge_id, state),
        _clocks(ids),
    )


def _steps(
    clocks: Mapping[int, Sequence[str]], challenges: Sequence[Challenge], now: datetime
) -> dict[int, str]:
    """What the newest clocked run that is on waits for, by challenge; from what `_clocks` gives."""
    out = {}
    for challenge in challenges:
        started: dict[str, Clocked] = {}
        on_paper = False
        rows = sorted(json.loads(text) for text in clocks.get(challenge.id, ()))
        for run_id, paper, speed, phase, since, marks in rows:
            if run_id == rows[-1][0]:
                on_paper = bool(paper)
                elapsed = (now - datetime.fromisoformat(since).replace(tzinfo=UTC)).total_seconds() * speed
                times = sorted(float(mark) for mark in (marks or "0").split(","))
                started[phase] = Clocked(phase, tuple(times), elapsed)
        phases = get_kind(challenge.kind).test.phases
        if started and get_kind(challenge.kind).test.shape == "marks":
            step = run_step([started.get(p.key, Clocked(p.begin)) for p in phases])
            out[challenge.id] = TYPE if on_paper else step
    return out


def _clocks(ids: Sequence[int]) -> Select[tuple[str, int, str, int]]:
    """(run, on paper, speed, phase, its start, its marks) as text, of each clock of the runs that are on."""
    marks = (
        select(func.group_concat(Mark.time_s))
        .where(Mark.challenge_id == Run.challenge_id, Mark.phase == RunPhase.phase)
        .scalar_subquery()
    )
    clock = func.json_array(Run.id, Run.paper, Run.speed, RunPhase.phase, RunPhase.started_at, marks)
    return (
        select(literal("clock"), Run.challenge_id, clock, literal(1))
        .join(RunPhase, RunPhase.run_id == Run.id)
        .where(Run.challenge_id.in_(ids), Run.rehearsal.is_(False), Run.closed_at.is_(None))
    )


def paths(session: Session, challenges: Sequence[Challenge], now: datetime | None = None) -> dict[int, Path]:
    """The path of each challenge, by id, in one query."""
    ids = [c.id for c in challenges]
    states: dict[int, dict[str, int]] = {i: {} for i in ids}
    untested = dict.fromkeys(ids, 0)
    runs: dict[int, list[int]] = {i: [0, 0, 0] for i in ids}
    teams: dict[int, list[tuple[int, str]]] = {}
    built: dict[int, set[int]] = {i: set() for i in ids}
    first: dict[int, str] = {}
    clocks: dict[int, list[str]] = {}
    for what, owner, state, count in session.execute(_counts(ids, {c.class_id for c in challenges})):
        match what:
            case "team":
                teams.setdefault(owner, []).append((count, state))
            case "built":
                built[owner].add(count)
            case "first":
                first[owner] = state
            case "state":
                states[owner][state] = count
            case "clock":
                clocks.setdefault(owner, []).append(state)
            case "untested":
                untested[owner] = count
            case _:
                runs[owner][RUN_STATES.index(state)] = count
    out, steps = {}, _steps(clocks, challenges, now or moments.now())
    for c in challenges:
        late = first.get(c.id, "")  # who came after the first test was over is not asked for a plan
        asked = [t for t, joined in teams.get(c.class_id, []) if not (late and joined and late < joined)]
        states[c.id]["none"] = len(set(asked) - built[c.id])
        count = sum(states[c.id].values())
        going, ready, closed_runs = runs[c.id]
        out[c.id] = path_of(
            HowFar(
                brief_done=c.brief_done_at is not None,
                teams=count,
                states=states[c.id],
                runs_open=going,
                runs_ready=ready,
                runs_closed=closed_runs,
                untested=untested[c.id],
                turns=get_kind(c.kind).test.shape != "marks",
                run_step=steps.get(c.id, READ),
            )
        )
    return out
