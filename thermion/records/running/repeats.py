"""What was tried before as it is, and whether anything was tried twice: what a claim will stand on."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from sqlalchemy import func, literal, select, union_all
from sqlalchemy.orm import Session

from thermion.core.plans import differences
from thermion.records.building.builds import plan_of
from thermion.records.tables import AttemptRow, Build, Entry, Run, Version


@dataclass(frozen=True)
class Tested:
    """Versions in real runs of a challenge, and whether any build was tried more than once."""

    versions: frozenset[int]
    twice: bool


def already_tested(session: Session, challenge_id: int) -> Tested:
    """In one query: what was tested, and whether it was tested again or had several attempts."""
    real = select(Run.id).where(Run.challenge_id == challenge_id, Run.rehearsal.is_(False))
    runs = (
        select(Entry.version_id, func.count(Entry.run_id.distinct()), literal("runs"))
        .where(Entry.run_id.in_(real), Entry.version_id.is_not(None))
        .group_by(Entry.version_id)
    )
    attempts = (
        select(Entry.version_id, func.count(AttemptRow.id), literal("attempts"))
        .join(AttemptRow, AttemptRow.entry_id == Entry.id)
        .where(Entry.run_id.in_(real), AttemptRow.supersedes_id.is_(None), AttemptRow.free.is_(False))
        .group_by(Entry.id)
    )
    rows = session.execute(union_all(runs, attempts)).all()
    return Tested(frozenset(row[0] for row in rows if row[0] is not None), any(row[1] > 1 for row in rows))


def yardsticks(builds: Sequence[Build], chosen: Sequence[int], tested: Tested) -> list[Version]:
    """Of the versions chosen for a run, those that were tested before as they are: the same version,
    or an earlier one of the team in which nothing has been changed since."""
    out = []
    for build in builds:
        version = next((v for v in build.versions if v.id in chosen), None)
        if version is None:
            continue
        earlier = [v for v in build.versions if v.number <= version.number and v.id in tested.versions]
        plan = plan_of(version)
        if any(v is version or not differences(plan_of(v), plan, {}, {}) for v in earlier):
            out.append(version)
    return out
