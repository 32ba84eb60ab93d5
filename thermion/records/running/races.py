"""Races with one probe: a clock of its own for each, readings meanwhile, and the stop.

A race is a phase of the run (its clock is the moment it was started), its readings, and at its
end an attempt that names it. Nothing is held anywhere else, so a reload finds it as it was.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime

from sqlalchemy import select
from sqlalchemy.orm import Session

from thermion.core.judging.observed import Around, quantity_of
from thermion.core.judging.plausibility import expect
from thermion.core.kinds.testing import RACE_READS, Reads
from thermion.core.values import exceeds
from thermion.records import moments
from thermion.records.errors import Conflict, Gone, Refused, Unsure
from thermion.records.planning.briefs import Brief
from thermion.records.running.accepting import accept
from thermion.records.running.attempts import AttemptInput, all_attempts, current_attempts, save_attempt
from thermion.records.running.noting import note
from thermion.records.tables import AttemptRow, Entry, Reading, Run, RunPhase

START, STOPWATCH = RACE_READS


@dataclass(frozen=True)
class Race:
    """A race that is on: its row, when it began, and what the probe showed so far [s, °C]."""

    key: str
    entry: Entry
    started_at: datetime
    readings: tuple[Reading, ...]

    @property
    def start_c(self) -> float:
        return float(self.readings[0].value or 0.0)

    def elapsed_s(self, now: datetime) -> float:
        return (now - self.started_at).total_seconds()


def probe_read(brief: Brief) -> Reads:
    """What the probe shows during a race."""
    return brief.kind.test.reads[0]


def race_on(session: Session, run: Run) -> Race | None:
    """The race whose clock is going; None between races."""
    over = {row.race for row in all_attempts(session, [run.id])}
    going = [p for p in run.phases if p.phase.startswith("race-") and p.phase not in over]
    if not going:
        return None
    phase = going[-1]
    readings = session.scalars(
        select(Reading)
        .join(Entry)
        .where(Entry.run_id == run.id, Reading.phase == phase.phase)
        .order_by(Reading.time_s, Reading.id)
    ).all()
    entry = next(e for e in run.entries if e.id == readings[0].entry_id)
    return Race(phase.phase, entry, phase.started_at, tuple(readings))


def _moment(run: Run, sent: datetime, now: datetime | None) -> datetime:
    """The moment a key was pressed, as the screen says; it may arrive much later."""
    here = now or moments.now()
    if sent < run.created_at:
        raise Refused("This device's clock was off when this was pressed, so its time would be wrong.")
    return min(sent, here)


def _row_to_race(run: Run, entry_id: int) -> Entry:
    entry = next((e for e in run.entries if e.id == entry_id), None)
    if entry is None:
        raise Gone("This build is not in the queue of this run.")
    if run.closed_at is not None:
        raise Refused("This run is closed. Open it again for another turn.", "closed")
    if entry.left:
        raise Refused(f"This team is marked {entry.left}. Put it back into the queue first.")
    return entry


def start_race(
    session: Session,
    run: Run,
    brief: Brief,
    *,
    entry_id: int,
    typed: str,
    pressed_at: datetime,
    client_id: str,
    sure: bool = False,
    now: datetime | None = None,
) -> Race:
    """Start a row's race from what the probe shows.

    Asked (`Unsure`): a start away from the common one, and a sample before the bare control.
    Refused: a start at or above the target, a race while another is on, a row without turns.
    """
    if brief.kind.test.shape != "races":
        raise Refused("This test is not held with one probe.")
    stored = session.scalar(select(Reading).where(Reading.client_id == client_id))
    going = race_on(session, run)
    if stored is not None and going is not None:
        return going
    entry = _row_to_race(run, entry_id)
    if going is not None:
        raise Conflict("A race is on already: there is one probe.")
    if not typed.strip():
        raise Refused("What does the probe show now?", START.key)
    start_c, found = accept(typed, quantity_of(START, brief.values), brief.setting, START.key)
    target, common = brief.values[brief.kind.views.level], brief.values[START.key]
    show = brief.setting.show
    if start_c >= target:
        raise Refused(
            f"The probe is at the target of {show(target, 'degC')} already: cool it first.", START.key
        )
    if not sure:
        if found.check.answer == "ask":
            raise Unsure(found.check.message, START.key)
        _ask_first(session, run, brief, entry, start_c, common)
    count = sum(p.phase.startswith("race-") for p in run.phases)
    started = _moment(run, pressed_at, now)
    phase = RunPhase(phase=f"race-{count + 1}", started_at=started)
    run.phases.append(phase)
    reading = note(
        session,
        entry_id=entry.id,
        phase=phase.phase,
        time_s=0.0,
        value=start_c,
        client_id=client_id,
        at=started,
        arrived=now or moments.now(),
    )
    return Race(phase.phase, entry, started, (reading,))


def _ask_first(session: Session, run: Run, brief: Brief, entry: Entry, start_c: float, common: float) -> None:
    show = brief.setting.show
    controls = {e.id for e in run.entries if e.is_control}
    raced = {a.entry_id for a in current_attempts(session, [run.id])}
    if controls and not entry.is_control and not controls & raced:
        raise Unsure(
            "The bare probe has not been raced yet. It comes first: all others are measured against it.",
            "control",
        )
    off = start_c - common
    if exceeds(off, brief.tolerance.get("start_c", 0.5)):
        what = "Cool the probe in the glass and dry it" if off > 0 else "Let it warm up a little"
        raise Unsure(
            f"The probe shows {show(start_c, 'degC')}; all start at {show(common, 'degC')}. {what}.",
            START.key,
        )


def read_probe(
    session: Session,
    run: Run,
    brief: Brief,
    *,
    typed: str,
    pressed_at: datetime,
    client_id: str,
    now: datetime | None = None,
) -> Reading:
    """Keep what the probe shows at this moment of the race that is on."""
    stored = session.scalar(select(Reading).where(Reading.client_id == client_id))
    if stored is not None:
        return stored
    race = race_on(session, run)
    if race is None:
        raise Refused("No race is on.")
    moment = _moment(run, pressed_at, now)
    time_s = race.elapsed_s(moment)
    if time_s <= race.readings[-1].time_s:
        raise Refused("There is a later reading already.")
    shown = [(r.time_s, r.value) for r in race.readings if r.value is not None]
    expected = expect([t for t, _ in shown], [v for _, v in shown], time_s)
    quantity = quantity_of(probe_read(brief), brief.values)
    value, found = accept(typed, quantity, brief.setting, "typed", around=Around(expected=expected))
    return note(
        session,
        entry_id=race.entry.id,
        phase=race.key,
        time_s=time_s,
        value=value,
        client_id=client_id,
        at=moment,
        arrived=now or moments.now(),
        check=found.check,
    )


def stop_race(
    session: Session,
    run: Run,
    brief: Brief,
    *,
    key: str,
    pressed_at: datetime,
    client_id: str,
    at_target: bool,
    seen: Sequence[str] = (),
    note: str = "",
    now: datetime | None = None,
) -> AttemptRow:
    """End the race: at the target (the stopwatch counts) or without it (the readings do).

    `key` names the race; empty for whichever is on, when its start was sent late.
    """
    stored = session.scalar(select(AttemptRow).where(AttemptRow.client_id == client_id))
    if stored is not None:
        return stored
    race = race_on(session, run)
    if race is None or (key and race.key != key):
        raise Conflict("This race was ended on another screen.")
    seconds = race.elapsed_s(_moment(run, pressed_at, now))
    if at_target and seconds < 0.5:
        raise Refused("A time of zero cannot be: it was stopped before it began.", STOPWATCH.key)
    if not at_target and len(race.readings) < 2:
        raise Refused(
            "Nothing was read since the start. Stop at the target, read the probe, or call it a false start."
        )
    typed = {START.key: brief.setting.typed(race.start_c, START.unit, 2)}
    if at_target:
        typed[STOPWATCH.key] = brief.setting.typed(seconds, STOPWATCH.unit, 1)
    item = AttemptInput(
        entry_id=race.entry.id, typed=typed, client_id=client_id, seen=tuple(seen), note=note, race=race.key
    )
    return save_attempt(session, run, brief, item, now)


def false_start(session: Session, run: Run, key: str, client_id: str) -> None:
    """The race does not count; its readings stay in the record. A second time is harmless."""
    race = race_on(session, run)
    if race is None or (key and race.key != key):
        return
    session.add(
        AttemptRow(
            entry_id=race.entry.id,
            values={START.key: race.start_c},
            withdrawn=True,
            race=race.key,
            client_id=client_id,
            at=moments.now(),
        )
    )
    session.flush()
