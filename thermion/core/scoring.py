"""Scores with their arithmetic: a rule is a list of weighted terms in the class's own units."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from math import sqrt

from thermion.core.units import convert
from thermion.core.values import Figure, single


@dataclass(frozen=True)
class Term:
    """weight × (metric in `unit`, at most `cap`) / divisor."""

    metric: str
    unit: str
    weight: float = 1.0
    divisor: float = 1.0
    cap: float | None = None


@dataclass(frozen=True)
class TermValue:
    """One line of the arithmetic: the value in the term's unit and what it adds."""

    term: Term
    value: float | None
    contribution: float | None
    capped: bool = False
    reason: str | None = None


@dataclass(frozen=True)
class Score:
    """Total with standard uncertainty; None with a reason when a term has no data."""

    total: float | None
    se: float | None
    terms: tuple[TermValue, ...]
    reason: str | None = None


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
        return Score(None, None, tuple(lines), missing[0].reason)
    total = sum(line.contribution or 0.0 for line in lines)
    variance = 0.0
    for line in lines:
        se = figures[line.term.metric].se or 0.0
        if not line.capped:
            scale = abs(_scale(units[line.term.metric], line.term.unit))
            variance += (line.term.weight / line.term.divisor * se * scale) ** 2
    return Score(total, sqrt(variance), tuple(lines))


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
        return TermValue(term, None, None, reason="no reading yet")
    if figure.value is not None:
        value = convert(figure.value, base, term.unit)
        capped = term.cap is not None and value >= term.cap
    elif figure.at_least is not None and term.cap is not None:
        value = convert(figure.at_least, base, term.unit)
        capped = value >= term.cap * (1 - 1e-9)
        if not capped:
            return TermValue(term, None, None, reason=figure.reason)
    else:
        return TermValue(term, None, None, reason=figure.reason or "not known")
    if capped and term.cap is not None:
        value = term.cap
    return TermValue(term, value, term.weight * value / term.divisor, capped)


@dataclass(frozen=True)
class Sensitivity:
    """Smallest relative change of one weight that would change the winner."""

    term: int
    change: float
    winner: str


def sensitivity(scores: Mapping[str, Score]) -> Sensitivity | None:
    """How firmly the rule decides: None when there is no single winner or nothing overtakes it.

    `change` is relative: −0.2 means that term's weight lowered by a fifth.
    """
    known = {k: s for k, s in scores.items() if s.total is not None}
    order = sorted(known, key=lambda k: -(known[k].total or 0.0))
    if len(order) < 2 or known[order[0]].total == known[order[1]].total:
        return None
    winner = known[order[0]]
    best: Sensitivity | None = None
    for key in order[1:]:
        lead = (winner.total or 0.0) - (known[key].total or 0.0)
        for i, (mine, theirs) in enumerate(zip(winner.terms, known[key].terms, strict=True)):
            gap = (mine.contribution or 0.0) - (theirs.contribution or 0.0)
            if gap == 0:
                continue
            change = -lead / gap
            if best is None or abs(change) < abs(best.change):
                best = Sensitivity(i, change, key)
    return best


def impact(uses: Sequence[tuple[float, float, float]], credit: float) -> float:
    """Environmental impact [points]: Σ units × points − credit × reused units, never under 0.

    `uses` holds (units, points per unit, reused units of these) per material.
    """
    total = sum(
        single("units", units) * single("points", points) - credit * reused
        for units, points, reused in uses
    )
    return max(total, 0.0)
