"""A class's own criteria: what judges say of each version, kept and read back."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass

from sqlalchemy import select
from sqlalchemy.orm import Session, joinedload

from thermion.core.judging.observed import Quantity, observe
from thermion.core.kinds.criteria import JUDGES, Criterion, criterion_of, is_own, judged_figure
from thermion.core.physics.units import Setting, convert, stored_unit
from thermion.core.values import Figure
from thermion.records import moments
from thermion.records.errors import Gone, Refused
from thermion.records.planning.briefs import Brief
from thermion.records.tables import Build, Judged, Version


@dataclass(frozen=True)
class JudgesMarks:
    """What the judges say of the versions of a challenge: by version, criterion and judge [stored unit]."""

    values: Mapping[tuple[int, str], Mapping[int, float]]

    def of(self, version_id: int, key: str) -> Mapping[int, float]:
        return self.values.get((version_id, key), {})

    def figures(self, version_id: int, criteria: Iterable[Criterion]) -> dict[str, Figure]:
        return {c.key: judged_figure(c.key, list(self.of(version_id, c.key).values())) for c in criteria}


def criteria_of(brief: Brief) -> list[Criterion]:
    """The class's own criteria in a challenge's rule."""
    return [criterion_of(m.key) for m in brief.kind.analysis.metrics if is_own(m.key)]


def said_of(session: Session, challenge_id: int, brief: Brief) -> JudgesMarks:
    """What the judges say; no question asked of the database where the rule has no own criterion."""
    if not criteria_of(brief):
        return JudgesMarks({})
    rows = session.scalars(
        select(Judged)
        .join(Version, Version.id == Judged.version_id)
        .join(Build, Build.id == Version.build_id)
        .where(Build.challenge_id == challenge_id)
        .order_by(Judged.id)
    )
    found: dict[tuple[int, str], dict[int, float]] = {}
    for row in rows:
        mine = found.setdefault((row.version_id, row.criterion), {})
        mine.pop(row.judge, None)
        if row.value is not None:
            mine[row.judge] = row.value
    return JudgesMarks(found)


def newest_versions(session: Session, challenge_id: int) -> list[Version]:
    """The version of each team that can be judged: its newest that is no draft."""
    rows = session.scalars(
        select(Version)
        .join(Build, Build.id == Version.build_id)
        .where(Build.challenge_id == challenge_id, Version.state != "draft")
        .options(joinedload(Version.build).joinedload(Build.team))
        .order_by(Build.team_id, Version.number)
    )
    return list({v.build.team_id: v for v in rows}.values())


def quantity(made: Criterion) -> Quantity:
    """What is read or given, with its limits."""
    to = stored_unit(made.unit)
    low, high = (convert(x, made.unit, to) for x in (0.0, made.most))
    return Quantity(
        key=made.key,
        label=made.name,
        unit=made.unit,
        low=low,
        high=high,
        whole=made.step >= 1 and made.judged,
    )


def judge(
    session: Session,
    challenge_id: int,
    brief: Brief,
    version_id: int,
    key: str,
    by: int,
    typed: str,
    setting: Setting,
) -> None:
    """Note what a judge says of a version; nothing typed takes it back. Refused when it cannot be."""
    made = next((c for c in criteria_of(brief) if c.key == key), None)
    version = session.get(Version, version_id)
    if made is None or version is None or version.build.challenge_id != challenge_id:
        raise Gone("This version or criterion is no longer there.")
    if not 1 <= by <= JUDGES:
        raise Refused(f"There are at most {JUDGES} judges.", f"judged-{version_id}-{key}")
    value = None
    if typed.strip():
        seen = observe(typed, quantity(made), setting)
        if seen.value is None:
            raise Refused(seen.check.message, f"judged-{version_id}-{key}")
        value = seen.value
    session.add(Judged(version_id=version_id, criterion=key, judge=by, value=value, at=moments.now()))
    session.flush()
