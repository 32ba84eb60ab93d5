"""Tries that lie far from the others of the same build: asked about, never dropped."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from math import sqrt

from thermion.core.judging.claims import t_quantile
from thermion.core.judging.layout import Cell
from thermion.core.judging.once import Once
from thermion.core.judging.spread import Spread
from thermion.core.lazy import numpy as np
from thermion.core.subjects import Subject

Named = tuple[Subject, int]  # a build in a run
DOUBT = 0.9995  # one-sided: of a hundred honest pairs, not one in ten is asked about


def far_pairs(
    tries: Sequence[Once],
    cells: Mapping[tuple[Subject, int], Cell],
    same: Mapping[Subject, Subject],
    prior: Spread | None,
) -> tuple[Once, ...]:
    """Both tries of a build that was tried twice in a run and differs by far more than the others do, or
    than earlier classes' did: nobody can say which of the two is the slip."""
    again = {key: cell for key, cell in cells.items() if len(cell.values) > 1 and not cell.stuck}
    strange = {key for key, cell in again.items() if len(cell.values) == 2 and _far(key, again, prior)}
    return tuple(t for t in tries if (same.get(t.subject, t.subject), t.run) in strange)


def _far(key: Named, again: Mapping[Named, Cell], prior: Spread | None) -> bool:
    """Whether what is left over in one cell is far more than the others, or earlier classes, have."""
    squares = sum(_left(cell) for name, cell in again.items() if name != key)
    dof = float(sum(len(cell.values) - 1 for name, cell in again.items() if name != key))
    if prior is not None:
        squares, dof = squares + prior.sd**2 * prior.dof, dof + prior.dof
    if dof < 1 or squares <= 0:
        return False
    return sqrt(_left(again[key])) > t_quantile(DOUBT, dof) * sqrt(squares / dof)


def _left(cell: Cell) -> float:
    """Sum of squares about the mean of a cell, over what its tries vary in proportion to."""
    return float(np.var(cell.values)) * len(cell.values) / cell.sizes[0] ** 2


def far_tries(
    tries: Sequence[Once], values: Sequence[float], same: Mapping[Subject, Subject], resolution: float
) -> tuple[Once, ...]:
    """Tries further from the middle of their build's than tries usually are, five times over.

    By the median absolute deviation of all that were tried at least three times (F. R. Hampel, JASA 69,
    383, 1974), without the one or two tries that are their build's own middle, nor builds that did the same each
    time, such as never moving: they would say that nothing ever varies. Nothing is dropped for it.
    """
    groups: dict[Subject, list[tuple[Once, float]]] = {}
    for t, value in zip(tries, values, strict=True):
        groups.setdefault(same.get(t.subject, t.subject), []).append((t, value))
    distances = [_from_the_middle(group) for group in groups.values() if len(group) >= 3]
    outer: list[float] = []
    for each in distances:
        middle = 2 - len(each) % 2  # of an odd number one is the middle itself, of an even one two are
        outer += [d for d in sorted(d for _, d in each)[middle:] if d > 0]
    if len(outer) < 4:
        return ()
    usual = max(1.4826 * float(np.median(outer)), resolution / sqrt(12.0))
    return tuple(t for each in distances for t, d in each if usual > 0 and d > 5 * usual)


def _from_the_middle(group: Sequence[tuple[Once, float]]) -> list[tuple[Once, float]]:
    middle = float(np.median([value for _, value in group]))
    return [(t, abs(value - middle)) for t, value in group]
