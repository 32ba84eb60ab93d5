"""What is said while a test is on."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from math import ceil

from thermion.core.ages import AgeBand, in_order, said_to
from thermion.core.kinds.testing import Reads
from thermion.core.physics.units import Decimal, Setting
from thermion.core.planning.pads import Pads
from thermion.records.planning.briefs import Brief
from thermion.records.running.attempts import Queue
from thermion.records.running.races import Race
from thermion.records.running.repeats import Tested
from thermion.records.running.waves import Wave
from thermion.records.tables import AttemptRow, Entry, Run, SetApart, Version
from thermion.web.components.words import count, listed

# Sentences of the scripts; {name} is filled in there, of two the first is for one.
GRID: Mapping[str, str | list[str]] = {
    "kept_what": "{phase}",
    "kept_where": "{row}, minute {minute}",
    "taken_back": "taken back",
    "sound_on": "Sound on",
    "sound_off": "Sound off",
    "paper": "From paper",
    "paper_read": "All is typed in. Close the run.",
    "rehearsal": "{phase}, rehearsal {speed}×",
    "closed": "This run is closed. Values can still be corrected.",
    "passed": "All marks have passed.",
    "passed_last": "All marks have passed. Close the run.",
    "to_read": "Read minute {minute}: {n} to go",
    "is_read": "Minute {minute} is read",
    "next": "minute {minute} in {time}",
    "cell": "{row}, minute {minute}",
    "cell_empty": "{row}, minute {minute}, not read",
    "pasted": ["{n} value pasted.", "{n} values pasted."],
    "paste_large": "What was copied has more rows or columns than there are from here on. Nothing was pasted.",
    "paste_words": "Copy the numbers only, without names and minutes. Nothing was pasted.",
    "paste_ahead": "Some of these marks have not come yet. Nothing was pasted.",
    "paste_over": "Some of these cells are filled already. Nothing was pasted.",
    "take": "take {value}",
    "write": "write {value}",
    "theirs": "keep theirs",
    "keep": "keep {value}",
    "leave": "leave empty",
    "doubtful": ["{n} doubtful value (amber)", "{n} doubtful values (amber)"],
    "end_phase": "End {phase} now?",
    "close_unread": "The control was not read. Close anyway?",
    "close_early": "Close before the last mark?",
    "not_started": "No connection: the clock was not started. Try again.",
}


def of_grid(decimal: Decimal) -> dict[str, str | list[str]]:
    """What the script of the grid says, and the sign before decimals."""
    return {**GRID, "point": "," if decimal == "comma" else "."}


RACE: Mapping[str, str | list[str]] = {
    "start": "Start",
    "probe": "Probe",
    "stop": "Stop",
    "end": "End without reaching it",
    "false_start": "False start",
    "last": "last {value} at {time}",
}


def reached(race: Race | None, level: float, setting: Setting) -> str:
    """That the probe of a race is at the target [°C]; nothing before."""
    if race is None or (race.readings[-1].value or 0.0) < level:
        return ""
    return f"{setting.show(level, 'degC')} is reached. Stop this race."


def where(run: Run) -> str:
    """A run, for what is kept of it on a device."""
    return f"{run.challenge.title}, run {run.number}"


def before_start(unit: str) -> str:
    """What to do before a clock is started."""
    first = "Probes in" if unit.startswith("°") else "All in place"
    return f"{first}, then start. The first reading is at minute 0."


def row_name(entry: Entry) -> str:
    """A row in words: the team, the control, or the air."""
    if entry.version is not None:
        return entry.version.build.team.name
    return "Control" if entry.is_control else "Air"


def turns_left(queue: Queue) -> str:
    return f"{count(len(queue.on) + len(queue.after), 'turn')} left"


def all_had(queue: Queue) -> str:
    return f"Everyone has had {count(queue.each, 'turn')}."


def fits_before(fits: str) -> str:
    return f"Before packing up: {fits}." if fits else ""


def as_before(said: str) -> str:
    """What a build's first try here begins with, from what it did in an earlier test."""
    return f"from an earlier test: {said}"


def turn_state(entry: Entry, queue: Queue, wait_s: float | None) -> str:
    """How far a row is in its turns, and how long it waits."""
    done = f"{queue.done[entry.id]} of {queue.each}"
    if entry.left:
        return f"{done}, {entry.left}"
    if wait_s is None:
        return f"{done}, done"
    return f"{done}, on" if wait_s == 0 else f"{done}, in {minutes(wait_s)}"


def minutes(seconds: float | None) -> str:
    return "" if not seconds else f"{ceil(seconds / 60)} min"


def numbers(row: AttemptRow, brief: Brief) -> tuple[str, ...]:
    """What was read of an attempt."""
    return tuple(
        _number(read, row.values[read.key], brief)
        for read in brief.kind.test.attempt_reads(brief.choices)
        if read.key in row.values
    )


def _number(read: Reads, value: float, brief: Brief) -> str:
    if read.words:
        return read.words[min(round(value), len(read.words) - 1)]
    digits = 0 if read.resolution >= 1 else 1
    things = read.things[0 if value == 1 else 1]
    return f"{brief.setting.show(value, read.unit, digits)} {things}".strip()


def attempt_label(row: AttemptRow, entry: Entry) -> str:
    """Which version it was, changed on the spot or not, and if it was hand-held."""
    version = f"v{entry.version.number}{row.adjusted}" if entry.version else ""
    return ", ".join(part for part in (version, "hand-held" if row.free else "") if part)


