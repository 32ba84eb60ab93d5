"""From trials to findings: figures per version, scores with places, what changed and how sure."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from itertools import pairwise
from math import sqrt

from thermion.core.judging.claims import (
    Attribution,
    Claim,
    Mismatch,
    Placed,
    attribution,
    comparable,
    improvement,
    pooled_sd,
    rank,
)
from thermion.core.judging.effects import Effect, material_effects
from thermion.core.judging.fitting import fit_trials
from thermion.core.judging.scoring import Score, Sensitivity, score, sensitivity
from thermion.core.kinds.base import Kind
from thermion.core.kinds.briefing import Term
from thermion.core.kinds.trials import Fitted, Trial
from thermion.core.physics.melting import Reached, Verdict, race_places, sooner
from thermion.core.plans import Change, Plan, differences
from thermion.core.subjects import Subject
from thermion.core.values import Direction, Figure


@dataclass(frozen=True)
class Tried:
    """One version in one run."""

    subject: Subject
    run: int
    plan: Plan
    trial: Trial
    prediction: float | None = None
    missed: tuple[str, ...] = ()


@dataclass(frozen=True)
class VersionFinding:
    """All that is known of one version: figures over its tries, score, its tries' runs."""

    subject: Subject
    runs: tuple[int, ...]
    figures: Mapping[str, Figure]
    score: Score
    tries: tuple[float, ...]
    prediction: float | None
    missed: tuple[str, ...]


@dataclass(frozen=True)
class BoundGain:
    """A metric known as intervals only, before and after: which came first, and if that is good.

    `good` is None where the intervals overlap.
    """

    metric: str
    before: Figure
    after: Figure
    verdict: Verdict
    good: bool | None


@dataclass(frozen=True)
class Gain:
    """A version against the one before it: headline metric and score."""

    before: Subject
    after: Subject
    changes: tuple[Change, ...]
    cause: Attribution
    metric: str
    verdict: str
    claim: Claim
    score_verdict: str
    score_claim: Claim | None
    mismatches: tuple[Mismatch, ...]
    corrected: Claim | None  # under equal sun and air; then it decides, not what was read
    corrected_verdict: str
    bounds: tuple[BoundGain, ...] = ()
    corrected_by: str = ""  # what was corrected for, in words


@dataclass(frozen=True)
class Unfair:
    """Why runs are not comparable: which two and in what."""

    run_a: int
    run_b: int
    mismatches: tuple[Mismatch, ...]


@dataclass(frozen=True)
class Findings:
    versions: tuple[VersionFinding, ...]
    fitted: Mapping[tuple[Subject, int], Fitted]  # (subject, run)
    places: tuple[Placed[Subject], ...]
    lead: Claim | None  # first place against second
    without_score: tuple[VersionFinding, ...]
    gains: tuple[Gain, ...]
    unfair: tuple[Unfair, ...]
    places_fair: bool  # the versions that are ranked were tested under comparable conditions
    firmness: Sensitivity[Subject]
    pooled_sd: float | None
    repeats: int
    effects: tuple[Effect[Subject], ...] = ()
    used: Mapping[Subject, tuple[str, ...]] = field(default_factory=dict)  # materials

    def latest(self) -> dict[int, VersionFinding]:
        """The newest version of each team that is known, by the team's number."""
        return newest(self.versions)


def newest(versions: Sequence[VersionFinding]) -> dict[int, VersionFinding]:
    """The newest version of each team, by the team's number; versions come in order."""
    return {v.subject.team_id: v for v in versions}


def combine(figures: Sequence[Figure]) -> Figure:
    """Mean of a figure over repeated tries; its se from their spread or their own, if larger."""
    known = [f for f in figures if f.value is not None]
    if len(known) <= 1:
        return known[0] if known else figures[0]
    values = [f.value or 0.0 for f in known]
    mean = sum(values) / len(values)
    spread = sqrt(sum((v - mean) ** 2 for v in values) / (len(values) - 1) / len(values))
    own = sqrt(sum((f.se or 0.0) ** 2 for f in known)) / len(known)
    return Figure(mean, max(spread, own), notes=tuple({n for f in known for n in f.notes}))


