"""Builds and runs apart: what each build gave when every run has an effect of its own.

The model is a try = build + run + error. Builds tested unchanged in several runs (yardsticks) tie
the runs together; what no chain of them ties cannot be compared by them.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any, Generic, TypeVar

from thermion.core.lazy import FloatArray
from thermion.core.lazy import numpy as np
from thermion.core.values import finite

K = TypeVar("K", bound=Any)  # names a build


@dataclass(frozen=True)
class Layout(Generic[K]):
    """Least squares of tries laid out by build and run.

    `value` of each build, as in the runs it is tied to on average; `tied` its group of builds and
    runs; `tries` how many; `squares` and `dof` of what the model leaves, from which the spread
    follows. `_inverse` is the pseudo-inverse of the normal matrix, by which factors are found.
    """

    value: Mapping[K, float]
    tied: Mapping[K, int]
    tries: Mapping[K, int]
    runs: Mapping[K, tuple[int, ...]]
    squares: float
    dof: int
    _inverse: FloatArray
    _at: Mapping[K, int]
    _of: Mapping[K, FloatArray]  # the sum of effects that each value is

    def factor(self, a: K, b: K) -> float | None:
        """Variance of value(a) − value(b) over that of one try; None where nothing ties them."""
        if self.tied[a] != self.tied[b]:
            return None
        i, j = self._at[a], self._at[b]
        m = self._inverse
        return float(m[i, i] + m[j, j] - 2 * m[i, j])

    def alone(self, a: K) -> float:
        """Variance of value(a) over that of one try, without regard to any other build."""
        c = self._of[a]
        return float(c @ self._inverse @ c)


def lay_out(cells: Mapping[tuple[K, int], Sequence[float]]) -> Layout[K]:
    """Fit build and run effects to the tries of each (build, run), shape (n,) each, n ≥ 1.

    Ordinary least squares of the additive two-way model with empty cells; pairs without a chain of
    common builds stay apart. ValueError for numbers that are not finite. R. B. Bapat, Linear Algebra
    and Linear Models, 3rd ed. (2012), ch. 8: connected designs.
    """
    builds = list(dict.fromkeys(build for build, _ in cells))
    runs = list(dict.fromkeys(run for _, run in cells))
    row = {build: i for i, build in enumerate(builds)}
    column = {run: len(builds) + i for i, run in enumerate(runs)}
    size = len(builds) + len(runs)
    normal, right = np.zeros((size, size)), np.zeros(size)
    within, dof, total = 0.0, 0, 0.0
    means: dict[tuple[K, int], tuple[float, int]] = {}
    for (build, run), values in cells.items():
        y = finite("cells", values)
        mean, n = float(y.mean()), y.size
        means[build, run] = (mean, n)
        within += float(((y - mean) ** 2).sum())
        dof += n - 1
        i, j = row[build], column[run]
        normal[i, i] += n
        normal[j, j] += n
        normal[i, j] += n
        normal[j, i] += n
        right[i] += n * mean
        right[j] += n * mean
        total += n
    groups = _tied(builds, runs, list(cells))
    inverse = np.asarray(np.linalg.pinv(normal, hermitian=True), dtype=float)
    found = inverse @ right
    rank = size - len(set(groups.values()))
    cells_left = 0.0
    for (build, run), (mean, n) in means.items():
        cells_left += n * (mean - float(found[row[build]] + found[column[run]])) ** 2
    free = len(cells) - rank
    of: dict[K, FloatArray] = {}
    for build in builds:
        mine = [column[run] for run in runs if groups["run", run] == groups["build", build]]
        of[build] = np.zeros(size)
        of[build][row[build]] = 1.0
        of[build][mine] = 1.0 / len(mine)
    return Layout(
        {build: float(of[build] @ found) for build in builds},
        {build: groups["build", build] for build in builds},
        {b: sum(n for (x, _), (_, n) in means.items() if x == b) for b in builds},
        {b: tuple(r for x, r in means if x == b) for b in builds},
        within + (cells_left if free else 0.0),
        dof + free,
        inverse,
        row,
        of,
    )


def _tied(
    builds: Sequence[K], runs: Sequence[int], cells: Sequence[tuple[K, int]]
) -> dict[tuple[str, object], int]:
    """The group of each build and run: those that a chain of tries ties together."""
    names: list[tuple[str, object]] = [*(("build", b) for b in builds), *(("run", r) for r in runs)]
    group = {name: i for i, name in enumerate(names)}
    for build, run in cells:
        old, new = group["run", run], group["build", build]
        if old != new:
            group = {name: new if g == old else g for name, g in group.items()}
    return group
