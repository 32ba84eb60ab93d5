"""Every try of a class as one number under a rule, brought to the same conditions where physics can."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from itertools import pairwise
from math import inf, sqrt

from thermion.core.judging.claims import comparable
from thermion.core.judging.fitting import fit_trials
from thermion.core.judging.intervals import Interval
from thermion.core.judging.measure import Measure, measure
from thermion.core.judging.once import Brought, Once, Size, VaryingPart
from thermion.core.judging.scoring import Score, score
from thermion.core.judging.spread import Spread
from thermion.core.kinds.analysis import Metric
from thermion.core.kinds.base import Kind
from thermion.core.kinds.briefing import Term
from thermion.core.kinds.criteria import is_own
from thermion.core.kinds.trials import Fitted, Trial
from thermion.core.physics.units import convert
from thermion.core.plans import Plan, differences
from thermion.core.subjects import Subject
from thermion.core.values import Direction, Figure, Source, measured

CONTROL = 0  # in place of a team's number: what stood untouched beside the builds


def counted(metric: str) -> bool:
    """Whether a metric is of the plan or of the build itself, whatever the conditions of a run."""
    return metric in ("units", "impact") or is_own(metric)


@dataclass(frozen=True)
class Tried:
    """One version in one run."""

    subject: Subject
    run: int
    plan: Plan
    trial: Trial
    prediction: float | None = None
    missed: tuple[str, ...] = ()


@dataclass(frozen=True, kw_only=True)
class _Go:
    """One try as a score, with what it came from; `partial`: it broke off."""

    once: Once
    trial: Trial
    figures: Mapping[str, Figure]
    total: Score
    partial: bool


def _partial(rule: Sequence[Term], figures: Mapping[str, Figure]) -> bool:
    return any(figures.get(term.metric, Figure()).partial for term in rule)


def _ends(total: Score) -> Interval | None:
    """Between which numbers a score lies; None where nothing is known of it."""
    if total.total is not None:
        return total.total, total.total
    if not total.bounded:
        return None
    return (
        -inf if total.at_least is None else total.at_least,
        inf if total.at_most is None else total.at_most,
    )


@dataclass(frozen=True)
class Tries:
    """All tries of a class: each trial's figures, and those of every single go within it."""

    kind: Kind
    tried: Sequence[Tried]
    whole: Mapping[tuple[Subject, int], Fitted]
    single: Mapping[tuple[Subject, int], Sequence[tuple[Trial, Mapping[str, Figure]]]]
    prior: Mapping[str, Spread] = field(default_factory=dict)
    unchanged: Mapping[Subject, Subject] = field(default_factory=dict)
    tolerance: Mapping[str, float] = field(default_factory=dict)

    def conditions(self) -> dict[int, Mapping[str, float]]:
        """The conditions of each run."""
        return {t.run: t.trial.conditions for t in self.tried}

    def measure(self, rule: Sequence[Term], better: Direction) -> Measure | None:
        """The score of every try under a rule; a build with a try known only as a bound is left out,
        since a bound is never averaged with a number, and so are tries that broke off."""
        kept = self._kept(rule)
        if not kept:
            return None
        conditions, reference = self.conditions(), self._reference()
        to = conditions[reference]
        strays = {run for run, at in conditions.items() if self._strays(at, to)}
        came_from = {id(go.once): go for go in kept}

        def carry(once: Once) -> Brought | None:
            if once.run in strays:
                return None
            go = came_from[id(once)]
            return _carried(self.kind, rule, go.total, go.figures, trial=go.trial, to=to, size=once.size)

        alone = len({go.once.run for go in kept}) == 1  # nothing to carry from one run to another
        return measure(
            [go.once for go in kept],
            better,
            prior=self._prior(rule),
            carry=None if alone else carry,
            why_carried=self.kind.analysis.corrected_words,
            unchanged=self.unchanged,
            alike=self._alike(conditions),
            to=reference,
        )

    def _kept(self, rule: Sequence[Term]) -> list[_Go]:
        """What counts: nothing of a build with a try known only as a bound; what broke off only where
        nothing of its build is whole."""
        units = self.kind.analysis.metric_units()
        goes: list[_Go] = []
        bounded = set()
        for (subject, run), tries in self.single.items():
            for trial, seen in tries:
                figures = _in_the_middle(self.kind, rule, seen)
                total = score(rule, figures, units)
                partial = _partial(rule, figures)
                if total.total is not None:
                    once = Once(
                        subject=subject,
                        run=run,
                        value=total.total,
                        sources=total.sources,
                        size=size_of(self.kind, total, trial),
                    )
                    goes.append(_Go(once=once, trial=trial, figures=figures, total=total, partial=partial))
                elif total.bounded and not partial:
                    bounded.add(subject)
        whole = {go.once.subject for go in goes if not go.partial}
        return [
            go
            for go in goes
            if go.once.subject not in bounded and not (go.partial and go.once.subject in whole)
        ]

    def bounds(self, rule: Sequence[Term]) -> dict[Subject, Interval]:
        """Where the typical try of each build lies that has a try known only as a bound: the mean of
        what its tries are at least, and at most. Tries that broke off count only where none is whole."""
        units = self.kind.analysis.metric_units()
        found: dict[Subject, list[tuple[bool, Interval]]] = {}
        for (subject, _), goes in self.single.items():
            for _, figures in goes:
                ends = _ends(score(rule, figures, units))
                if ends is not None:
                    found.setdefault(subject, []).append((_partial(rule, figures), ends))
        out = {}
        for subject, tries in found.items():
            kept = [ends for partial, ends in tries if not partial] or [ends for _, ends in tries]
            low, high = (sum(end) / len(kept) for end in zip(*kept, strict=True))
            if low < high:
                out[subject] = (low, high)
        return out

    def limits(self, rule: Sequence[Term]) -> tuple[float, float]:
        """What no score under a rule of one term can pass: nothing at all, the end of the track."""
        if len(rule) != 1 or rule[0].weight / rule[0].divisor <= 0:
            return -inf, inf
        metric, term = self.kind.analysis.metric(rule[0].metric), rule[0]
        if metric.varies.above is None or isinstance(metric.varies.zero, str) or metric.varies.zero:
            return -inf, inf
        rig = self.tried[0].trial.conditions
        known = [e for e in metric.varies.ends if not isinstance(e, str) or e in rig]
        most = max((_level(e, metric, term.unit, rig) for e in known), default=0.0)
        return 0.0, term.weight / term.divisor * most if most else inf

    def _alike(self, conditions: Mapping[int, Mapping[str, float]]) -> dict[int, int]:
        """For each run, the first one whose conditions are like its own."""
        out: dict[int, int] = {}
        for run in sorted(conditions):
            like = (r for r in out if not comparable(conditions[r], conditions[run], self.tolerance))
            out[run] = next(like, run)
        return out

    def _strays(self, at: Mapping[str, float], to: Mapping[str, float]) -> bool:
        """Whether two runs differ, by more than the brief allows, in what physics does not correct for."""
        known = self.kind.analysis.corrected_for
        return any(m.key not in known for m in comparable(at, to, self.tolerance))

    def _reference(self) -> int:
        """The run whose conditions values are brought to: that of most newest versions."""
        newest = {t.subject.team_id: t for t in sorted(self.tried, key=lambda t: (t.subject, -t.run))}
        runs = [t.run for t in newest.values()]
        return max(sorted(set(runs), reverse=True), key=runs.count)

    def _prior(self, rule: Sequence[Term]) -> Spread | None:
        """What earlier challenges say of how much a score varies, if one term alone varies in it."""
        varying = [t for t in rule if not counted(t.metric)]
        if len(varying) != 1 or varying[0].metric not in self.prior:
            return None
        term, units = varying[0], self.kind.analysis.metric_units()
        scale = convert(1.0, units[term.metric], term.unit) - convert(0.0, units[term.metric], term.unit)
        known, by = self.prior[term.metric], abs(term.weight / term.divisor * scale)
        if (known.above is None) != (self.kind.analysis.metric(term.metric).varies.above is None):
            return None
        if known.above is None:
            return replace(known, sd=known.sd * by)
        also = tuple((sd, above * by) for sd, above in known.also)
        return replace(known, above=known.above * by, also=also)  # a share is a share in any unit


