"""Will a brief tell designs apart? A spread of designs within its limits, run by simulation."""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from math import ceil
from typing import Literal

from thermion.core.judging.scoring import score
from thermion.core.kinds.base import Kind
from thermion.core.kinds.briefing import Term
from thermion.core.kinds.rehearsal import Marks
from thermion.core.kinds.trials import Trial
from thermion.core.lazy import numpy as np
from thermion.core.physics.materials import MATERIALS
from thermion.core.plans import Offer, Part, Plan, tally
from thermion.core.values import Figure

FEW = 10  # designs that pass; of fewer nothing is said
LIKELY = 0.85  # share of choices that go to a place's usual materials; an estimate
Verdict = Literal["good", "too easy", "impossible", "does not tell apart", "not known"]


@dataclass(frozen=True)
class Rehearsed:
    """One design tried by simulation: its headline result [stored unit], score, and if it passed.

    `bound` when the result is only known as a bound (then that bound), `unfinished` when there was
    something left to try after its last attempt.
    """

    result: float | None
    bound: bool
    total: float | None
    passed: bool | None
    units: float
    unfinished: bool = False


def spread_of_designs(
    kind: Kind, offers: Sequence[Offer], count: int, seed: int, *, start: int = 0
) -> list[Plan]:
    """Designs that the limits allow, from bare to rich; number `start` and the `count` after it.

    Every design draws some places, a material and form for each, as many units as its limit and
    a share of richness let it, and factors around their defaults. Equal seeds give equal designs.
    """
    return [_design(kind, offers, np.random.default_rng((seed, i))) for i in range(start, start + count)]


def _design(kind: Kind, offers: Sequence[Offer], dice: np.random.Generator) -> Plan:
    left = {o.material: (9.0 if o.limit is None else o.limit) for o in offers}
    rich = dice.uniform(0.2, 1.0)
    parts = []
    for place in kind.build.places:
        if dice.random() > 0.35 + 0.6 * rich:
            continue
        free = [m for m, units in left.items() if units >= 1]
        if not free:
            break
        usual = [m for m in place.usual if m in free]
        among = usual if usual and dice.random() < LIKELY else free
        material = MATERIALS[among[int(dice.integers(len(among)))]]
        form = material.forms[int(dice.integers(len(material.forms)))]
        units = float(max(1, ceil(dice.uniform(0, rich) * min(left[material.key], 6))))
        left[material.key] -= units
        parts.append(Part(place=place.key, material=material.key, form=form, units=units))
    factors = {}
    for f in kind.build.factors:
        wide = dice.normal(f.default, (f.high - f.low) / 6)
        steps = round((min(max(wide, f.low), f.high) - f.low) / f.step)
        value = f.low + steps * f.step
        factors[f.key] = f.si("low") + (value - f.low) / ((f.high - f.low) or 1) * (
            f.si("high") - f.si("low")
        )
    return Plan(tuple(parts), factors)


def rehearse(
    kind: Kind,
    plans: Sequence[Plan],
    rig: Mapping[str, float],
    choices: Mapping[str, str],
    rule: Sequence[Term],
    offers: Sequence[Offer],
    credit: float,
    seed: int,
    marks: Marks | None = None,
    attempts: int | None = None,
) -> list[Rehearsed]:
    """The plans run under the brief's conditions [stored units], at its marks [s] or with its number of
    attempts, scored by its rule."""
    trials = []
    simulated = kind.rehearsal.simulate(plans, rig, seed, choices, marks, attempts)
    for plan, trial in zip(plans, simulated, strict=True):
        count = tally(plan, offers, credit)
        trials.append(replace(trial, units_used=count.units, impact_points=count.impact, plan=plan))
    metric, units = kind.analysis.headline_for(choices)[0].key, kind.analysis.metric_units()
    out = []
    for trial, fitted in zip(trials, kind.analysis.fit(trials), strict=True):
        f = fitted.figures
        head = f.get(metric, Figure())
        bounds = [b for b in (head.at_least, head.at_most) if b is not None]
        met = f.get("passed", Figure()).value
        out.append(
            Rehearsed(
                result=head.value if head.value is not None else (bounds[0] if bounds else None),
                bound=head.value is None,
                total=score(rule, f, units).total,
                passed=None if met is None else bool(met),
                units=trial.units_used,
                unfinished=_unfinished(kind, trial),
            )
        )
    return out


def _unfinished(kind: Kind, trial: Trial) -> bool:
    """Whether the next attempt would be at something that was not tried yet."""
    fill, _ = kind.test.suggest(trial.attempts, trial.conditions, trial.choices)
    return any(all(a.values.get(key) != value for a in trial.attempts) for key, value in fill.items())


