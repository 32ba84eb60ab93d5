"""Scores as a class writes them: the arithmetic, the total in its unit, and the places beside them."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace

from thermion.core.ages import AgeBand
from thermion.core.judging.findings import Findings, VersionFinding
from thermion.core.judging.scoring import Score
from thermion.core.judging.standings import Standing
from thermion.core.kinds.analysis import Metric
from thermion.core.kinds.when import difference_unit
from thermion.core.physics.units import unit_label
from thermion.core.reasons import Why
from thermion.core.subjects import Subject
from thermion.core.values import Figure
from thermion.records.planning.briefs import Brief
from thermion.records.tables import Team
from thermion.web.components.reasons import said
from thermion.web.components.words import RUNG_NAMES
from thermion.web.pictures.figures import figure_words
from thermion.web.places.findings.places import may_be, odds

Teams = Mapping[int, Team]  # by number


@dataclass(frozen=True, kw_only=True)
class ScoreRow:
    """A build: its place and score by the rule, and the places it may have on a typical try."""

    place: str
    subject: Subject
    team: Team
    version: str
    rung: str  # of a team with an easier or a harder brief
    arithmetic: str
    total: str
    may: str
    odds: str
    reason: str
    notes: tuple[str, ...] = ()


def arithmetic(score: Score, brief: Brief) -> str:
    """The sum as a class would write it: 72.5 °C − 6 units = 66.5."""
    out = ""
    write = brief.setting.write

    def plainly(number: float) -> str:
        return brief.setting.typed(number, "dimensionless", 2)

    for line in score.terms:
        if line.value is None or line.contribution is None:
            return out + f" … {brief.kind.analysis.metric(line.term.metric).label.lower()} not known"
        digits = 0 if abs(line.value - round(line.value)) < 1e-6 else 1
        times = "" if abs(line.term.weight) == 1 else f"{plainly(abs(line.term.weight))} × "
        over = "" if line.term.divisor == 1 else f" ÷ {plainly(line.term.divisor)}"
        sign = "− " if line.term.weight < 0 else "+ "
        item = f"{times}{with_unit(write(line.value, digits), line.term.unit)}{over}"
        out += f" {sign}{item}" if out or line.term.weight < 0 else item
    return out.strip()


def with_unit(number: str, unit: str) -> str:
    """A number as written with its unit: “1 unit”, “2 units”, “72.5 °C”."""
    label = unit_label(unit)
    if number.lstrip("−") == "1" and unit in ("count", "point"):
        label = label.removesuffix("s")
    return f"{number} {label}".strip()


def plain_score(score: Score) -> bool:
    """Whether a score is one figure as it is."""
    term = score.terms[0].term
    return len(score.terms) == 1 and abs(term.weight) == 1 and term.divisor == 1


def in_score(value: float, score: Score, brief: Brief, *, apart: bool = False) -> str:
    """A score, or a difference of two that are `apart`: in the unit of its one term, or in points when it
    is a sum, or the difference of two shares."""
    term, plain = score.terms[0].term, plain_score(score)
    unit = difference_unit(term.unit) if plain else "point"
    if apart and unit == "percent":
        return f"{brief.setting.write(value, 1)} percentage points"
    number = brief.setting.write(value, 1)
    if plain and unit == "dimensionless":
        return f"{number} {_things(brief.kind.analysis.metric(term.metric), brief)}".strip()
    return with_unit("1" if number in ("1.0", "1,0") and unit == "point" else number, unit)


def apart_words(value: float, metric: Metric, brief: Brief) -> str:
    """A difference of a metric [stored unit] with its unit: shares differ by percentage points, and what
    is counted has its name."""
    unit = difference_unit(metric.unit)
    if unit == "percent":
        return f"{brief.setting.write(brief.setting.from_si(value, unit), 1)} percentage points"
    shown = brief.setting.show(value, unit)
    return f"{shown} {_things(metric, brief)}".strip() if unit == "dimensionless" and metric.reads else shown


def _things(metric: Metric, brief: Brief) -> str:
    """What is counted, where the metric is a count of what was read."""
    reads = {r.key: r for r in brief.kind.test.reads}
    return reads[metric.reads].things[1] if metric.reads in reads else "points"


def unit_of_score(found: Findings, brief: Brief) -> str:
    """What the axis of scores is called: its unit, or points."""
    terms = found.versions[0].score.terms
    term = terms[0].term
    label = brief.kind.analysis.metric(term.metric).label
    if len(terms) == 1 and abs(term.weight) == 1 and term.divisor == 1:
        unit = unit_label(term.unit)
        return f"{label}, {unit}" if unit else label
    return "Score, points"


def score_rows(
    found: Findings, teams: Teams, brief: Brief, captions: Mapping[Subject, str], age: AgeBand
) -> list[ScoreRow]:
    """Newest versions in the order of their score by the rule; intervals by their places."""
    latest = {v.subject: v for v in found.latest().values()}
    standings = {p.key: p for p in found.places}
    facts = found.facts
    taken = list(facts.values())

    def order(v: VersionFinding) -> tuple[int, int, Subject]:
        standing = standings.get(v.subject)
        first = 99 if standing is None or standing.first is None else standing.first
        return facts.get(v.subject, 50 + first if v.subject in standings else 200), first, v.subject

    rows = []
    for v in sorted(latest.values(), key=order):
        place = facts.get(v.subject)
        shown = "–" if place is None or found.placeless else f"{'=' if taken.count(place) > 1 else ''}{place}"
        rows.append(_row(v, shown, standings.get(v.subject), teams, brief=brief, captions=captions, age=age))
    return rows


def _row(
    v: VersionFinding,
    place: str,
    standing: Standing[Subject] | None,
    teams: Teams,
    brief: Brief,
    captions: Mapping[Subject, str],
    age: AgeBand,
) -> ScoreRow:
    row = ScoreRow(
        place=place,
        subject=v.subject,
        team=teams[v.subject.team_id],
        version=_version_said(v.subject, captions),
        rung=_rung_said(v.subject, brief),
        arithmetic=arithmetic(v.score, brief),
        total="–",
        may="",
        odds="",
        reason="",
    )
    if v.score.total is not None:
        notes = tuple(dict.fromkeys(n for t in v.score.terms for n in _corrections(v, t.term.metric, brief)))
        return replace(
            row,
            arithmetic="" if plain_score(v.score) else row.arithmetic,
            total=in_score(v.score.total, v.score, brief),
            may=may_be(standing),
            odds="" if standing is None else odds(standing.chance_best, age),
            notes=notes,
        )
    if v.score.bounded and len(v.score.terms) == 1:  # an interval: no sum, places all the same
        metric = brief.kind.analysis.metric(v.score.terms[0].term.metric)
        words = figure_words(v.figures.get(metric.key, Figure()), metric, brief)
        return replace(row, arithmetic=metric.label, total=words, may=may_be(standing))
    return replace(row, reason=f"No score: {said(v.score.reason or Why.NOT_READ, brief.setting)}")


def _corrections(v: VersionFinding, metric: str, brief: Brief) -> tuple[str, ...]:
    """What was done to what was measured before it was scored."""
    notes = v.figures.get(metric, Figure()).notes
    return tuple(said(n, brief.setting) for n in notes if n.why is Why.FROM_OWN_START)


def _rung_said(subject: Subject, brief: Brief) -> str:
    rung = brief.rungs.get(subject.team_id)
    return f"{RUNG_NAMES[rung.key]} brief" if rung else ""


def _version_said(subject: Subject, captions: Mapping[Subject, str]) -> str:
    """The version, and what it is where that is what is compared."""
    caption = captions.get(subject, "").lower()
    return f"v{subject.version}, {caption}" if caption else f"v{subject.version}"