def tries_of(
    kind: Kind,
    tried: Sequence[Tried],
    prior: Mapping[str, Spread] | None = None,
    tolerance: Mapping[str, float] | None = None,
) -> Tries:
    """Figures of every trial and of every go in it that is the same test again."""
    goes = [list(kind.analysis.repeats(t.trial)) for t in tried]
    fitted = fit_trials(kind, [*(t.trial for t in tried), *(trial for each in goes for trial in each)])
    rest = iter(fitted[len(tried) :])
    whole = {(t.subject, t.run): f for t, f in zip(tried, fitted[: len(tried)], strict=True)}
    mine = {
        (t.subject, t.run): [(trial, next(rest).figures) for trial in each]
        or [(t.trial, whole[t.subject, t.run].figures)]
        for t, each in zip(tried, goes, strict=True)
    }
    every = {**mine, **_controls(kind, tried)}
    return Tries(
        kind=kind,
        tried=tried,
        whole=whole,
        single=every,
        prior=prior or {},
        unchanged=_unchanged(tried),
        tolerance=tolerance or {},
    )


def _in_the_middle(kind: Kind, rule: Sequence[Term], figures: Mapping[str, Figure]) -> Mapping[str, Figure]:
    """The figures of a try as they are compared: what lies between two checks counts as the middle, with
    half the gap as its uncertainty. What is known on one side only stays a bound.

    Of a share of the control's time two gaps make up the one, each of them rectangular.
    """
    out = dict(figures)
    for term in rule:
        seen = figures.get(term.metric, Figure())
        if seen.value is None and seen.at_least is not None and seen.at_most is not None and not seen.partial:
            half = (seen.at_most - seen.at_least) / 2
            of_two = 2.0 if term.metric in kind.analysis.of_control else 1.0
            between = Source("the time between checks", half / sqrt(3.0 * of_two), "step")
            out[term.metric] = measured(seen.at_least + half, (between,))
    return out


