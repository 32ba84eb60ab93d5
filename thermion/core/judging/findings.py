"""From trials to findings: facts under the class's rule, and what may be claimed of the builds."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from itertools import combinations
from math import inf

from thermion.core.judging.claims import Claim, Mismatch, claim_from, comparable
from thermion.core.judging.effects import Effect, material_effects
from thermion.core.judging.gains import BoundGain, Gain, MoreTries, gains_of, more_tries
from thermion.core.judging.intervals import Interval, places_by_intervals
from thermion.core.judging.measure import Measure
from thermion.core.judging.scoring import Score, Sensitivity, score, score_places, sensitivity
from thermion.core.judging.spread import Spread
from thermion.core.judging.standings import Standing, not_placed
from thermion.core.judging.tries import Tried, Tries, tries_of
from thermion.core.kinds.analysis import Metric
from thermion.core.kinds.base import Kind
from thermion.core.kinds.briefing import RUNS, Term
from thermion.core.kinds.trials import Fitted
from thermion.core.reasons import Why
from thermion.core.subjects import Subject
from thermion.core.values import Direction, Figure, best_figure, mean_figure

__all__ = [
    "Beside",
    "BoundGain",
    "Findings",
    "Gain",
    "MoreTries",
    "Tried",
    "Unfair",
    "VersionFinding",
    "analyse",
    "newest",
]


@dataclass(frozen=True)
class VersionFinding:
    """All that was found of one version: figures over its runs, its score by the rule, its tries."""

    subject: Subject
    runs: tuple[int, ...]
    figures: Mapping[str, Figure]
    score: Score
    tries: tuple[float, ...]
    prediction: float | None
    missed: tuple[str, ...]


@dataclass(frozen=True)
class Beside:
    """A newest version against the control that stood beside it, by a metric counted in the control's:
    the claim is about its difference from 1."""

    subject: Subject
    metric: str
    value: float
    claim: Claim


@dataclass(frozen=True)
class Unfair:
    """Why runs are not alike: which two and in what."""

    run_a: int
    run_b: int
    mismatches: tuple[Mismatch, ...]


@dataclass(frozen=True)
class Findings:
    """What a class may read from its tests.

    Facts: `facts`, the place of each newest version by its score under the rule, without any ±.
    Claims: `places` as intervals of the typical try, `lead` of the first over whoever is least
    surely behind it (`rival`), `gains` and material `effects`; all on the one spread of `score`.
    """

    versions: tuple[VersionFinding, ...]
    fitted: Mapping[tuple[Subject, int], Fitted]  # (subject, run)
    facts: Mapping[Subject, int]
    places: tuple[Standing[Subject], ...]
    lead: Claim | None
    rival: Subject | None
    more_tries: MoreTries | None
    without_score: tuple[VersionFinding, ...]
    gains: tuple[Gain, ...]
    unfair: tuple[Unfair, ...]
    places_fair: bool  # all that are ranked compare: by the same run, a yardstick, or physics
    firmness: Sensitivity[Subject]
    score: Measure | None
    headline: Measure | None
    effects: tuple[Effect[Subject], ...] = ()
    used: Mapping[Subject, tuple[str, ...]] = field(default_factory=dict)  # materials
    beside: tuple[Beside, ...] = ()
    limits: tuple[float, float] = (-inf, inf)  # that no score passes

    @property
    def spread(self) -> Spread | None:
        """How much a try varies, in the score's unit."""
        return None if self.score is None else self.score.spread

    @property
    def placeless(self) -> bool:
        """Whether the rule gives no places: each team looks at its own change."""
        return self.score is not None and self.score.better == "none"

    @property
    def still_on(self) -> bool:
        """Whether a score that counts is only so far: its test is not over."""
        return any(_only_so_far(v) for v in self.latest().values() if v.subject in self.facts)

    def latest(self) -> dict[int, VersionFinding]:
        """The newest version of each team that is known, by the team's number."""
        return newest(self.versions)


def _only_so_far(version: VersionFinding) -> bool:
    """Whether a term of its score has a value that its test may still change."""
    terms = (t.term.metric for t in version.score.terms)
    return any(version.figures[key].partial for key in terms if key in version.figures)


def newest(versions: Sequence[VersionFinding]) -> dict[int, VersionFinding]:
    """The newest version of each team, by the team's number; versions come in order."""
    return {v.subject.team_id: v for v in versions}


