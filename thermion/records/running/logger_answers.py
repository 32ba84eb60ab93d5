"""How the files of a logger are meant: what was answered once is asked no more, until it is forgotten."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from sqlalchemy import delete, select
from sqlalchemy.orm import Session

from thermion.records import moments
from thermion.records.tables import LoggerLayout

OF_ONE_FILE = ("clocks", "part", "start")  # questions that are about this file and no other
MOST = 200


def known_layout(session: Session, layout: str) -> LoggerLayout | None:
    return session.scalar(select(LoggerLayout).where(LoggerLayout.layout == layout))


def remember_layout(session: Session, layout: str, name: str, answers: Mapping[str, str]) -> None:
    """Keep what was answered of files with these headings; the oldest are let go of beyond a few hundred."""
    kept = {k: v for k, v in answers.items() if k not in OF_ONE_FILE}
    if not kept:
        return
    row = known_layout(session, layout)
    if row is None:
        row = LoggerLayout(layout=layout, name=name[:60], answers={}, at=moments.now())
        session.add(row)
    row.answers, row.at = {**row.answers, **kept}, moments.now()
    if name.strip():
        row.name = " ".join(name.split())[:60]
    session.flush()
    old = select(LoggerLayout.id).order_by(LoggerLayout.at.desc()).offset(MOST)
    session.execute(delete(LoggerLayout).where(LoggerLayout.id.in_(old)))


def forget_layout(session: Session, layout: str) -> None:
    session.execute(delete(LoggerLayout).where(LoggerLayout.layout == layout))


def known_layouts(session: Session) -> Sequence[LoggerLayout]:
    return session.scalars(select(LoggerLayout).order_by(LoggerLayout.at.desc())).all()
