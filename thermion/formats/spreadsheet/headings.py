"""What a heading of a table names: the team, a mark, something that is read, or a word about it."""

from __future__ import annotations

import re
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from typing import Literal

from thermion.core.kinds.testing import Reads
from thermion.core.physics.units import NotANumber, Setting, unit_written
from thermion.formats.spreadsheet.cells import SheetCell
from thermion.formats.spreadsheet.wanted import Stretch, Wanted, words_of
from thermion.formats.tables import plain_key

About = Literal[
    "",
    "team",
    "device",
    "version",
    "phase",
    "mark",
    "taken",
    "value",
    "unit",
    "current",
    "run",
    "try",
    "seen",
    "note",
    "time measured",
]
_ABOUT: dict[About, frozenset[str]] = {
    "team": frozenset({"team", "teams", "build", "builds", "group", "crew", "name"}),
    "device": frozenset({"device"}),
    "version": frozenset({"version"}),
    "phase": frozenset({"phase", "part"}),
    "mark": frozenset({"mark", "marks", "minute", "minutes", "min", "mark min", "time", "time min"}),
    "taken": frozenset({"time s", "time taken"}),
    "value": frozenset({"value", "reading", "read", "result"}),
    "unit": frozenset({"unit"}),
    "current": frozenset({"current"}),
    "run": frozenset({"run", "test"}),
    "try": frozenset({"try", "attempt", "turn", "round", "no", "nr", "number", "shower"}),
    "seen": frozenset({"seen", "what was seen", "observation", "observations"}),
    "note": frozenset({"note", "notes", "remark", "remarks"}),
    "time measured": frozenset({"time measured"}),
}
_UNIT = re.compile(r"\[([^\]]*)\]|\(([^)]*)\)|(°\s*[CF]\b)")
_MARK = re.compile(
    r"\D*?(\d+(?:[.,]\d+)?)(?::(\d\d))?\s*(h|hours?|min|minutes?|m|s|sec|seconds?|['′\"″])?(?![a-z])\D*"
)
_SECONDS = {"h": 3600.0, "m": 60.0, "'": 60.0, "′": 60.0, "s": 1.0, '"': 1.0, "″": 1.0}
CLOSE_S = 0.5  # a heading and the mark that it names


@dataclass(frozen=True, kw_only=True)
class Marked:
    """A number in a heading: what it is in seconds where its unit is said, else None."""

    number: float
    time_s: float | None


def unit_in(text: str) -> str:
    """A unit in brackets, or a degree sign with its letter; empty where a heading has none."""
    found = _UNIT.search(text)
    return next((part.strip() for part in found.groups() if part), "") if found else ""


def unit_for(texts: Iterable[str], read: Reads, setting: Setting) -> str:
    """The first unit among these texts in which something may be read; empty where none is said."""
    for text in texts:
        unit = unit_in(text)
        try:
            if unit and unit_written(unit, setting.unit_of(read.unit)):
                return unit
        except NotANumber:
            continue
    return ""


def sure_unit(text: str) -> str:
    """A text, if its unit cannot well be anything else: “(C)” in a title may be the name of a class."""
    unit = unit_in(text)
    return text if "°" in unit or len(unit) > 1 else ""


def bare(text: str) -> str:
    """A heading without its unit, in small letters."""
    return " ".join(words_of(_UNIT.sub(" ", text)))


def about(text: str) -> About:
    """What a heading says that its column is about; nothing of ours where empty."""
    said = bare(text)
    return next((key for key, names in _ABOUT.items() if said in names), "")


def read_named(text: str, reads: Sequence[Reads]) -> Reads | None:
    """What is read in a column of this heading: by its label or key, else by words that only one has."""
    said = bare(text)
    if not said:
        return None
    for read in reads:
        if said in (bare(read.label), " ".join(words_of(read.key)), " ".join(words_of(plain_key(read.key)))):
            return read
    words = set(said.split())
    part = [r for r in reads if words <= set(words_of(r.label)) | set(r.things)]
    more = sorted((r for r in reads if set(words_of(r.label)) <= words), key=lambda r: -len(r.label))
    return part[0] if len(part) == 1 else next(iter(more), None)


def later_named(text: str, wanted: Wanted) -> bool:
    """Whether a heading names what is read once more after the test."""
    later = wanted.later
    return later is not None and read_named(text, [*wanted.reads, later]) is later


def stretch_named(text: str, stretches: Sequence[Stretch]) -> Stretch | None:
    """The phase whose name a text holds; none where it names several."""
    said = words_of(text)
    named = [s for s in stretches if said and (set(words_of(s.label)) <= set(said) or s.key in said)]
    return named[0] if len(named) == 1 else None


def marked(cell: SheetCell, unit: str = "") -> list[Marked]:
    """What time a heading may mean; `unit` is one that the table gives for all. Empty where it is no time."""
    if cell.sort == "clock":
        hours, minutes, seconds = (int(part) for part in cell.text.split(":"))
        whole = hours * 3600.0 + minutes * 60 + seconds
        short = [Marked(number=whole / 60, time_s=hours * 60.0 + minutes)] if seconds == 0 else []
        return [*short, Marked(number=whole, time_s=whole)]
    if re.fullmatch(r"0?\d:[0-5]\d:[0-5]\d", cell.text):
        hours, minutes, seconds = (int(part) for part in cell.text.split(":"))
        whole = hours * 3600.0 + minutes * 60 + seconds
        return [Marked(number=whole, time_s=whole)]
    found = _MARK.fullmatch(cell.text.casefold())
    if found is None:
        return []
    number, seconds_of, own = found.groups()
    value = float(number.replace(",", "."))
    if seconds_of is not None:
        return [Marked(number=value, time_s=value * 60 + int(seconds_of))]
    words = words_of(cell.text)
    said = (
        own or next((w for w in words if w in ("min", "minute", "minutes", "seconds", "hours")), "") or unit
    )
    each = _SECONDS.get(said[:1]) if said else None
    return [Marked(number=value, time_s=None if each is None else value * each)]


def placed_marks(columns: dict[int, list[Marked]], marks_s: Sequence[float]) -> dict[int, float]:
    """Which mark [s] each column is of: by the unit that it says, else by that under which most are marks."""

    def under(each: float) -> dict[int, float]:
        out = {}
        for column, may in columns.items():
            times = [m.number * each if m.time_s is None else m.time_s for m in may]
            near = [mark for mark in marks_s for t in times if abs(mark - t) <= CLOSE_S]
            if near:
                out[column] = near[0]
        return out

    best = max((under(each) for each in (60.0, 1.0, 3600.0)), key=len)
    return best or _of_the_day(columns, marks_s)


def _of_the_day(columns: dict[int, list[Marked]], marks_s: Sequence[float]) -> dict[int, float]:
    """Times of the day, hours:minutes or with seconds: which mark each is, counted from the first of them.

    Only where every one of them is a mark then, and the first mark is among them.
    """
    found = [(column, may[-1].time_s) for column, may in columns.items() if may]
    times = [(column, time_s) for column, time_s in found if time_s is not None]
    if len(times) < max(len(columns), 2):
        return {}
    for each in (60.0, 1.0):
        since = {column: (time_s - times[0][1]) * each for column, time_s in times}
        out = {c: mark for c, t in since.items() for mark in marks_s if abs(mark - t) <= CLOSE_S}
        if len(out) == len(columns) and marks_s[0] == 0:
            return out
    return {}