def analyse(
    kind: Kind,
    tried: Sequence[Tried],
    rule: Sequence[Term],
    tolerance: Mapping[str, float],
    better: Direction = "higher",
) -> Findings:
    """Everything the findings page says.

    Parameters
    ----------
    tried : every version in every run that counts (rehearsals are left out by the caller).
    rule : scoring terms in the class's units.
    tolerance : condition -> largest difference (SI) at which two runs still compare.
    better : direction of the score; "none" gives no places.
    """
    fitted = dict(
        zip([(t.subject, t.run) for t in tried], fit_trials(kind, [t.trial for t in tried]), strict=True)
    )
    units = kind.analysis.metric_units()
    versions = []
    for subject in sorted({t.subject for t in tried}):
        mine = [t for t in tried if t.subject == subject]
        each = [fitted[t.subject, t.run].figures for t in mine]
        keys = {key for figures in each for key in figures}
        figures = {key: combine([f.get(key, Figure(reason="no reading yet")) for f in each]) for key in keys}
        single = [score(rule, f, units) for f in each]
        versions.append(
            VersionFinding(
                subject,
                tuple(t.run for t in mine),
                figures,
                score(rule, figures, units),
                tuple(s.total for s in single if s.total is not None),
                mine[-1].prediction,
                tuple(m for t in mine for m in t.missed),
            )
        )
    return _judge(kind, tried, versions, fitted, rule, tolerance, better)


def _judge(
    kind: Kind,
    tried: Sequence[Tried],
    versions: Sequence[VersionFinding],
    fitted: Mapping[tuple[Subject, int], Fitted],
    rule: Sequence[Term],
    tolerance: Mapping[str, float],
    better: Direction,
) -> Findings:
    again = _again(kind, tried)
    units = kind.analysis.metric_units()
    spread = pooled_sd([v.tries for v in versions if v.tries])
    if spread is None:
        spread = pooled_sd(
            [[s.total for f in each if (s := score(rule, f, units)).total is not None] for each in again]
        )
    latest = {v.subject: v for v in newest(versions).values()}
    scored = {subject: v.tries for subject, v in latest.items() if v.tries}
    step = max((v.score.se or 0.0 for v in latest.values()), default=0.0) * sqrt(12.0)
    places = rank(scored, better, resolution=step, pooled_sd=spread)
    if not places:
        places = _by_bounds(rule, latest, better)
    lead = None
    if len(places) > 1 and scored:
        _, lead = improvement(
            scored[places[1].key], scored[places[0].key], better, resolution=step, pooled_sd=spread
        )
    runs = {t.run: t.trial.conditions for t in tried}
    order = sorted(runs)
    unfair = [
        Unfair(a, b, tuple(found))
        for i, a in enumerate(order)
        for b in order[i + 1 :]
        if (found := comparable(runs[a], runs[b], tolerance))
    ]
    ranked = {run for placed in places for run in latest[placed.key].runs}
    places_fair = not any(u.run_a in ranked and u.run_b in ranked for u in unfair)
    return Findings(
        tuple(versions),
        fitted,
        tuple(places),
        lead,
        tuple(v for v in latest.values() if v.subject not in {p.key for p in places}),
        tuple(_gains(kind, tried, versions, fitted, again, tolerance, step, spread, better)),
        tuple(unfair),
        places_fair,
        sensitivity(
            rule,
            {subject: v.figures for subject, v in latest.items()},
            units=kind.analysis.metric_units(),
            better=better,
        ),
        spread,
        sum(max(len(v.tries) - 1, 0) for v in versions),
        tuple(_effects(kind, tried, latest)),
        {t.subject: tuple(dict.fromkeys(p.material for p in t.plan.parts)) for t in tried},
    )


def _again(kind: Kind, tried: Sequence[Tried]) -> list[list[Mapping[str, Figure]]]:
    """The figures of every attempt that is the same test again, version by version and run."""
    singles = [list(kind.analysis.repeats(t.trial)) for t in tried]
    fitted = iter(fit_trials(kind, [s for each in singles for s in each]))
    return [[next(fitted).figures for _ in each] for each in singles if each]


def _interval(figure: Figure) -> Reached | None:
    """A figure that is only a bound, as the interval in which it lies."""
    if figure.value is not None or (figure.at_least is None and figure.at_most is None):
        return None
    return Reached(figure.at_least, figure.at_most)


def _by_bounds(
    rule: Sequence[Term], latest: Mapping[Subject, VersionFinding], better: Direction
) -> list[Placed[Subject]]:
    """Places of a race whose times are intervals: only the rule of one metric can have them."""
    if len(rule) != 1 or better == "none":
        return []
    found = {
        subject: at
        for subject, v in latest.items()
        if (at := _interval(v.figures.get(rule[0].metric, Figure()))) is not None
    }
    places = race_places(found, first_wins=better == "lower")
    taken = list(places.values())
    return [
        Placed(subject, None, place, taken.count(place) > 1)
        for subject, place in sorted(places.items(), key=lambda x: (x[1], x[0]))
    ]


