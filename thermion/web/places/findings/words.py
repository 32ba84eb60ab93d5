"""Findings in words: scores with their arithmetic, figures, gains, materials, conclusions."""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from thermion.core.judging.claims import Claim, Mismatch
from thermion.core.judging.effects import Effect
from thermion.core.judging.findings import BoundGain, Findings, Gain, VersionFinding
from thermion.core.judging.scoring import Score
from thermion.core.kinds.analysis import Metric
from thermion.core.kinds.briefing import Condition, Term
from thermion.core.kinds.views import Picture
from thermion.core.kinds.when import difference_unit
from thermion.core.physics.materials import MATERIALS
from thermion.core.physics.units import unit_label
from thermion.core.subjects import Subject
from thermion.core.values import Figure
from thermion.records.judging.conclusions import LONGEST
from thermion.records.planning.briefs import Brief
from thermion.records.running.rig import AIR_NUMBER
from thermion.records.tables import Challenge, Team
from thermion.web.pictures.figures import figure_text, figure_words

Teams = Mapping[int, Team]  # by number
TONES = {"clear": "clear", "leaning": "leaning", "too close to call": "close", "not comparable": "leaning"}
LEGENDS = {
    "curves": "points read, lines fitted; gaps are gaps",
    "attempts": "a mark for each attempt; hollow: nothing moved",
    "points": "a mark for each attempt; the name stands at the best tried",
    "bars": "open, pale ends go on: it was not watched longer, or not sooner",
    "stack": "laid end to end",
    "versions": "numbers are versions; whiskers are two standard uncertainties",
}


@dataclass(frozen=True)
class FigureCell:
    """A figure, its uncertainty, and what is to be said of it."""

    text: str
    pm: str
    note: str


@dataclass(frozen=True)
class ScoreRow:
    """A line of the table of scores."""

    place: str
    subject: Subject
    team: Team
    version: str
    arithmetic: str
    total: str
    pm: str
    reason: str


@dataclass(frozen=True)
class FigureRow:
    """A version's figures."""

    team: Team
    version: int
    runs: str
    cells: tuple[FigureCell, ...]
    predicted: str
    missed: str


@dataclass(frozen=True)
class GainRow:
    """A version against the one before."""

    team: Team
    heading: str
    verdict: str
    word: str
    tone: str
    said: str
    change: str
    interval: str
    changes: tuple[str, ...]
    cause: str
    unfair: str
    bounds: tuple[str, ...]
    idea: str


@dataclass(frozen=True)
class EffectRow:
    """What a material did, in words."""

    names: str
    change: str
    interval: str
    word: str
    tone: str
    said: str
    used_by: tuple[Team, ...]
    caution: str


def _said(verdict: str, word: str) -> str:
    """A verdict with how sure it is; where it is not sure, only that."""
    return f"{verdict}, {word}" if word in ("clear", "leaning") else word


@dataclass(frozen=True)
class OtherRuns:
    """The way to rehearsals from real runs, and back."""

    label: str
    query: str


def other_runs(rehearsal: bool) -> OtherRuns:
    return OtherRuns("Real runs", "") if rehearsal else OtherRuns("Rehearsals", "rehearsal=1")


def helped(ideas: Mapping[Subject, Team]) -> str:
    """Whose ideas helped others, to be said aloud."""
    count = Counter(team.name for team in ideas.values())
    said = [f"{name} ({n})" if n > 1 else name for name, n in count.most_common()]
    return f"Ideas that helped others came from {', '.join(said)}." if said else ""


def effect_row(e: Effect[Subject], teams: Teams, brief: Brief) -> EffectRow:
    metric = brief.kind.analysis.headline_for(brief.choices)[0]
    change, interval = _claim_text(e.claim, difference_unit(metric.unit), brief)
    return EffectRow(
        " and ".join(MATERIALS[m].name for m in e.materials),
        change,
        interval,
        e.claim.word,
        TONES[e.claim.word],
        _said(e.verdict, e.claim.word),
        tuple(teams[subject.team_id] for subject in e.used_by),
        e.caution,
    )


