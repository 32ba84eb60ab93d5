"""A package's tables of what was tested and read: runs, clocks, conditions, values, attempts."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator, Mapping
from typing import Any

from thermion.core.judging.observed import quantity_of
from thermion.core.kinds.testing import Reads
from thermion.core.physics.units import stored_unit
from thermion.formats.package.spec import (
    CHALLENGE,
    OF_CHALLENGE,
    OF_RUN,
    RUN,
    UNIT,
    One,
    Refers,
    Row,
    TableSpec,
    build_key,
    moment,
    number,
    stamp,
    text,
    whole,
    yes,
)
from thermion.records.running import attempts, runs
from thermion.records.running.rig import AIR_NUMBER
from thermion.records.running.set_apart import Apart, apart_in
from thermion.records.tables import AttemptRow, Entry, Run


def _runs(one: One) -> Iterator[Row]:
    for r in one.runs:
        yield {
            "challenge": one.challenge.id,
            "run": r.number,
            "rehearsal": r.rehearsal,
            "paper": r.paper,
            "speed": r.speed,
            "made": stamp(r.created_at),
            "closed": stamp(r.closed_at),
            "note": r.note,
        }


RUNS = TableSpec(
    name="runs",
    means="The tests.",
    fields=(
        CHALLENGE,
        RUN,
        yes("rehearsal", "whether nothing real was tested: it counts for nothing"),
        yes("paper", "whether it was held on paper and typed in afterwards, at planned times"),
        number("speed", "how many times as fast as the clock"),
        moment("made", "when it was made"),
        moment("closed", "when it was closed"),
        text("note", "note", words=True),
    ),
    rows=_runs,
    key=("challenge", "run"),
    refers=(OF_CHALLENGE,),
)


def _phases(one: One) -> Iterator[Row]:
    for r in one.runs:
        for p in r.phases:
            yield {
                "challenge": one.challenge.id,
                "run": r.number,
                "phase": p.phase,
                "started": stamp(p.started_at),
            }


PHASES = TableSpec(
    name="phases",
    means="When each clock of each test was started: marks and times taken count from there.",
    fields=(
        CHALLENGE,
        RUN,
        text("phase", "phase of a test by the clock, or a race", needed=True),
        moment("started", "when its clock was started"),
    ),
    rows=_phases,
    key=("challenge", "run", "phase"),
    refers=(OF_RUN,),
)


def _conditions(one: One) -> Iterator[Row]:
    units = {c.key: stored_unit(c.unit) for c in one.brief.kind.brief.settings(one.brief.choices)}
    for r in one.runs:
        values = {c.key: c.value for c in r.conditions}
        uncertain = one.brief.uncertain(values, {c.key: c.how for c in r.conditions if c.how})
        for c in r.conditions:
            yield {
                "challenge": one.challenge.id,
                "run": r.number,
                "condition": c.key,
                "value": c.value,
                "uncertainty": uncertain.get(c.key),
                "unit": units.get(c.key, ""),
                "how": c.how or None,
            }


CONDITIONS = TableSpec(
    name="conditions",
    means="The conditions of each test, where they were noted anew; all others stand in settings.",
    fields=(
        CHALLENGE,
        RUN,
        text("condition", "what, explained in definitions", needed=True),
        number("value", "value"),
        number("uncertainty", "its standard uncertainty, by how it was obtained; none of a scale in words"),
        UNIT,
        text("how", "measured or estimated"),
    ),
    rows=_conditions,
    key=("challenge", "run", "condition"),
    refers=(OF_RUN,),
)


def _thermometers(one: One) -> Iterator[Row]:
    glass, letters = one.evidence.glass, {t.id: t.letter for t in one.challenge.school_class.teams}
    for number_, off in glass.off.items():
        yield {
            "challenge": one.challenge.id,
            "read_by": "air" if number_ == AIR_NUMBER else letters[number_],
            "off": off,
        }


THERMOMETERS = TableSpec(
    name="thermometers",
    means="What the check in one glass found: figures follow from values less this, where a hand read them.",
    fields=(
        CHALLENGE,
        text("read_by", "letter of the team that has it, or air", needed=True),
        number("off", "by how much it shows more than the others", "delta_degC"),
    ),
    rows=_thermometers,
    key=("challenge", "read_by"),
    refers=(OF_CHALLENGE,),
)


def _named(one: One, run: Run, entry: Entry) -> dict[str, Any]:
    """The fields that name a row of a run: what it is, and of a build whose."""
    named: dict[str, Any] = {"challenge": one.challenge.id, "run": run.number, "device": entry.device or None}
    if entry.version is None:
        row = "control" if entry.is_control else "air"
        return named | {"row": row, "build": None, "team": None, "version": None}
    letter, version = entry.version.build.team.letter, entry.version.number
    key = build_key(one.challenge.id, letter, version)
    return named | {"row": "build", "build": key, "team": letter, "version": version}


NAMED = (
    CHALLENGE,
    RUN,
    text("row", "build, air or control", needed=True),
    text("build", "of a build: challenge-team-version, as in versions"),
    text("team", "letter of the team, of a build"),
    whole("version", "version, of a build"),
    text("device", "which of two devices"),
)
OF_BUILD = Refers(fields=("build",), table="versions", by=("build",))


def _values(one: One) -> Iterator[Row]:
    """Every value of every run: readings of clocked tests, each number of an attempt."""
    for run in one.runs:
        apart = apart_in(run, tuple(p.key for p in one.brief.kind.test.phases))
        entries = {e.id: e for e in run.entries}
        yield from _of_readings(one, run, entries, apart)
        yield from _of_attempts(one, run, entries, apart)


def _of_readings(one: One, run: Run, entries: Mapping[int, Entry], apart: Apart) -> Iterator[Row]:
    later = one.brief.kind.test.later_for(one.brief.choices)
    found = runs.all_readings(one.session, run.id)
    replaced = {r.supersedes_id for r in found}
    for r in found:
        entry = entries[r.entry_id]
        read = one.brief.read_at(entry.is_air)
        if later is not None and r.phase == later.read.key:
            read = later.read
        counts = apart.counts(entry, r.phase, r.time_s)
        yield _named(one, run, entry) | {
            "attempt": None,
            "phase": r.phase,
            "mark": r.mark_s,
            "taken": r.time_s,
            "timed": r.timed,
            **_read(read, r.value),
            "source": r.source,
            "by": r.by or None,
            "state": _state(back=r.value is None, replaced=r.id in replaced, counts=counts),
        }


def _of_attempts(one: One, run: Run, entries: Mapping[int, Entry], apart: Apart) -> Iterator[Row]:
    """Each number of each attempt."""
    reads = {r.key: r for r in one.brief.kind.test.attempt_reads(one.brief.choices)}
    for a, tried, state in _tried(one, run, entries, apart):
        by_machine = a.machine.split()
        for key, value in a.values.items():
            if key not in reads:
                continue
            yield _named(one, run, entries[a.entry_id]) | {
                "attempt": tried,
                "phase": None,
                "mark": None,
                "taken": None,
                "timed": None,
                **_read(reads[key], value),
                "source": "probe" if key in by_machine else "hand",
                "by": a.by or None,
                "state": state,
            }


def _read(read: Reads, value: float | None) -> dict[str, Any]:
    quantity = quantity_of(read)
    return {"quantity": quantity.key, "value": value, "unit": stored_unit(quantity.unit)}


def _tried(
    one: One, run: Run, entries: Mapping[int, Entry], apart: Apart
) -> Iterator[tuple[AttemptRow, int, str]]:
    """Every attempt, which one of its row it is, and whether it counts: a correction is no attempt more."""
    every = attempts.all_attempts(one.session, [run.id])
    followed = {a.supersedes_id for a in every}
    tried: Counter[int] = Counter()
    for a in every:
        tried[a.entry_id] += a.supersedes_id is None
        counts = not apart.leaves_out(entries[a.entry_id])
        state = _state(back=a.withdrawn, replaced=a.id in followed, counts=counts)
        held = a.free and state == "counts"
        yield a, tried[a.entry_id] or 1, "held by hand" if held else state


def _state(*, back: bool, replaced: bool, counts: bool) -> str:
    if back:
        return "taken back"
    if replaced:
        return "replaced"
    return "counts" if counts else "set apart"


STATE = text("state", "counts, replaced, taken back, set apart or held by hand", needed=True)
BY = text(
    "by", "the device that brought it: desk, helper, station, team or probe; empty from before it was kept"
)
VALUES = TableSpec(
    name="values",
    means="Everything that was read, one value a row, replaced ones too.",
    fields=(
        *NAMED,
        whole("attempt", "number of the attempt, of a test by turns"),
        text("phase", "phase of a test by the clock"),
        number("mark", "mark it was read for", "s"),
        number("taken", "when it was read, from the start of the phase", "s"),
        yes("timed", "whether that was measured, or is the planned moment"),
        text("quantity", "what was read, explained in definitions", needed=True),
        number("value", "value as it was read; nothing is taken off"),
        UNIT,
        text("source", "hand, probe or file"),
        BY,
        STATE,
    ),
    rows=_values,
    refers=(OF_RUN, OF_BUILD),
)


def _attempts(one: One) -> Iterator[Row]:
    for run in one.runs:
        apart = apart_in(run, tuple(p.key for p in one.brief.kind.test.phases))
        entries = {e.id: e for e in run.entries}
        for a, tried, state in _tried(one, run, entries, apart):
            yield _named(one, run, entries[a.entry_id]) | {
                "attempt": tried,
                "adjusted": a.adjusted or None,
                "race": a.race or None,
                "seen": a.seen or None,
                "at": stamp(a.at),
                "by": a.by or None,
                "note": a.note,
                "state": state,
            }


ATTEMPTS = TableSpec(
    name="attempts",
    means="The attempts of tests by turns and races, and what was seen; their numbers stand in values.",
    fields=(
        *NAMED,
        whole("attempt", "number of the attempt of its row", needed=True),
        text("adjusted", "a, b … after something was changed on the spot"),
        text("race", "phase that holds the readings of a race"),
        text("seen", "what was seen: keys by spaces, explained in definitions"),
        moment("at", "when it was noted"),
        BY,
        text("note", "note", words=True),
        STATE,
    ),
    rows=_attempts,
    refers=(OF_RUN, OF_BUILD),
)
