"""Pictures of figures: bars with open ends, stacks, and versions of a build beside each other."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from flask import render_template
from sqlalchemy.orm import Session

from thermion.core.kinds.analysis import Metric
from thermion.core.kinds.views import Picture
from thermion.core.subjects import Subject
from thermion.core.values import Figure
from thermion.records.judging.evidence import run_figures
from thermion.records.planning.briefs import Brief
from thermion.records.tables import Run, Team
from thermion.web.components.reasons import said
from thermion.web.components.shapes import marker_at
from thermion.web.pictures.curves import Tick, nice_ticks
from thermion.web.pictures.figures import figure_words

WIDTH, LEFT, RIGHT = 760.0, 150.0, 40.0
LINE, FIRST = 22.0, 10.0  # a line of words above the bars, and room before the first bar
LETTER = 8.2  # width of a letter of a legend, on average
LEAST_ROW, GAP = 34.0, 5.0


@dataclass(frozen=True)
class BuildFigures:
    """One version as a row, with its figures."""

    subject: Subject
    figures: Mapping[str, Figure]
    caption: str = ""


@dataclass(frozen=True, kw_only=True)
class Bar:
    """A bar from `x0` to `x1`; open ends go on; `whisker` is two standard uncertainties."""

    x0: float
    x1: float
    y: float
    height: float
    tone: str
    open_low: bool = False
    open_high: bool = False
    whisker: tuple[float, float] | None = None
    said: str = ""


@dataclass(frozen=True, kw_only=True)
class Dot:
    """A version's value, with its whisker; `label` stands beside it."""

    x: float
    y: float
    path: str
    label: str
    whisker: tuple[float, float] | None
    said: str


@dataclass(frozen=True, kw_only=True)
class BarRow:
    y: float
    name: str
    colour: str
    bars: tuple[Bar, ...] = ()
    dots: tuple[Dot, ...] = ()
    trail: str = ""
    note: str = ""
    caption: str = ""


@dataclass(frozen=True, kw_only=True)
class BarChart:
    title: str
    label: str
    rows: tuple[BarRow, ...]
    ticks: tuple[Tick, ...]
    foot: float
    legend: tuple[tuple[str, str, float], ...] = ()  # tone, words, where they stand
    top: float = 26.0
    against: tuple[float, float] | None = None
    against_label: str = ""
    width: float = WIDTH
    left: float = LEFT
    right: float = WIDTH - RIGHT


def _ends(figure: Figure, metric: Metric, brief: Brief) -> tuple[float, float | None] | None:
    """Where a figure's bar begins and ends in the class's unit; None for an open end."""
    show = brief.setting.from_si
    if figure.value is not None:
        return 0.0, show(figure.value, metric.unit)
    if figure.at_least is None and figure.at_most is None:
        return None
    low = 0.0 if figure.at_least is None else show(figure.at_least, metric.unit)
    return low, None if figure.at_most is None else show(figure.at_most, metric.unit)


def _reach(figure: Figure, metric: Metric, brief: Brief) -> list[float]:
    """The numbers of a figure that the picture must have room for."""
    ends = _ends(figure, metric, brief)
    return [] if ends is None else [x for x in ends if x is not None]


def _half_width(figure: Figure, metric: Metric, brief: Brief) -> float:
    """Two standard uncertainties in the class's unit."""
    show = brief.setting.from_si
    return 2 * (show(figure.se, metric.unit) - show(0.0, metric.unit)) if figure.se else 0.0


class _Axis:
    """Values along the bottom; a little room is left for open ends."""

    def __init__(self, values: Sequence[float], steps: int = 8) -> None:
        low, high = min([0.0, *values]), max([*values, 1e-9])
        ticks = nice_ticks(low, high + 0.04 * (high - low), steps)
        self.low, self.high = ticks[0], ticks[-1]
        self.scale = (WIDTH - LEFT - RIGHT) / (self.high - self.low)
        self.ticks = tuple(Tick(self.x(t), f"{t:g}".replace("-", "−")) for t in ticks)

    def x(self, value: float) -> float:
        return LEFT + (value - self.low) * self.scale


