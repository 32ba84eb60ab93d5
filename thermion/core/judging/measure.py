"""One number of every build, ready to be compared: a score under a rule, or a metric.

It holds the tries (each build in each run), brought to the same conditions where physics allows,
how much a try varies, and what does not average out: a build's own thermometer, a run's own sun.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field
from math import inf, sqrt

from thermion.core.judging.claims import Claim, claim_of
from thermion.core.judging.layout import Layout, lay_out
from thermion.core.judging.spread import Spread, spread_of
from thermion.core.judging.standings import Standing, chances_best, half_widths, places, range_quantile
from thermion.core.lazy import FloatArray
from thermion.core.lazy import numpy as np
from thermion.core.subjects import Subject
from thermion.core.values import Direction, Source

NOT_COMPARABLE = (
    "different runs: nothing was tested unchanged in both, and no physics brings one to the other; "
    "run one unchanged build again beside the new ones"
)


@dataclass(frozen=True)
class Once:
    """One try: of which build, in which run, its value, and what makes that uncertain."""

    subject: Subject
    run: int
    value: float
    sources: tuple[Source, ...] = ()


@dataclass(frozen=True)
class Measure:
    """The tries of all builds and what may be said of their differences.

    `own` [unit of the values] is what a build keeps through all its tries, `of_run` what a build's
    value takes from the conditions of each of its runs, both as standard uncertainties. `carried`:
    the values were brought to the same conditions, for which `why_carried` has the words. `repeats`
    are those of this class that the spread follows from.
    """

    better: Direction
    layout: Layout[Subject]
    spread: Spread | None
    resolution: float
    own: Mapping[Subject, float]
    of_run: Mapping[Subject, float]
    carried: bool
    why_carried: str = ""
    unchanged: Mapping[Subject, Subject] = field(default_factory=dict)
    repeats: int = 0
    strange: tuple[Once, ...] = ()  # tries far from the others of the same build: to be asked about

    def build(self, subject: Subject) -> Subject:
        """The first version that was the same build: nothing was changed since."""
        return self.unchanged.get(subject, subject)

    def __contains__(self, subject: Subject) -> bool:
        return self.build(subject) in self.layout.value

    def value(self, subject: Subject) -> float:
        """The typical try of a build."""
        return self.layout.value[self.build(subject)]

    def tries(self, subject: Subject) -> int:
        """How often a build was tried."""
        return self.layout.tries[self.build(subject)]

    def runs(self, subject: Subject) -> tuple[int, ...]:
        """The runs that a build was tried in."""
        return self.layout.runs[self.build(subject)]

    def tied(self, a: Subject, b: Subject) -> bool:
        """Whether the same run, or a chain of builds tested unchanged, ties these two together."""
        return self.layout.tied[self.build(a)] == self.layout.tied[self.build(b)]

    def comparable(self, a: Subject, b: Subject) -> bool:
        return self.tied(a, b) or self.carried

    def common(self, a: Subject, b: Subject) -> float:
        """What does not average out of the difference of two builds, however often they are tried."""
        x, y = self.build(a), self.build(b)
        own = 0.0 if a.team_id == b.team_id else self.own[x] ** 2 + self.own[y] ** 2
        runs = 0.0 if self.tied(a, b) else self.of_run[x] ** 2 + self.of_run[y] ** 2
        return sqrt(own + runs)

    def claim(self, a: Subject, b: Subject) -> Claim:
        """Build a minus build b."""
        difference = self.value(a) - self.value(b)
        if abs(difference) <= 1e-9 * (abs(self.value(a)) + abs(self.value(b))):
            difference = 0.0  # equal tries, but for the last bit of solving for them
        if not self.comparable(a, b):
            return Claim(difference, None, None, None, None, "not known", NOT_COMPARABLE)
        return claim_of(
            difference,
            self.factor(a, b),
            self.spread,
            resolution=self.resolution,
            common_se=self.common(a, b),
        )

    @property
    def one(self) -> float:
        """Variance of one try, rounding included; 0 where no spread is known."""
        return 0.0 if self.spread is None else self.spread.sd**2 + self.resolution**2 / 12.0

    def factor(self, a: Subject, b: Subject) -> float:
        """Variance of the difference of two builds over that of one try."""
        x, y = self.build(a), self.build(b)
        found = self.layout.factor(x, y)
        return self.layout.alone(x) + self.layout.alone(y) if found is None else found

    def _alone(self, a: Subject) -> float:
        return self.layout.alone(self.build(a))

    def standings(self, subjects: Sequence[Subject]) -> list[Standing[Subject]]:
        """These builds, best first, with the places they may have and the chance of being best.

        As `standing`, with what does not average out, and with a place left open between builds of
        runs that do not compare; then no chance is given.
        """
        sign = -1.0 if self.better == "higher" else 1.0
        order = sorted(subjects)
        if self.better != "none":
            order.sort(key=lambda s: sign * self.value(s))
        means = np.array([self.value(s) for s in order])
        one = self.one
        if self.better == "none" or self.spread is None or one == 0 or not order:
            return [Standing(s, float(m), None, None, None, None) for s, m in zip(order, means, strict=True)]
        own = np.array([self.own[self.build(s)] ** 2 for s in order])
        factors = self._factors(order)
        common = np.array([[self.common(a, b) ** 2 for b in order] for a in order])
        pairs = one * factors + common
        rivals = [self.claim(order[0], s) for s in order[1:]]
        first, last = places(means, pairs, rivals, self.spread.dof)
        alone = one * np.array([self._alone(s) for s in order])
        half = half_widths(alone + own, self.spread)
        chances: Sequence[float | None] = [None] * len(order)
        if np.isfinite(pairs).all():
            mine = one * _single(factors)
            chances = chances_best(-sign * means, mine, self.spread.dof, _single(common))
        rows = zip(order, means.tolist(), half, first, last, chances, strict=True)
        return [Standing(*row) for row in rows]

    def bars(self, subjects: Sequence[Subject]) -> dict[Subject, float]:
        """Half widths of bars such that two builds whose bars do not overlap are certainly apart.

        Half of the studentized range's 95 % point times each standard error: equal bars that just
        touch belong to a difference just at the limit (Y. Hochberg et al., The American Statistician 36,
        1982). Empty without a spread.
        """
        if self.spread is None or not subjects:
            return {}
        reach = range_quantile(len(subjects), self.spread.dof) / 2.0
        return {
            s: reach * sqrt(self.one * self._alone(s) + self.own[self.build(s)] ** 2)
            for s in subjects
            if s in self
        }

    def _factors(self, order: Sequence[Subject]) -> FloatArray:
        out = np.zeros((len(order), len(order)))
        for i, a in enumerate(order):
            for j, b in enumerate(order[:i]):
                out[i, j] = out[j, i] = self.factor(a, b) if self.comparable(a, b) else inf
        return out


def _single(pairs: FloatArray) -> FloatArray:
    """A variance for each of k, so that the sum of two is that of their pair, as nearly as can be.

    Quasi-variances: D. Firth and R. X. de Menezes, Biometrika 91, 65 (2004), doi:10.1093/biomet/91.1.65;
    by least squares on the variances themselves.
    """
    count = len(pairs)
    if count == 1:
        return np.zeros(1)
    sums = pairs.sum(axis=1)
    if count == 2:
        return np.asarray(sums / 2)
    single = (sums - sums.sum() / 2 / (count - 1)) / (count - 2)
    return np.asarray(np.maximum(single, 0.02 * sums / (count - 1)))


def measure(
    tries: Sequence[Once],
    better: Direction,
    *,
    prior: Spread | None = None,
    carry: Callable[[Once], tuple[float, float] | None] | None = None,
    why_carried: str = "",
    unchanged: Mapping[Subject, Subject] | None = None,
    alike: Mapping[int, int] | None = None,
) -> Measure | None:
    """All tries of a class as one `Measure`; None without any.

    `carry` gives a try's value under the conditions of one run for all, and the standard
    uncertainty that its own run's conditions leave in it; None for any try means that physics cannot,
    and then none is carried. `unchanged` names, for versions in which nothing was changed, the one that
    they are the same build as; `alike` gives runs of like conditions one number.

    How much a try varies follows from what builds and runs leave over. Where that is nothing, since
    only one build was tried again in another run, tries of a build in like runs, or brought to like
    conditions, count as repeats: what runs differ by then counts too, and the spread is rather too
    wide than too narrow.
    """
    if not tries:
        return None
    same = unchanged or {}
    moved = [carry(t) for t in tries] if carry else [None]
    carried = all(m is not None for m in moved)
    values = [m[0] for m in moved if m is not None] if carried else [t.value for t in tries]
    of_run = [m[1] for m in moved if m is not None] if carried else [0.0 for _ in tries]
    cells: dict[tuple[Subject, int], list[float]] = {}
    for t, value in zip(tries, values, strict=True):
        cells.setdefault((same.get(t.subject, t.subject), t.run), []).append(value)
    layout = lay_out(cells)
    steps = [_size(t.sources, "step") for t in tries]
    resolution = sqrt(12.0) * max(steps)
    squares, dof = layout.squares, float(layout.dof)
    if dof == 0:
        squares, dof = _across_runs(cells, {} if carried else alike or {}, carried)
    spread = spread_of(squares, dof, resolution**2 / 12.0, prior)
    own: dict[Subject, list[float]] = {}
    runs: dict[Subject, dict[int, float]] = {}
    for t, se in zip(tries, of_run, strict=True):
        build = same.get(t.subject, t.subject)
        own.setdefault(build, []).append(_size(t.sources, "build"))
        runs.setdefault(build, {})[t.run] = se
    return Measure(
        better,
        layout,
        spread,
        resolution,
        {s: float(np.mean(x)) for s, x in own.items()},
        {s: sqrt(sum(u * u for u in x.values())) / len(x) for s, x in runs.items()},
        carried,
        why_carried if carried else "",
        same,
        int(dof),
        _strange(tries, values, same, resolution),
    )


def _strange(
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


def _across_runs(
    cells: Mapping[tuple[Subject, int], Sequence[float]], alike: Mapping[int, int], carried: bool
) -> tuple[float, float]:
    """Sum of squares and degrees of freedom of the tries of each build in like runs."""
    groups: dict[tuple[Subject, int], list[float]] = {}
    for (build, run), values in cells.items():
        groups.setdefault((build, 0 if carried else alike.get(run, run)), []).extend(values)
    squares = sum(float(((np.array(y) - np.mean(y)) ** 2).sum()) for y in groups.values())
    return squares, float(sum(len(y) - 1 for y in groups.values()))


def _size(sources: Sequence[Source], shared: str) -> float:
    return sqrt(sum(s.effect**2 for s in sources if s.shared == shared))
