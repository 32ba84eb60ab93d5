"""A version against the one before it: how much, how sure, by what it was compared, and what did it."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from itertools import pairwise
from math import sqrt
from typing import Literal

from thermion.core.judging.claims import (
    Attribution,
    Claim,
    Mismatch,
    Verdict,
    attribution,
    comparable,
    verdict_of,
)
from thermion.core.judging.intervals import certainly_before, interval_of
from thermion.core.judging.measure import Measure
from thermion.core.judging.tries import Tries, uncertain_conditions
from thermion.core.kinds.base import Kind
from thermion.core.plans import Change, differences
from thermion.core.reasons import Why
from thermion.core.subjects import Subject
from thermion.core.values import Figure

How = Literal["yardsticks", "physics", "not comparable"]


MOST_MORE = 5  # more tries of each than this, nobody makes in a lesson
ENOUGH, SELDOM = 0.7, 0.35  # chances from which more tries are worth it, and below which it is a tie


@dataclass(frozen=True)
class MoreTries:
    """What more tries of two builds would tell: the chance that they come out clear after `more` of each.

    `all_once` is that chance when every build is tried once more instead, to be compared only: nobody has
    simulated how well it holds. `common`: the chance is small
    because what all tries of a build share does not average out.
    """

    more: int
    chance: float
    all_once: float | None = None
    common: bool = False

    @property
    def tie(self) -> bool:
        return max(self.chance, self.all_once or 0.0) < SELDOM


@dataclass(frozen=True)
class BoundGain:
    """A metric known as intervals only, before and after: which came first, and if that is good.

    `good` is None where the intervals overlap.
    """

    metric: str
    before: Figure
    after: Figure
    good: bool | None


@dataclass(frozen=True)
class Gain:
    """A version against the one before it: headline metric and score.

    `how` the run's own effect was taken out: by `yardsticks` tested unchanged in both runs, by
    physics, or not at all; `common` [unit of the metric] is what that leaves uncertain for
    everybody together, `leans_on` the conditions that it comes from, largest first.
    """

    before: Subject
    after: Subject
    changes: tuple[Change, ...]
    cause: Attribution
    metric: str
    verdict: Verdict
    claim: Claim
    how: How
    more_tries: MoreTries | None
    yardsticks: tuple[Subject, ...] = ()
    common: float = 0.0
    leans_on: tuple[str, ...] = ()
    mismatches: tuple[Mismatch, ...] = ()
    score_verdict: Verdict | None = None
    score_claim: Claim | None = None
    bounds: tuple[BoundGain, ...] = ()


def more_tries(
    measured: Measure, claim: Claim, a: Subject, b: Subject, every: Sequence[Subject] = ()
) -> MoreTries | None:
    """What more tries would tell of an undecided difference of two builds; None where it is decided, or
    where first something must be tried twice. `every` are the builds that may be tried again together."""
    if claim.word in ("clear", "not known") or measured.spread is None:
        return None
    more, chance = 1, 0.0
    for more in range(1, MOST_MORE + 1):
        chance = measured.chance(a, b, {a: more, b: more}) or 0.0
        if chance >= ENOUGH:
            break
    all_once = measured.chance(a, b, dict.fromkeys(every, 1)) if len(every) > 2 else None
    common = measured.common(a, b) ** 2 > measured.variance(a, b)
    return MoreTries(more, chance, all_once, common and chance < SELDOM)


def gains_of(
    tries: Tries,
    figures: Mapping[Subject, Mapping[str, Figure]],
    claimed: Mapping[str, Measure | None],
    score: Measure | None,
    tolerance: Mapping[str, float],
) -> list[Gain]:
    """Every version against the one before it, in order, by each of the `claimed` metrics; nothing of one
    whose test is still on."""
    out: list[Gain] = []
    for before, after in pairwise(sorted(figures)):
        if before.team_id != after.team_id or after in tries.unchanged:
            continue
        pair = _Pair(
            tries=tries, before=before, after=after, figures=figures, score=score, tolerance=tolerance
        )
        found = [pair.gain(key, measured) for key, measured in claimed.items()]
        told = [g for g in found if g is not None and g.claim.why is not BOUNDS]
        out += told or [g for g in found if g is not None][:1]
    return _caused(out)


BOUNDS = Why.ONLY_BOUNDS
_ONLY_BOUNDS = Claim(difference=0.0, se=None, dof=None, low=None, high=None, word="not known", why=BOUNDS)


@dataclass(frozen=True)
class _Pair:
    """A version and the one before it."""

    tries: Tries
    before: Subject
    after: Subject
    figures: Mapping[Subject, Mapping[str, Figure]]
    score: Measure | None
    tolerance: Mapping[str, float]

    def gain(self, key: str, measured: Measure | None) -> Gain | None:
        """By one metric; None where there is nothing to say of it yet."""
        tries, before, after = self.tries, self.before, self.after
        kind, metric = tries.kind, tries.kind.analysis.metric(key)
        if any(f.partial and f.known for f in (self._figure(before, key), self._figure(after, key))):
            return None
        last = {t.subject: t for t in tries.tried}
        old, new = last[before], last[after]
        bounds = _bound_gains(kind, self.figures[before], self.figures[after], new.trial.choices)
        both = self._with_both(measured)
        if both is None and all(b.good is None for b in bounds):
            return None
        claim = _ONLY_BOUNDS if both is None else both.claim(after, before)
        score = self._with_both(self.score)
        score_claim = score.claim(after, before) if score else None
        changes = differences(old.plan, new.plan, kind.build.place_names(), kind.build.factor_names())
        how, yardsticks, common = _how(both, before, after)
        return Gain(
            before=before,
            after=after,
            changes=tuple(changes),
            cause=attribution([c.sentence for c in changes], told=False),
            metric=key,
            verdict=verdict_of(claim.difference, metric.better) if both else "changed",
            claim=claim,
            how=how,
            more_tries=more_tries(both, claim, after, before) if both else None,
            yardsticks=yardsticks,
            common=common,
            leans_on=_leans_on(tries, key, before, after) if how == "physics" else (),
            mismatches=tuple(comparable(old.trial.conditions, new.trial.conditions, self.tolerance)),
            score_verdict=verdict_of(score_claim.difference, score.better) if score and score_claim else None,
            score_claim=score_claim,
            bounds=bounds,
        )

    def _figure(self, subject: Subject, key: str) -> Figure:
        return self.figures[subject].get(key, Figure())

    def _with_both(self, measured: Measure | None) -> Measure | None:
        """A measure that tells of both versions; None where it does not."""
        if measured is None or self.before not in measured or self.after not in measured:
            return None
        return measured


def _caused(gains: Sequence[Gain]) -> list[Gain]:
    """The same gains with their causes: one is named only where a gain is clear when all gains of the class
    are judged together (S. Holm, Scand. J. Stat. 6, 65, 1979)."""
    ranked = sorted(range(len(gains)), key=lambda i: gains[i].claim.chance)
    sure: set[int] = set()
    for left, i in zip(range(len(ranked), 0, -1), ranked, strict=True):
        if gains[i].claim.chance * left > 0.05:
            break
        sure.add(i)
    return [
        replace(g, cause=attribution([c.sentence for c in g.changes], told=i in sure))
        for i, g in enumerate(gains)
    ]


def _how(headline: Measure | None, before: Subject, after: Subject) -> tuple[How, tuple[Subject, ...], float]:
    """By what two versions compare, which builds tie their runs, and the common part."""
    if headline is None or not headline.comparable(before, after):
        return "not comparable", (), 0.0
    if not headline.tied(before, after):
        return "physics", (), headline.common(before, after)
    then, now = set(headline.runs(before)), set(headline.runs(after))
    mine = {headline.build(before), headline.build(after)}
    every = headline.layout.runs.items()
    both = tuple(s for s, runs in every if s not in mine and then & {*runs} and now & {*runs})
    return "yardsticks", both, sqrt(headline.day(after, before))


def _leans_on(tries: Tries, metric: str, before: Subject, after: Subject) -> tuple[str, ...]:
    """Conditions whose uncertainty a gain by a metric leans on, the largest first."""
    size: dict[str, float] = {}
    to = tries.tried[-1].trial.conditions
    for t in tries.tried:
        if t.subject not in (before, after):
            continue
        figures, at = tries.whole[t.subject, t.run].figures, t.trial.conditions
        plain = tries.kind.analysis.correct(metric, figures, at, to)
        for key, u in uncertain_conditions(tries.kind, t.trial).items():
            nudged = tries.kind.analysis.correct(metric, figures, {**at, key: at[key] + u}, to)
            if plain is not None and nudged is not None:
                size[key] = size.get(key, 0.0) + (nudged - plain) ** 2
    return tuple(sorted((k for k, v in size.items() if v > 0), key=lambda k: -size[k]))


def _bound_gains(
    kind: Kind, before: Mapping[str, Figure], after: Mapping[str, Figure], choices: Mapping[str, str]
) -> tuple[BoundGain, ...]:
    """Metrics of both versions that are intervals, compared as such and never by a middle."""
    out: list[BoundGain] = []
    for metric in kind.analysis.headline_for(choices):
        a, b = (v.get(metric.key, Figure()) for v in (before, after))
        was, now = interval_of(a), interval_of(b)
        if metric.better == "none" or was is None or now is None:
            continue
        good = None
        if certainly_before(now, was, metric.better):
            good = True
        elif certainly_before(was, now, metric.better):
            good = False
        out.append(BoundGain(metric.key, a, b, good))
    return tuple(out)
