"""Findings in words: scores with their arithmetic, figures, gains, materials, conclusions."""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from thermion.core.judging.claims import Claim
from thermion.core.judging.effects import Effect
from thermion.core.judging.findings import BoundGain, Findings, Gain, VersionFinding
from thermion.core.judging.scoring import Score
from thermion.core.kinds.analysis import Metric
from thermion.core.kinds.briefing import Condition
from thermion.core.kinds.when import difference_unit
from thermion.core.physics.materials import MATERIALS
from thermion.core.physics.units import unit_label
from thermion.core.values import Figure
from thermion.records.judging.conclusions import LONGEST
from thermion.records.planning.briefs import Brief
from thermion.records.running.rig import AIR
from thermion.records.tables import Challenge, Team
from thermion.web.bars import figure_words
from thermion.web.pictures import figure_text


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
    bounds: tuple[str, ...]
    idea: str


@dataclass(frozen=True)
class EffectRow:
    """What a material did, in words."""

    names: str
    change: str
    interval: str
    word: str
    verdict: str
    used_by: tuple[Team, ...]
    caution: str


def helped(ideas: Mapping[tuple[str, int], str], teams: Mapping[str, Team]) -> str:
    """Whose ideas helped others, to be said aloud."""
    count = Counter(ideas.values())
    said = [
        f"{teams[letter].name} ({n})" if n > 1 else teams[letter].name
        for letter, n in count.most_common()
        if letter in teams
    ]
    return f"Ideas that helped others came from {', '.join(said)}." if said else ""


def effect_row(e: Effect, teams: Mapping[str, Team], brief: Brief) -> EffectRow:
    metric = brief.kind.analysis.headline_for(brief.choices)[0]
    change, interval = _claim_text(e.claim, difference_unit(metric.unit), brief)
    names = " and ".join(MATERIALS[m].name for m in e.materials)
    return EffectRow(
        names, change, interval, e.claim.word, e.verdict, tuple(teams[t] for t in e.used_by), e.caution
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
    latest = {v.team: v for v in found.versions}
    first = [s for s in scores if s.place == "1"]
    if first:
        v = latest[first[0].team.letter]
        plan = next(t for t in found.fitted if t[:2] == (v.team, v.version))
        used = found.used.get(plan[:2], ())
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


def offsets_text(off: Mapping[str, float], challenge: Challenge, brief: Brief) -> str:
    """Which thermometers were set right, and by how much; empty when none was."""
    names = {t.letter: t.name for t in challenge.school_class.teams} | {AIR: "air"}
    said = [f"{names[k]} {brief.setting.show(-v, 'delta_degC', 1)}" for k, v in off.items() if k in names]
    return f"Thermometers set right by the check in one glass: {', '.join(said)}." if said else ""


def mismatch_words(items: Any, named: dict[str, Condition], brief: Brief) -> str:
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
            return out + f" … {brief.kind.analysis.metric(line.term.metric).label.lower()} not known"
        digits = 0 if abs(line.value - round(line.value)) < 1e-6 else 1
        times = "" if abs(line.term.weight) == 1 else f"{write(abs(line.term.weight), 2)} × "
        over = "" if line.term.divisor == 1 else f" ÷ {write(line.term.divisor, 1)}"
        sign = "− " if line.term.weight < 0 else "+ "
        unit = unit_label(line.term.unit)
        item = f"{times}{write(line.value, digits)} {unit}{over}"
        out += f" {sign}{item}" if out or line.term.weight < 0 else item
    return out.strip()


def score_rows(found: Findings, teams: dict[str, Team], brief: Brief) -> list[ScoreRow]:
    latest = {v.team: v for v in found.versions}
    write = brief.setting.write
    rows = []
    for placed in found.places:
        v = latest[placed.key]
        place = f"{'=' if placed.shared else ''}{placed.place}"
        if placed.value is None:  # an interval: no sum, a place all the same
            metric = brief.kind.analysis.metric(v.score.terms[0].term.metric)
            words = figure_words(v.figures.get(metric.key, Figure()), metric, brief)
            rows.append(ScoreRow(place, teams[v.team], v.version, metric.label, words, "", ""))
            continue
        pm = f"± {write(2 * (v.score.se or 0.0), 1)}" if v.score.se else ""
        rows.append(
            ScoreRow(
                place, teams[v.team], v.version, _arithmetic(v.score, brief), write(placed.value, 1), pm, ""
            )
        )
    for v in found.without_score:
        rows.append(
            ScoreRow(
                "–",
                teams[v.team],
                v.version,
                _arithmetic(v.score, brief),
                "–",
                "",
                v.score.reason or "no reading yet",
            )
        )
    return rows


def figure_row(v: VersionFinding, teams: dict[str, Team], metrics: list[Metric], brief: Brief) -> FigureRow:
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
    predicted = brief.setting.show(v.prediction, brief.kind.analysis.prediction_for(brief.choices).unit, 0)
    return FigureRow(teams[v.team], v.version, ", ".join(map(str, v.runs)), tuple(cells), predicted, v.missed)


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


def gain_row(g: Gain, teams: dict[str, Team], brief: Brief, ideas: Mapping[tuple[str, int], str]) -> GainRow:
    """A gain as shown: the corrected figure leads where the runs do not compare."""
    metric = brief.kind.analysis.metric(g.metric)
    unit = difference_unit(metric.unit)
    change, interval = _claim_text(g.claim, unit, brief)
    verdict, word, unfair = g.verdict, g.claim.word, ""
    if g.mismatches:
        named = {c.key: c for c in brief.kind.brief.conditions}
        differ = mismatch_words(g.mismatches, named, brief)
        if g.corrected:
            unfair = f"Corrected for sun and air ({differ}); as read it was {change}."
            change, interval = _claim_text(g.corrected, unit, brief)
            verdict, word = g.corrected_verdict, g.corrected.word
        else:
            unfair, word = f"Not the same conditions: {differ}.", "not comparable"
    return GainRow(
        teams[g.team],
        g.before,
        g.after,
        verdict,
        word,
        change,
        interval,
        g.claim.why,
        tuple(c.sentence for c in g.changes),
        g.cause.sentence,
        unfair,
        tuple(_bound_text(b, brief) for b in g.bounds),
        f"With an idea from {teams[idea].name}." if (idea := ideas.get((g.team, g.after), "")) else "",
    )


def lead_sentence(found: Findings, teams: dict[str, Team], brief: Brief) -> str:
    """One sentence on how sure the first place is."""
    if not found.places:
        return "No build has a score under this rule yet."
    first = [p for p in found.places if p.place == 1]
    names = [teams[p.key].name for p in first]
    if len(first) > 1:
        return f"{', '.join(names[:-1])} and {names[-1]} share first place: too close to call."
    if found.lead is None and len(found.places) > 1:
        return f"{names[0]} comes first: its interval lies clear of the next."
    if found.lead is None:
        return f"{names[0]} alone has a score."
    second = teams[found.places[1].key].name
    lead = brief.setting.write(abs(found.lead.difference), 1)
    word = {"clear": "clear", "leaning": "leaning, not sure", "too close to call": "too close"}
    return f"{names[0]} leads {second} by {lead}: {word[found.lead.word]}."


def firmness_sentence(found: Findings, teams: dict[str, Team], brief: Brief) -> str:
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
    return f"If {name} counted {share} {way}, {teams[weight.winner].name} would win."