def _unchanged(tried: Sequence[Tried]) -> dict[Subject, Subject]:
    """Versions in which nothing was changed, and the first version that was the same build."""
    plans = {t.subject: t.plan for t in tried}
    out: dict[Subject, Subject] = {}
    for before, after in pairwise(sorted(plans)):
        same = before.team_id == after.team_id and not differences(plans[before], plans[after], {}, {})
        if same:
            out[after] = out.get(before, before)
    return out


def _controls(
    kind: Kind, tried: Sequence[Tried]
) -> dict[tuple[Subject, int], Sequence[tuple[Trial, Mapping[str, Figure]]]]:
    """The untouched control of each run that had one, as a build that never changes."""
    first = {t.run: t for t in reversed(tried) if t.trial.control or t.trial.bare}
    trials = {
        (replace(t.subject, team_id=CONTROL, version=1), run): replace(
            t.trial,
            traces=t.trial.control,
            attempts=t.trial.bare,
            control={},
            bare=(),
            plan=Plan(),
            judged={},
        )
        for run, t in first.items()
    }
    goes = {key: list(kind.analysis.repeats(trial)) or [trial] for key, trial in trials.items()}
    fitted = iter(fit_trials(kind, [trial for each in goes.values() for trial in each]))
    return {key: [(trial, next(fitted).figures) for trial in each] for key, each in goes.items()}


