"""What the page of findings shows: everything as text in the class's units, and one picture."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from flask import render_template, request

from thermion.core.ages import reader
from thermion.core.judging.findings import Findings, Tried
from thermion.core.kinds.analysis import Metric
from thermion.core.kinds.views import Picture
from thermion.core.subjects import Subject
from thermion.records.judging.doubted import doubted_in
from thermion.records.judging.evidence import Evidence, ideas_in, load_evidence
from thermion.records.planning.briefs import Brief
from thermion.records.planning.week import timing_of
from thermion.records.tables import Challenge, Team
from thermion.web.pictures.attempt_rows import attempt_chart
from thermion.web.pictures.bars import BuildFigures, bars, bars_svg
from thermion.web.pictures.curves import chart_svg
from thermion.web.pictures.readings import findings_chart, points_chart
from thermion.web.pictures.standing_bars import standing_chart
from thermion.web.pictures.version_dots import versions_chart
from thermion.web.places.findings import budgets, claims, doubts, gain_words, scores, words
from thermion.web.places.findings.opened import opened
from thermion.web.places.findings.places import may_be
from thermion.web.places.findings.words import Teams
from thermion.web.sessions import read_session


@dataclass(frozen=True, kw_only=True)
class Asked:
    """What of the findings is looked at: a way of scoring, some teams by letter, one picture of one metric."""

    school: str
    rehearsal: bool = False
    only: str = ""
    picture: str = ""
    metric: str = ""
    full: bool = False  # all figures too, where the learners are young

    @classmethod
    def of_request(cls, challenge: Challenge, brief: Brief) -> Asked:
        known = {s.key for s in brief.kind.brief.schools} | {"own"}
        school = request.args.get("school", challenge.school)
        return cls(
            school=school if school in known else challenge.school,
            rehearsal=request.args.get("rehearsal") == "1",
            only=request.args.get("only", ""),
            picture=request.args.get("picture", ""),
            metric=request.args.get("metric", ""),
            full=request.args.get("full") == "1",
        )

    def shows(self, team: Team) -> bool:
        return not self.only or team.letter in self.only

    @property
    def query(self) -> str:
        """The part of an address that keeps this view."""
        only = f"&only={self.only}" if self.only else ""
        full = "&full=1" if self.full else ""
        return f"school={self.school}{only}{'&rehearsal=1' if self.rehearsal else ''}{full}"


def evidence_for(challenge: Challenge, brief: Brief, asked: Asked) -> Evidence:
    """Trials and findings as asked for."""
    return load_evidence(read_session(), challenge, brief, school=asked.school, rehearsal=asked.rehearsal)


def present(challenge: Challenge, brief: Brief, evidence: Evidence, asked: Asked) -> dict[str, object]:
    """Everything the page shows, as text in the class's units."""
    found = evidence.findings
    view: dict[str, object] = {"asked": asked, "found": found is not None}
    if found is None:
        return view
    teams = {t.id: t for t in challenge.school_class.teams}
    captions = {t.subject: brief.kind.build.caption(t.plan) for t in evidence.tried}
    age = challenge.age_band
    ranked = brief.better_of(asked.school) != "none"
    plain = reader(age).plain and not asked.full
    rows = scores.score_rows(found, teams, brief, captions, age)
    doubted = doubted_in(read_session(), brief, evidence.runs)
    view |= {
        "heading": words.heading(asked.rehearsal),
        "drawn": picture_of(evidence, found, teams, brief, asked, captions),
        "has_places": bool(found.places),
        "said": claims.headline(found, teams, brief, age, ranked=ranked),
        "scores": rows,
        "how": {
            v.subject: opened(v, evidence.tried, found, evidence.glass, brief)
            for v in found.latest().values()
        },
        "with_sums": not plain and any(r.arithmetic or r.reason or r.notes for r in rows),
        "with_odds": any(r.odds for r in rows),
        "looks": doubts.looks(doubted, found, evidence.runs, teams, brief),
        "aparts": words.apart_lines(evidence.runs),
        "helped": words.helped(ideas_in(evidence.runs, teams)),
    }
    if plain:
        return view | _plainly(challenge, brief, evidence, found, teams)
    return view | _in_full(challenge, brief, evidence, found, teams, asked)


def _gains(
    challenge: Challenge, brief: Brief, evidence: Evidence, found: Findings, teams: Teams
) -> list[gain_words.GainRow]:
    timing = timing_of(read_session(), challenge, brief)
    ideas = ideas_in(evidence.runs, teams)
    return [words.gain_row(g, teams, brief, ideas, timing) for g in found.gains]


def _plainly(
    challenge: Challenge, brief: Brief, evidence: Evidence, found: Findings, teams: Teams
) -> dict[str, object]:
    """What the youngest read: pictures of what was read, no figures worked out."""
    pictures = brief.kind.views.pictures_for(brief.choices)
    return {
        "plain": True,
        "pictures": [p for p in pictures if p.form in READ_OFF],
        "about_places": words.PLAIN_PLACES,
        "gains": [words.plain_gain(g) for g in _gains(challenge, brief, evidence, found, teams)],
        "unfair": words.plain_unfair(found, brief),
    }


