"""A test that was held on paper and is typed in afterwards: every mark is open, no time is a measured one."""

from __future__ import annotations

from datetime import datetime, timedelta

from sqlalchemy.orm import Session

from thermion.records import moments
from thermion.records.errors import Refused
from thermion.records.planning.briefs import Brief
from thermion.records.running.runs import all_readings, clocks
from thermion.records.tables import Run, RunPhase

UNKNOWN = "From paper; when it began is not known."
MARGIN_S = 60.0  # beyond the last mark's own time, so that nothing typed can count as taken there


def length_s(run: Run, brief: Brief) -> float:
    """How long a test takes until nothing typed can be a reading of that moment [s]."""
    each = [2 * c.slots[-1].due_until_s - c.slots[-1].due_from_s for c in clocks(run, brief)]
    late = max((e.offset_s for e in run.entries), default=0.0)
    return sum(each) + late + MARGIN_S


def not_from_paper(session: Session, run: Run) -> None:
    """Back to a test whose clock was not started yet; refused once a value was typed in."""
    if not run.paper:
        return
    if all_readings(session, run.id):
        raise Refused("Values were typed in from paper already. Set the run apart instead.")
    run.phases.clear()
    run.paper, run.note = False, run.note.replace(UNKNOWN, "").strip()
    session.flush()


def hold_on_paper(
    session: Session, run: Run, brief: Brief, began: datetime | None = None, now: datetime | None = None
) -> None:
    """Open every mark of a run at once; it `began` at a moment, or nobody knows when. A second time is
    harmless.

    Refused for a test without marks, a rehearsal, one that is closed or whose clock runs, and where it
    began so short ago that it cannot be over.
    """
    if run.paper:
        return
    phases = clocks(run, brief)
    if not phases or run.rehearsal:
        raise Refused("Only a real test at marks is typed in from paper; turns are noted as they are.")
    if run.closed_at is not None:
        raise Refused("This run is closed.")
    if run.phases:
        raise Refused("The clock of this test runs: type its values at their marks.")
    latest = (now or moments.now()) - timedelta(seconds=length_s(run, brief))
    if began is not None and began > latest:
        raise Refused("A test that began then is not over yet: start its clock instead.", "began")
    at = began or latest
    for clock in phases:
        run.phases.append(RunPhase(phase=clock.phase, started_at=at))
        at += timedelta(seconds=clock.slots[-1].due_until_s)
    run.paper = True
    if began is None:
        run.note = f"{run.note} {UNKNOWN}".strip()[:500]
    session.flush()