def bars(
    shown: Sequence[BuildFigures], picture: Picture, teams: Mapping[int, Team], brief: Brief
) -> BarChart | None:
    """Each metric as a bar; the control across all, or in each row where it differs."""
    metrics = [brief.kind.analysis.metric(key) for key in picture.metrics]
    tones = [*(f"b-{tone}" for tone in picture.tones[: len(metrics)]), "b-control"]
    against = brief.kind.analysis.metric(picture.against) if picture.against else None
    stacked = picture.form == "stack"
    controls = [s.figures.get(picture.against, Figure()) for s in shown]
    common = bool(controls) and all(_same(c, controls[0]) for c in controls)
    inside = [against] if against is not None and not common else []
    values: list[float] = []
    for s in shown:
        each = [_reach(s.figures.get(m.key, Figure()), m, brief) for m in metrics]
        ends = [max(e, default=0.0) for e in each]
        values += [sum(ends)] if stacked else ends
    if against is not None:
        values += [v for c in controls for v in _reach(c, against, brief)]
    if not shown or not values:
        return None
    axis = _Axis(values)
    legend = _legend(
        [*zip(tones, picture.labels or [m.label for m in metrics], strict=False)] if metrics[1:] else [],
        inside,
    )
    band, band_label = None, ""
    if against is not None and common:
        band = _band(controls[0], against, axis, brief)
        band_label = f"{against.label}: {figure_words(controls[0], against, brief)}"
    top = FIRST + LINE * (bool(legend) + bool(band_label))
    count = 1 if stacked else len(metrics) + len(inside)
    thick = min(18.0, max(9.0, 220.0 / max(len(shown) * count, 1)))
    height = max(LEAST_ROW, count * thick + (count - 1) * 2 + GAP * 2)
    rows = []
    for i, s in enumerate(shown):
        y = top + i * height
        made = (
            _stack(s, metrics, tones, axis, y=y, height=height, brief=brief)
            if stacked
            else [
                _bar(s, m, axis, y + GAP + k * (thick + 2), height=thick, tone=tones[k], brief=brief)
                for k, m in enumerate([*metrics, *inside])
            ]
        )
        reasons = {s.figures[m.key].reason for m in metrics if m.key in s.figures}
        there = [b for b in made if b is not None]
        note = "" if there else next((said(r, brief.setting) for r in reasons if r), "not read")
        rows.append(_row(s, teams, y + height / 2, tuple(there), note))
    unit = brief.setting.label(metrics[0].unit)
    name = metrics[0].label if len(metrics) == 1 else picture.label
    return BarChart(
        title=picture.label,
        label=f"{name}, {unit}" if unit else name,
        rows=tuple(rows),
        ticks=axis.ticks,
        foot=top + len(shown) * height + 4,
        legend=legend,
        top=top - 6,
        against=band,
        against_label=band_label,
    )


def _legend(named: Sequence[tuple[str, str]], inside: Sequence[Metric]) -> tuple[tuple[str, str, float], ...]:
    """What each look stands for, side by side."""
    out, at = [], LEFT
    for tone, label in [*named, *(("b-control", m.label) for m in inside)]:
        out.append((tone, label, at))
        at += 34 + LETTER * len(label)
    return tuple(out)


def _band(control: Figure, metric: Metric, axis: _Axis, brief: Brief) -> tuple[float, float] | None:
    """Where the control's time lies, across all rows."""
    ends = _ends(control, metric, brief)
    if ends is None:
        return None
    low = ends[0] if control.value is None else ends[1] or 0.0
    return axis.x(low), axis.x(ends[1]) if ends[1] is not None else WIDTH - RIGHT


def _same(a: Figure, b: Figure) -> bool:
    return (a.value, a.at_least, a.at_most) == (b.value, b.at_least, b.at_most)


def _row(s: BuildFigures, teams: Mapping[int, Team], y: float, made: tuple[Bar, ...], note: str) -> BarRow:
    number = s.subject.version
    version = f" {number}" if number > 1 else ""
    team = teams[s.subject.team_id]
    return BarRow(
        y=y, name=f"{team.name}{version}", colour=team.colour, bars=made, note=note, caption=s.caption
    )


def _bar(
    s: BuildFigures, metric: Metric, axis: _Axis, y: float, height: float, tone: str, brief: Brief
) -> Bar | None:
    figure = s.figures.get(metric.key, Figure())
    ends = _ends(figure, metric, brief)
    if ends is None:
        return None
    low, high = ends
    half = _half_width(figure, metric, brief)
    whisker = None
    if half and high is not None:
        whisker = (axis.x(max(high - half, axis.low)), min(axis.x(high + half), WIDTH - 8))
    bound = figure.value is None
    return Bar(
        x0=axis.x(low),
        x1=WIDTH - RIGHT + 16 if high is None else axis.x(high),
        y=y,
        height=height,
        tone=tone,
        open_low=bound and figure.at_least is None,
        open_high=high is None,
        whisker=whisker,
        said=f"{metric.label}: {figure_words(figure, metric, brief)}",
    )


