"""What a challenge file says was tested: runs in their order of time, and every value through the one door."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from functools import cached_property
from itertools import pairwise
from typing import get_args

from thermion.core.judging.observed import Source, observe_many, quantity_of
from thermion.core.kinds.base import Kind
from thermion.core.kinds.testing import AIR, Reads
from thermion.core.physics.units import Setting
from thermion.formats.checking.said import among, between, no, no_twice, number_of, within
from thermion.formats.schema import AttemptItem, ChallengeFile, EntryItem, ReadingItem, RunItem
from thermion.records.errors import Refused
from thermion.records.planning.marks import LONGEST_MARK_S
from thermion.records.running.runs import SPEEDS, TURNS
from thermion.records.tables.runs import CONTROL

MOST_RUNS = 500
LONGEST_S = 40 * 86400.0  # from the start of a clock to the last thing that is read by it
AHEAD_S = 60.0  # by which a device's clock may be ahead of the record's
SOURCES = frozenset(get_args(Source))
RACE = "race-"  # how the clock of each race is called, with its number


@dataclass(frozen=True, kw_only=True)
class _Told:
    """What the runs of a file are held against."""

    kind: Kind
    setting: Setting
    choices: Mapping[str, str]
    marks: frozenset[tuple[str, float]]
    versions: Mapping[tuple[str, int], str]  # by team and number, the state of each
    seen: frozenset[str]

    @cached_property
    def noted(self) -> Mapping[str, Reads]:
        """What an attempt can hold: what follows at once from what was noted is in it too."""
        test = self.kind.test
        return {r.key: r for r in (*test.reads, *test.attempt_reads(self.choices))}

    def reads(self, entry: EntryItem, phase: str) -> Reads:
        """What is read of a row in a phase."""
        later = self.kind.test.later
        if later is not None and phase == later.read.key:
            return later.read
        if entry.team is None and not entry.device:
            return AIR
        return self.kind.test.grid_read(self.choices) or self.kind.test.reads[0]


def check_tests(file: ChallengeFile, kind: Kind) -> None:
    c = file.challenge
    told = _Told(
        kind=kind,
        setting=Setting(file.school_class.temp_unit, file.school_class.decimal),
        choices=kind.brief.chosen({x.key: x.value for x in c.choices}),
        marks=frozenset((m.phase, m.time_s) for m in c.marks),
        versions={(b.team, v.number): v.state for b in c.builds for v in b.versions},
        seen=frozenset((*(o.key for o in kind.test.observations), *(w.word for w in c.own_words))),
    )
    if len(c.runs) > MOST_RUNS:
        raise no("runs", f"at most {MOST_RUNS}")
    no_twice("runs", (r.number for r in c.runs))
    for i, run in enumerate(c.runs):
        where = f"runs[{i}]"
        _check_run(where, run, told)
        _check_clocks(where, run, told)
        _check_rows(where, run, told)
        _check_order(where, run)
        started = _started(run, told)
        for k, reading in enumerate(run.readings):
            _check_reading((where, k), reading, run.speed, started, told)
        for k, attempt in enumerate(run.attempts):
            _check_attempt(f"{where}.attempts[{k}]", attempt, run, told)
        _check_values(where, run, told)


def _check_run(where: str, run: RunItem, told: _Told) -> None:
    among(f"{where}.speed", run.speed, SPEEDS)
    if run.speed != 1.0 and not run.rehearsal:
        raise no(f"{where}.speed", "only a rehearsal runs faster than the clock")
    known = {x.key: x for x in told.kind.brief.conditions}
    no_twice(f"{where}.conditions", (x.key for x in run.conditions))
    for k, x in enumerate(run.conditions):
        among(f"{where}.conditions[{k}].key", x.key, known)
        within(f"{where}.conditions[{k}].value", x.value, number_of(known[x.key]))


def _check_clocks(where: str, run: RunItem, told: _Told) -> None:
    """Clocks of this test, each begun after the one before it, and none after the run was closed."""
    order = [p.key for p in told.kind.test.phases] if told.kind.test.shape == "marks" else []
    no_twice(f"{where}.phases", (p.phase for p in run.phases))
    for k, p in enumerate(run.phases):
        if p.phase not in order and not _of_a_station(p.phase, told.kind):
            raise no(f"{where}.phases[{k}].phase", f"“{p.phase}” is no clock of this test")
    started = {p.phase: p.started_at for p in run.phases}
    for earlier, later in pairwise(order):
        if later in started and (earlier not in started or started[later] < started[earlier]):
            raise no(f"{where}.phases", f"{later} was started before {earlier}")
    if run.closed_at is not None and run.closed_at < run.created_at:
        raise no(f"{where}.closed_at", "it was closed before it was made")


def _of_a_station(phase: str, kind: Kind) -> bool:
    """Whether a clock is that of a station, or of a race."""
    if kind.test.shape == "marks":
        return False
    number = phase.removeprefix(RACE)
    return phase == TURNS or (phase.startswith(RACE) and number.isascii() and number.isdigit())


def _check_rows(where: str, run: RunItem, told: _Told) -> None:
    devices = {"", CONTROL, *(key for key, _ in told.kind.test.devices)}
    no_twice(f"{where}.entries", ((e.team, e.version, e.device) for e in run.entries))
    for k, e in enumerate(run.entries):
        at = f"{where}.entries[{k}]"
        if e.team is not None and (e.team, e.version) not in told.versions:
            raise no(f"{at}.version", f"it tests {e.team}{e.version}, which is not there")
        if not run.rehearsal and told.versions.get((e.team or "", e.version or 0), "issued") != "issued":
            raise no(f"{at}.version", f"{e.team}{e.version} was tested before it had its materials")
        if e.team is None and e.version is not None:
            raise no(f"{at}.version", "of no team")
        among(f"{at}.device", e.device, devices)
        between(f"{at}.offset_s", e.offset_s, 0.0, LONGEST_MARK_S)
    for k, a in enumerate(run.aparts):
        if a.entry is not None and not 0 <= a.entry < len(run.entries):
            raise no(f"{where}.aparts[{k}].entry", "what is set apart is not a row of the run")
        if a.phase:
            known = {p.key for p in told.kind.test.phases} | {p.phase for p in run.phases}
            among(f"{where}.aparts[{k}].phase", a.phase, known)
        if a.after_s is not None:
            between(f"{where}.aparts[{k}].after_s", a.after_s, 0.0, LONGEST_S)
        if a.undone_at is not None and a.undone_at < a.at:
            raise no(f"{where}.aparts[{k}].undone_at", "before it was set apart")


def _check_order(where: str, run: RunItem) -> None:
    """Readings and attempts belong to rows; a correction to what stands before it."""
    noted: tuple[tuple[str, Sequence[ReadingItem | AttemptItem]], ...] = (
        ("readings", run.readings),
        ("attempts", run.attempts),
    )
    for what, items in noted:
        corrected: set[int] = set()
        for k, item in enumerate(items):
            if not 0 <= item.entry < len(run.entries):
                raise no(f"{where}.{what}[{k}].entry", "it has no row")
            if item.supersedes is None:
                continue
            if not 0 <= item.supersedes < k:
                raise no(f"{where}.{what}[{k}].supersedes", "corrects nothing")
            if items[item.supersedes].entry != item.entry:
                raise no(f"{where}.{what}[{k}].supersedes", "corrects what is of another row")
            if item.supersedes in corrected:
                raise no(f"{where}.{what}[{k}].supersedes", "corrects what was corrected before")
            corrected.add(item.supersedes)
    no_twice(
        f"{where}.readings",
        ((r.entry, r.phase, r.mark_s) for r in run.readings if r.supersedes is None and r.mark_s is not None),
    )


def _started(run: RunItem, told: _Told) -> dict[str, datetime]:
    """When the clock of each phase was started; what is read later counts from the first of them."""
    started = {p.phase: p.started_at for p in run.phases}
    later = told.kind.test.later
    if later is not None:
        started[later.read.key] = min(started.values(), default=run.created_at)
    return started


def _check_reading(
    at: tuple[str, int], r: ReadingItem, speed: float, started: Mapping[str, datetime], told: _Told
) -> None:
    """One of perhaps 20,000: its place is written only where something is wrong."""

    def wrong(name: str, what: str) -> Refused:
        return no(f"{at[0]}.readings[{at[1]}].{name}", what)

    if r.source not in SOURCES:
        raise wrong("source", f"“{r.source}” is not known")
    if r.phase not in started:
        raise wrong("phase", f"“{r.phase}” is not known")
    if not 0.0 <= r.time_s <= LONGEST_S:
        raise wrong("time_s", f"{r.time_s:g} is not within 0 and {LONGEST_S:g}")
    if r.mark_s is not None and (r.phase, r.mark_s) not in told.marks:
        raise wrong("mark_s", f"{r.mark_s:g} is no mark of {r.phase}")
    if r.timed and r.source == "hand":
        gone_by = (max(r.entered_at, r.arrived_at) - started[r.phase]).total_seconds() * speed
        if r.time_s > gone_by + AHEAD_S * speed:
            raise wrong("time_s", "it was taken after it was written down")


def _check_attempt(where: str, a: AttemptItem, run: RunItem, told: _Told) -> None:
    if told.kind.test.shape == "marks":
        raise no(where, "this test is read at marks, not in turns")
    known = told.noted
    for key in a.values:
        among(f"{where}.values", key, known)
    for key in a.seen.split():
        among(f"{where}.seen", key, told.seen)
    for key in a.machine.split():
        among(f"{where}.machine", key, known)
    if a.adjusted and not ("a" <= a.adjusted <= "z" and len(a.adjusted) == 1):
        raise no(f"{where}.adjusted", f"“{a.adjusted}” is no letter from a to z")
    if a.race:
        among(f"{where}.race", a.race, (p.phase for p in run.phases))


def _check_values(where: str, run: RunItem, told: _Told) -> None:
    """Every value that was observed comes through the door, as one from a file."""
    found: dict[str, list[tuple[str, float]]] = {}
    reads: dict[str, Reads] = {}
    for i, r in enumerate(run.readings):
        read = told.reads(run.entries[r.entry], r.phase)
        reads[read.key] = read
        for name, value in (("value", r.value), ("suggestion", r.suggestion)):
            if value is not None:
                found.setdefault(read.key, []).append((f"readings[{i}].{name}", value))
    for i, a in enumerate(run.attempts):
        for key, value in a.values.items():
            reads[key] = told.noted[key]
            found.setdefault(key, []).append((f"attempts[{i}].values.{key}", value))
    for key, items in found.items():
        _, wrong, check = observe_many([v for _, v in items], quantity_of(reads[key]), told.setting)
        if wrong is not None:
            raise Refused(f"{where}.{items[wrong][0]}: {check.message}", "file")