def suggested(
    scores: Sequence[ScoreRow],
    gains: Sequence[GainRow],
    effects: Sequence[EffectRow],
    found: Findings,
    brief: Brief,
) -> list[str]:
    """Sentences that the findings would bear, to be chosen, changed or left."""
    metric = brief.kind.analysis.headline_for(brief.choices)[0]
    out = []
    first = [s for s in scores if s.place == "1"]
    if first:
        v = found.latest()[first[0].subject.team_id]
        used = found.used.get(v.subject, ())
        words = figure_words(v.figures.get(metric.key, Figure()), metric, brief)
        names = ", ".join(MATERIALS[m].name.lower() for m in used[:4])
        out.append(f"{first[0].team.name}'s build came first ({metric.label.lower()}: {words}) with {names}.")
    for g in gains:
        if len(g.changes) == 1 and g.word in ("clear", "leaning") and g.verdict != "changed":
            out.append(f"{g.changes[0]}: {g.verdict}, {g.change} ({g.word}).")
    for e in effects:
        if e.word in ("clear", "leaning"):
            out.append(
                f"Builds with {e.names.lower()}: {metric.label.lower()} {e.change} ({e.word}, a hint)."
            )
    return [x for x in dict.fromkeys(out) if len(x) <= LONGEST][:5]


def offsets_text(off: Mapping[int, float], challenge: Challenge, brief: Brief) -> str:
    """Which thermometers were set right, and by how much; empty when none was."""
    names = {t.id: t.name for t in challenge.school_class.teams} | {AIR_NUMBER: "air"}
    said = [f"{names[k]} {brief.setting.show(-v, 'delta_degC', 1)}" for k, v in off.items() if k in names]
    return f"Thermometers set right by the check in one glass: {', '.join(said)}." if said else ""


def mismatch_words(items: Sequence[Mismatch], named: Mapping[str, Condition], brief: Brief) -> str:
    return "; ".join(_mismatch(m, named[m.key], brief) for m in items)


def _mismatch(m: Mismatch, c: Condition, brief: Brief) -> str:
    if c.words:
        return f"{c.label.lower()} {c.words[round(m.a)]} and {c.words[round(m.b)]}"
    first = brief.setting.show(m.a, c.unit, 0, unit=False)
    return f"{c.label.lower()} {first} and {brief.setting.show(m.b, c.unit, 0)}"


def _arithmetic(score: Score, brief: Brief) -> str:
    """The sum as a class would write it: 72.5 °C − 6 units = 66.5."""
    out = ""
    write = brief.setting.write
    for line in score.terms:
        if line.value is None or line.contribution is None:
            return out + f" … {brief.kind.analysis.metric(line.term.metric).label.lower()} not known"
        digits = 0 if abs(line.value - round(line.value)) < 1e-6 else 1
        times = "" if abs(line.term.weight) == 1 else f"{write(abs(line.term.weight), 2)} × "
        over = "" if line.term.divisor == 1 else f" ÷ {write(line.term.divisor, 1)}"
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


def in_score(value: float, score: Score, brief: Brief) -> str:
    """A score, or a difference of two: in the unit of its one term, or in points when it is a sum."""
    term = score.terms[0].term
    plain = len(score.terms) == 1 and abs(term.weight) == 1 and term.divisor == 1
    unit = difference_unit(term.unit) if plain else "point"
    number = brief.setting.write(value, 1)
    if plain and unit == "dimensionless":
        return f"{number} {_things(term, brief)}".strip()
    return with_unit("1" if number in ("1.0", "1,0") and unit == "point" else number, unit)


def _things(term: Term, brief: Brief) -> str:
    """What is counted, where the metric is a count of what was read."""
    metric = brief.kind.analysis.metric(term.metric)
    reads = {r.key: r for r in brief.kind.test.reads}
    return reads[metric.reads].things[1] if metric.reads in reads else "points"


