"""Readings and attempts as charts: of a run so far, and of the findings."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from functools import lru_cache

from thermion.core.judging.findings import Findings, Tried
from thermion.core.kinds.analysis import Metric
from thermion.core.kinds.testing import Reads
from thermion.core.kinds.trials import Trace
from thermion.core.kinds.views import Picture
from thermion.core.physics.thinning import keep_extremes
from thermion.core.physics.units import Setting
from thermion.records.planning.briefs import Brief
from thermion.records.running.series import Series, Spot
from thermion.records.tables import Entry, Team
from thermion.web.pictures.curves import (
    MOST_DRAWN,
    MOST_POINTS,
    WIDE,
    Chart,
    CurveLine,
    Stretch,
    curves,
    split_at_gaps,
)


def _offsets(brief: Brief) -> dict[str, float]:
    """Where each phase begins on a common axis [s]."""
    at, out = 0.0, {}
    for phase in brief.kind.test.phases:
        out[phase.key] = at
        marks = brief.marks.get(phase.key, ())
        at += marks[-1] if marks else 0.0
    out["end"] = at
    return out


@lru_cache(maxsize=2048)
def _drawn(
    trace: Trace, interval_s: float | None, shift_s: float, setting: Setting, unit: str
) -> tuple[list[Stretch], list[Stretch]]:
    """A trace's stretches [min, class's unit]: with each reading, and a logger's thinned."""
    out: tuple[list[Stretch], list[Stretch]] = ([], [])
    for times, values in split_at_gaps(trace.time_s, trace.value, interval_s):
        many = len(times) > MOST_POINTS
        kept = keep_extremes(times, values, MOST_DRAWN) if many else range(len(times))
        shown = setting.series([values[i] for i in kept], unit)
        out[many].append(tuple(zip([(times[i] + shift_s) / 60.0 for i in kept], shown, strict=True)))
    return out


def _line(
    label: str,
    name: str,
    team: Team | None,
    traces: Mapping[str, Trace],
    brief: Brief,
    fits: Mapping[str, tuple[Sequence[float], Sequence[float]]],
    faint: bool = False,
) -> CurveLine:
    offsets, setting = _offsets(brief), brief.setting
    interval = brief.interval_s()
    stretches: list[Stretch] = []
    traced: list[Stretch] = []
    fit: list[tuple[float, float]] = []
    read = brief.read_at(air=team is None)
    for phase, trace in traces.items():
        shift = offsets.get(phase, 0.0)
        few, many = _drawn(trace, interval.get(phase), shift, setting, read.unit)
        stretches += few
        traced += many
        if phase in fits:
            times, values = fits[phase]
            fit += zip([(t + shift) / 60 for t in times], setting.series(values, read.unit), strict=True)
    colour, shape = (team.colour, team.shape) if team else ("air", "circle")
    return CurveLine(
        label=label,
        name=name,
        colour=colour,
        shape=shape,
        stretches=tuple(stretches),
        fit=tuple(fit),
        faint=faint,
        traced=tuple(traced),
    )


def _chart(lines: Sequence[CurveLine], brief: Brief, title: str, height: float) -> Chart:
    offsets, setting = _offsets(brief), brief.setting
    read = brief.read_at(air=False)
    level = brief.values.get(brief.kind.views.level)
    divides = [(offsets[p.key] / 60, p.label) for p in brief.kind.test.phases if brief.marks.get(p.key)]
    last = max((s[-1][0] for line in lines for s in (*line.stretches, *line.traced)), default=0.0)
    return curves(
        lines,
        title=title,
        y_label=f"{read.label.lower()} ({setting.label(read.unit)})",
        height=height,
        x_end=max(offsets["end"] / 60, last),
        level=None if level is None else setting.from_si(level, "degC"),
        level_text="" if level is None else f"level {setting.show(level, 'degC', 0)}",
        divides=divides,
    )


def run_chart(entries: Sequence[Entry], series: Mapping[Spot, Series], brief: Brief, height: float) -> Chart:
    """Curves of one run as read so far; marks not read are gaps."""
    order = [p.key for p in brief.kind.test.phases]
    lines = []
    for entry in entries:
        if entry.version is None and brief.read_at(air=False).unit != "degC":
            continue  # another quantity than the builds'
        traces = {p: series[entry.id, p].trace for p in order if (entry.id, p) in series}
        team = entry.version.build.team if entry.version else None
        label = team.letter if team else "air"
        lines.append(_line(label, team.name if team else "Air", team, traces, brief, {}))
    return _chart(lines, brief, "Readings in this run", height)


def findings_chart(
    tried: Sequence[Tried],
    findings: Findings,
    teams: Mapping[int, Team],
    brief: Brief,
    *,
    every: bool = False,
) -> Chart:
    """Latest version of each team in full; earlier ones faint, with `every` version."""
    latest = {v.subject for v in findings.latest().values()}
    newest_run = {t.subject: t.run for t in tried}
    lines = []
    for t in tried:
        current = t.subject in latest
        if newest_run[t.subject] != t.run or not (current or every):
            continue
        team, version = teams[t.subject.team_id], t.subject.version
        fits = findings.fitted[t.subject, t.run].curves if current else {}
        label = f"{team.letter}{version}" if version > 1 or every else team.letter
        name = f"{team.name}, version {version}"
        lines.append(_line(label, name, team, t.trial.traces, brief, fits, faint=not current))
    return _chart(lines, brief, "Readings of all builds", WIDE)


def points_chart(
    tried: Sequence[Tried], picture: Picture, teams: Mapping[int, Team], brief: Brief, *, every: bool = False
) -> Chart:
    """Attempts of each build as points: what was read across, what follows from it upward.

    The line joins the best of each load; the label stands at the best tried of all. Newest
    versions, or `every` one.
    """
    read = next(r for r in brief.kind.test.reads if r.key == picture.read)
    metric = brief.kind.analysis.metric(picture.metrics[0])
    newest = {t.subject.team_id: t.subject for t in tried}
    lines, far = [], 1.0
    for t in tried:
        if not every and t.subject != newest[t.subject.team_id]:
            continue
        points = _attempt_points(t, read, metric, brief)
        far = max([far, *(x for x, _ in points)])
        lines.append(_points_line(t, points, teams[t.subject.team_id]))
    unit = brief.setting.label(read.unit)
    return curves(
        lines,
        title=picture.label,
        x_end=far * 1.08,
        x_label=f"{read.label.lower()}, {unit}" if unit else read.label.lower(),
        y_label=f"{metric.label.lower()} ({brief.setting.label(metric.unit)})",
        from_zero=True,
    )


def _attempt_points(t: Tried, read: Reads, metric: Metric, brief: Brief) -> list[tuple[float, float]]:
    """What was read and what follows from it, of each fair attempt, the best last."""
    show, out = brief.setting.from_si, []
    for a in t.trial.fair():
        up = brief.kind.views.point(a, t.trial.conditions)
        if up is not None:
            out.append((show(a.values[read.key], read.unit), show(up, metric.unit)))
    return sorted(out, key=lambda p: p[1])


def _points_line(t: Tried, points: Sequence[tuple[float, float]], team: Team) -> CurveLine:
    best: dict[float, float] = {}
    for x, y in points:
        best[x] = max(best.get(x, 0.0), y)
    version = t.subject.version
    label = f"{team.letter}{version}" if version > 1 else team.letter
    stretches = tuple((p,) for p in points)
    name = f"{team.name}, version {version}"
    return CurveLine(
        label=label,
        name=name,
        colour=team.colour,
        shape=team.shape,
        stretches=stretches,
        fit=tuple(sorted(best.items())),
    )
