"""Builds and runs apart: what each build gave when every run has an effect of its own.

The model is a try = build + run + error, or build × run × error where results vary in proportion to
their size. Builds tested unchanged in several runs (yardsticks) tie the runs together; what no chain of
them ties cannot be compared by them.
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
class Cell:
    """The tries of one build in one run.

    `values` are what varies, n ≥ 1 of them; `zero` is the rest of the result, which does not: the air's
    temperature, units used. `sizes`: what a try's standard deviation is in proportion to, by each floor.
    `stuck`: the build could not vary, at the end of the track or its start; `firm`: large enough for
    another day's factor to be read from it; `rounding` is the standard uncertainty by the instrument's step.
    """

    values: Sequence[float]
    zero: float = 0.0
    sizes: tuple[float, ...] = (1.0,)
    stuck: bool = False
    firm: bool = True
    rounding: float = 0.0


@dataclass(frozen=True)
class Layout(Generic[K]):
    """Least squares of tries laid out by build and run.

    `value` of each build, as it is in the run that all are brought to; `varying` the part of it that
    varies; `tied` its group of builds and runs; `tries` how many; `runs` which. `squares` and `dof` are of
    what the model leaves, by each floor, from which the spread follows, and `hidden` the least that rounding
    hides. `day` is the effect of each run: a shift, or the logarithm of a factor.
    """

    value: Mapping[K, float]
    varying: Mapping[K, float]
    tied: Mapping[K, int]
    tries: Mapping[K, int]
    runs: Mapping[K, tuple[int, ...]]
    squares: tuple[float, ...]
    hidden: tuple[float, ...]
    dof: int
    stuck: frozenset[K]
    day: Mapping[int, float]
    _by: Mapping[K, FloatArray]  # what each value takes of the mean of each cell
    _own: Mapping[K, FloatArray]  # 1 for its own cells
    _sizes: FloatArray  # (floors, cells): variance of a cell's mean over s²
    _rounds: FloatArray  # (cells,)

    def factors(self, a: K, b: K) -> FloatArray | None:
        """Variance of value(a) − value(b) over s², by each floor; None where nothing ties them."""
        if self.tied[a] != self.tied[b]:
            return None
        return self._spread(self._by[a] - self._by[b])

    def logs(self, a: K, b: K) -> float:
        """Variance of ln value(a) − ln value(b) over s²: the largest of all floors."""
        apart = self._by[a] / self.varying[a] - self._by[b] / self.varying[b]
        return float(self._spread(apart).max())

    def alone(self, a: K) -> FloatArray:
        """Variance of value(a) over s², without regard to any other build, by each floor."""
        return self._spread(self._by[a])

    def itself(self, a: K) -> FloatArray:
        """The same for its own tries alone, as if the day's effect were known."""
        return self._spread(self._by[a] * self._own[a])

    def rounding(self, a: K, b: K | None = None) -> float:
        """What rounding adds to the variance of a value, or of a difference."""
        by = self._by[a] if b is None else self._by[a] - self._by[b]
        return float(by**2 @ self._rounds)

    def _spread(self, by: FloatArray) -> FloatArray:
        return np.asarray(self._sizes @ by**2, dtype=float)


def lay_out(cells: Mapping[tuple[K, int], Cell], *, to: int | None = None, factor: bool = False) -> Layout[K]:
    """Fit build and run effects to the tries of each (build, run).

    Parameters
    ----------
    cells : the tries; `sizes` of the same length in all.
    to : the run that values are brought to, where it is tied to theirs; else their last run.
    factor : runs differ by a factor, found from firm cells only; else by a shift.

    Raises
    ------
    ValueError for numbers that are not finite.

    Notes
    -----
    Weighted least squares of the additive two-way model with empty cells, of the values or of their
    logarithms; pairs without a chain of common builds stay apart [1]_.

    References
    ----------
    .. [1] R. B. Bapat, Linear Algebra and Linear Models, 3rd ed. (2012), ch. 8: connected designs.
    """
    names = list(cells)
    every = list(cells.values())
    values = [finite("cells", c.values) for c in every]
    means = np.array([v.mean() for v in values])
    n = np.array([v.size for v in values], dtype=float)
    sizes2 = np.array([c.sizes for c in every], dtype=float).T ** 2  # (floors, cells)
    squares, hidden, dof = _within(every, values, means, sizes2)
    firm = [not factor or (c.firm and not c.stuck and m != 0) for c, m in zip(every, means, strict=True)]
    groups = _groups(names, firm)
    day, takes = {run: 0.0 for _, run in names}, {run: np.zeros(len(names)) for _, run in names}
    for group in set(groups.values()):
        mine = [i for i, (_, run) in enumerate(names) if groups[run] == group and firm[i]]
        found = _days(names, every, mine, means, n, sizes2, to=to, factor=factor)
        if found is None:
            continue
        for run, effect, row in found.days:
            day[run], takes[run] = effect, row
        squares += found.squares
        hidden += found.hidden
        dof += found.dof
    builds = list(dict.fromkeys(build for build, _ in names))
    value, varying, by, mask, tries, runs = {}, {}, {}, {}, {}, {}
    for build in builds:
        own = [i for i, (b, _) in enumerate(names) if b == build]
        own = [i for i in own if groups[names[i][1]] == groups[names[own[-1]][1]]]
        weight = n[own] / n[own].sum()
        row, total = np.zeros(len(names)), 0.0
        for i, w in zip(own, weight, strict=True):
            run = names[i][1]
            scale = float(np.exp(-day[run])) if factor else 1.0
            brought = means[i] * scale if factor else means[i] - day[run]
            row[i] += w * scale
            row -= w * (brought if factor else 1.0) * takes[run]
            total += w * brought
        varying[build] = float(total)
        value[build] = float(total + sum(w * every[i].zero for i, w in zip(own, weight, strict=True)))
        by[build], mask[build] = row, np.zeros(len(names))
        mask[build][own] = 1.0
        tries[build], runs[build] = int(n[own].sum()), tuple(names[i][1] for i in own)
    return Layout(
        value=value,
        varying=varying,
        tied={build: groups[runs[build][-1]] for build in builds},
        tries=tries,
        runs=runs,
        squares=tuple(squares.tolist()),
        hidden=tuple((hidden / max(dof, 1)).tolist()),
        dof=dof,
        stuck=frozenset(
            build for build in builds if all(cells[name].stuck for name in names if name[0] == build)
        ),
        day=day,
        _by=by,
        _own=mask,
        _sizes=sizes2 / n,
        _rounds=np.array([c.rounding**2 for c in every]) / n,
    )


