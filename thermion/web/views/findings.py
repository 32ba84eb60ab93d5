"""Findings: who did what, how sure are we, what made the difference?"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import UTC, datetime
from typing import Any

from flask import Blueprint, Response, render_template, request
from flask.typing import ResponseReturnValue

from thermion.core.judging.findings import Findings, Tried
from thermion.core.kinds.when import applying
from thermion.core.values import Figure
from thermion.formats.tables import Column, Table
from thermion.records.building.builds import ideas_of
from thermion.records.judging import conclusions
from thermion.records.judging.evidence import Evidence, load_evidence
from thermion.records.planning.briefs import Brief
from thermion.records.running.rig import checks_of, offsets
from thermion.records.tables import Challenge, Team
from thermion.web.bars import Shown, bars, bars_svg, versions_chart
from thermion.web.findings_words import (
    effect_row,
    figure_row,
    firmness_sentence,
    gain_row,
    helped,
    lead_sentence,
    mismatch_words,
    offsets_text,
    score_rows,
    suggested,
)
from thermion.web.page import data_page, database, frame, open_challenge, reading, svg_file
from thermion.web.pictures import chart_svg, findings_chart, points_chart
from thermion.web.strips import strips

bp = Blueprint("findings", __name__)


@bp.get("/challenges/<int:challenge_id>/findings")
@bp.get("/challenges/<int:challenge_id>/findings.<any(csv,json):ending>")
def index(challenge_id: int, ending: str | None = None) -> ResponseReturnValue:
    if ending:
        challenge, brief = open_challenge(challenge_id)
        evidence, _ = load_view(challenge, brief)
        return data_page(
            ending,
            "",
            lambda: _table(evidence, brief, challenge),
            f"findings-{challenge_id}",
            {"setting": brief.setting},
        )
    key = ("findings", challenge_id, request.query_string, datetime.now(UTC).hour)
    return render_template("findings.html", **database().remember(key, lambda: _page(challenge_id)))


def _page(challenge_id: int) -> dict[str, Any]:
    """Everything the page shows; remembered until anything is stored."""
    challenge, brief = open_challenge(challenge_id)
    kept = conclusions.conclusions_of(reading(), challenge_id)
    return frame(
        challenge,
        "findings",
        **load_view(challenge, brief)[1],
        kept=kept,
        carried=conclusions.carried_from(reading(), challenge_id),
        later=conclusions.later_challenges(reading(), challenge),
    )


@bp.get("/challenges/<int:challenge_id>/findings/curves.svg")
def curves(challenge_id: int) -> Response:
    challenge, brief = open_challenge(challenge_id)
    _, view = load_view(challenge, brief)
    return svg_file(view["chart"], f"curves-{challenge_id}")


def load_view(challenge: Challenge, brief: Brief) -> tuple[Evidence, dict[str, Any]]:
    """Evidence under the school asked for, and the page's values made from it."""
    schools = {s.key for s in brief.kind.brief.schools} | {"own"}
    school = request.args.get("school", challenge.school)
    school = school if school in schools else challenge.school
    rehearsal = request.args.get("rehearsal") == "1"
    off = offsets(checks_of(reading(), challenge, brief))
    evidence = load_evidence(reading(), challenge.id, brief, school=school, rehearsal=rehearsal, offsets=off)
    asked = Asked(
        request.args.get("only", ""), request.args.get("picture", ""), request.args.get("metric", "")
    )
    view = present(challenge, brief, evidence, school, asked)
    said = "" if rehearsal else offsets_text(off, challenge, brief)
    return evidence, {**view, "rehearsal": rehearsal, "notes": [*([said] if said else []), *view["notes"]]}


@dataclass(frozen=True)
class Asked:
    """What of the findings is looked at: some teams, one picture, one metric of it."""

    only: str = ""
    picture: str = ""
    metric: str = ""