def _in_full(
    challenge: Challenge, brief: Brief, evidence: Evidence, found: Findings, teams: Teams, asked: Asked
) -> dict[str, object]:
    """Figures, sums, claims, gains, materials."""
    metrics = brief.kind.analysis.headline_for(brief.choices)
    gains = _gains(challenge, brief, evidence, found, teams)
    effects = [words.effect_row(e, teams, brief) for e in found.effects[:6]]
    set_right = "" if asked.rehearsal else words.offsets_text(evidence.glass.off, challenge, brief)
    notes = [said for said in (set_right, brief.kind.analysis.bounds_words) if said]
    notes += [f"Run {r.number}: {r.note}" for r in evidence.runs if r.note]
    lead = None
    if brief.better_of(asked.school) != "none" and not found.still_on:
        lead = claims.lead_box(found, teams, brief, timing_of(read_session(), challenge, brief))
    return {
        "pictures": brief.kind.views.pictures_for(brief.choices),
        "claim": lead,
        "budgets": budgets.budget_rows(found, brief),
        "common": gain_words.common_part(found, teams, brief),
        "about_places": words.about_places(
            words.firmness_sentence(found, teams, brief), words.over_runs(found, brief)
        ),
        "columns": [words.column(m, brief) for m in metrics],
        "figures": [words.figure_row(v, teams, metrics, brief) for v in found.versions],
        "about_figures": words.about_figures(notes),
        "beside": [] if found.still_on else words.beside_lines(found, teams, brief),
        "gains": gains,
        "effects": effects,
        "about_effects": words.about_effects(metrics[0]),
        "suggested": words.suggested(gains, effects, found, teams, brief),
        "unfair": words.unfair(found, brief),
    }


READ_OFF = ("curves", "attempts")  # pictures of what was read, not of what was worked out


@dataclass(frozen=True, kw_only=True)
class FindingsPicture:
    """A picture of the findings: which, of which metric, as SVG, and what its looks mean."""

    key: str
    name: str
    chart: str
    legend: str
    metric: str = ""
    compared: Sequence[Metric] = ()


def picture_of(
    evidence: Evidence,
    found: Findings,
    teams: Teams,
    brief: Brief,
    asked: Asked,
    captions: Mapping[Subject, str],
) -> FindingsPicture:
    """The picture asked for, or the family's first."""
    told = any(p.first is not None for p in found.places) and not asked.only
    if found.places and (asked.picture == "places" or (told and not asked.picture)):
        places = _places_picture(found, teams, brief)
        if places is not None:
            return places
    shown = [
        BuildFigures(v.subject, v.figures, captions[v.subject])
        for v in found.versions
        if asked.shows(teams[v.subject.team_id])
    ]
    if asked.picture == "versions":
        return _versions_picture(shown, teams, brief, asked)
    pictures = brief.kind.views.pictures_for(brief.choices)
    picture = next((p for p in pictures if p.key == asked.picture), pictures[0])
    if picture.form in ("bars", "stack"):
        latest = {v.subject for v in found.latest().values()}
        newest = [s for s in shown if asked.only or s.subject in latest]
        chart, legend = bars_svg(bars(newest, picture, teams, brief)), words.legend(picture, brief)
    else:
        tried = [t for t in evidence.tried if asked.shows(teams[t.subject.team_id])]
        chart = _chart(picture, tried, found, teams, brief, every=bool(asked.only))
        legend = words.LEGENDS[picture.form]
    return FindingsPicture(key=picture.key, name=picture.label, chart=chart, legend=legend)


def _places_picture(found: Findings, teams: Teams, brief: Brief) -> FindingsPicture | None:
    may = {p.key: may_be(p) for p in found.places}
    laid = standing_chart(found, teams, scores.unit_of_score(found, brief), may)
    if laid is None:
        return None
    chart = render_template("pictures/standing.svg", chart=laid)
    legend = words.LEGENDS["places" if laid.known else "as read"]
    return FindingsPicture(key="places", name="How sure", chart=chart, legend=legend)


def _versions_picture(
    shown: Sequence[BuildFigures], teams: Teams, brief: Brief, asked: Asked
) -> FindingsPicture:
    compared = brief.kind.analysis.compared_for(brief.choices)
    metric = next((m for m in compared if m.key == asked.metric), compared[0])
    return FindingsPicture(
        key="versions",
        name="Versions",
        chart=bars_svg(versions_chart(shown, metric, teams, brief)),
        legend=words.LEGENDS["versions"],
        metric=metric.key,
        compared=compared,
    )


def _chart(
    picture: Picture, tried: Sequence[Tried], found: Findings, teams: Teams, brief: Brief, *, every: bool
) -> str:
    """A picture made of readings or attempts rather than of figures."""
    if picture.form == "curves":
        return chart_svg(findings_chart(tried, found, teams, brief, every=every))
    if picture.form == "points":
        return chart_svg(points_chart(tried, picture, teams, brief, every=every))
    laid = attempt_chart(tried, picture, teams, brief)
    return render_template("pictures/attempt_rows.svg", chart=laid) if laid else ""