@dataclass(frozen=True)
class Outlook:
    """What the spread says of the brief, in words, and what to change."""

    verdict: Verdict
    sentence: str
    advice: tuple[str, ...]
    passing: float | None  # share of designs that meet the criterion
    scored: int


def outlook(kind: Kind, tried: Sequence[Rehearsed], offers: Sequence[Offer]) -> Outlook:
    """Too easy, impossible, or good: from the share that passes and how far results lie apart.

    Good: between 15 and 85 of 100 designs meet the criterion and the results of the middle half
    differ by over a tenth of their size. Where most of those that meet it score alike, it is said.
    """
    known = [r.passed for r in tried if r.passed is not None]
    if not known:
        return Outlook(
            verdict="not known",
            sentence="The simulation gives no result to judge by.",
            advice=(),
            passing=None,
            scored=0,
        )
    share = sum(known) / len(known)
    meet = f"{share:.0%} of the designs meet the criterion"
    verdict: Verdict
    if share > 0.85:
        verdict, said = "too easy", f"{meet}: nearly anything will do."
        advice = ("Raise the level to reach under Rig.", *_tighten(offers))
    elif share < 0.15:
        verdict, said = "impossible", f"{meet}: most teams will see nothing work."
        advice = ("Lower the level to reach under Rig.", *_more_helps(tried), *_missing(kind, offers))
    elif _close_together(tried):
        verdict = "does not tell apart"
        said = "Half of the designs end within a tenth of each other: the test will not tell them apart."
        advice = ("Test longer, or let teams choose more freely.",)
    else:
        verdict = "good"
        also, advice = _score_alike(tried)
        said = f"{meet}, and results lie well apart.{also}"
    scored = sum(r.total is not None for r in tried)
    return Outlook(verdict=verdict, sentence=said, advice=advice, passing=share, scored=scored)


def _more_helps(tried: Sequence[Rehearsed]) -> tuple[str, ...]:
    """Whether designs that pass use more than those that do not."""
    poor = [r.units for r in tried if r.passed is False]
    rich = [r.units for r in tried if r.passed]
    if rich and poor and np.mean(rich) > np.mean(poor) + 1:
        return ("Those that do use more: raise a limit under Materials.",)
    return ()


def _close_together(tried: Sequence[Rehearsed]) -> bool:
    """Whether the middle half of the results lies within a tenth of their size."""
    results = [r.result for r in tried if r.result is not None]
    if not results:
        return False
    low, middle, high = np.percentile(results, [25, 50, 75])
    return bool(high - low < 0.1 * abs(middle))


def _score_alike(tried: Sequence[Rehearsed]) -> tuple[str, tuple[str, ...]]:
    """What to say where most of those that meet the criterion score the same, and what would help."""
    alike, passing = _alike(tried)
    if passing < FEW or len(alike) <= passing / 2:
        return "", ()
    which = "all" if len(alike) == passing else f"{len(alike)} of the"
    advice: tuple[str, ...] = ()
    if all(r.unfinished for r in alike):
        advice = ("With more attempts, under Lessons, they would go on to differ.",)
    return f" But {which} {passing} that meet it score alike.", advice


def _alike(tried: Sequence[Rehearsed]) -> tuple[list[Rehearsed], int]:
    """Those that meet the criterion with the score that most of them have, and how many meet it."""
    passing = [r for r in tried if r.passed and r.total is not None]
    scores = Counter(round(r.total or 0.0, 6) for r in passing)
    most = max(scores, key=lambda s: scores[s], default=0.0)
    return [r for r in passing if round(r.total or 0.0, 6) == most], len(passing)


def _tighten(offers: Sequence[Offer]) -> tuple[str, ...]:
    free = [MATERIALS[o.material].name.lower() for o in offers if o.limit is None]
    if free:
        return (f"Give {free[0]} a limit under Materials.",)
    loose = max(offers, key=lambda o: o.limit or 0.0, default=None)
    if loose is None:
        return ()
    return (f"Lower the limit of {MATERIALS[loose.material].name.lower()} ({loose.limit:g}).",)


def _missing(kind: Kind, offers: Sequence[Offer]) -> tuple[str, ...]:
    """Usual materials of the family that are not on offer, or to no use."""
    there = {o.material for o in offers if o.limit is None or o.limit >= 1}
    gone = [MATERIALS[m].name.lower() for m, _ in kind.build.materials if m not in there]
    return (f"Usual and not on offer: {', '.join(gone[:4])}.",) if gone else ()
