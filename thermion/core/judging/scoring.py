"""Scores with their arithmetic: a rule is a list of weighted terms in the class's own units."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import Any, Generic, TypeVar

from thermion.core.kinds.briefing import Term
from thermion.core.physics.units import convert
from thermion.core.reasons import Because, Why
from thermion.core.values import Direction, Figure, Source, single, sources_of, together

K = TypeVar("K", bound=Any)  # names a build


@dataclass(frozen=True)
class TermValue:
    """One line of the arithmetic: the value in the term's unit and what it adds."""

    term: Term
    value: float | None
    contribution: float | None
    capped: bool = False
    reason: Because | None = None


@dataclass(frozen=True)
class Score:
    """Total by the rule: a fact, without ±; None with a reason when a term has no data.

    `sources` are what makes it uncertain as a statement about the build, in the score's unit. Where
    what is missing is known as a bound, `at_least` and `at_most` are what follows for the total.
    """

    total: float | None
    terms: tuple[TermValue, ...]
    reason: Because | None = None
    sources: tuple[Source, ...] = ()
    at_least: float | None = None
    at_most: float | None = None

    @property
    def bounded(self) -> bool:
        """Known only as a bound."""
        return self.at_least is not None or self.at_most is not None


def score(rule: Sequence[Term], figures: Mapping[str, Figure], units: Mapping[str, str]) -> Score:
    """Score = Σ weight × value-in-that-unit / divisor.

    Parameters
    ----------
    rule : the terms.
    figures : figure of each metric, in the unit that `units` names for it.
    units : metric → unit of its figure; also the list of metrics that exist.

    Returns
    -------
    Score. A term whose figure is unknown leaves the build without a score, not with zero;
    a figure known only as a bound counts when the bound alone reaches the term's cap.

    Raises
    ------
    ValueError for an unknown metric, an empty rule, a zero divisor or non-finite numbers.
    """
    if not rule:
        raise ValueError("rule: expected at least one term")
    lines = [_line(term, figures.get(term.metric), units) for term in rule]
    missing = [line for line in lines if line.contribution is None]
    if missing:
        low, high = _bounds(lines, figures, units)
        return Score(total=None, terms=tuple(lines), reason=missing[0].reason, at_least=low, at_most=high)
    total = sum(line.contribution or 0.0 for line in lines)
    parts = [_sources(line, figures[line.term.metric], units) for line in lines if not line.capped]
    return Score(total=total, terms=tuple(lines), sources=together(*parts))


def _sources(line: TermValue, figure: Figure, units: Mapping[str, str]) -> list[Source]:
    """A term's sources of uncertainty, in the score's unit."""
    term = line.term
    by = term.weight / term.divisor * _scale(units[term.metric], term.unit)
    found = list(sources_of(figure))
    return found if by == 1.0 else [replace(source, effect=source.effect * by) for source in found]


def _bounds(
    lines: Sequence[TermValue], figures: Mapping[str, Figure], units: Mapping[str, str]
) -> tuple[float | None, float | None]:
    """Least and most that the total can be, where every missing term has a bound on that side."""
    low: float | None = 0.0
    high: float | None = 0.0
    for line in lines:
        if line.contribution is not None:
            ends: list[float | None] = [line.contribution, line.contribution]
        else:
            figure, term = figures.get(line.term.metric, Figure()), line.term
            known = (figure.at_least, figure.at_most)
            ends = [
                None if x is None else term.weight * convert(x, units[term.metric], term.unit) / term.divisor
                for x in known
            ]
            ends = ends if term.weight / term.divisor > 0 else ends[::-1]
        low = None if low is None or ends[0] is None else low + ends[0]
        high = None if high is None or ends[1] is None else high + ends[1]
    return low, high


def _scale(source: str, target: str) -> float:
    return convert(1.0, source, target) - convert(0.0, source, target)


