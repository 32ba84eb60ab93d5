"""Findings: who did what, how sure are we, what made the difference?"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import UTC, datetime
from typing import Any

from flask import Blueprint, Response, render_template, request
from flask.typing import ResponseReturnValue

from thermion.core.claims import Claim
from thermion.core.findings import Findings, Gain, Tried, VersionFinding
from thermion.core.kinds.base import Condition, Metric
from thermion.core.scoring import Score
from thermion.core.units import unit_label
from thermion.core.values import Figure
from thermion.formats.tables import Column, Table
from thermion.records.briefs import Brief
from thermion.records.findings import Evidence, load_evidence
from thermion.records.models import Challenge, Team
from thermion.records.rig import AIR, checks_of, offsets
from thermion.web.page import data_page, database, frame, open_challenge, reading, svg_file
from thermion.web.pictures import chart_svg, figure_text, findings_chart
from thermion.web.strips import strips

bp = Blueprint("findings", __name__)


@dataclass(frozen=True)
class FigureCell:
    text: str
    pm: str
    note: str


@dataclass(frozen=True)
class ScoreRow:
    place: str
    team: Team
    version: int
    arithmetic: str
    total: str
    pm: str
    reason: str


@dataclass(frozen=True)
class FigureRow:
    team: Team
    version: int
    runs: str
    cells: tuple[FigureCell, ...]
    predicted: str
    missed: tuple[str, ...]


@dataclass(frozen=True)
class GainRow:
    team: Team
    before: int
    after: int
    verdict: str
    word: str
    change: str
    interval: str
    why: str
    changes: tuple[str, ...]
    cause: str
    unfair: str


@bp.get("/challenges/<int:challenge_id>/findings")
@bp.get("/challenges/<int:challenge_id>/findings.<any(csv,json):ending>")
def index(challenge_id: int, ending: str | None = None) -> ResponseReturnValue:
    if ending:
        challenge, brief = open_challenge(challenge_id)
        evidence, _ = load_view(challenge, brief)
        return data_page(ending, "", lambda: _table(evidence, brief, challenge),
                         f"findings-{challenge_id}", {"setting": brief.setting})  # fmt: skip
    key = ("findings", challenge_id, request.query_string, datetime.now(UTC).hour)
    return render_template("findings.html", **database().remember(key, lambda: _page(challenge_id)))


def _page(challenge_id: int) -> dict[str, Any]:
    """Everything the page shows; remembered until anything is stored."""
    challenge, brief = open_challenge(challenge_id)
    return frame(challenge, "findings", **load_view(challenge, brief)[1])


@bp.get("/challenges/<int:challenge_id>/findings/curves.svg")
def curves(challenge_id: int) -> Response:
    challenge, brief = open_challenge(challenge_id)
    _, view = load_view(challenge, brief)
    return svg_file(view["chart"], f"curves-{challenge_id}")


def load_view(challenge: Challenge, brief: Brief) -> tuple[Evidence, dict[str, Any]]:
    """Evidence under the school asked for, and the page's values made from it."""
    schools = {s.key for s in brief.kind.schools} | {"own"}
    school = request.args.get("school", challenge.school)
    school = school if school in schools else challenge.school
    rehearsal = request.args.get("rehearsal") == "1"
    off = offsets(checks_of(reading(), challenge, brief))
    evidence = load_evidence(
        reading(), challenge.id, brief, school=school, rehearsal=rehearsal, offsets=off
    )
    view = present(challenge, brief, evidence, school, request.args.get("only", ""))
    said = "" if rehearsal else offsets_text(off, challenge, brief)
    return evidence, {**view, "rehearsal": rehearsal, "notes": [*([said] if said else []),
                                                               *view["notes"]]}  # fmt: skip


def present(
    challenge: Challenge, brief: Brief, evidence: Evidence, school: str, only: str = ""
) -> dict[str, Any]:
    """Everything the page shows, as text in the class's units."""
    teams = {t.letter: t for t in challenge.school_class.teams}
    found = evidence.findings
    metrics = list(brief.kind.headline_for(brief.choices))
    view: dict[str, Any] = {
        "school": school, "found": found, "metrics": metrics, "teams": teams, "only": only,
        "chart": "", "scores": [], "figures": [], "gains": [], "unfair": [], "notes": [],
        "lead": "", "firmness": "", "tried": evidence.tried,
    }  # fmt: skip
    if found is None:
        return view
    view["chart"] = _picture(evidence, found, teams, brief, only)
    view["scores"] = _scores(found, teams, brief)
    view["figures"] = [_figure_row(v, teams, metrics, brief) for v in found.versions]
    view["gains"] = [_gain_row(g, teams, brief) for g in found.gains]
    view["lead"] = _lead(found, teams, brief)
    view["firmness"] = _firmness(found, teams, brief)
    named = {c.key: c for c in brief.kind.conditions}
    view["unfair"] = [
        f"Run {w.run_a} and run {w.run_b}: " + _mismatch(w.mismatches, named, brief)
        for w in found.unfair
    ]
    view["notes"] = [f"Run {r.number}: {r.note}" for r in evidence.runs if r.note]
    return view


