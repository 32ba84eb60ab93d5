"""Findings in words: scores with their arithmetic, figures, gains, materials, conclusions."""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

from thermion.core.judging.claims import Claim, Mismatch
from thermion.core.judging.effects import Effect
from thermion.core.judging.findings import BoundGain, Findings, Gain, VersionFinding
from thermion.core.kinds.analysis import Metric
from thermion.core.kinds.briefing import RUNS, Condition
from thermion.core.kinds.criteria import Criterion
from thermion.core.kinds.views import Picture
from thermion.core.physics.materials import MATERIALS
from thermion.core.planning.week import Timing
from thermion.core.reasons import Why
from thermion.core.subjects import Subject
from thermion.core.values import Figure
from thermion.records.judging.conclusions import LONGEST
from thermion.records.judging.criteria import JudgesMarks
from thermion.records.planning.briefs import Brief
from thermion.records.running.rig import AIR_NUMBER
from thermion.records.tables import Challenge, Run, Team
from thermion.web.components.reasons import all_said, said
from thermion.web.pictures.figures import figure_text, figure_words
from thermion.web.places.findings.claims import TONES, as_much, factor_between, is_factor, spanned
from thermion.web.places.findings.gain_words import GainRow, gain_said, gain_settle, gain_tone, sure_words
from thermion.web.places.findings.opened import OF_RUNS
from thermion.web.places.findings.scores import apart_words

Teams = Mapping[int, Team]  # by number
LEGENDS = {
    "as read": "what came out; nothing was tried twice, so how far a try may lie from the next is not known",
    "places": "● typical try and how far it may lie; ○ score by the rule",
    "curves": "dots: readings; line: best fit; gap: no reading",
    "attempts": "a mark for each attempt; hollow: nothing moved",
    "points": "a mark for each attempt; the name stands at the best tried",
    "bars": "a pale end: nobody watched longer, or sooner",
    "stack": "laid end to end",
    "versions": "numbers are versions; a whisker holds the true value 19 times in 20",
}


def legend(picture: Picture, brief: Brief) -> str:
    """What the looks of a picture of figures mean, and how often its bounds are false."""
    known = brief.kind.analysis.bounds_words
    return f"{LEGENDS[picture.form]}. {known}" if known else LEGENDS[picture.form]


@dataclass(frozen=True)
class FigureCell:
    """A figure, its uncertainty, and what is to be said of it."""

    text: str
    pm: str
    note: str


@dataclass(frozen=True, kw_only=True)
class FigureRow:
    """A version's figures."""

    team: Team
    version: int
    runs: str
    cells: tuple[FigureCell, ...]
    predicted: str
    missed: str


@dataclass(frozen=True, kw_only=True)
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


@dataclass(frozen=True)
class OtherRuns:
    """The way to rehearsals from real runs, and back."""

    label: str
    query: str


def other_runs(rehearsal: bool) -> OtherRuns:
    return OtherRuns("Real runs", "") if rehearsal else OtherRuns("Rehearsals", "rehearsal=1")


def apart_lines(runs: Sequence[Run]) -> list[str]:
    """What is shown and kept but does not count, and why."""
    out = []
    for run in runs:
        names = {e.id: e.version.build.team.name if e.version else "the air" for e in run.entries}
        for a in run.aparts:
            if a.undone_at is not None:
                continue
            what = (
                f"Run {run.number}"
                if a.entry_id is None
                else f"{names.get(a.entry_id, '')} in run {run.number}"
            )
            after = f", after minute {a.after_s / 60:.3g}" if a.phase and a.after_s is not None else ""
            out.append(f"{what}{after}: {a.why}")
    return out


def beside_lines(found: Findings, teams: Teams, brief: Brief) -> list[str]:
    """What may be said of newest versions against the control beside them."""
    if found.beside and all(b.claim.word == "not known" for b in found.beside):
        return ["Nothing was tried twice, so whether a device would beat the control again is not known."]
    out = []
    for b in found.beside:
        metric = brief.kind.analysis.metric(b.metric)
        way = "sooner" if b.value < 1 else "later"
        sure = sure_words(way, b.claim.word)
        label = f"{metric.label[0].lower()}{metric.label[1:]}"
        number = brief.setting.write(b.value, metric.digits)
        out.append(f"{teams[b.subject.team_id].name} {b.subject.version}, {label}: {number} ({sure}).")
    return out


def helped(ideas: Mapping[Subject, Team]) -> str:
    """Whose ideas helped others, to be said aloud."""
    count = Counter(team.name for team in ideas.values())
    said = [f"{name} ({n})" if n > 1 else name for name, n in count.most_common()]
    return f"Ideas that helped others came from {', '.join(said)}." if said else ""


def effect_row(e: Effect[Subject], teams: Teams, brief: Brief) -> EffectRow:
    metric = brief.kind.analysis.headline_for(brief.choices)[0]
    change, interval = _claim_text(e.claim, metric, brief)
    return EffectRow(
        names=" and ".join(MATERIALS[m].name for m in e.materials),
        change=change,
        interval=interval,
        word=e.claim.word,
        tone=TONES[e.claim.word],
        said=sure_words(e.verdict, e.claim.word),
        used_by=tuple(teams[subject.team_id] for subject in e.used_by),
        caution=e.caution,
    )