def present(
    challenge: Challenge, brief: Brief, evidence: Evidence, school: str, asked: Asked = Asked()
) -> dict[str, Any]:
    """Everything the page shows, as text in the class's units."""
    teams = {t.letter: t for t in challenge.school_class.teams}
    found = evidence.findings
    metrics = list(brief.kind.analysis.headline_for(brief.choices))
    view: dict[str, Any] = {
        "school": school,
        "found": found,
        "metrics": metrics,
        "teams": teams,
        "only": asked.only,
        "pictures": brief.kind.views.pictures_for(brief.choices),
        "picture": asked.picture,
        "metric": asked.metric,
        "effects": [],
        "compared": [],
        "suggested": [],
        "chart": "",
        "scores": [],
        "figures": [],
        "gains": [],
        "unfair": [],
        "notes": [],
        "lead": "",
        "firmness": "",
        "tried": evidence.tried,
    }
    if found is None:
        return view
    view |= _picture(evidence, found, teams, brief, asked)
    view["scores"] = score_rows(found, teams, brief)
    view["captions"] = captions(evidence, brief)
    view["figures"] = [figure_row(v, teams, metrics, brief) for v in found.versions]
    ideas = ideas_of(reading(), challenge.id)
    view["gains"] = [gain_row(g, teams, brief, ideas) for g in found.gains]
    view["helped"] = helped(ideas, teams)
    view["effects"] = [effect_row(e, teams, brief) for e in found.effects[:6]]
    view["suggested"] = suggested(view["scores"], view["gains"], view["effects"], found, brief)
    view["lead"] = lead_sentence(found, teams, brief)
    view["firmness"] = firmness_sentence(found, teams, brief)
    named = {c.key: c for c in brief.kind.brief.conditions}
    view["unfair"] = [
        f"Run {w.run_a} and run {w.run_b}: " + mismatch_words(w.mismatches, named, brief)
        for w in found.unfair
    ]
    view["notes"] = [f"Run {r.number}: {r.note}" for r in evidence.runs if r.note]
    return view


def captions(evidence: Evidence, brief: Brief) -> dict[tuple[str, int], str]:
    """What each version is, where that is what is compared (the sample of a race)."""
    return {(t.team, t.version): brief.kind.build.caption(t.plan) for t in evidence.tried}


def _picture(
    evidence: Evidence, found: Findings, teams: Mapping[str, Team], brief: Brief, asked: Asked
) -> dict[str, Any]:
    """The picture asked for, or the family's first, as an SVG; with the metric of all versions."""
    pictures = brief.kind.views.pictures_for(brief.choices)
    named = captions(evidence, brief)
    shown = [
        Shown(v.team, v.version, v.figures, named[v.team, v.version])
        for v in found.versions
        if not asked.only or v.team in asked.only
    ]
    headline = [m.key for m in brief.kind.analysis.headline_for(brief.choices)]
    keys = dict.fromkeys((brief.kind.analysis.compares, *headline))
    compared = applying([brief.kind.analysis.metric(k) for k in keys], brief.choices)
    if asked.picture == "versions":
        metric = next((m for m in compared if m.key == asked.metric), compared[0])
        chart = bars_svg(versions_chart(shown, metric, teams, brief))
        return {"chart": chart, "picture": "versions", "metric": metric.key, "compared": compared}
    picture = next((p for p in pictures if p.key == asked.picture), pictures[0])
    tried = [t for t in evidence.tried if not asked.only or t.team in asked.only]
    if picture.form == "curves":
        chart = chart_svg(findings_chart(evidence.tried, found, teams, brief, asked.only))
    elif picture.form == "points":
        chart = chart_svg(points_chart(tried, picture, teams, brief, bool(asked.only)))
    elif picture.form == "strips":
        laid = strips(tried, picture, teams, brief)
        chart = render_template("pictures/strips.svg", chart=laid) if laid else ""
    else:
        latest = {v.team: v.version for v in found.versions}
        newest = [s for s in shown if asked.only or latest[s.team] == s.version]
        chart = bars_svg(bars(newest, picture, teams, brief))
    return {"chart": chart, "picture": picture.key, "compared": compared}


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
    for m in brief.kind.analysis.metrics:
        unit = setting.label(m.unit)
        columns += [
            Column(m.key, m.label, unit),
            Column(f"{m.key}_se", f"{m.label} s.e.", unit),
            Column(f"{m.key}_at_least", f"{m.label}, at least", unit),
            Column(f"{m.key}_at_most", f"{m.label}, at most", unit),
            Column(f"{m.key}_reason", f"{m.label}, why not known"),
        ]
    found = evidence.findings
    rows = []
    names = {t.letter: t.name for t in challenge.school_class.teams}
    places = {p.key: p.place for p in found.places} if found else {}
    latest = {v.team: v.version for v in found.versions} if found else {}
    for v in found.versions if found else ():
        row: list[Any] = [
            v.team,
            names[v.team],
            v.version,
            places.get(v.team) if latest[v.team] == v.version else None,
            v.score.total,
            v.score.se,
        ]
        for m in brief.kind.analysis.metrics:
            f = v.figures.get(m.key, Figure(reason="no reading yet"))
            zero = setting.from_si(0.0, m.unit)
            row += [
                None if f.value is None else setting.from_si(f.value, m.unit),
                None if f.se is None else setting.from_si(f.se, m.unit) - zero,
                None if f.at_least is None else setting.from_si(f.at_least, m.unit),
                None if f.at_most is None else setting.from_si(f.at_most, m.unit),
                f.reason,
            ]
        rows.append(tuple(row))
    return Table(f"Findings of {challenge.title}", tuple(columns), rows)


__all__ = ["Tried", "bp", "load_view", "present"]