def _picture(
    evidence: Evidence, found: Findings, teams: Mapping[str, Team], brief: Brief, only: str
) -> str:
    """Curves of a clocked test, or the attempts of a test by turns laid out by result."""
    if brief.kind.strip:
        laid = strips([t for t in evidence.tried if not only or t.team in only], teams, brief)
        return render_template("pictures/strips.svg", chart=laid) if laid else ""
    return chart_svg(findings_chart(evidence.tried, found, teams, brief, only))


def offsets_text(off: Mapping[str, float], challenge: Challenge, brief: Brief) -> str:
    """Which thermometers were set right, and by how much; empty when none was."""
    names = {t.letter: t.name for t in challenge.school_class.teams} | {AIR: "air"}
    said = [f"{names[k]} {brief.setting.show(-v, 'delta_degC', 1)}" for k, v in off.items()
            if k in names]  # fmt: skip
    return f"Thermometers set right by the check in one glass: {', '.join(said)}." if said else ""


def _mismatch(items: Any, named: dict[str, Condition], brief: Brief) -> str:
    def said(m: Any) -> str:
        c = named[m.key]
        if c.words:
            return f"{c.label.lower()} {c.words[round(m.a)]} and {c.words[round(m.b)]}"
        first = brief.setting.show(m.a, c.unit, 0, unit=False)
        return f"{c.label.lower()} {first} and {brief.setting.show(m.b, c.unit, 0)}"

    return "; ".join(said(m) for m in items)


def _arithmetic(score: Score, brief: Brief) -> str:
    """The sum as a class would write it: 72.5 °C − 6 units = 66.5."""
    out = ""
    write = brief.setting.write
    for line in score.terms:
        if line.value is None or line.contribution is None:
            return out + f" … {brief.kind.metric(line.term.metric).label.lower()} not known"
        digits = 0 if abs(line.value - round(line.value)) < 1e-6 else 1
        times = "" if abs(line.term.weight) == 1 else f"{write(abs(line.term.weight), 2)} × "
        over = "" if line.term.divisor == 1 else f" ÷ {write(line.term.divisor, 1)}"
        sign = "− " if line.term.weight < 0 else "+ "
        unit = unit_label(line.term.unit)
        item = f"{times}{write(line.value, digits)} {unit}{over}"
        out += f" {sign}{item}" if out or line.term.weight < 0 else item
    return out.strip()


def _scores(found: Findings, teams: dict[str, Team], brief: Brief) -> list[ScoreRow]:
    latest = {v.team: v for v in found.versions}
    write = brief.setting.write
    rows = []
    for placed in found.places:
        v = latest[placed.key]
        pm = f"± {write(2 * (v.score.se or 0.0), 1)}" if v.score.se else ""
        rows.append(
            ScoreRow(
                f"{'=' if placed.shared else ''}{placed.place}", teams[v.team], v.version,
                _arithmetic(v.score, brief), write(placed.value, 1), pm, "",
            )
        )  # fmt: skip
    for v in found.without_score:
        rows.append(ScoreRow("–", teams[v.team], v.version, _arithmetic(v.score, brief), "–", "",
                             v.score.reason or "no reading yet"))  # fmt: skip
    return rows


def _figure_row(
    v: VersionFinding, teams: dict[str, Team], metrics: list[Metric], brief: Brief
) -> FigureRow:
    cells = []
    for m in metrics:
        f = v.figures.get(m.key, Figure(reason="no reading yet"))
        text = figure_text(f, m.unit, m.digits, brief.setting)
        pm = ""
        if f.value is not None and f.se:
            size = brief.setting.from_si(f.se, m.unit) - (
                brief.setting.from_si(0.0, m.unit) if m.unit == "degC" else 0.0
            )
            pm = f"± {brief.setting.write(2 * size, m.digits)}"
        note = f.reason or "; ".join(f.notes)
        cells.append(FigureCell(text, pm, note or ""))
    predicted = brief.setting.show(v.prediction, brief.kind.prediction_for(brief.choices).unit, 0)
    return FigureRow(teams[v.team], v.version, ", ".join(map(str, v.runs)), tuple(cells),
                     predicted, v.missed)  # fmt: skip


