"""The ways of scoring that every family offers, as presets with a family's own metrics."""

from __future__ import annotations

from thermion.core.kinds.analysis import NEVER, Metric
from thermion.core.kinds.briefing import School, Term
from thermion.core.kinds.when import When
from thermion.core.reasons import Why
from thermion.core.values import Direction, Figure

UNITS = Metric(
    key="units",
    label="Material units",
    means="Units of material in the plan, all places together.",
    unit="count",
    better="lower",
    digits=0,
    varies=NEVER,
)
IMPACT = Metric(
    key="impact",
    label="Impact",
    means="Units of material times their points, less the credit for each reused unit, never below zero.",
    unit="point",
    better="lower",
    digits=0,
    varies=NEVER,
)


PASSED = "passed"


def passing(label: str) -> Metric:
    """Metric that is 1 when a build meets the brief's criterion and 0 when it does not."""
    return Metric(
        key=PASSED,
        label=label,
        means="1 where the level that the brief asks for is reached, else 0.",
        unit="dimensionless",
        better="higher",
        digits=0,
        varies=NEVER,
    )


def raw(label: str, sentence: str, *terms: Term, better: Direction = "higher", when: When = None) -> School:
    """The plain best counts."""
    return School(key="raw", label=label, sentence=sentence, terms=terms, better=better, when=when)


def thrift(sentence: str, term: Term, when: When = None) -> School:
    """Best minus one for every unit used."""
    return School(
        key="thrift",
        label="Thrift",
        sentence=sentence,
        terms=(term, Term(metric="units", unit="count", weight=-1.0)),
        when=when,
    )


def green(sentence: str, *terms: Term, when: When = None) -> School:
    """What it does, minus what it costs the surroundings."""
    return School(
        key="green",
        label="Green",
        sentence=sentence,
        terms=(*terms, Term(metric="impact", unit="point", weight=-1.0)),
        when=when,
    )


def race(sentence: str, *terms: Term, better: Direction = "lower", when: When = None) -> School:
    """First (or last) to get there."""
    return School(key="race", label="Race", sentence=sentence, terms=terms, better=better, when=when)


def passed_then(sentence: str, *terms: Term, when: When = None) -> School:
    """Pass or fail against the criterion, ten for passing, then extra."""
    ten = Term(metric="passed", unit="dimensionless", weight=10.0)
    return School(key="pass", label="Pass, then extra", sentence=sentence, terms=(ten, *terms), when=when)


def progress(*terms: Term, when: When = None) -> School:
    """No ranking at all: each team against its own first version."""
    return School(
        key="progress",
        label="Own improvement",
        sentence="No places: each team is compared with its own first version only.",
        terms=terms,
        better="none",
        when=when,
    )


def passed(figure: Figure | None, level: float, *, below: bool = False) -> Figure:
    """1 when the figure reaches `level` (or stays below it), 0 when not, for `passing`.

    A bound decides where it can; otherwise the figure's own reason stays. Of a figure that is only so
    far, what it has reached stays reached, and what it has not yet may still be.
    """
    if figure is None:
        return Figure(reason=Why.NOT_READ)
    if figure.value is not None:
        near = 1e-9 * abs(level)  # exactly there is there, whatever the last bit says
        met = figure.value <= level + near if below else figure.value >= level - near
        return Figure(value=float(met), se=0.0, partial=figure.partial and met is below)
    low, high = figure.at_least, figure.at_most
    sure = (high is not None and high <= level) if below else (low is not None and low >= level)
    never = (low is not None and low > level) if below else (high is not None and high < level)
    if sure or never:
        return Figure(value=float(sure), se=0.0)
    return Figure(reason=figure.reason or Why.NOT_KNOWN)
