"""A version against the one before it: how much, how sure, by what it was compared, and what did it."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
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
    settle,
    way,
)
from thermion.core.judging.intervals import certainly_before, interval_of
from thermion.core.judging.measure import Measure
from thermion.core.judging.tries import Tries, uncertain_conditions
from thermion.core.kinds.base import Kind
from thermion.core.plans import Change, differences
from thermion.core.subjects import Subject
from thermion.core.values import Figure

How = Literal["yardsticks", "physics", "not comparable"]


@dataclass(frozen=True)
class Settling:
    """What would settle a difference: `more` tries of each of the two; None and `tie` when it takes
    too many; `common` when no number of tries does, because what they share does not average out."""

    more: int | None
    tie: bool = False
    common: bool = False


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
    settling: Settling | None
    yardsticks: tuple[Subject, ...] = ()
    common: float = 0.0
    leans_on: tuple[str, ...] = ()
    mismatches: tuple[Mismatch, ...] = ()
    score_verdict: Verdict | None = None
    score_claim: Claim | None = None
    bounds: tuple[BoundGain, ...] = ()


def _told(claim: Claim, bounds: Sequence[BoundGain]) -> bool:
    """Whether anything is said to have changed at all."""
    return claim.word in ("clear", "leaning") or any(b.good is not None for b in bounds)


def settling(measured: Measure, claim: Claim, a: Subject, b: Subject) -> Settling | None:
    """What would settle an undecided difference of two builds; None where it is decided, or where
    first something must be tried twice."""
    if claim.word in ("clear", "not known") or measured.spread is None:
        return None
    common = measured.common(a, b)
    n_a, n_b = measured.tries(a), measured.tries(b)
    more = settle(claim.difference, measured.spread, n_a, n_b, common_se=common)
    if more is not None:
        return Settling(max(more, 1))
    alone = settle(claim.difference, measured.spread, n_a, n_b)
    return Settling(None, tie=alone is None, common=alone is not None)


def gains_of(
    tries: Tries,
    figures: Mapping[Subject, Mapping[str, Figure]],
    headline: Measure | None,
    score: Measure | None,
    tolerance: Mapping[str, float],
) -> list[Gain]:
    """Every version that has one before it, in order; nothing of one whose test is still on."""
    kind, tried = tries.kind, tries.tried
    metric = kind.analysis.headline_for(tried[0].trial.choices)[0]
    last = {t.subject: t for t in tried}
    out = []
    for before, after in pairwise(sorted(figures)):
        if before.team_id != after.team_id or after in tries.unchanged:
            continue
        shown = [figures[s].get(metric.key, Figure()) for s in (before, after)]
        if any(f.partial and f.known for f in shown):
            continue
        old, new = last[before], last[after]
        bounds = _bound_gains(kind, figures[before], figures[after], new.trial.choices)
        told = headline is not None and before in headline and after in headline
        if headline is None or not told:
            if not any(b.good is not None for b in bounds):
                continue
            claim = Claim(0.0, None, None, None, None, "not known", "known only as bounds")
        else:
            claim = headline.claim(after, before)
        changes = differences(old.plan, new.plan, kind.build.place_names(), kind.build.factor_names())
        score_claim = score.claim(after, before) if score and before in score and after in score else None
        how, yardsticks, common = _how(headline if told else None, before, after)
        out.append(
            Gain(
                before,
                after,
                tuple(changes),
                attribution([c.sentence for c in changes], told=_told(claim, bounds)),
                metric.key,
                way(claim.difference, metric.better) if told else "changed",
                claim,
                how,
                settling(headline, claim, after, before) if headline is not None and told else None,
                yardsticks,
                common,
                _leans_on(tries, before, after) if how == "physics" else (),
                tuple(comparable(old.trial.conditions, new.trial.conditions, tolerance)),
                way(score_claim.difference, score.better) if score and score_claim else None,
                score_claim,
                bounds,
            )
        )
    return out


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
    extra = headline.factor(after, before) - sum(1 / headline.tries(s) for s in (before, after))
    return "yardsticks", both, sqrt(max(headline.one * extra, 0.0))


def _leans_on(tries: Tries, before: Subject, after: Subject) -> tuple[str, ...]:
    """Conditions whose uncertainty the gain leans on, the largest first."""
    metric = tries.kind.analysis.headline_for(tries.tried[0].trial.choices)[0].key
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
