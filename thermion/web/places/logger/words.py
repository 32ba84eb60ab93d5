"""What was found in a logger's file, and what storing it would do."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import datetime, timedelta
from zoneinfo import ZoneInfo

from thermion.core.physics.units import Setting, clock_text, unit_label
from thermion.formats.logger import Channel, LoggerFile
from thermion.formats.logger.times import length_words
from thermion.formats.logger.ways import SAID
from thermion.records.planning.briefs import Brief
from thermion.records.running.logged import FileLaid
from thermion.records.tables import LoggerLayout, Run
from thermion.web.components.words import count

SEPARATORS = {"\t": "tabs", ",": "commas", ";": "semicolons", "|": "bars", " ": "spaces"}
HOW = {
    "date": "by the date and clock in the file",
    "clock": "by the clock in the file, on the day of the test",
    "far": "slide it until it fits",
    "": "nothing in the file says when it was: slide it until it fits",
}


def time_read(file: LoggerFile, zone: str) -> str:
    """From when to when, how long, how often."""
    long = f"{length_words(file.length_s)}, a reading every {length_words(file.interval_s)}"
    if file.starts_at is None:
        if file.of_day_s is None:
            return f"{long}."
        return f"From {clock_text(file.of_day_s / 60)} by its clock: {long}."
    start = file.starts_at.astimezone(ZoneInfo(zone)) if file.starts_at.tzinfo else file.starts_at
    end = start + timedelta(seconds=file.length_s)
    return f"From {_moment(start)} to {_moment(end, start)}: {long}."


def _moment(at: datetime, after: datetime | None = None) -> str:
    same = after is not None and after.date() == at.date()
    return f"{at:%H:%M:%S}" if same else f"{at.day} {at:%B %Y, %H:%M:%S}"


def how_read(file: LoggerFile) -> str:
    """How the file was understood."""
    way = SAID.get(file.time_way, file.time_way)
    parted = SEPARATORS.get(file.separator, file.separator)
    said = f"Times from “{file.time_heading}” as {way}; columns parted by {parted}"
    if file.decimals == "comma":
        said += "; decimal comma"
    return "; ".join((said, *file.notes)) + "."


def columns_left(file: LoggerFile) -> str:
    """Columns that are none of temperatures."""
    return "; ".join(f"{name} ({why})" for name, why in file.left_out)


def range_read(channel: Channel, setting: Setting) -> str:
    """Lowest to highest, as the file writes it, and what was lost."""
    low, high = min(channel.value), max(channel.value)
    unit = unit_label(channel.unit)
    return f"{setting.write(low, 1)} to {setting.write(high, 1)} {unit}"


def lost(channel: Channel) -> str:
    """Cells without a temperature, by reason."""
    reasons: dict[str, list[int]] = {}
    for each in channel.lost:
        reasons.setdefault(f"“{each.cell}” {each.reason}", []).append(each.line)
    said = [f"{why}: line {_lines(lines)}" for why, lines in reasons.items()]
    rest = channel.lost_count - len(channel.lost)
    return "; ".join([*said, *([f"and {rest} more"] if rest > 0 else [])])


def _lines(lines: Sequence[int]) -> str:
    shown = ", ".join(str(n) for n in lines[:4])
    return shown + (f" and {len(lines) - 4} more" if len(lines) > 4 else "")


def skipped(file: LoggerFile) -> list[str]:
    """Rows that cannot be used, by reason."""
    reasons: dict[str, list[int]] = {}
    for row in file.skipped:
        reasons.setdefault(row.reason, []).append(row.line)
    said = [f"line {_lines(lines)}: {why}" for why, lines in reasons.items()]
    rest = file.skipped_count - len(file.skipped)
    return [*said, *([f"and {rest} more"] if rest > 0 else [])]


def remembered(layout: LoggerLayout | None, used: bool) -> str:
    """That the file was read as files of its logger were read before."""
    if layout is None or not used:
        return ""
    return f"Read as {layout.name or 'a file with these headings'} was read before."


def laid(found: FileLaid, brief: Brief) -> list[str]:
    """What would be left out, what is to be looked at, and what stands there already."""
    said = [
        f"{name}, {clock_text(time_s)}: {brief.setting.show(value, 'degC')} is far from the values beside it. Was "
        "the probe in the air? It is stored; the findings name it."
        for name, time_s, value in found.lone
    ]
    if found.before:
        said.append(f"{count(found.before, 'value')} before the test began: left out.")
    if found.beyond:
        said.append(f"{count(found.beyond, 'value')} that this test cannot read: left out.")
    if found.over:
        said.append(f"{count(found.over, 'value')} where a logger or probe has read already.")
    if found.marks:
        said.append(f"{count(found.marks, 'reading')} by hand in that time: kept beside it.")
    return said or ["All of it lies in the test, where nothing else was read."]


def store(found: FileLaid) -> str:
    return f"Store {count(found.stored, 'value')}"


def begin(seconds: float) -> str:
    """Where the first reading falls on the test's clock."""
    return f"−{clock_text(-seconds)}" if seconds < -0.5 else clock_text(max(seconds, 0.0))


def stored(number: int, run: Run) -> str:
    return f"{count(number, 'value')} stored in run {run.number}."


def taken_back(number: int) -> str:
    return f"{count(number, 'value')} taken back out of the run. The file is kept here for a week."


def already(run: Run, phase: str, brief: Brief) -> str:
    label = next((p.label for p in brief.kind.test.phases if p.key == phase), phase)
    return f"This file is in run {run.number} already ({label.lower()})."


def where_used(used: Sequence[tuple[int, str]], numbers: dict[int, int]) -> str:
    """In which runs a kept file is."""
    runs = sorted({numbers[run_id] for run_id, _ in used if run_id in numbers})
    return f"in run {', '.join(map(str, runs))}" if runs else "not stored yet"