def _within(
    cells: Sequence[Cell], values: Sequence[FloatArray], means: FloatArray, sizes2: FloatArray
) -> tuple[FloatArray, FloatArray, int]:
    """Sums of squares over g² within cells, what rounding hides in them, their degrees of freedom;
    nothing of cells that could not vary."""
    squares, hidden, dof = np.zeros(len(sizes2)), np.zeros(len(sizes2)), 0
    for i, (cell, y) in enumerate(zip(cells, values, strict=True)):
        if cell.stuck:
            continue
        squares += float(((y - means[i]) ** 2).sum()) / sizes2[:, i]
        hidden += (y.size - 1) * cell.rounding**2 / sizes2[:, i]
        dof += y.size - 1
    return squares, hidden, dof


@dataclass(frozen=True)
class _Days:
    """Of runs that are tied: each one's effect and what it takes of each cell; what is left over."""

    days: list[tuple[int, float, FloatArray]]
    squares: FloatArray
    hidden: FloatArray
    dof: int


def _days(
    names: Sequence[tuple[Any, int]],
    cells: Sequence[Cell],
    mine: Sequence[int],
    means: FloatArray,
    n: FloatArray,
    sizes2: FloatArray,
    *,
    to: int | None,
    factor: bool,
) -> _Days | None:
    """The effects of one group's runs, from the builds that are in several of them."""
    often = [b for b, _ in (names[i] for i in mine)]
    used = [i for i in mine if often.count(names[i][0]) > 1]
    runs = sorted({names[i][1] for i in mine})
    if len(runs) < 2 or not used:
        return None
    base = to if to in runs else runs[-1]
    others = [run for run in runs if run != base]
    builds = list(dict.fromkeys(names[i][0] for i in used))
    design = np.zeros((len(used), len(builds) + len(others)))
    for row, i in enumerate(used):
        build, run = names[i]
        design[row, builds.index(build)] = 1.0
        if run != base:
            design[row, len(builds) + others.index(run)] = 1.0
    y = means[used]
    x = np.log(np.abs(y)) if factor else y
    weights = n[used] * (y**2 if factor else 1.0) / sizes2[:, used]  # (floors, used)
    root = np.sqrt(weights[0])
    solve = np.linalg.pinv(root[:, None] * design) * root[None, :]
    left = x - design @ (solve @ x)
    days = [(base, 0.0, np.zeros(means.size))]
    for k, run in enumerate(others):
        takes = np.zeros(means.size)
        takes[used] = solve[len(builds) + k] / (y if factor else 1.0)
        days.append((run, float(solve[len(builds) + k] @ x), takes))
    free = len(used) - len(builds) - len(others)
    squares = (weights * left**2).sum(axis=1) if free > 0 else np.zeros(len(sizes2))
    rounding = np.array([cells[i].rounding ** 2 for i in used])
    hidden = free * (rounding / sizes2[:, used]).mean(axis=1)
    return _Days(days, squares, hidden, max(free, 0))


def _groups(names: Sequence[tuple[Any, int]], firm: Sequence[bool]) -> dict[int, int]:
    """The group of each run: those that a chain of builds ties together."""
    group = {run: run for _, run in names}
    first: dict[Any, int] = {}
    for (build, run), usable in zip(names, firm, strict=True):
        if not usable:
            continue
        if build in first and group[first[build]] != group[run]:
            old, new = group[run], group[first[build]]
            group = {r: new if g == old else g for r, g in group.items()}
        first.setdefault(build, run)
    return group