def _effects(
    kind: Kind, tried: Sequence[Tried], latest: Mapping[Subject, VersionFinding]
) -> list[Effect[Subject]]:
    """What the materials did to the first metric shown, over the latest version of each build."""
    metric = kind.analysis.headline_for(tried[0].trial.choices)[0]
    plans = {t.subject: t.plan for t in tried}
    builds = [
        (v.subject, plans[v.subject], figure.value)
        for v in latest.values()
        if (figure := v.figures.get(metric.key, Figure())).value is not None
    ]
    step = max(
        (v.figures[metric.key].se or 0.0 for v in latest.values() if metric.key in v.figures), default=0.0
    ) * sqrt(12.0)
    return material_effects(builds, metric.better, resolution=step)


def _gains(
    kind: Kind,
    tried: Sequence[Tried],
    versions: Sequence[VersionFinding],
    fitted: Mapping[tuple[Subject, int], Fitted],
    again: Sequence[Sequence[Mapping[str, Figure]]],
    tolerance: Mapping[str, float],
    step: float,
    spread: float | None,
    better: Direction,
) -> list[Gain]:
    metric = kind.analysis.headline_for(tried[0].trial.choices)[0]
    places, factors = kind.build.place_names(), kind.build.factor_names()
    tries: dict[Subject, list[Tried]] = {}
    for t in tried:
        tries.setdefault(t.subject, []).append(t)

    def values(of: Sequence[Tried]) -> list[tuple[Tried, Figure]]:
        found = [(t, fitted[t.subject, t.run].figures.get(metric.key)) for t in of]
        return [(t, f) for t, f in found if f is not None and f.value is not None]

    every = [[f.value or 0.0 for _, f in values(of)] for of in tries.values()]
    metric_spread = pooled_sd([v for v in every if v])
    if metric_spread is None:
        metric_spread = pooled_sd(
            [[v for f in each if (v := f.get(metric.key, Figure()).value) is not None] for each in again]
        )
    out = []
    for before, after in pairwise(versions):
        if before.subject.team_id != after.subject.team_id:
            continue
        old = values(tries[before.subject])
        new = values(tries[after.subject])
        if not old or not new:
            continue
        bounds = _bound_gains(kind, before, after, tried[0].trial.choices)
        changes = differences(old[-1][0].plan, new[-1][0].plan, places, factors)
        resolution = max(f.se or 0.0 for _, f in (*old, *new)) * sqrt(12.0)
        verdict, claim = _gain(
            [f for _, f in old], [f for _, f in new], metric.better, resolution, metric_spread
        )
        was, now = old[-1][0].trial.conditions, new[-1][0].trial.conditions
        unfair = comparable(was, now, tolerance)
        corrected, corrected_verdict, corrected_by = None, "", ""
        if unfair:
            moved = [kind.analysis.correct(metric.key, f, t.trial.conditions, now) for t, f in old]
            usable = [f for f in moved if f is not None]
            if len(usable) == len(moved):
                corrected_verdict, corrected = _gain(
                    usable, [f for _, f in new], metric.better, resolution, metric_spread
                )
                corrected_by = "; ".join(dict.fromkeys(note for f in usable for note in f.notes))
        score_verdict, score_claim = "", None
        if before.tries and after.tries:
            score_verdict, score_claim = improvement(
                before.tries, after.tries, better, resolution=step, pooled_sd=spread
            )
        out.append(
            Gain(
                before.subject,
                after.subject,
                tuple(changes),
                attribution([c.sentence for c in changes]),
                metric.key,
                verdict,
                claim,
                score_verdict,
                score_claim,
                tuple(unfair),
                corrected,
                corrected_verdict,
                bounds,
                corrected_by,
            )
        )
    return out


def _bound_gains(
    kind: Kind, before: VersionFinding, after: VersionFinding, choices: Mapping[str, str]
) -> tuple[BoundGain, ...]:
    """Metrics of both versions that are intervals, compared as such and never by a middle."""
    out = []
    for metric in kind.analysis.headline_for(choices):
        if metric.better == "none":
            continue
        a, b = (v.figures.get(metric.key, Figure()) for v in (before, after))
        was, now = _interval(a), _interval(b)
        if was is None or now is None:
            continue
        verdict = sooner(now, was)
        good = None
        if verdict in ("sooner", "later"):
            good = (verdict == "sooner") == (metric.better == "lower")
        out.append(BoundGain(metric.key, a, b, verdict, good))
    return tuple(out)


def _gain(
    old: Sequence[Figure], new: Sequence[Figure], better: Direction, step: float, spread: float | None
) -> tuple[str, Claim]:
    return improvement(
        [f.value or 0.0 for f in old],
        [f.value or 0.0 for f in new],
        better,
        resolution=step,
        pooled_sd=spread,
    )
