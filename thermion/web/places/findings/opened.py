"""How a score came about, line by line: what was read, what was corrected, what the rule makes of it."""

from __future__ import annotations

from collections.abc import Sequence

from thermion.core.judging.findings import Findings, Tried, VersionFinding
from thermion.core.kinds.analysis import Metric
from thermion.core.kinds.briefing import RUNS, Choice
from thermion.core.kinds.schools import PASSED
from thermion.core.kinds.testing import Reads
from thermion.core.kinds.trials import Attempt, Trace
from thermion.core.values import Figure
from thermion.records.planning.briefs import Brief
from thermion.records.running.rig import Thermometers
from thermion.web.components.reasons import all_said
from thermion.web.pictures.figures import figure_words
from thermion.web.places.findings.scores import arithmetic, in_score, plain_score

FEW = 14  # readings that are written out
OF_RUNS = {"mean": "the mean", "best": "the best", "last": "the last"}


def opened(
    v: VersionFinding, tried: Sequence[Tried], found: Findings, glass: Thermometers, brief: Brief
) -> tuple[str, ...]:
    """The way from what was read of a build to its score."""
    mine = [t for t in tried if t.subject == v.subject]
    lines = [line for t in mine for line in _read(t, brief)]
    off = glass.off.get(v.subject.team_id, 0.0)
    if off and brief.kind.test.shape == "marks" and brief.read_at(air=False).unit == "degC":
        way = "high" if off > 0 else "low"
        size = brief.setting.show(abs(off), "delta_degC", 1)
        lines.append(f"Its thermometer read {size} too {way}: taken out of what it read.")
    lines += [f"{c.label} {dict(c.options)[brief.choices[c.key]]}." for c in _of_attempts(brief)]
    for term in v.score.terms:
        metric = brief.kind.analysis.metric(term.term.metric)
        lines += _figure(v, metric, found, brief)
    if v.score.total is not None:
        total = in_score(v.score.total, v.score, brief)
        sum_ = "" if plain_score(v.score) else f"{arithmetic(v.score, brief)} = "
        lines.append(f"Score: {sum_}{total}.")
    return tuple(lines)


def _of_attempts(brief: Brief) -> list[Choice]:
    """What of the attempts within one test counts, where the brief has a say in that."""
    return [c for c in brief.kind.brief.choices if c.scores and c.key != RUNS]


def _read(t: Tried, brief: Brief) -> list[str]:
    """What was read of a build in one run."""
    test = brief.kind.test
    if test.shape != "marks":
        reads = test.attempt_reads(brief.choices)
        tries = "; ".join(_attempt(a, reads, brief) for a in t.trial.attempts)
        return [f"Run {t.run}: {tries}."] if tries else []
    read, out = brief.read_at(air=False), []
    names = {
        test.trace_key(p.key, brief.choices, d): _phase(p.label, d, brief)
        for p in test.phases
        for d in (dict(test.devices) or {"": ""})
    }
    for key, trace in t.trial.traces.items():
        if key in names:
            out.append(f"Run {t.run}, {names[key]}: {_trace(trace, read, brief)}.")
    return out


def _phase(label: str, device: str, brief: Brief) -> str:
    return f"{dict(brief.kind.test.devices).get(device, '')} {label}".strip().lower()


def _trace(trace: Trace, read: Reads, brief: Brief) -> str:
    """A row's readings as on a sheet; of many only how many, and between what."""
    show, unit = brief.setting.show, brief.setting.label(read.unit)
    if len(trace.value) > FEW:
        ends = [show(x, read.unit, read.digits, unit=False) for x in (min(trace.value), max(trace.value))]
        return f"{len(trace.value)} readings, {ends[0]} to {ends[1]} {unit}".strip()
    if read.words:
        said = [
            f"{read.words[round(v)]} at {t / 60:.0f}" for t, v in zip(trace.time_s, trace.value, strict=True)
        ]
        return f"{', '.join(said)} min"
    values = ", ".join(show(v, read.unit, read.digits, unit=False) for v in trace.value)
    minutes = ", ".join(f"{t / 60:.0f}" for t in trace.time_s)
    return f"{values} {unit} at {minutes} min"


def _attempt(a: Attempt, reads: Sequence[Reads], brief: Brief) -> str:
    """One try as it was noted."""
    said = []
    for read in reads:
        if read.key not in a.values:
            continue
        value = a.values[read.key]
        if read.words:
            said.append(read.words[round(value)])
        elif any(read.things):
            said.append(f"{value:.0f} {read.things[0] if value == 1 else read.things[1]}")
        else:
            said.append(f"{read.label.lower()} {brief.setting.show(value, read.unit, read.digits)}")
    if len(a.trace.time_s) > 1:
        said.append(f"{len(a.trace.time_s)} readings of the probe")
    return ", ".join(said) + (" (held by hand: does not count)" if a.free else "")


def _figure(v: VersionFinding, metric: Metric, found: Findings, brief: Brief) -> list[str]:
    """A figure that the rule counts: from each run, and what of them counts."""
    if metric.key in ("units", "impact"):
        return []
    each = [(run, found.fitted[v.subject, run].figures.get(metric.key, Figure())) for run in v.runs]
    known = [(run, f) for run, f in each if f.value is not None or f.bounded]
    if metric.key == PASSED:
        reached = ", ".join(f"{'yes' if f.value else 'no'} in run {run}" for run, f in known)
        return [f"{metric.label}: {reached or 'not known'}."]
    figure = v.figures.get(metric.key, Figure())
    words = figure_words(figure, metric, brief)
    if len(known) < 2:
        return [f"{metric.label}: {words}{_notes(figure, brief)}."]
    runs = ", ".join(f"{figure_words(f, metric, brief)} in run {run}{_notes(f, brief)}" for run, f in known)
    return [f"{metric.label}: {runs}; {OF_RUNS[brief.choices[RUNS]]} counts: {words}."]


def _notes(figure: Figure, brief: Brief) -> str:
    return f" ({all_said(figure.notes, brief.setting)})" if figure.notes else ""
