"""What a run has room for: its rows, its marks, what an attempt notes; and what a word in a table names of it."""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import dataclass, field
from difflib import SequenceMatcher

from thermion.core.kinds.testing import Observation, Reads
from thermion.core.physics.units import Setting

ALIKE = 0.75  # of two names, so that one is offered for the other
_GROUPS = frozenset({"team", "teams", "build", "group", "crew"})


@dataclass(frozen=True, kw_only=True)
class BuildLine:
    """A row of a run, under its key. `device` is the label of one of a version's several devices; `also` are
    other names, of the air and of the control."""

    key: int
    name: str
    letter: str = ""
    device: str = ""
    device_key: str = ""
    also: tuple[str, ...] = ()

    @property
    def said(self) -> str:
        """How a table names it."""
        return f"{self.name} {self.device}".strip()


@dataclass(frozen=True, kw_only=True)
class Stretch:
    """A phase of a test at marks [s]."""

    key: str
    label: str
    marks_s: tuple[float, ...]


@dataclass(frozen=True, kw_only=True)
class Wanted:
    """What a table may hold. `read` is read at marks, `reads` are noted of an attempt, of which `counted` is
    what is counted out; `later` once more afterwards; `usual` what a read is where the table does not say
    [as typed]; `run` is its number, `attempts` how many each team has."""

    lines: tuple[BuildLine, ...]
    setting: Setting
    run: int = 1
    attempts: int = 3
    stretches: tuple[Stretch, ...] = ()
    read: Reads | None = None
    reads: tuple[Reads, ...] = ()
    counted: Reads | None = None
    later: Reads | None = None
    usual: Mapping[str, str] = field(default_factory=dict)
    seen: tuple[Observation, ...] = ()


def words_of(text: str) -> tuple[str, ...]:
    """The words and numbers of a text, in small letters."""
    return tuple(re.findall(r"[^\W_]+", text.casefold()))


def _within(part: tuple[str, ...], whole: tuple[str, ...]) -> bool:
    size = len(part)
    return bool(part) and any(whole[i : i + size] == part for i in range(len(whole) - size + 1))


def lines_named(text: str, wanted: Wanted) -> list[BuildLine]:
    """The rows that a text can mean; several where it does not say which device."""
    said = words_of(text)
    if not said:
        return []
    found = _by_name(said, wanted) or _by_letter(said, wanted)
    return _told_apart(found, said)


def _by_name(said: tuple[str, ...], wanted: Wanted) -> list[BuildLine]:
    """Rows whose name is exactly this; else those whose name stands in it, the longest name first."""
    exact = [line for line in wanted.lines if words_of(line.name) == said]
    if exact:
        return exact
    named = [
        line for line in wanted.lines if any(_within(words_of(n), said) for n in (line.name, *line.also))
    ]
    longest = max((len(words_of(line.name)) for line in named), default=0)
    return [line for line in named if len(words_of(line.name)) == longest]


def _by_letter(said: tuple[str, ...], wanted: Wanted) -> list[BuildLine]:
    alone = [word for word in said if word not in _GROUPS]
    found = [line for line in wanted.lines if line.letter and alone[:1] == [line.letter.casefold()]]
    return [line for line in found if len(alone) == 1 or line.device]


def _told_apart(found: list[BuildLine], said: tuple[str, ...]) -> list[BuildLine]:
    """By the device that is named too."""
    named = [n for n in found if n.device and (_within(words_of(n.device), said) or n.device_key in said)]
    return named or found


def likest(text: str, lines: list[BuildLine]) -> BuildLine | None:
    """The row whose name is much like a text; None where none is."""

    def alike(line: BuildLine) -> float:
        return SequenceMatcher(None, text.casefold(), line.said.casefold()).ratio()

    best = max(lines, key=alike, default=None)
    return best if best is not None and alike(best) >= ALIKE else None
