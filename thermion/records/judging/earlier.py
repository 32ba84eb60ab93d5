"""How much a try varies in each challenge, learned when its runs are closed, for later ones."""

from __future__ import annotations

from sqlalchemy import delete, select
from sqlalchemy.orm import Session

from thermion.core.judging.tries import Tried, tries_of
from thermion.core.kinds.briefing import Term
from thermion.records.database import Database
from thermion.records.judging.evidence import closed_tries
from thermion.records.planning.briefs import Brief, brief_of, get_challenge
from thermion.records.tables import Repeats, Run


def relearn(session: Session, challenge_id: int) -> None:
    """Keep what a challenge's closed real runs say of how much a try varies; to be called whenever
    one of them is closed, opened again, changed or set apart."""
    challenge = get_challenge(session, challenge_id)
    brief = brief_of(challenge)
    session.execute(delete(Repeats).where(Repeats.challenge_id == challenge_id))
    tried = closed_tries(session, challenge, brief)
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
        if metric.varies.never:
            continue
        measured = tries.measure((Term(metric=metric.key, unit=metric.si_unit),), metric.better)
        learned = None if measured is None else measured.learned()
        if learned is not None:
            variances, dof = learned
            low, high = (v * dof for v in variances[1:]) if len(variances) > 1 else (None, None)
            out.append(
                Repeats(
                    challenge_id=challenge_id,
                    metric=metric.key,
                    squares=variances[0] * dof,
                    squares_low=low,
                    squares_high=high,
                    dof=dof,
                )
            )
    return out
