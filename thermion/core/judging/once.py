"""One try as a number: its value, what makes that uncertain, and what its variation is in proportion to."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from math import hypot, sqrt

from thermion.core.judging.layout import Cell
from thermion.core.judging.spread import FLOORS
from thermion.core.lazy import numpy as np
from thermion.core.subjects import Subject
from thermion.core.values import Source


@dataclass(frozen=True)
class VaryingPart:
    """A part of a result that varies in proportion to its size `y` above a `floor` [unit of the result],
    `weight` times as much as the first one."""

    y: float
    floor: float
    weight: float = 1.0


@dataclass(frozen=True)
class Size:
    """How one result varies: its parts, and `flat` which is the same for all; `zero` is the part of the
    result that does not vary. `stuck`: it could not, at an end of what can be."""

    zero: float = 0.0
    parts: tuple[VaryingPart, ...] = ()
    flat: float = 1.0
    stuck: bool = False

    @property
    def factor(self) -> bool:
        """Whether another day is a factor of it: one part alone varies, in proportion to its size."""
        return len(self.parts) == 1 and self.flat == 0.0

    @property
    def above(self) -> float | None:
        return self.parts[0].floor if self.parts else None


@dataclass(frozen=True)
class Once:
    """One try: of which build, in which run, its value, what makes that uncertain, and how it varies."""

    subject: Subject
    run: int
    value: float
    sources: tuple[Source, ...] = ()
    size: Size = Size()


@dataclass(frozen=True)
class Brought:
    """A try's value under the conditions of one run for all, the part of it that does not vary, and what
    each uncertain condition of its own run does to it."""

    value: float
    zero: float
    effects: Mapping[str, float]


def cells_of(
    tries: Sequence[Once],
    known: Sequence[Brought],
    same: Mapping[Subject, Subject],
    run_of: Callable[[Once], int],
) -> dict[tuple[Subject, int], Cell]:
    """The tries of each build in each run, with what their variation is in proportion to."""
    groups: dict[tuple[Subject, int], list[tuple[Once, Brought]]] = {}
    for t, m in zip(tries, known, strict=True):
        groups.setdefault((same.get(t.subject, t.subject), run_of(t)), []).append((t, m))
    return {key: _cell(found) for key, found in groups.items()}


def _cell(found: Sequence[tuple[Once, Brought]]) -> Cell:
    first = found[0][0].size
    y = [m.value - m.zero for _, m in found]
    sizes = tuple(_proportion(found, float(np.mean(y)), by) for by in (FLOORS if first.parts else (1.0,)))
    firm = not first.factor or abs(float(np.mean(y))) >= first.parts[0].floor
    rounding = max(size_of_sources(t.sources, "step") for t, _ in found)
    return Cell(
        values=y,
        zero=float(np.mean([m.zero for _, m in found])),
        sizes=sizes,
        stuck=any(t.size.stuck for t, _ in found),
        firm=firm,
        rounding=rounding,
    )


def _proportion(found: Sequence[tuple[Once, Brought]], mean: float, by: float) -> float:
    """What the standard deviation of one of these tries is in proportion to, with the floor so many
    times as high."""
    first = found[0][0].size
    if not first.parts:
        return 1.0
    if first.factor:
        return hypot(mean, by * first.parts[0].floor)
    square = first.flat**2
    for i, part in enumerate(first.parts):
        y = float(np.mean([t.size.parts[i].y for t, _ in found if i < len(t.size.parts)]))
        square += (part.weight * hypot(y, by * part.floor)) ** 2
    return sqrt(square)


def size_of_sources(sources: Sequence[Source], shared: str) -> float:
    return sqrt(sum(s.effect**2 for s in sources if s.shared == shared))