def suggested(
    gains: Sequence[GainRow], effects: Sequence[EffectRow], found: Findings, teams: Teams, brief: Brief
) -> list[str]:
    """Sentences that follow from the findings, to be chosen, changed or left."""
    metric = brief.kind.analysis.headline_for(brief.choices)[0]
    out = [_of_the_leader(found, teams, metric, brief)]
    for g in gains:
        if len(g.changes) == 1 and g.word in SAID and g.verdict != "changed":
            out.append(f"{g.changes[0]}: {g.said}, {g.change}.")
    for e in effects:
        if e.word in SAID:
            out.append(
                f"Builds with {e.names.lower()}: {metric.label.lower()} {e.change} ({e.said}, a hint)."
            )
    return [x for x in dict.fromkeys(out) if x and len(x) <= LONGEST][:5]


SAID = ("clear", "leaning")  # of which a class may say that it is so


def _of_the_leader(found: Findings, teams: Teams, metric: Metric, brief: Brief) -> str:
    """Who came first, with what; nothing where two did, the test goes on, or it leans on a doubtful try."""
    leaders = [subject for subject, place in found.facts.items() if place == 1]
    doubted = {t.subject for t in found.score.strange} if found.score else set()
    if len(leaders) != 1 or found.still_on or leaders[0] in doubted:
        return ""
    v = found.latest()[leaders[0].team_id]
    words = figure_words(v.figures.get(metric.key, Figure()), metric, brief)
    names = ", ".join(MATERIALS[m].name.lower() for m in found.used.get(v.subject, ())[:4])
    sure = any(p.key == v.subject and p.sole_first for p in found.places)
    how = "came first and would very likely again" if sure else "came first"
    return f"{teams[v.subject.team_id].name}'s build {how} ({metric.label.lower()}: {words}) with {names}."


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


def figure_row(v: VersionFinding, teams: Teams, metrics: Sequence[Metric], brief: Brief) -> FigureRow:
    cells = tuple(_cell(v.figures.get(m.key, Figure(reason=Why.NOT_READ)), m, brief) for m in metrics)
    predicted = brief.setting.show(v.prediction, brief.kind.analysis.prediction_for(brief.choices).unit, 0)
    runs = ", ".join(map(str, v.runs))
    return FigureRow(
        team=teams[v.subject.team_id],
        version=v.subject.version,
        runs=runs,
        cells=cells,
        predicted=predicted,
        missed=", ".join(v.missed),
    )


def _cell(figure: Figure, metric: Metric, brief: Brief) -> FigureCell:
    pm = ""
    if figure.half_width:
        show = brief.setting.from_si
        size = show(figure.half_width, metric.unit) - show(0.0, metric.unit)
        pm = f"± {brief.setting.write(size, metric.digits)}"
    note = said(figure.reason, brief.setting) or all_said(figure.notes, brief.setting)
    return FigureCell(figure_text(figure, metric, brief), pm, note)


def _signed(value: float, metric: Metric, brief: Brief) -> str:
    text = apart_words(value, metric, brief)
    return text if value < 0 else f"+{text}"


def _claim_text(claim: Claim, metric: Metric, brief: Brief) -> tuple[str, str]:
    """A difference, and its interval where it has one; as a factor where that is large."""
    if claim.times is not None and is_factor(claim):
        return as_much(claim.times), f"95 %: {factor_between(claim.times)}"
    size = _signed(claim.difference, metric, brief)
    if claim.low is None or claim.high is None:
        return size, ""
    ends = spanned(_signed(claim.low, metric, brief), _signed(claim.high, metric, brief))
    return size, f"95 %: {ends}"


def _bound_text(b: BoundGain, brief: Brief) -> str:
    """“Slow one …: 12 to 14 min, before 8 to 10 min.” What was seen; nothing is claimed of it."""
    metric = brief.kind.analysis.metric(b.metric)
    now, was = (figure_words(f, metric, brief) for f in (b.after, b.before))
    said = f"{metric.label}: {now}, before {was}"
    if b.good is not None:
        return f"{said}."
    between = all(f.at_least is not None and f.at_most is not None for f in (b.after, b.before))
    return (
        f"{said}: {'within one check' if between else 'nobody watched longer, so which is better is open'}."
    )


def _gain_heading(g: Gain, metric: Metric, teams: Teams, brief: Brief) -> str:
    said = f"{teams[g.after.team_id].name}: version {g.after.version} against {g.before.version}"
    several = len(brief.kind.analysis.claimed_for(brief.choices)) > 1
    return f"{said}, {metric.label[0].lower()}{metric.label[1:]}" if several else said