def _line(term: Term, figure: Figure | None, units: Mapping[str, str]) -> TermValue:
    if term.metric not in units:
        raise ValueError(f"metric: expected one of {', '.join(sorted(units))}; got {term.metric}")
    single("weight", term.weight)
    if single("divisor", term.divisor) == 0:
        raise ValueError("divisor: expected a number other than zero")
    base = units[term.metric]
    if figure is None:
        return TermValue(term=term, value=None, contribution=None, reason=Why.NOT_READ)
    if figure.value is not None:
        value = convert(figure.value, base, term.unit)
        capped = term.cap is not None and value >= term.cap
    elif figure.at_least is not None and term.cap is not None:
        value = convert(figure.at_least, base, term.unit)
        capped = value >= term.cap * (1 - 1e-9)
        if not capped:
            return TermValue(term=term, value=None, contribution=None, reason=figure.reason)
    else:
        return TermValue(term=term, value=None, contribution=None, reason=figure.reason or Why.NOT_KNOWN)
    if capped and term.cap is not None:
        value = term.cap
    return TermValue(term=term, value=value, contribution=term.weight * value / term.divisor, capped=capped)


@dataclass(frozen=True)
class Sensitivity(Generic[K]):
    """How firmly a rule decides.

    `change` is the smallest relative change of one weight (of term number `term`) that makes
    `winner` lead: −0.2 means lowered by a fifth. All three are None when there is no single
    leader or nothing overtakes it. `ranks` holds each build's place under every other rule.
    """

    term: int | None = None
    change: float | None = None
    winner: K | None = None
    ranks: Mapping[str, Mapping[K, int]] = field(default_factory=dict)


def sensitivity(
    rule: Sequence[Term],
    builds: Mapping[K, Mapping[str, Figure]],
    *,
    units: Mapping[str, str] | None = None,
    better: Direction = "higher",
    presets: Mapping[str, Sequence[Term]] | None = None,
) -> Sensitivity[K]:
    """How far a weight must move to change the winner, and the places under other rules.

    Parameters
    ----------
    rule : the terms.  builds : name -> figures by metric.
    units : metric -> unit of its figures; the rule's own units when not given.
    better : direction of the score.  presets : name -> terms of the rules to compare with.
    """
    if units is None:
        every = [*rule, *(t for terms in (presets or {}).values() for t in terms)]
        units = {t.metric: t.unit for t in reversed(every)}
    known = {
        name: found
        for name, figures in builds.items()
        if (found := score(rule, figures, units)).total is not None
    }
    ranks = {
        name: score_places({b: score(terms, figures, units).total for b, figures in builds.items()}, better)
        for name, terms in (presets or {}).items()
    }
    overtaking = _overtaking(known, -1.0 if better == "lower" else 1.0)
    return Sensitivity(ranks=ranks) if overtaking is None else Sensitivity(*overtaking, ranks)


def score_places(totals: Mapping[K, float | None], better: Direction) -> dict[K, int]:
    """Place of each build that has a score; equal scores share the better place."""
    sign = -1.0 if better == "lower" else 1.0
    known = {name: sign * total for name, total in totals.items() if total is not None}
    if better == "none":
        return dict.fromkeys(known, 1)
    return {name: 1 + sum(x > mine for x in known.values()) for name, mine in known.items()}


def _overtaking(scores: Mapping[K, Score], sign: float) -> tuple[int, float, K] | None:
    """Term, its smallest relative change, and who leads then; None when nothing overtakes."""
    totals = {name: sign * (s.total or 0.0) for name, s in scores.items()}
    order = sorted(totals, key=lambda name: -totals[name])
    if len(order) < 2 or totals[order[0]] == totals[order[1]]:
        return None
    leader = order[0]
    best: tuple[int, float, K] | None = None
    for name in order[1:]:
        lead = totals[leader] - totals[name]
        pairs = zip(scores[leader].terms, scores[name].terms, strict=True)
        for i, (mine, theirs) in enumerate(pairs):
            gap = sign * ((mine.contribution or 0.0) - (theirs.contribution or 0.0))
            if gap == 0:
                continue
            change = -lead / gap
            if best is None or abs(change) < abs(best[1]):
                best = (i, change, name)
    return best
