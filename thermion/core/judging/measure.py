"""One number of every build, ready to be compared: a score under a rule, or a metric.

It holds the tries (each build in each run), brought to the same conditions where physics allows,
how much a try varies, and what does not average out: a build's own thermometer, a run's own sun.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field
from functools import cached_property
from math import inf, isfinite, sqrt

from thermion.core.judging.claims import P95, Claim, claim_from, t_quantile
from thermion.core.judging.layout import Layout, lay_out
from thermion.core.judging.once import Brought, Once, cells_of, size_of_sources
from thermion.core.judging.spread import Spread, spread_of
from thermion.core.judging.standings import (
    Standing,
    chances_best,
    evened,
    half_widths,
    not_placed,
    places,
    range_quantile,
)
from thermion.core.judging.strange import far_pairs, far_tries
from thermion.core.judging.telling import Foresight
from thermion.core.lazy import FloatArray
from thermion.core.lazy import numpy as np
from thermion.core.reasons import Why
from thermion.core.subjects import Subject
from thermion.core.values import Direction

NOT_COMPARABLE = Why.OTHER_DAYS


@dataclass(frozen=True)
class Measure:
    """The tries of all builds and what may be said of their differences.

    `own` [unit of the values] is what a build keeps through all its tries, `of_run` what the conditions
    of each of its runs do to its value, by run and condition, as standard uncertainties. `carried`: the
    values were brought to the same conditions, for which `why_carried` has the words. `repeats` are those
    of this class that the spread follows from. `factor`: another day is a factor.
    """

    better: Direction
    layout: Layout[Subject]
    spread: Spread | None
    resolution: float
    own: Mapping[Subject, float]
    of_run: Mapping[Subject, Mapping[tuple[int, str], float]]
    carried: bool
    factor: bool = False
    why_carried: str = ""
    unchanged: Mapping[Subject, Subject] = field(default_factory=dict)
    repeats: int = 0
    strange: tuple[Once, ...] = ()  # tries far from the others of the same build: to be asked about

    def learned(self) -> tuple[tuple[float, ...], float] | None:
        """What its repeats alone say of how much a try varies: variances by each floor, never below what
        rounding hides, and their degrees of freedom; None without any."""
        layout = self.layout
        if not layout.dof:
            return None
        pairs = zip(layout.squares, layout.hidden, strict=True)
        return tuple(max(ss / layout.dof, hidden) for ss, hidden in pairs), float(layout.dof)

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
        return sqrt(own + sum(u * u for u in self._open(x, y).values()))

    def _open(self, x: Subject, y: Subject) -> dict[tuple[int, str], float]:
        """What the conditions of their runs leave open of the difference of two builds.

        Side by side in the same runs both got the same. Where builds tested unchanged tie their runs, what
        is the same for all is taken out with the day, and the rest stays.
        """
        if set(self.layout.runs[x]) == set(self.layout.runs[y]):
            return {}
        tied = self.layout.tied[x] == self.layout.tied[y]
        out: dict[tuple[int, str], float] = {}
        for sign, s in ((1.0, x), (-1.0, y)):
            share = sign / len(self.layout.runs[s])
            for key, effect in (self._beside(s) if tied else self.of_run[s]).items():
                out[key] = out.get(key, 0.0) + share * effect
        return out

    def _beside(self, build: Subject) -> dict[tuple[int, str], float]:
        """What conditions do to a build beside what they do to those that tie its runs to others."""
        out = {}
        for (run, key), effect in self.of_run[build].items():
            sticks = [
                s
                for s, runs in self.layout.runs.items()
                if len(runs) > 1 and run in runs and (run, key) in self.of_run[s]
            ]
            if not sticks:
                out[run, key] = effect
                continue
            by = [self.of_run[s][run, key] / (self.layout.varying[s] if self.factor else 1.0) for s in sticks]
            day = float(np.mean(by)) * (self.layout.varying[build] if self.factor else 1.0)
            out[run, key] = effect - day
        return out

    def claim(self, a: Subject, b: Subject) -> Claim:
        """Build a minus build b."""
        difference = self.value(a) - self.value(b)
        if abs(difference) <= 1e-9 * (abs(self.value(a)) + abs(self.value(b))):
            difference = 0.0  # equal tries, but for the last bit of solving for them
        if not self.comparable(a, b):
            return Claim(
                difference=difference,
                se=None,
                dof=None,
                low=None,
                high=None,
                word="not known",
                why=NOT_COMPARABLE,
            )
        common, own = self.common(a, b), None
        if self.spread is not None:
            own = self.variance(a, b)
        times = None if own is None else self._times(a, b, common)
        return claim_from(difference, own, self.spread, common_se=common, times=times)

    def _times(self, a: Subject, b: Subject, common: float) -> tuple[float, float] | None:
        """How many times as much one build is as another, and the uncertainty of its logarithm; None
        where that says nothing."""
        x, y = self.build(a), self.build(b)
        u, v = self.layout.varying[x], self.layout.varying[y]
        if self.spread is None or not self.factor or not self.tied(a, b):
            return None
        floor = self.spread.above or 0.0
        whole = abs(self.value(a) - u) + abs(self.value(b) - v) < 1e-9
        if not whole or u * v <= 0 or min(abs(u), abs(v)) < 2 * floor:
            return None
        logs = self.spread.sd**2 * self.layout.logs(x, y)
        rounding = self.layout.rounding(x) / u**2 + self.layout.rounding(y) / v**2
        return u / v, sqrt(logs + rounding + common**2 / (u * v))

    def variance(self, a: Subject, b: Subject) -> float:
        """What repeating averages out of the variance of the difference of two builds; 0 where no
        spread is known, infinite where they do not compare."""
        if self.spread is None:
            return 0.0
        x, y = self.build(a), self.build(b)
        found = self.layout.factors(x, y)
        rounding = self.layout.rounding(x, y)
        if found is None:
            if not self.carried:
                return inf
            found = self.layout.alone(x) + self.layout.alone(y)
            rounding = self.layout.rounding(x) + self.layout.rounding(y)
        return self._largest(found) + rounding

    def _largest(self, factors: FloatArray) -> float:
        assert self.spread is not None
        return max(sd**2 * float(f) for (sd, _), f in zip(self.spread.each, factors, strict=False))

    def alone(self, subject: Subject) -> float:
        """The same for one build's value."""
        x = self.build(subject)
        if self.spread is None:
            return 0.0
        return self._largest(self.layout.alone(x)) + self.layout.rounding(x)

    def widened(self, interval: tuple[float, float]) -> tuple[float, float]:
        """An interval that one try of a build was seen in, as wide as the typical try may lie."""
        if self.spread is None or not self.layout.value:
            return interval
        reach = t_quantile(P95, self.spread.dof)

        def far(end: float) -> float:
            return 0.0 if not isfinite(end) else reach * self.spread.at(end) if self.spread else 0.0

        return interval[0] - far(interval[0]), interval[1] + far(interval[1])

    def day(self, a: Subject, b: Subject) -> float:
        """Variance that taking the day's effect out adds to the difference of two builds."""
        if self.spread is None or not self.tied(a, b):
            return 0.0
        x, y = self.build(a), self.build(b)
        found = self.layout.factors(x, y)
        assert found is not None
        extra = found - self.layout.itself(x) - self.layout.itself(y)
        return max(self._largest(extra), 0.0)

    def chance(self, a: Subject, b: Subject, more: Mapping[Subject, int]) -> float | None:
        """Chance that two builds differ clearly after so many more tries of each build; None where no
        spread is known or they do not compare."""
        if self.spread is None or not self.comparable(a, b):
            return None
        kept = list(self.layout.value)
        again = {self.build(s): times for s, times in more.items()}
        plus = np.array([again.get(s, 0) for s in kept])
        first, second = (kept.index(self.build(s)) for s in (a, b))
        _, by = self._level(kept, np.array([self.layout.value[s] for s in kept]))
        common = self.common(a, b) ** 2 / sqrt(by[first] * by[second])
        return self._foresight.chance(first, second, plus, common)

    @cached_property
    def _foresight(self) -> Foresight:
        assert self.spread is not None
        kept = list(self.layout.value)
        means = np.array([self.layout.value[s] for s in kept])
        n = np.array([self.layout.tries[s] for s in kept], dtype=float)
        factors = np.array([self.layout.alone(s) for s in kept]).T * n  # (floors, k): of one try
        sds = np.array([[sd] for sd, _ in self.spread.each])
        one = sds**2 * factors[: len(sds)] + np.array([self.layout.rounding(s) for s in kept]) * n
        level, by = self._level(kept, means)
        return Foresight(level, one / by, n, self.spread.dof)

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
        if self.better == "none" or self.spread is None or not order or not self._varies(order):
            return [not_placed(s, float(m)) for s, m in zip(order, means, strict=True)]
        own = np.array([self.own[self.build(s)] ** 2 for s in order])
        pairs = self._pairs(order, self.variance)
        common = self._pairs(order, lambda a, b: self.common(a, b) ** 2)
        rivals = [self.claim(order[0], s) for s in order[1:]]
        first, last = places(means, pairs + common, rivals, self.spread.dof)
        alone = np.array([self.alone(s) for s in order])
        half = half_widths(alone + own, self.spread)
        chances: Sequence[float | None] = [None] * len(order)
        if np.isfinite(pairs).all():
            level, by = self._level(order, means)
            mine, shared = _single(pairs) / by, _single(common) / by
            chances = chances_best(-sign * level, mine, self.spread.dof, shared)
        rows = zip(order, means.tolist(), half, first, last, chances, strict=True)
        return [Standing(*row) for row in rows]

    def _level(self, order: Sequence[Subject], means: FloatArray) -> tuple[FloatArray, FloatArray]:
        """Values of builds as they are compared all together, and what a variance is divided by for that:
        `evened`, of what varies, where the rest is the same for all."""
        y = np.array([self.layout.varying[self.build(s)] for s in order])
        if self.spread is None or not self.factor or np.ptp(means - y) > 1e-9 * np.abs(means).max():
            return means, np.ones(len(means))
        return evened(y, self.spread.above)

    def _varies(self, order: Sequence[Subject]) -> bool:
        return any(self.alone(s) > 0 for s in order)

    def _pairs(self, order: Sequence[Subject], of: Callable[[Subject, Subject], float]) -> FloatArray:
        out = np.zeros((len(order), len(order)))
        for i, a in enumerate(order):
            for j, b in enumerate(order[:i]):
                out[i, j] = out[j, i] = of(a, b)
        return out

    def bars(self, subjects: Sequence[Subject]) -> dict[Subject, float]:
        """Half widths of bars such that two builds whose bars do not overlap are certainly apart.

        Half of the studentized range's 95 % point times each standard error: equal bars that just
        touch belong to a difference just at the limit (Y. Hochberg et al., The American Statistician 36,
        1982). Empty without a spread.
        """
        if self.spread is None or not subjects:
            return {}
        reach = range_quantile(len(subjects), self.spread.dof) / 2.0
        return {s: reach * sqrt(self.alone(s) + self.own[self.build(s)] ** 2) for s in subjects if s in self}


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
    carry: Callable[[Once], Brought | None] | None = None,
    why_carried: str = "",
    unchanged: Mapping[Subject, Subject] | None = None,
    alike: Mapping[int, int] | None = None,
    to: int | None = None,
) -> Measure | None:
    """All tries of a class as one `Measure`; None without any.

    `carry` gives a try's value under the conditions of one run for all, and what its own run's conditions
    leave open in it; None for any try means that physics cannot, and then none is carried. `unchanged`
    names, for versions in which nothing was changed, the one that they are the same build as; `alike`
    gives runs of like conditions one number; `to` is the run that values are brought to.

    How much a try varies follows from what builds and runs leave over. Where that is nothing, since
    only one build was tried again in another run, tries of a build in like runs, or brought to like
    conditions, count as repeats: what runs differ by then counts too, and the spread is rather too
    wide than too narrow.
    """
    if not tries:
        return None
    same = unchanged or {}
    known = _carried_all(tries, carry)
    carried = known is not None
    if known is None:
        known = [Brought(t.value, t.size.zero, {}) for t in tries]
    factor = all(t.size.factor for t in tries)
    cells = cells_of(tries, known, same, lambda t: t.run)
    layout = lay_out(cells, to=to, factor=factor)
    squares, hidden, dof = layout.squares, layout.hidden, float(layout.dof)
    if dof == 0:
        like = {} if carried else alike or {}
        again = lay_out(cells_of(tries, known, same, lambda t: 0 if carried else like.get(t.run, t.run)))
        squares, hidden, dof = again.squares, again.hidden, float(again.dof)
    above = next((t.size.above for t in tries if t.size.above), None)
    resolution = sqrt(12.0) * max(size_of_sources(t.sources, "step") for t in tries)
    own: dict[Subject, list[float]] = {}
    of_run: dict[Subject, dict[tuple[int, str], float]] = {}
    for t, m in zip(tries, known, strict=True):
        build = same.get(t.subject, t.subject)
        own.setdefault(build, []).append(size_of_sources(t.sources, "build"))
        of_run.setdefault(build, {}).update({(t.run, key): effect for key, effect in m.effects.items()})
    return Measure(
        better=better,
        layout=layout,
        spread=spread_of(squares, dof, hidden, prior, above),
        resolution=resolution,
        own={s: float(np.mean(x)) for s, x in own.items()},
        of_run=of_run,
        carried=carried,
        factor=factor,
        why_carried=why_carried if carried else "",
        unchanged=same,
        repeats=int(dof),
        strange=(
            *far_tries(tries, [m.value for m in known], same, resolution),
            *far_pairs(tries, cells, same, prior),
        ),
    )


def _carried_all(
    tries: Sequence[Once], carry: Callable[[Once], Brought | None] | None
) -> list[Brought] | None:
    """Every try under the conditions of one run; None where physics cannot bring one of them there."""
    if carry is None:
        return None
    out = []
    for t in tries:
        moved = carry(t)
        if moved is None:
            return None
        out.append(moved)
    return out
