"""Pictures from data: drawings of builds, curves of runs and findings."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence

from flask import render_template

from thermion.core.judging.findings import Findings, Tried
from thermion.core.kinds.building import Drawing, Shape
from thermion.core.kinds.trials import Trace
from thermion.core.kinds.views import Picture
from thermion.core.physics.units import Setting
from thermion.core.plans import Plan
from thermion.records.planning.briefs import Brief
from thermion.records.tables import Entry, Reading, Team
from thermion.web.charts import WIDE, Chart, Line, curves, split_at_gaps


def drawing_svg(
    drawing: Drawing,
    *,
    chosen: str = "",
    changed: Iterable[str] = (),
    places: Sequence = (),
    handles: bool = False,
    before: Drawing | None = None,
) -> str:
    """The drawing as an SVG element.

    `changed` places and factors are marked, the outline of the version `before` stands behind,
    `places` can be pointed at, and `handles` can be pulled.
    """
    return render_template(
        "pictures/drawing.svg",
        drawing=drawing,
        chosen=chosen,
        changed=set(changed),
        places={p.key: p.label for p in places},
        handles=handles,
        ghosts=_ghosts(drawing, before) if before else (),
    )


def _ghosts(drawing: Drawing, before: Drawing) -> list[Shape]:
    """Outlines of an earlier version that are no longer where they were."""
    now = {(s.place, s.points) for s in drawing.shapes}
    return [s for s in before.shapes if s.kind == "polygon" and s.place and (s.place, s.points) not in now]


def plan_drawing(plan: Plan, brief: Brief) -> Drawing:
    return brief.kind.build.draw(plan, brief.rig())


def chart_svg(chart: Chart) -> str:
    return render_template("pictures/curves.svg", chart=chart)


def _offsets(brief: Brief) -> dict[str, float]:
    """Where each phase begins on a common axis [s]."""
    at, out = 0.0, {}
    for phase in brief.kind.test.phases:
        out[phase.key] = at
        marks = brief.marks.get(phase.key, ())
        at += marks[-1] if marks else 0.0
    out["end"] = at
    return out


def _line(
    label: str,
    name: str,
    team: Team | None,
    traces: Mapping[str, Trace],
    brief: Brief,
    fits: Mapping[str, tuple[Sequence[float], Sequence[float]]],
    faint: bool = False,
) -> Line:
    offsets, setting = _offsets(brief), brief.setting
    interval = brief.interval_s()
    stretches: list[tuple[tuple[float, float], ...]] = []
    fit: list[tuple[float, float]] = []
    read = brief.read_at(air=team is None)
    for phase, trace in traces.items():
        shift = offsets.get(phase, 0.0)
        shown = [setting.from_si(v, read.unit) for v in trace.value]
        stretches += split_at_gaps([t + shift for t in trace.time_s], shown, interval.get(phase))
        if phase in fits:
            times, values = fits[phase]
            fit += [
                ((t + shift) / 60, setting.from_si(v, read.unit)) for t, v in zip(times, values, strict=True)
            ]
    colour, shape = (team.colour, team.shape) if team else ("air", "circle")
    return Line(label, name, colour, shape, tuple(stretches), tuple(fit), faint)


def _chart(lines: Sequence[Line], brief: Brief, title: str, height: float) -> Chart:
    offsets, setting = _offsets(brief), brief.setting
    read = brief.read_at(air=False)
    level = brief.values.get(brief.kind.views.level)
    divides = [(offsets[p.key] / 60, p.label) for p in brief.kind.test.phases if brief.marks.get(p.key)]
    last = max((s[-1][0] for line in lines for s in line.stretches), default=0.0)
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


def run_chart(entries: Sequence[Entry], readings: Sequence[Reading], brief: Brief, height: float) -> Chart:
    """Curves of one run as read so far; marks not read are gaps."""
    by: dict[int, dict[str, tuple[list[float], list[float]]]] = {}
    for r in readings:
        if r.value is None:
            continue
        times, values = by.setdefault(r.entry_id, {}).setdefault(r.phase, ([], []))
        if not times or r.time_s > times[-1]:
            times.append(r.time_s)
            values.append(r.value)
    lines = []
    for entry in entries:
        if entry.version is None and brief.read_at(air=False).unit != "degC":
            continue  # another quantity than the builds'
        order = [p.key for p in brief.kind.test.phases]
        traces = {
            p: Trace(tuple(by[entry.id][p][0]), tuple(by[entry.id][p][1]))
            for p in order
            if p in by.get(entry.id, {})
        }
        team = entry.version.build.team if entry.version else None
        label = team.letter if team else "air"
        lines.append(_line(label, team.name if team else "Air", team, traces, brief, {}))
    return _chart(lines, brief, "Readings in this run", height)


def findings_chart(
    tried: Sequence[Tried], findings: Findings, teams: Mapping[str, Team], brief: Brief, only: str = ""
) -> Chart:
    """Latest version of each team in full, earlier ones faint; `only` keeps the letters given."""
    latest = {v.team: v.version for v in findings.versions}
    newest_run = {(t.team, t.version): t.run for t in tried}
    lines = []
    for t in tried:
        if (only and t.team not in only) or newest_run[t.team, t.version] != t.run:
            continue
        current = latest[t.team] == t.version
        if not current and not only:
            continue
        fits = findings.fitted[t.team, t.version, t.run].curves if current else {}
        label = f"{t.team}{t.version}" if t.version > 1 or only else t.team
        lines.append(
            _line(
                label,
                f"{teams[t.team].name}, version {t.version}",
                teams[t.team],
                t.trial.traces,
                brief,
                fits,
                faint=not current,
            )
        )
    return _chart(lines, brief, "Readings of all builds", WIDE)


def points_chart(
    tried: Sequence[Tried], picture: Picture, teams: Mapping[str, Team], brief: Brief, every: bool = False
) -> Chart:
    """Attempts of each build as points: what was read across, what follows from it upward.

    The line joins the best of each load; the label stands at the best tried of all. Newest
    versions, or `every` one.
    """
    read = next(r for r in brief.kind.test.reads if r.key == picture.read)
    metric, show = brief.kind.analysis.metric(picture.metrics[0]), brief.setting.from_si
    lines, far = [], 1.0
    newest = {t.team: t.version for t in tried}
    for t in tried:
        if not every and t.version != newest[t.team]:
            continue
        points, best = [], {}
        for a in t.trial.fair():
            up = brief.kind.views.point(a, t.trial.conditions)
            if up is None:
                continue
            x, y = show(a.values[read.key], read.unit), show(up, metric.unit)
            points.append((x, y))
            best[x] = max(best.get(x, 0.0), y)
            far = max(far, x)
        points.sort(key=lambda p: p[1])  # the best tried last: there the label stands
        label = f"{t.team}{t.version}" if t.version > 1 else t.team
        lines.append(
            Line(
                label,
                f"{teams[t.team].name}, version {t.version}",
                teams[t.team].colour,
                teams[t.team].shape,
                tuple((p,) for p in points),
                tuple(sorted(best.items())),
            )
        )
    unit = brief.setting.label(read.unit)
    return curves(
        lines,
        title=picture.label,
        x_end=far * 1.08,
        x_label=f"{read.label.lower()}, {unit}" if unit else read.label.lower(),
        y_label=f"{metric.label.lower()} ({brief.setting.label(metric.unit)})",
        from_zero=True,
    )


def figure_text(figure: object, unit: str, digits: int, setting: Setting) -> str:
    """A figure as a person reads it: value ± uncertainty, a bound, or a dash."""
    if figure is None:
        return "–"
    value = getattr(figure, "value", None)
    if value is None:
        low, high = getattr(figure, "at_least", None), getattr(figure, "at_most", None)
        if low is not None and high is not None:
            ends = (setting.show(x, unit, digits, unit=False) for x in (low, high))
            return "–".join(ends)
        if low is not None:
            return f"≥ {setting.show(low, unit, digits, unit=False)}"
        return f"≤ {setting.show(high, unit, digits, unit=False)}" if high is not None else "–"
    return setting.show(value, unit, digits, unit=False)