def analyse(
    kind: Kind,
    tried: Sequence[Tried],
    rule: Sequence[Term],
    tolerance: Mapping[str, float],
    better: Direction = "higher",
    prior: Mapping[str, Spread] | None = None,
) -> Findings:
    """Everything the findings page says.

    Parameters
    ----------
    tried : every version in every run that counts (rehearsals and what was set apart are left out
        by the caller).
    rule : scoring terms in the class's units.
    tolerance : condition -> largest difference (SI) at which two runs are alike.
    better : direction of the score; "none" gives no places.
    prior : metric -> how much a try of it varies by earlier challenges' repeats [stored unit].
    """
    tries = tries_of(kind, tried, prior, tolerance)
    versions = _versions(tries, rule)
    figures = {v.subject: v.figures for v in versions}
    latest = {v.subject: v for v in newest(versions).values()}
    measured = tries.measure(rule, better)
    headline, claimed = _measures(tries, rule, better, measured)
    facts = score_places({s: v.score.total for s, v in latest.items()}, better)
    places = _places(tries, rule, latest, measured, better)
    lead, rival = _lead(measured, places)
    if any(_only_so_far(v) for s, v in latest.items() if s in facts):  # nothing is claimed before its end
        places, lead, rival = [not_placed(p.key, p.value) for p in places], None, None
    ranked = [p.key for p in places]
    known = [s for s in ranked if measured is not None and s in measured]
    open_lead = None
    if lead is not None and rival is not None and measured is not None:
        open_lead = more_tries(measured, lead, places[0].key, rival, known)
    return Findings(
        versions=tuple(versions),
        fitted=tries.whole,
        facts=facts,
        places=tuple(places),
        lead=lead,
        rival=rival,
        more_tries=open_lead,
        without_score=tuple(v for v in latest.values() if v.subject not in set(ranked)),
        gains=tuple(gains_of(tries, figures, claimed, measured, tolerance)),
        unfair=tuple(_unfair(tries, tolerance)),
        places_fair=measured is None or all(measured.comparable(known[0], s) for s in known),
        firmness=sensitivity(
            rule, {s: figures[s] for s in latest}, units=kind.analysis.metric_units(), better=better
        ),
        score=measured,
        headline=headline,
        effects=tuple(_effects(kind, tried, latest, headline)),
        used={t.subject: tuple(dict.fromkeys(p.material for p in t.plan.parts)) for t in tried},
        beside=tuple(_beside_control(kind, list(latest), claimed)),
        limits=tries.limits(rule),
    )


def _measures(
    tries: Tries, rule: Sequence[Term], better: Direction, measured: Measure | None
) -> tuple[Measure | None, dict[str, Measure | None]]:
    """The tries by the family's first figure, and by each figure that versions are compared by; none is
    measured twice."""
    analysis, choices = tries.kind.analysis, tries.tried[0].trial.choices

    def by(metric: Metric) -> Measure | None:
        term = (Term(metric=metric.key, unit=metric.si_unit),)
        if list(rule) == list(term) and better == metric.better:
            return measured
        return tries.measure(term, metric.better)

    first = analysis.headline_for(choices)[0]
    headline = by(first)
    claimed = {m.key: headline if m.key == first.key else by(m) for m in analysis.claimed_for(choices)}
    return headline, claimed


def _beside_control(
    kind: Kind, newest: Sequence[Subject], claimed: Mapping[str, Measure | None]
) -> list[Beside]:
    """What may be said of each newest version against the control, where a family counts in that.

    The control varies from try to try as a build does: its share is in the variance beside the build's.
    """
    out = []
    for key, measured in claimed.items():
        if measured is None or key not in kind.analysis.of_control:
            continue
        for subject in (s for s in newest if s in measured):
            value, own = measured.value(subject), None
            if measured.spread is not None:
                once = measured.spread.at(1.0) ** 2 + measured.resolution**2 / 12.0
                own = measured.alone(subject) + once * value**2 / measured.tries(subject)
            out.append(Beside(subject, key, value, claim_from(value - 1.0, own, measured.spread)))
    return out


