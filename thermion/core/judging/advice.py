"""Which builds to try again with the tries that still fit: where they are most likely to tell."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass

from thermion.core.judging.measure import Measure
from thermion.core.judging.telling import design_chance
from thermion.core.subjects import Subject

MOST = 20  # tries in one advice: more is another lesson
WORTH = 0.1  # a chance below this is no advice


@dataclass(frozen=True)
class Advice:
    """How often to try which builds again, and the chance that this tells the first from the next.

    `known`: how much a try varies is known, so that the chance is of these very builds; else it is that of
    a lead of three times what a try varies by.
    """

    again: Mapping[Subject, int]
    chance: float
    known: bool

    @property
    def tries(self) -> int:
        return sum(self.again.values())


def advise(
    measured: Measure, ranked: Sequence[Subject], rival: Subject, most: int, *, together: bool
) -> Advice | None:
    """The most telling use of what still fits; None where that is nothing worth while.

    Parameters
    ----------
    ranked : the builds that compare, best first.  rival : the one least surely behind the first.
    most : how many more tries fit; `together`: how many tests of all builds at once.

    Notes
    -----
    Searched are: the first and its rival equally often, and once more as many of the others, the best first,
    as fit beside them. Chances by `chance_to_tell`.
    """
    most = min(most, MOST)
    if most < 1 or len(ranked) < 2:
        return None
    if measured.spread is None:
        again = len(ranked) if together else min(most, len(ranked))
        chance = design_chance(len(ranked), again)
        return Advice(dict.fromkeys(ranked[:again], 1), chance, known=False) if chance >= WORTH else None
    best: Advice | None = None
    for way in _ways(ranked, rival, most, together=together):
        chance = measured.chance(ranked[0], rival, way) or 0.0
        if best is None or chance > best.chance + 0.005:  # no more tries for nothing
            best = Advice(way, chance, known=True)
    return best if best is not None and best.chance >= WORTH else None


def _ways(
    ranked: Sequence[Subject], rival: Subject, most: int, *, together: bool
) -> Iterator[dict[Subject, int]]:
    """Ways to spend what fits, those with fewer tries first."""
    if together:
        yield from (dict.fromkeys(ranked, n) for n in range(1, most + 1))
        return
    pair = (ranked[0], rival)
    others = [s for s in ranked if s not in pair]
    for each in range(1, most // 2 + 1):
        left = min(most - 2 * each, len(others))
        for beside in sorted({0, left // 2, left}):
            yield {**dict.fromkeys(pair, each), **dict.fromkeys(others[:beside], 1)}
