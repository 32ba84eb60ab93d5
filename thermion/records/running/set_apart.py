"""Runs, parts of them, and what was read after a moment, set apart with a word why, and taken back in."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime

from sqlalchemy.orm import Session

from thermion.core.kinds import get_kind
from thermion.core.kinds.trials import Trace
from thermion.records import moments
from thermion.records.errors import Gone, Refused
from thermion.records.tables import Entry, Run, SetApart

LONGEST_WHY = 200


@dataclass(frozen=True)
class CutOff:
    """From where on the readings of a row do not count: its phases in order, and a moment [s]."""

    phases: tuple[str, ...]
    phase: str
    after_s: float

    def trace(self, phase: str, trace: Trace) -> Trace:
        """What of a phase's readings counts."""
        at, here = self.phases.index(self.phase), phase in self.phases
        if not here or self.phases.index(phase) < at:
            return trace
        if phase != self.phase:
            return Trace()
        kept = [(t, v) for t, v in zip(trace.time_s, trace.value, strict=True) if t <= self.after_s]
        return Trace(tuple(t for t, _ in kept), tuple(v for _, v in kept))


@dataclass(frozen=True)
class Apart:
    """What of a run does not count: the whole of it, rows by number, or what came after a moment."""

    whole: bool
    rows: frozenset[int]
    cuts: Mapping[int | None, CutOff]  # of a row, or of all (None)

    def leaves_out(self, entry: Entry) -> bool:
        return self.whole or entry.id in self.rows

    def counts(self, entry: Entry, phase: str, time_s: float) -> bool:
        """Whether a reading of a row at this moment of a phase counts."""
        kept = self.trace(entry, phase, Trace((time_s,), (0.0,)))
        return not self.leaves_out(entry) and bool(kept.time_s)

    def trace(self, entry: Entry, phase: str, trace: Trace) -> Trace:
        """What of a row's readings in a phase counts."""
        for key in (None, entry.id):
            if key in self.cuts:
                trace = self.cuts[key].trace(phase, trace)
        return trace


NOTHING_APART = Apart(False, frozenset(), {})


def apart_in(run: Run, phases: tuple[str, ...]) -> Apart:
    """What is set apart in a run now."""
    standing = [a for a in run.aparts if a.undone_at is None]
    if not standing:
        return NOTHING_APART
    cuts: dict[int | None, CutOff] = {}
    for a in standing:
        if a.phase and a.after_s is not None:
            new = CutOff(phases, a.phase, a.after_s)
            old = cuts.get(a.entry_id)
            order = (phases.index(new.phase), new.after_s)
            if old is None or order < (phases.index(old.phase), old.after_s):
                cuts[a.entry_id] = new
    return Apart(
        any(a.entry_id is None and not a.phase for a in standing),
        frozenset(a.entry_id for a in standing if a.entry_id is not None and not a.phase),
        cuts,
    )


def set_apart(
    session: Session,
    run: Run,
    why: str,
    *,
    entry_id: int | None = None,
    phase: str = "",
    after_s: float | None = None,
    now: datetime | None = None,
) -> SetApart:
    """Set a run apart, one row's part in it, or what was read after a moment of a phase.

    Refused without a word why, for a row of another run, or a phase or moment that there is not.
    Doing the same again is harmless.
    """
    said = why.strip()
    if not said:
        raise Refused("Say in a word why it does not count: “rain”, “fell over”.", "why")
    if len(said) > LONGEST_WHY:
        raise Refused(f"At most {LONGEST_WHY} letters.", "why")
    if entry_id is not None and entry_id not in {e.id for e in run.entries}:
        raise Gone("This build is no longer in the run.")
    known = [p.key for p in get_kind(run.challenge.kind).test.phases]
    if phase and (phase not in known or after_s is None or after_s < 0):
        raise Refused("From which minute on does it not count?", "after")
    for a in run.aparts:
        if a.undone_at is None and (a.entry_id, a.phase, a.after_s) == (entry_id, phase, after_s):
            a.why = said
            return a
    row = SetApart(entry_id=entry_id, phase=phase, after_s=after_s, why=said, at=now or moments.now())
    run.aparts.append(row)
    session.flush()
    return row


def take_back(session: Session, run: Run, apart_id: int, now: datetime | None = None) -> None:
    """Let it count again; what was said stays."""
    row = next((a for a in run.aparts if a.id == apart_id), None)
    if row is None:
        raise Gone("This is no longer set apart.")
    if row.undone_at is None:
        row.undone_at = now or moments.now()
    session.flush()
