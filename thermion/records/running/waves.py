"""Staggered starts: which builds start together next, and how far apart."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from sqlalchemy import select
from sqlalchemy.orm import Session

from thermion.core.planning.week import round_of
from thermion.records.planning.briefs import Brief, brief_of, get_challenge
from thermion.records.planning.week import timing_of
from thermion.records.tables import Challenge, Entry, Run


@dataclass(frozen=True)
class Wave:
    """Versions that start together next, `apart_s` [s] one after the other."""

    versions: tuple[int, ...]
    apart_s: float


def next_wave(session: Session, challenge: Challenge, brief: Brief, issued: Sequence[int]) -> Wave | None:
    """The first builds of the room that are issued and untested, as many as the readers get round.

    `issued` holds each build's newest issued version in room order, 0 for none. None when starts
    are not staggered.
    """
    timing = timing_of(session, challenge, brief)
    found = round_of(timing, len(issued), brief.marks) if timing.stagger else None
    if found is None:
        return None
    tested = set(
        session.scalars(
            select(Entry.version_id)
            .join(Run, Run.id == Entry.run_id)
            .where(Run.challenge_id == challenge.id, Run.rehearsal.is_(False))
        )
    )
    ready = [v for v in issued if v and v not in tested]
    return Wave(tuple(ready[: found.wave.count(0)]), timing.read_s / timing.readers)


def apart(session: Session, challenge_id: int) -> float:
    """Seconds between the starts of two builds of a run; 0 when starts are not staggered."""
    challenge = get_challenge(session, challenge_id)
    timing = timing_of(session, challenge, brief_of(challenge))
    return timing.read_s / timing.readers if timing.stagger else 0.0