def _versions(tries: Tries, rule: Sequence[Term]) -> list[VersionFinding]:
    units = tries.kind.analysis.metric_units()
    out = []
    for subject in sorted({t.subject for t in tries.tried}):
        mine = [t for t in tries.tried if t.subject == subject]
        each = [tries.whole[t.subject, t.run].figures for t in mine]
        keys = dict.fromkeys(key for figures in each for key in figures)
        nothing = Figure(reason=Why.NOT_READ)
        figures = {key: _over_runs(tries, mine, key, [f.get(key, nothing) for f in each]) for key in keys}
        goes = [score(rule, f, units).total for t in mine for _, f in tries.single[t.subject, t.run]]
        out.append(
            VersionFinding(
                subject=subject,
                runs=tuple(t.run for t in mine),
                figures=figures,
                score=score(rule, figures, units),
                tries=tuple(total for total in goes if total is not None),
                prediction=mine[-1].prediction,
                missed=tuple(m for t in mine for m in t.missed),
            )
        )
    return out


def _over_runs(tries: Tries, mine: Sequence[Tried], key: str, each: Sequence[Figure]) -> Figure:
    """One figure of a version over its runs: what counts of them is the brief's choice."""
    metric = next((m for m in tries.kind.analysis.metrics if m.key == key), None)
    counts = mine[0].trial.choices.get(RUNS)
    if counts == "last":
        return _last_figure(each)
    if counts == "best" and metric is not None:
        return best_figure(each, metric.better)
    return mean_figure(each)


def _last_figure(each: Sequence[Figure]) -> Figure:
    """The newest one that says anything; what broke off counts only where nothing is whole."""
    said = [f for f in each if f.value is not None or f.bounded]
    whole = [f for f in said if not f.partial] or said
    return whole[-1] if whole else each[-1]


def _places(
    tries: Tries,
    rule: Sequence[Term],
    latest: Mapping[Subject, VersionFinding],
    measured: Measure | None,
    better: Direction,
) -> list[Standing[Subject]]:
    """Places of the newest versions; where some are only bounds, of all of them by intervals."""
    known = [s for s in latest if measured is not None and s in measured]
    standings = measured.standings(known) if measured is not None else []
    bounds = {s: ends for s, ends in tries.bounds(rule).items() if s in latest and s not in known}
    if not bounds or better == "none":
        return standings
    if measured is None or any(s.half_width is None for s in standings):
        # nobody knows how far a try may lie from the next
        return [*standings, *(not_placed(s) for s in bounds)]
    ends: dict[Subject, Interval] = {}
    for s in standings:
        if s.value is not None and s.half_width is not None:
            ends[s.key] = (s.value - s.half_width, s.value + s.half_width)
    for subject, interval in bounds.items():
        ends[subject] = measured.widened(interval)
    shown = {s.key: (s.value, s.half_width) for s in standings}
    return places_by_intervals(ends, better, shown)


def _lead(
    measured: Measure | None, places: Sequence[Standing[Subject]]
) -> tuple[Claim | None, Subject | None]:
    """The first build over the one that is least surely behind it."""
    if measured is None or len(places) < 2 or any(p.key not in measured for p in places):
        return None, None
    sure = {"not known": 0, "too close to call": 1, "leaning": 2, "clear": 3}
    claims = [(measured.claim(places[0].key, p.key), p.key) for p in places[1:]]
    return min(claims, key=lambda found: sure[found[0].word])


def _unfair(tries: Tries, tolerance: Mapping[str, float]) -> list[Unfair]:
    """Pairs of runs whose conditions differ by more than the brief allows."""
    runs = tries.conditions()
    return [
        Unfair(a, b, tuple(found))
        for a, b in combinations(sorted(runs), 2)
        if (found := comparable(runs[a], runs[b], tolerance))
    ]


def _effects(
    kind: Kind, tried: Sequence[Tried], latest: Mapping[Subject, VersionFinding], headline: Measure | None
) -> list[Effect[Subject]]:
    """What the materials did to the first metric shown, over the newest version of each build."""
    metric = kind.analysis.headline_for(tried[0].trial.choices)[0]
    plans = {t.subject: t.plan for t in tried}
    whole = [s for s, v in latest.items() if not v.figures.get(metric.key, Figure()).partial]
    known = [] if headline is None else [s for s in whole if s in headline]
    if headline is None or not known or not all(headline.comparable(known[0], s) for s in known):
        return []
    builds = [(s, plans[s], headline.value(s)) for s in known]
    return material_effects(builds, metric.better, resolution=headline.resolution)