def _signed(value: float, unit: str, brief: Brief) -> str:
    text = brief.setting.show(value, unit)
    return text if value < 0 else f"+{text}"


def _claim_text(claim: Claim, unit: str, brief: Brief) -> tuple[str, str]:
    low, high = _signed(claim.low, unit, brief), _signed(claim.high, unit, brief)
    return _signed(claim.difference, unit, brief), f"95 % between {low} and {high}"


def _gain_row(g: Gain, teams: dict[str, Team], brief: Brief) -> GainRow:
    """A gain as shown: the corrected figure leads where the runs do not compare."""
    metric = brief.kind.metric(g.metric)
    unit = metric.unit if metric.unit != "degC" else "delta_degC"
    change, interval = _claim_text(g.claim, unit, brief)
    verdict, word, unfair = g.verdict, g.claim.word, ""
    if g.mismatches:
        named = {c.key: c for c in brief.kind.conditions}
        differ = _mismatch(g.mismatches, named, brief)
        if g.corrected:
            unfair = f"Corrected for sun and air ({differ}); as read it was {change}."
            change, interval = _claim_text(g.corrected, unit, brief)
            verdict, word = g.corrected_verdict, g.corrected.word
        else:
            unfair, word = f"Not the same conditions: {differ}.", "not comparable"
    return GainRow(
        teams[g.team], g.before, g.after, verdict, word, change, interval, g.claim.why,
        tuple(c.sentence for c in g.changes), g.cause.sentence, unfair,
    )  # fmt: skip


def _lead(found: Findings, teams: dict[str, Team], brief: Brief) -> str:
    """One sentence on how sure the first place is."""
    if not found.places:
        return "No build has a score under this rule yet."
    first = [p for p in found.places if p.place == 1]
    names = [teams[p.key].name for p in first]
    if found.lead is None:
        return f"{names[0]} alone has a score."
    if len(first) > 1:
        return f"{', '.join(names[:-1])} and {names[-1]} share first place: too close to call."
    second = teams[found.places[1].key].name
    lead = brief.setting.write(abs(found.lead.difference), 1)
    word = {"clear": "clear", "leaning": "leaning, not sure", "too close to call": "too close"}
    return f"{names[0]} leads {second} by {lead}: {word[found.lead.word]}."


def _firmness(found: Findings, teams: dict[str, Team], brief: Brief) -> str:
    weight = found.firmness
    if weight.term is None or weight.change is None or weight.winner is None:
        return ""
    term = found.versions[0].score.terms[weight.term].term
    name = brief.kind.metric(term.metric).label.lower()
    share = f"{abs(weight.change) * 100:.0f} %"
    way = "more" if weight.change > 0 else "less"
    if abs(weight.change) > 3:
        return "No small change of the rule would change the winner."
    return f"If {name} counted {share} {way}, {teams[weight.winner].name} would win."


def _table(evidence: Evidence, brief: Brief, challenge: Challenge) -> Table:
    """Every figure of every version with its uncertainty, in the class's units."""
    setting = brief.setting
    columns = [
        Column("team", "Team"),
        Column("name", "Name"),
        Column("version", "Version"),
        Column("place", "Place"),
        Column("score", "Score"),
        Column("score_se", "Score s.e."),
    ]
    for m in brief.kind.metrics:
        unit = setting.label(m.unit)
        columns += [Column(m.key, m.label, unit), Column(f"{m.key}_se", f"{m.label} s.e.", unit),
                    Column(f"{m.key}_at_least", f"{m.label}, at least", unit),
                    Column(f"{m.key}_reason", f"{m.label}, why not known")]  # fmt: skip
    found = evidence.findings
    rows = []
    names = {t.letter: t.name for t in challenge.school_class.teams}
    places = {p.key: p.place for p in found.places} if found else {}
    latest = {v.team: v.version for v in found.versions} if found else {}
    for v in found.versions if found else ():
        row: list[Any] = [v.team, names[v.team], v.version,
                          places.get(v.team) if latest[v.team] == v.version else None,
                          v.score.total, v.score.se]  # fmt: skip
        for m in brief.kind.metrics:
            f = v.figures.get(m.key, Figure(reason="no reading yet"))
            zero = setting.from_si(0.0, m.unit)
            row += [
                None if f.value is None else setting.from_si(f.value, m.unit),
                None if f.se is None else setting.from_si(f.se, m.unit) - zero,
                None if f.at_least is None else setting.from_si(f.at_least, m.unit),
                f.reason,
            ]
        rows.append(tuple(row))
    return Table(f"Findings of {challenge.title}", tuple(columns), rows)


__all__ = ["Tried", "bp", "load_view", "present"]
