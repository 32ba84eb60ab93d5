"""Which number that was noted is contradicted by everything else: asked about once all is known.

At the hand only what was noted before is known; a first reading, or a first try, has nothing beside it.
Afterwards the others stand around it. Nothing is changed or left out for it: it is named, to be looked at.
"""

from __future__ import annotations

from collections.abc import Hashable, Mapping, Sequence
from dataclasses import dataclass
from math import log
from statistics import median

from thermion.core.judging.doubts import FAR
from thermion.core.judging.observed import Around, Quantity, known_of, observe
from thermion.core.kinds.testing import Reads
from thermion.core.lazy import FloatArray
from thermion.core.lazy import numpy as np
from thermion.core.physics.units import Setting
from thermion.core.values import Check, series

LEAST, LONG = 6, 60  # readings from which a curve says anything of one of them; from which its neighbours do
FLOOR_K = 5.0  # a temperature nearer than this to what the others make of it is never named
TIMES = 2.5  # as far off as any other reading is
ALIKE = 0.3  # of a wrong reading, by which its neighbours may differ from what it does to them
WINDOW, HAMPEL = 3, 8.0  # neighbours on each side in a long record, and robust deviations from their middle


@dataclass(frozen=True)
class Lone:
    """A reading that lies apart from a curve that all others follow: where, and what they make of it."""

    index: int
    value: float
    expected: float


def lone_reading(time_s: Sequence[float], value: Sequence[float], floor: float) -> Lone | None:
    """The one reading that all others contradict; None where there is none, or too few to say so.

    Parameters
    ----------
    time_s, value : shape (n,), in order of time [s], any unit.
    floor : a deviation below this is never named [unit of `value`].

    Notes
    -----
    Held against the straight line between its two neighbours. A single wrong reading lies off that by its
    whole error and its neighbours by half of it, the other way; a cloud, an opened door or a plateau make
    no such pattern. The first and the last reading have one neighbour only and are never named. A long
    record is held against the middle of the neighbours instead (Hampel's identifier).
    """
    t, v = series(time_s, value)
    if t.size < LEAST:
        return None
    return _in_record(v, floor) if t.size > LONG else _between(t, v, floor)


def _between(t: FloatArray, v: FloatArray, floor: float) -> Lone | None:
    share = (t[1:-1] - t[:-2]) / (t[2:] - t[:-2])
    line = v[:-2] + share * (v[2:] - v[:-2])
    off = v[1:-1] - line
    worst = int(np.abs(off).argmax())
    size = float(off[worst])
    rest = np.delete(np.abs(off), [i for i in (worst - 1, worst, worst + 1) if 0 <= i < off.size])
    if abs(size) <= max(floor, TIMES * float(rest.max())):
        return None
    # what a wrong reading does to the lines through its neighbours, beside what they show anyway
    before, after = worst - 1, worst + 1
    pulls = []
    if before >= 0:
        pulls.append(off[before] + size * share[before])
    if after < off.size:
        pulls.append(off[after] + size * (1 - share[after]))
    if max(abs(float(pull)) for pull in pulls) > ALIKE * abs(size):
        return None
    return Lone(worst + 1, float(v[worst + 1]), float(line[worst]))


def _in_record(v: FloatArray, floor: float) -> Lone | None:
    """By the neighbours: the reading furthest from the middle of those beside it."""
    around = np.lib.stride_tricks.sliding_window_view(np.pad(v, WINDOW, mode="edge"), 2 * WINDOW + 1)
    others = np.delete(around, WINDOW, axis=1)
    middle = np.median(others, axis=1)
    off = np.abs(v - middle)
    usual = 1.4826 * np.median(off)
    worst = int(off.argmax())
    # the others around it agree among themselves: not a step, not a door that was opened
    apart = float(np.abs(others[worst] - middle[worst]).max())
    if off[worst] <= max(floor, HAMPEL * usual, 3.0 * apart):
        return None
    return Lone(worst, float(v[worst]), float(middle[worst]))


@dataclass(frozen=True)
class NotedTry:
    """A try of a build as it was noted [stored units], by what is read; `under` which load: only tries
    with as much are alike."""

    build: Hashable
    values: Mapping[str, float]
    under: Hashable = None


@dataclass(frozen=True)
class DoubtfulTry:
    """Which try has a number that all others contradict, what is read there, and the question."""

    index: int
    read: Reads
    question: str


def doubtful_tries(
    tries: Sequence[NotedTry],
    reads: Sequence[tuple[Reads, Quantity]],
    rig: Mapping[str, float],
    setting: Setting,
) -> list[DoubtfulTry]:
    """Tries with a number that one slip explains, or that is far from what the same build did else.

    It is the question that is asked at the hand, put again beside every other try under the same load. Of
    two tries of a build that contradict each other, the one further from the other builds is named.
    """
    out = []
    for read, quantity in reads:
        if read.words or read.whole:
            continue
        out += _doubtful(tries, read, quantity, rig, setting)
    return out


def _doubtful(
    tries: Sequence[NotedTry], read: Reads, quantity: Quantity, rig: Mapping[str, float], setting: Setting
) -> list[DoubtfulTry]:
    found: dict[Hashable, tuple[float, DoubtfulTry]] = {}
    known = [(i, t, t.values[read.key]) for i, t in enumerate(tries) if read.key in t.values]
    for i, t, value in known:
        like = [(o.build, v) for j, o, v in known if j != i and o.under == t.under]
        earlier = [v for build, v in like if build == t.build]
        others = [v for build, v in like if build != t.build]
        around = Around(known=known_of(read, rig, {}, earlier=earlier, others=others))
        check = observe(value, quantity, setting, around=around).check
        if check.answer != "ask" or value <= 0 or not _tells(check, value, earlier):
            continue
        apart = _apart(value, [*others, *earlier])
        if t.build not in found or apart > found[t.build][0]:
            found[t.build] = (apart, DoubtfulTry(i, read, check.message))
    return [doubt for _, doubt in found.values()]


def _tells(check: Check, value: float, earlier: Sequence[float]) -> bool:
    """Whether one slip explains the number, or the same build's other tries contradict it."""
    return check.code in ("decimal place", "other unit") or (len(earlier) > 1 and _far(value, earlier))


def _apart(value: float, others: Sequence[float]) -> float:
    """How far a number lies from the middle of the others, as the logarithm of a factor."""
    positive = [v for v in others if v > 0]
    return abs(log(value / median(positive))) if positive else 0.0


def _far(value: float, earlier: Sequence[float]) -> bool:
    usual = [v for v in earlier if v > 0]
    return bool(usual) and not median(usual) / FAR <= value <= median(usual) * FAR