def _carried(
    kind: Kind,
    rule: Sequence[Term],
    got: Score,
    figures: Mapping[str, Figure],
    trial: Trial,
    to: Mapping[str, float],
    size: Size,
) -> Brought | None:
    """A score under the conditions `to`, and what this run's own conditions leave uncertain in it."""
    value = _moved(kind, rule, figures, trial.conditions, to)
    if value is None:
        return None
    effects: dict[str, float] = {}
    for source in got.sources:
        if source.shared == "run":
            effects[source.name] = effects.get(source.name, 0.0) + source.effect
    for key, u in uncertain_conditions(kind, trial).items():
        at = trial.conditions
        nudged = _moved(kind, rule, figures, {**at, key: at[key] + u}, to)
        if nudged is not None and nudged != value:
            effects[key] = nudged - value
    there = size_of(kind, got, trial, to)
    return Brought(value, there.zero, effects)


def size_of(kind: Kind, got: Score, trial: Trial, at: Mapping[str, float] | None = None) -> Size:
    """How one try's score varies, term by term; `at` are other conditions than the trial's own."""
    rig = {**trial.conditions, **(at or {})}
    zero, flat, parts, stuck = 0.0, 0.0, [], []
    for line in got.terms:
        metric, varies = kind.analysis.metric(line.term.metric), kind.analysis.metric(line.term.metric).varies
        whole, value = line.contribution or 0.0, line.value or 0.0
        if varies.never:
            zero += whole
            continue
        by = line.term.weight / line.term.divisor
        stuck.append(line.capped or _at_end(value, varies.ends, metric, line.term.unit, rig))
        if varies.above is None:
            flat += (by * _delta(varies.alike, metric.unit, line.term.unit)) ** 2
            continue
        none = by * _level(varies.zero, metric, line.term.unit, rig)
        zero += none
        floor = abs(by) * _delta(varies.above, metric.unit, line.term.unit)
        parts.append(VaryingPart(whole - none, floor, varies.share))
    if not parts:
        flat = 1.0
    first = parts[0].weight if parts else 1.0
    scaled = tuple(replace(p, weight=p.weight / first) for p in parts)
    return Size(zero, scaled, sqrt(flat) / first if parts else flat, bool(stuck) and all(stuck))


def _delta(value: float, unit: str, to: str) -> float:
    """A difference in another unit."""
    return convert(value, unit, to) - convert(0.0, unit, to)


def _level(level: float | str, metric: Metric, unit: str, rig: Mapping[str, float]) -> float:
    """A level in a term's unit: a number [shown unit], or a condition [stored unit]."""
    if isinstance(level, str):
        return convert(rig.get(level, 0.0), metric.si_unit, unit)
    return convert(level, metric.unit, unit) if level else 0.0


def _at_end(
    value: float, ends: Sequence[float | str], metric: Metric, unit: str, rig: Mapping[str, float]
) -> bool:
    """Whether a value is one that a build cannot pass."""
    known = [e for e in ends if not isinstance(e, str) or e in rig]
    there = [convert(0.0, metric.unit, unit) if e == 0.0 else _level(e, metric, unit, rig) for e in known]
    return any(abs(value - end) <= 1e-9 * max(abs(end), 1.0) for end in there)


def uncertain_conditions(kind: Kind, trial: Trial) -> dict[str, float]:
    """Standard uncertainty of the conditions that a metric is corrected for [stored units]."""
    known = {c.key: c for c in kind.brief.conditions}
    out = {}
    for key in kind.analysis.corrected_for:
        if key in trial.conditions and key in known:
            out[key] = trial.u(key, known[key].uncertainty(trial.conditions[key]))
    return out


def _moved(
    kind: Kind,
    rule: Sequence[Term],
    figures: Mapping[str, Figure],
    was: Mapping[str, float],
    to: Mapping[str, float],
) -> float | None:
    """The rule's sum with each term brought to the conditions `to`; None where physics cannot."""
    total, units = 0.0, kind.analysis.metric_units()
    for term in rule:
        figure = figures.get(term.metric, Figure())
        value = figure.value
        if not counted(term.metric) and (value is not None or term.cap is None):
            value = kind.analysis.correct(term.metric, figures, was, to)
        if value is None:
            return None
        number = convert(value, units[term.metric], term.unit)
        number = number if term.cap is None else min(number, term.cap)
        total += term.weight * number / term.divisor
    return total