def gain_row(g: Gain, teams: Teams, brief: Brief, ideas: Mapping[Subject, Team], timing: Timing) -> GainRow:
    """A version against the one before, with how sure, and its cause."""
    metric = brief.kind.analysis.metric(g.metric)
    change, interval = "", ""
    if g.claim.word != "not known" or g.claim.why is not Why.ONLY_BOUNDS:
        change, interval = _claim_text(g.claim, metric, brief)
    idea = ideas.get(g.after)
    return GainRow(
        team=teams[g.after.team_id],
        heading=_gain_heading(g, metric, teams, brief),
        change=change,
        said=gain_said(g),
        tone=gain_tone(g),
        interval=interval,
        changes=tuple(c.sentence for c in g.changes),
        cause="" if g.how == "not comparable" else g.cause.sentence,  # the chip and the next step say why
        settle=gain_settle(g, teams, brief, timing),
        bounds=tuple(_bound_text(b, brief) for b in g.bounds),
        idea=f"With an idea from {idea.name}." if idea is not None else "",
        word=g.claim.word,
        verdict=g.verdict,
    )


def firmness_sentence(found: Findings, teams: Teams, brief: Brief) -> str:
    weight = found.firmness
    if weight.term is None or weight.change is None or weight.winner is None:
        return ""
    if len(found.versions[0].score.terms) == 1:  # one term alone cannot be outweighed
        return ""
    term = found.versions[0].score.terms[weight.term].term
    name = brief.kind.analysis.metric(term.metric).label.lower()
    if weight.change <= -1 or weight.change > 3:
        return "No small change of the rule would change who comes first."
    far = "far " if abs(weight.change) > 0.5 else "a little " if abs(weight.change) < 0.15 else ""
    much = f"{far}{'less' if weight.change < 0 else 'more'}"
    return f"If “{name}” counted {much}, {teams[weight.winner.team_id].name} would come first."


def unfair(found: Findings, brief: Brief) -> str:
    """Which runs are not alike, in what, and what is done about it."""
    if not found.unfair:
        return ""
    named = {c.key: c for c in brief.kind.brief.settings(brief.choices)}
    said = " ".join(
        f"Run {w.run_a} and run {w.run_b}: {mismatch_words(w.mismatches, named, brief)}."
        for w in found.unfair
    )
    follows = (
        "What is claimed below has that taken out; the scores are what came out."
        if found.places_fair
        else "Places between builds of different runs are left open; the scores are what came out."
    )
    return f"Not all runs are alike. {said} {follows}"


PLAIN_PLACES = "Place: what happened today. May be: where we could land if we did it all again."


def plain_unfair(found: Findings, brief: Brief) -> str:
    """For the young: what was not the same, without its numbers."""
    named = {c.key: c.label.lower() for c in brief.kind.brief.settings(brief.choices)}
    other = dict.fromkeys(named[m.key] for w in found.unfair for m in w.mismatches if m.key in named)
    return f"Not all tests were alike: {', '.join(other)}." if other else ""


def plain_gain(row: GainRow) -> GainRow:
    """For the young: better or not, the one thing that was changed, whose idea it was."""
    several = "Several things were changed, so we cannot tell which one did it."
    changes = row.changes if len(row.changes) < 2 else (several,)
    return replace(row, change="", interval="", cause="", settle="", bounds=(), changes=changes)


def heading(rehearsal: bool) -> str:
    return "Rehearsed: who did what?" if rehearsal else "Who did what, and how sure are we?"


def over_runs(found: Findings, brief: Brief) -> str:
    """What of several runs of a version counts, said once, where there are several."""
    notes = [n for v in found.latest().values() for f in v.figures.values() for n in f.notes]
    common = (
        "Times are brought to the start that all have in common. "
        if any(n.why is Why.FROM_OWN_START for n in notes)
        else ""
    )
    if all(len(v.runs) < 2 for v in found.latest().values()):
        return common.strip()
    return f"{common}Of a version's several tests {OF_RUNS[brief.choices[RUNS]]} counts."


def about_places(firmness: str, runs: str = "") -> str:
    said = (
        "Score: what came out by the class's rule. May be: where the team could land if you did it all again."
    )
    return " ".join(x for x in (runs, said, firmness) if x)


def about_figures(notes: Sequence[str]) -> str:
    said = "± (95 %) is how well a figure was read, not how much a try varies. ≥ and ≤ are bounds."
    return " ".join((said, *notes))


def about_effects(metric: Metric) -> str:
    return (
        f"{metric.label}: builds with this material against builds without it (latest versions). "
        "Many materials are compared, so each interval is wider."
    )


def column(metric: Metric, brief: Brief) -> str:
    unit = brief.setting.label(metric.unit)
    return f"{metric.label} ({unit})" if unit else metric.label


def agreed(made: Criterion, values: Sequence[float], brief: Brief) -> str:
    """What all judges say together; how well two of them agree is part of how sure it is."""
    if len(values) < 2:
        return ""
    mean = brief.setting.show(sum(values) / len(values), made.unit, 1 if made.judged else 2)
    return f"{len(values)} judges: {mean}"


def judging(criteria: Sequence[Criterion], said: JudgesMarks, version_ids: Sequence[int]) -> str:
    """The key to judging, with how much of it is done; nothing where nothing is judged."""
    if not criteria:
        return ""
    done = sum(all(said.of(v, c.key) for c in criteria) for v in version_ids)
    return f"Judge: {done} of {len(version_ids)} done"