def attempt_remark(row: AttemptRow, brief: Brief) -> str:
    """What was seen, and the word noted on it."""
    keys = row.seen.split()
    seen = ", ".join(o.seen for o in brief.kind.test.observations if o.key in keys)
    machine = row.machine.split()
    read = [r.label.lower() for r in brief.kind.test.attempt_reads(brief.choices) if r.key in machine]
    by = f"{', '.join(read)} by a machine" if read else ""
    return "; ".join(part for part in (seen, row.note, by) if part)


def turn_heading(queue: Queue, entry: Entry, what: str, correcting: bool) -> str:
    return "Correcting an attempt" if correcting else f"{what} {queue.done[entry.id] + 1}"


def no_turn(run: Run, what: str) -> str:
    """Why nothing can be noted now."""
    if run.closed_at is None:
        done = "Every sample has been raced." if what == "race" else "All turns are taken."
        return f"{done} Choose a team for another one, or close the run."
    noted = "Times" if what == "race" else "Attempts"
    return f"This run is closed. {noted} can still be corrected; for another {what}, open it again."


def close_question(on: Sequence[Entry]) -> str:
    return "Close it with turns left?" if on else ""


def race_sample(entry: Entry, brief: Brief, caption: str) -> str:
    return brief.kind.test.control if entry.is_control else caption


def lay(entry: Entry) -> str:
    what = (
        "the probe on the bare pad"
        if entry.is_control
        else "the sample on the pad and the probe on the sample"
    )
    return f"Lay {what}."


def still_warm(last: Entry | None) -> str:
    return f"It is still warm from {row_name(last)}." if last is not None else ""


def wave(found: Wave | None) -> str:
    """Which builds start together next."""
    if found is None:
        return ""
    if not found.versions:
        return "every build that has its materials has been tested."
    builds = count(len(found.versions), "build")
    return f"these {builds} first, {found.apart_s:g} s apart; each is read at its own mark."


def rig_state(still_open: int) -> str:
    return f"Rig check: {still_open} open" if still_open else "Rig check: done"


def run_state(run: Run) -> tuple[str, str]:
    """A word on where a run stands, and its look."""
    if run.closed_at is not None:
        return "closed", "issued"
    return ("running", "waiting") if run.phases else ("ready", "draft")


def run_line(run: Run, made: str) -> str:
    line = f"{made}, {count(run.builds, 'build')}"
    return f"{line}. {run.note}" if run.note else line


def choice_of(number: int, state: str) -> str:
    return f"version {number}" if state == "issued" else f"version {number} ({state})"


def beside(tested: Tested, old: Sequence[Version], builds: int) -> str:
    """Beside the builds of a new run: which of them is a yardstick, or what is missing."""
    if not tested.versions:
        return ""
    if len(old) == builds:
        return "All builds run again unchanged: that tells how much a try varies."
    if old:
        names = [f"{v.build.team.name} {v.number}" for v in old]
        said = listed(names)
        run = "runs" if len(names) == 1 else "run"
        return f"{said} {run} again unchanged: a yardstick, so that the day's own effect can be taken out."
    return (
        "No build here was tested before as it is. Keep one unchanged, and run it beside the new ones: then "
        "what a change did can be told from what the day did."
    )


def repeat_hint(length: str, all_again: str, one_again: str) -> str:
    """While the builds are still on the table: what it takes to know how much a try varies."""
    return (
        f"Nothing was tried twice yet. Every build once more ({length}) tells a lead of three times what a try "
        f"varies by {all_again}; one build once more, {one_again}."
    )


def apart_what(row: SetApart, run: Run, brief: Brief) -> str:
    """What was set apart: the run, a build's part in it, or what came after a moment."""
    entry = next((e for e in run.entries if e.id == row.entry_id), None)
    what = "the whole run" if entry is None else row_name(entry)
    if row.phase and row.after_s is not None:
        label = brief.kind.test.phase(row.phase).label.lower()
        whose = "everything" if entry is None else what
        return f"{whose} after minute {row.after_s / 60:.3g} of {label}"
    return what


def apart_link(run: Run) -> str:
    """The way to what is set apart, with how much of it there is."""
    standing = sum(a.undone_at is None for a in run.aparts)
    return f"{standing} set apart" if standing else "Set apart"


def apart_when(time: str, row: SetApart) -> str:
    return f"at {time}" if row.undone_at is None else f"at {time}; taken back in"


def apart_line(run: Run, brief: Brief) -> str:
    """On the run itself: what of it does not count, and why."""
    standing = [a for a in run.aparts if a.undone_at is None]
    said = "; ".join(f"{apart_what(a, run, brief)} ({a.why})" for a in standing)
    return f"Set apart, not counted: {said}." if said else ""


def meanwhile(brief: Brief, turns: int) -> str:
    """What teams do that wait: another thing after each turn."""
    lines = brief.kind.test.bench.waiting
    return f"While you wait: {lines[turns % len(lines)]}" if lines else ""


OWN_TURN: Mapping[AgeBand, tuple[str, str, str]] = in_order(
    (
        ("Your turn!", "Wait.", "All done."),
        ("It is your turn.", "Wait for your turn.", "Your team has had all its turns."),
        ("It is your turn.", "Wait for your turn.", "Your team has had all its turns."),
    )
)


def own_turn(on: bool, before: int | None, done: int, each: int, age: AgeBand) -> str:
    """What a team's device says of its turn."""
    now, wait, all_had_it = said_to(age, OWN_TURN)
    if on:
        return f"{now} Try {done + 1} of {each}." if each > 1 and done < each else now
    if before is None:
        return all_had_it
    return f"{wait} {count(before, 'turn')} before you." if before else wait


PADS: Mapping[Pads, str] = {"": "no", "typed": "as typed", "looked": "after a look"}