def _stack(
    s: BuildFigures,
    metrics: Sequence[Metric],
    tones: Sequence[str],
    axis: _Axis,
    y: float,
    height: float,
    brief: Brief,
) -> list[Bar | None]:
    out: list[Bar | None] = []
    at = 0.0
    for k, m in enumerate(metrics):
        figure = s.figures.get(m.key, Figure())
        if figure.value is None:
            continue
        size = max(brief.setting.from_si(figure.value, m.unit), 0.0)
        out.append(
            Bar(
                x0=axis.x(at),
                x1=axis.x(at + size),
                y=y + GAP,
                height=height - 2 * GAP,
                tone=tones[k],
                said=f"{m.label}: {figure_words(figure, m, brief)}",
            )
        )
        at += size
    return out


def versions_chart(
    shown: Sequence[BuildFigures], metric: Metric, teams: Mapping[int, Team], brief: Brief
) -> BarChart | None:
    """One metric of all builds and of all versions of each: a row for a build, a mark a version."""
    by: dict[int, list[BuildFigures]] = {}
    for s in shown:
        by.setdefault(s.subject.team_id, []).append(s)
    values = []
    for s in shown:
        figure = s.figures.get(metric.key, Figure())
        half = _half_width(figure, metric, brief)
        for x in _reach(figure, metric, brief):
            values += [x + half, x - half if x < half and x < 0 else x]
    if not values:
        return None
    axis = _Axis(values)
    height = max(LEAST_ROW, min(52.0, 320.0 / len(by)))
    rows = []
    for i, (team_id, mine) in enumerate(by.items()):
        y, note = FIRST + (i + 0.5) * height, ""
        dots: list[Dot] = []
        trail: list[str] = []
        for s in mine:
            figure = s.figures.get(metric.key, Figure())
            words = figure_words(figure, metric, brief)
            reach = _reach(figure, metric, brief)
            if not reach:
                note = f"version {s.subject.version}: {words}"
                continue
            x = axis.x(reach[-1])
            step = y + (len(dots) - (len(mine) - 1) / 2) * min(11.0, height / (len(mine) + 1))
            half = _half_width(figure, metric, brief)
            low = max(axis.x(reach[-1] - half), LEFT)
            whisker = (low, axis.x(reach[-1] + half)) if half else None
            sign = "" if figure.value is not None else ("≥" if figure.at_least is not None else "≤")
            dots.append(
                Dot(
                    x=x,
                    y=step,
                    path=marker_at(x, step, teams[team_id].shape),
                    label=f"{sign}{s.subject.version}",
                    whisker=whisker,
                    said=f"{teams[team_id].name} version {s.subject.version}: {words}",
                )
            )
            trail.append(f"{x:.1f},{step:.1f}")
        path = "M" + "L".join(trail) if len(trail) > 1 else ""
        rows.append(
            BarRow(
                y=y,
                name=teams[team_id].name,
                colour=teams[team_id].colour,
                bars=(),
                dots=tuple(dots),
                trail=path,
                note=note,
            )
        )
    unit = brief.setting.label(metric.unit)
    return BarChart(
        title=f"{metric.label} of all versions",
        label=f"{metric.label}, {unit}".rstrip(", "),
        rows=tuple(rows),
        ticks=axis.ticks,
        foot=FIRST + len(by) * height + 4,
        top=6.0,
    )


def bars_svg(chart: BarChart | None) -> str:
    return render_template("pictures/bars.svg", chart=chart) if chart else ""


def run_bars(session: Session, item: Run, brief: Brief) -> str:
    """The first picture of a family that is made of figures, for one run as read so far."""
    picture = next(p for p in brief.kind.views.pictures_for(brief.choices) if p.form in ("bars", "stack"))
    teams = {e.version.build.team_id: e.version.build.team for e in item.entries if e.version is not None}
    shown = [
        BuildFigures(t.subject, fitted.figures, brief.kind.build.caption(t.plan))
        for t, fitted in run_figures(session, item, brief)
    ]
    return bars_svg(bars(shown, picture, teams, brief))
