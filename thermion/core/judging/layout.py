"""Builds and runs apart: what each build gave when every run has an effect of its own.

The model is a try = build + run + error, or build × run × error where results vary in proportion to
their size. Builds tested unchanged in several runs (yardsticks) tie the runs together; what no chain of
them ties cannot be compared by them.
"""

from __future__ import annotations

from collections import Counter
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
    table = _Table.of(cells)
    squares, hidden, dof = _within(table)
    firm = table.firm() if factor else [True] * len(table.cells)
    groups = _groups(table.names, firm)
    day: dict[int, float] = {}
    takes: dict[int, FloatArray] = {}
    for _, run in table.names:
        day[run], takes[run] = 0.0, np.zeros(len(table.names))
    for group in set(groups.values()):
        mine = [i for i, (_, run) in enumerate(table.names) if groups[run] == group and firm[i]]
        found = _days(table, mine, to=to, factor=factor)
        if found is None:
            continue
        for run, effect, row in found.days:
            day[run], takes[run] = effect, row
        squares += found.squares
        hidden += found.hidden
        dof += found.dof
    builds = {build: _build(table, build, groups, day, takes, factor=factor) for build, _ in table.names}
    free = {build for (build, _), cell in cells.items() if not cell.stuck}
    return Layout(
        value={k: b.value for k, b in builds.items()},
        varying={k: b.varying for k, b in builds.items()},
        tied={k: groups[b.runs[-1]] for k, b in builds.items()},
        tries={k: b.tries for k, b in builds.items()},
        runs={k: b.runs for k, b in builds.items()},
        squares=tuple(squares.tolist()),
        hidden=tuple((hidden / max(dof, 1)).tolist()),
        dof=dof,
        stuck=frozenset(builds.keys() - free),
        day=day,
        _by={k: b.takes for k, b in builds.items()},
        _own={k: b.own for k, b in builds.items()},
        _sizes=table.sizes2 / table.n,
        _rounds=np.array([c.rounding**2 for c in table.cells]) / table.n,
    )


@dataclass(frozen=True)
class _Table(Generic[K]):
    """The cells side by side: whose they are, mean and number of tries, squared sizes (floors, cells)."""

    names: Sequence[tuple[K, int]]
    cells: Sequence[Cell]
    values: Sequence[FloatArray]
    means: FloatArray
    n: FloatArray
    sizes2: FloatArray

    def firm(self) -> list[bool]:
        """Whether another day's factor can be read from each cell."""
        pairs = zip(self.cells, self.means, strict=True)
        return [cell.firm and not cell.stuck and mean != 0 for cell, mean in pairs]

    @classmethod
    def of(cls, cells: Mapping[tuple[K, int], Cell]) -> _Table[K]:
        every = list(cells.values())
        values = [finite("cells", c.values) for c in every]
        return cls(
            names=list(cells),
            cells=every,
            values=values,
            means=np.array([v.mean() for v in values]),
            n=np.array([v.size for v in values], dtype=float),
            sizes2=np.array([c.sizes for c in every], dtype=float).T ** 2,
        )


@dataclass(frozen=True, kw_only=True)
class _Build:
    """One build over its runs: see `Layout`."""

    value: float
    varying: float
    tries: int
    runs: tuple[int, ...]
    takes: FloatArray
    own: FloatArray