def score_rows(
    found: Findings, teams: Teams, brief: Brief, captions: Mapping[Subject, str]
) -> list[ScoreRow]:
    latest, write = found.latest(), brief.setting.write
    rows = []
    for placed in found.places:
        v = latest[placed.key.team_id]
        place = f"{'=' if placed.shared else ''}{placed.place}"
        who = (place, v.subject, teams[v.subject.team_id], _version_said(v.subject, captions))
        if placed.value is None:  # an interval: no sum, a place all the same
            metric = brief.kind.analysis.metric(v.score.terms[0].term.metric)
            words = figure_words(v.figures.get(metric.key, Figure()), metric, brief)
            rows.append(ScoreRow(*who, metric.label, words, "", ""))
            continue
        pm = f"± {write(2 * (v.score.se or 0.0), 1)}" if v.score.se else ""
        total = in_score(placed.value, v.score, brief)
        rows.append(ScoreRow(*who, _arithmetic(v.score, brief), total, pm, ""))
    for v in found.without_score:
        who = ("–", v.subject, teams[v.subject.team_id], _version_said(v.subject, captions))
        why = f"No score: {v.score.reason or 'no reading yet'}"
        rows.append(ScoreRow(*who, _arithmetic(v.score, brief), "–", "", why))
    return rows


def _version_said(subject: Subject, captions: Mapping[Subject, str]) -> str:
    """The version, and what it is where that is what is compared."""
    caption = captions.get(subject, "").lower()
    return f"v{subject.version}, {caption}" if caption else f"v{subject.version}"


def figure_row(v: VersionFinding, teams: Teams, metrics: Sequence[Metric], brief: Brief) -> FigureRow:
    cells = tuple(_cell(v.figures.get(m.key, Figure(reason="no reading yet")), m, brief) for m in metrics)
    predicted = brief.setting.show(v.prediction, brief.kind.analysis.prediction_for(brief.choices).unit, 0)
    runs = ", ".join(map(str, v.runs))
    return FigureRow(teams[v.subject.team_id], v.subject.version, runs, cells, predicted, ", ".join(v.missed))


def _cell(figure: Figure, metric: Metric, brief: Brief) -> FigureCell:
    pm = ""
    if figure.value is not None and figure.se:
        show = brief.setting.from_si
        size = show(figure.se, metric.unit) - show(0.0, metric.unit)
        pm = f"± {brief.setting.write(2 * size, metric.digits)}"
    return FigureCell(figure_text(figure, metric, brief), pm, figure.reason or "; ".join(figure.notes))


def _signed(value: float, unit: str, brief: Brief) -> str:
    text = brief.setting.show(value, unit)
    return text if value < 0 else f"+{text}"


def _claim_text(claim: Claim, unit: str, brief: Brief) -> tuple[str, str]:
    low, high = _signed(claim.low, unit, brief), _signed(claim.high, unit, brief)
    return _signed(claim.difference, unit, brief), f"95 % between {low} and {high}"


def _bound_text(b: BoundGain, brief: Brief) -> str:
    """“Slow one …: 12 to 14 min, before 8 to 10 min: later, better.”"""
    metric = brief.kind.analysis.metric(b.metric)
    now, was = (figure_words(f, metric, brief) for f in (b.after, b.before))
    good = "" if b.good is None else (", better" if b.good else ", worse")
    verdict = (
        b.verdict
        if metric.unit == "minute" or b.good is None
        else ("less" if b.verdict == "sooner" else "more")
    )
    return f"{metric.label}: {now}, before {was}: {verdict}{good}"


