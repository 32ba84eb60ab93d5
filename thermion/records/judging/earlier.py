"""How much a try varies, learned from this installation's own earlier repeats of the same kind."""

from __future__ import annotations

from math import sqrt

from sqlalchemy import delete, func, select
from sqlalchemy.orm import Session

from thermion.core.judging.spread import Spread
from thermion.core.judging.tries import Tried, counted, tries_of
from thermion.core.kinds.briefing import Term
from thermion.records.database import Database
from thermion.records.judging.evidence import closed_tries
from thermion.records.planning.briefs import Brief, brief_of, get_challenge
from thermion.records.tables import Challenge, Repeats, Run

LEAST_CHALLENGES, LEAST_DOF = 2, 5.0


def earlier_spreads(session: Session, challenge: Challenge) -> dict[str, Spread]:
    """By metric [stored unit]: what the repeats of other challenges of the same family say together.

    Of closed real runs only, of at least two other challenges, on at least five degrees of freedom.
    """
    rows = session.execute(
        select(Repeats.metric, func.sum(Repeats.squares), func.sum(Repeats.dof))
        .join(Challenge, Challenge.id == Repeats.challenge_id)
        .where(Challenge.kind == challenge.kind, Challenge.id != challenge.id)
        .group_by(Repeats.metric)
        .having(func.count() >= LEAST_CHALLENGES, func.sum(Repeats.dof) >= LEAST_DOF)
    )
    return {metric: Spread(sqrt(squares / dof), dof, "earlier classes") for metric, squares, dof in rows}


def relearn(session: Session, challenge_id: int) -> None:
    """Keep what a challenge's closed real runs say of how much a try varies; to be called whenever
    one of them is closed, opened again, changed or set apart."""
    challenge = get_challenge(session, challenge_id)
    brief = brief_of(challenge)
    session.execute(delete(Repeats).where(Repeats.challenge_id == challenge_id))
    tried = closed_tries(session, challenge_id, brief)
    session.add_all(_learned(challenge_id, brief, tried) if tried else [])
    session.flush()


def relearn_from(session: Session, run: Run) -> None:
    """`relearn` after something in a run was corrected, which counts only once the run is closed."""
    if run.closed_at is not None and not run.rehearsal:
        session.flush()
        relearn(session, run.challenge_id)


def relearn_all(database: Database) -> None:
    """`relearn` for every challenge with a closed real run: once, after data of before were migrated."""
    with database.writing() as session:
        closed = select(Run.challenge_id).where(Run.rehearsal.is_(False), Run.closed_at.is_not(None))
        for challenge_id in session.scalars(closed.distinct()).all():
            relearn(session, challenge_id)


def _learned(challenge_id: int, brief: Brief, tried: tuple[Tried, ...]) -> list[Repeats]:
    tries, out = tries_of(brief.kind, tried, None, brief.tolerance), []
    for metric in brief.kind.analysis.metrics:
        if counted(metric.key):
            continue
        measured = tries.measure((Term(metric.key, metric.si_unit),), metric.better)
        layout = None if measured is None else measured.layout
        if layout is not None and layout.dof > 0:
            out.append(
                Repeats(
                    challenge_id=challenge_id,
                    metric=metric.key,
                    squares=layout.squares,
                    dof=float(layout.dof),
                )
            )
    return out