def _build(
    table: _Table[K],
    build: K,
    groups: Mapping[int, int],
    day: Mapping[int, float],
    takes: Mapping[int, FloatArray],
    *,
    factor: bool,
) -> _Build:
    """The mean over the tries of one build, each brought to the same day."""
    own = [i for i, (of, _) in enumerate(table.names) if of == build]
    newest = groups[table.names[own[-1]][1]]
    own = [i for i in own if groups[table.names[i][1]] == newest]  # what nothing ties to its last run is left
    weight = table.n[own] / table.n[own].sum()
    row, varying, zero = np.zeros(len(table.names)), 0.0, 0.0
    for i, w in zip(own, weight, strict=True):
        run = table.names[i][1]
        if factor:
            scale = float(np.exp(-day[run]))
            brought = moves = table.means[i] * scale
        else:
            scale, brought, moves = 1.0, table.means[i] - day[run], 1.0
        row[i] += w * scale
        row -= w * moves * takes[run]
        varying += w * brought
        zero += w * table.cells[i].zero
    mask = np.zeros(len(table.names))
    mask[own] = 1.0
    return _Build(
        value=float(varying + zero),
        varying=float(varying),
        tries=int(table.n[own].sum()),
        runs=tuple(table.names[i][1] for i in own),
        takes=row,
        own=mask,
    )


def _within(table: _Table[K]) -> tuple[FloatArray, FloatArray, int]:
    """Sums of squares over g² within cells, what rounding hides in them, their degrees of freedom;
    nothing of cells that could not vary."""
    squares, hidden, dof = np.zeros(len(table.sizes2)), np.zeros(len(table.sizes2)), 0
    for i, (cell, y) in enumerate(zip(table.cells, table.values, strict=True)):
        if cell.stuck:
            continue
        squares += float(((y - table.means[i]) ** 2).sum()) / table.sizes2[:, i]
        hidden += (y.size - 1) * cell.rounding**2 / table.sizes2[:, i]
        dof += y.size - 1
    return squares, hidden, dof


@dataclass(frozen=True)
class _Days:
    """Of runs that are tied: each one's effect and what it takes of each cell; what is left over."""

    days: list[tuple[int, float, FloatArray]]
    squares: FloatArray
    hidden: FloatArray
    dof: int


def _days(table: _Table[K], mine: Sequence[int], *, to: int | None, factor: bool) -> _Days | None:
    """The effects of one group's runs, from the builds that are in several of them."""
    names = table.names
    often = Counter(names[i][0] for i in mine)
    used = [i for i in mine if often[names[i][0]] > 1]
    runs = sorted({names[i][1] for i in mine})
    if len(runs) < 2 or not used:
        return None
    base = to if to in runs else runs[-1]
    others = [run for run in runs if run != base]
    builds = list(dict.fromkeys(names[i][0] for i in used))
    design = _design([names[i] for i in used], builds, others)
    y, sizes2 = table.means[used], table.sizes2[:, used]
    if factor:  # ln y varies by g/y, and moves by 1/y
        x, weights, moves = np.log(np.abs(y)), table.n[used] * y**2 / sizes2, y
    else:
        x, weights, moves = y, table.n[used] / sizes2, np.ones_like(y)
    root = np.sqrt(weights[0])
    solve = np.linalg.pinv(root[:, None] * design) * root[None, :]
    days = [(base, 0.0, np.zeros(table.means.size))]
    for k, run in enumerate(others):
        takes = np.zeros(table.means.size)
        takes[used] = solve[len(builds) + k] / moves
        days.append((run, float(solve[len(builds) + k] @ x), takes))
    free = max(len(used) - len(builds) - len(others), 0)
    left = x - design @ (solve @ x) if free else np.zeros_like(x)
    rounding = np.array([table.cells[i].rounding ** 2 for i in used])
    return _Days(
        days=days,
        squares=(weights * left**2).sum(axis=1),
        hidden=free * (rounding / sizes2).mean(axis=1),
        dof=free,
    )


def _design(cells: Sequence[tuple[K, int]], builds: Sequence[K], others: Sequence[int]) -> FloatArray:
    """One row a cell: 1 under its build, and under its run unless that is the one all are brought to."""
    design = np.zeros((len(cells), len(builds) + len(others)))
    for row, (build, run) in enumerate(cells):
        design[row, builds.index(build)] = 1.0
        if run in others:
            design[row, len(builds) + others.index(run)] = 1.0
    return design


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