def gain_row(g: Gain, teams: Teams, brief: Brief, ideas: Mapping[Subject, Team]) -> GainRow:
    """A gain as shown: the corrected figure leads where the runs do not compare."""
    metric = brief.kind.analysis.metric(g.metric)
    unit = difference_unit(metric.unit)
    change, interval = _claim_text(g.claim, unit, brief)
    verdict, word, unfair = g.verdict, str(g.claim.word), ""
    if g.mismatches:
        named = {c.key: c for c in brief.kind.brief.settings(brief.choices)}
        differ = mismatch_words(g.mismatches, named, brief)
        if g.corrected:
            unfair = f"{g.corrected_by.capitalize()} ({differ}); as read it was {change}."
            change, interval = _claim_text(g.corrected, unit, brief)
            verdict, word = g.corrected_verdict, g.corrected.word
        else:
            unfair, word = f"Not the same conditions: {differ}.", "not comparable"
    team, idea = teams[g.after.team_id], ideas.get(g.after)
    return GainRow(
        team,
        f"{team.name}: version {g.after.version} against {g.before.version}",
        verdict,
        word,
        TONES[word],
        _said(verdict, word),
        change,
        f"{interval}; {g.claim.why}" if g.claim.why else interval,
        tuple(c.sentence for c in g.changes),
        g.cause.sentence,
        unfair,
        tuple(_bound_text(b, brief) for b in g.bounds),
        f"With an idea from {idea.name}." if idea is not None else "",
    )


def lead_sentence(found: Findings, teams: Teams, brief: Brief) -> str:
    """One sentence on how sure the first place is."""
    if not found.places:
        return "No build has a score under this rule yet."
    first = [p for p in found.places if p.place == 1]
    names = [teams[p.key.team_id].name for p in first]
    if len(first) > 1:
        return f"{', '.join(names[:-1])} and {names[-1]} share first place: too close to call."
    if found.lead is None and len(found.places) > 1:
        return f"{names[0]} comes first: its interval lies clear of the next."
    if found.lead is None:
        return f"{names[0]} alone has a score."
    second = teams[found.places[1].key.team_id].name
    score = found.latest()[found.places[0].key.team_id].score
    lead = in_score(abs(found.lead.difference), score, brief)
    word = {"clear": "clear", "leaning": "leaning, not sure", "too close to call": "too close"}
    return f"{names[0]} leads {second} by {lead}: {word[found.lead.word]}."


def firmness_sentence(found: Findings, teams: Teams, brief: Brief) -> str:
    weight = found.firmness
    if weight.term is None or weight.change is None or weight.winner is None:
        return ""
    if len(found.versions[0].score.terms) == 1:  # one term alone cannot be outweighed
        return ""
    term = found.versions[0].score.terms[weight.term].term
    name = brief.kind.analysis.metric(term.metric).label.lower()
    share = f"{abs(weight.change) * 100:.0f} %"
    way = "more" if weight.change > 0 else "less"
    if weight.change <= -1 or weight.change > 3:
        return "No small change of the rule would change the winner."
    return f"If {name} counted {share} {way}, {teams[weight.winner.team_id].name} would win."


def unfair(found: Findings, brief: Brief) -> str:
    """Which runs do not compare, in what, and what follows from it."""
    if not found.unfair:
        return ""
    named = {c.key: c for c in brief.kind.brief.settings(brief.choices)}
    said = " ".join(
        f"Run {w.run_a} and run {w.run_b}: {mismatch_words(w.mismatches, named, brief)}."
        for w in found.unfair
    )
    follows = (
        "Version against version is corrected below where physics allows."
        if found.places_fair
        else "The places below compare across these runs: they are not fair."
    )
    return f"Not all runs compare. {said} {follows}"


def heading(rehearsal: bool) -> str:
    return "Rehearsed: who did what?" if rehearsal else "Who did what, and how sure are we?"


def about_places(firmness: str) -> str:
    said = "= means: cannot be told apart, so the place is shared. ± is two standard uncertainties."
    return f"{said} {firmness}".strip()


def about_figures(notes: Sequence[str]) -> str:
    return " ".join(("≥ and ≤ are bounds: the readings stopped before it happened.", *notes))


def about_effects(metric: Metric) -> str:
    return (
        f"{metric.label} of the builds that used it, against those that did not; newest versions. "
        "The more materials are compared, the wider each interval."
    )


def column(metric: Metric, brief: Brief) -> str:
    unit = brief.setting.label(metric.unit)
    return f"{metric.label} ({unit})" if unit else metric.label


def picture_name(pictures: Sequence[Picture], key: str) -> str:
    return next((picture.label for picture in pictures if picture.key == key), "Versions")
