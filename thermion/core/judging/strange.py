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

DOUBT = 0.9995  # one-sided: of a hundred honest pairs, not one in ten is asked about


def far_pairs(
    tries: Sequence[Once],
    cells: Mapping[tuple[Subject, int], Cell],
    same: Mapping[Subject, Subject],
    prior: Spread | None,
) -> tuple[Once, ...]:
    """Both tries of a build that was tried twice in a run and differs by far more than the others do, or
    than earlier classes' did: nobody can say which of the two is the slip."""
    found = []
    again = {key: cell for key, cell in cells.items() if len(cell.values) > 1 and not cell.stuck}

    def left(cell: Cell) -> tuple[float, int]:
        return float(np.var(cell.values)) * len(cell.values) / cell.sizes[0] ** 2, len(cell.values) - 1

    for key, cell in again.items():
        if len(cell.values) != 2:
            continue
        rest = [left(other) for name, other in again.items() if name != key]
        squares, dof = sum(x for x, _ in rest), float(sum(n for _, n in rest))
        if prior is not None:
            squares, dof = squares + prior.sd**2 * prior.dof, dof + prior.dof
        if dof < 1 or squares <= 0:
            continue
        if sqrt(left(cell)[0]) > t_quantile(DOUBT, dof) * sqrt(squares / dof):
            found += [t for t in tries if (same.get(t.subject, t.subject), t.run) == key]
    return tuple(found)


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
    distances = [
        [(t, abs(value - float(np.median([v for _, v in group])))) for t, value in group]
        for group in groups.values()
        if len(group) >= 3
    ]
    outer = [d for each in distances for d in sorted(d for _, d in each)[2 - len(each) % 2 :] if d > 0]
    if len(outer) < 4:
        return ()
    usual = max(1.4826 * float(np.median(outer)), resolution / sqrt(12.0))
    return tuple(t for each in distances for t, d in each if usual > 0 and d > 5 * usual)
