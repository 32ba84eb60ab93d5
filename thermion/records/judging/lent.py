"""How much a try varies, as earlier challenges of the same family lend it to one without repeats."""

from __future__ import annotations

from sqlalchemy import select
from sqlalchemy.orm import Session

from thermion.core.judging.spread import Spread, lent
from thermion.core.physics.units import convert
from thermion.records.planning.briefs import Brief
from thermion.records.tables import Challenge, Repeats

LEAST_DOF = 5.0


def earlier_spreads(session: Session, challenge: Challenge, brief: Brief) -> dict[str, Spread]:
    """By metric [stored unit]: what the repeats of other challenges of the same family lend.

    Of closed real runs only, of at least three other challenges, on at least five degrees of freedom.
    """
    rows = session.scalars(
        select(Repeats)
        .join(Challenge, Challenge.id == Repeats.challenge_id)
        .where(Challenge.kind == challenge.kind, Challenge.id != challenge.id)
        .order_by(Repeats.challenge_id)
    )
    by: dict[str, list[Repeats]] = {}
    for row in rows:
        by.setdefault(row.metric, []).append(row)
    found: dict[str, Spread] = {}
    for metric in brief.kind.analysis.metrics:
        known = by.get(metric.key, [])
        if sum(row.dof for row in known) < LEAST_DOF:
            continue
        above = None
        if metric.varies.above is not None:
            above = convert(metric.varies.above, metric.unit, metric.si_unit)
            above -= convert(0.0, metric.unit, metric.si_unit)
        spread = lent([(_variances(row), row.dof) for row in known], above)
        if spread is not None:
            found[metric.key] = spread
    return found


def _variances(row: Repeats) -> list[float]:
    """By the floor that is believed, a lower and a higher one; one alone where all vary alike."""
    every = (row.squares, row.squares_low, row.squares_high)
    return [squares / row.dof for squares in every if squares is not None]
