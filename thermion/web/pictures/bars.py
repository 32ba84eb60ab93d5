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


def reach_of(figure: Figure, metric: Metric, brief: Brief) -> list[float]:
    """The numbers of a figure that the picture must have room for."""
    ends = _ends(figure, metric, brief)
    return [] if ends is None else [x for x in ends if x is not None]


def half_width_of(figure: Figure, metric: Metric, brief: Brief) -> float:
    """Two standard uncertainties in the class's unit."""
    show = brief.setting.from_si
    return 2 * (show(figure.se, metric.unit) - show(0.0, metric.unit)) if figure.se else 0.0


class ValueAxis:
    """Values along the bottom; a little room is left for open ends."""

    def __init__(self, values: Sequence[float], steps: int = 8) -> None:
        low, high = min([0.0, *values]), max([*values, 1e-9])
        ticks = nice_ticks(low, high + 0.04 * (high - low), steps)
        self.low, self.high = ticks[0], ticks[-1]
        self.scale = (WIDTH - LEFT - RIGHT) / (self.high - self.low)
        self.ticks = tuple(Tick(self.x(t), f"{t:g}".replace("-", "−")) for t in ticks)

    def x(self, value: float) -> float:
        return LEFT + (value - self.low) * self.scale


@dataclass(frozen=True)
class _Control:
    """What bars are held against, as it was for each of them."""

    metric: Metric | None
    figures: Sequence[Figure]

    @property
    def common(self) -> bool:
        """The same for all, so that it is drawn once, across all rows."""
        return bool(self.figures) and all(_same(f, self.figures[0]) for f in self.figures)

    @property
    def inside(self) -> list[Metric]:
        """A bar more in each row, where it differs."""
        return [self.metric] if self.metric is not None and not self.common else []

    def reach(self, brief: Brief) -> list[float]:
        if self.metric is None:
            return []
        return [x for f in self.figures for x in reach_of(f, self.metric, brief)]


def bars(
    shown: Sequence[BuildFigures], picture: Picture, teams: Mapping[int, Team], brief: Brief
) -> BarChart | None:
    """Each metric as a bar; the control across all, or in each row where it differs."""
    metrics = [brief.kind.analysis.metric(key) for key in picture.metrics]
    stacked = picture.form == "stack"
    control = _Control(
        brief.kind.analysis.metric(picture.against) if picture.against else None,
        [s.figures.get(picture.against, Figure()) for s in shown],
    )
    values = control.reach(brief)
    for s in shown:
        values += _lengths(s, metrics, brief, stacked=stacked)
    if not shown or not values:
        return None
    axis = ValueAxis(values)
    tones = [*(f"b-{tone}" for tone in picture.tones[: len(metrics)]), "b-control"]
    named: list[tuple[str, str]] = []
    if len(metrics) > 1:
        named = list(zip(tones, picture.labels or [m.label for m in metrics], strict=False))
    legend = _legend(named, control.inside)
    band, band_label = None, ""
    if control.metric is not None and control.common:
        band = _band(control.figures[0], control.metric, axis, brief)
        band_label = f"{control.metric.label}: {figure_words(control.figures[0], control.metric, brief)}"
    top = FIRST + LINE * (bool(legend) + bool(band_label))
    beside = [*metrics, *control.inside]
    thick, height = _thickness(len(shown), 1 if stacked else len(beside))
    rows = []
    for i, s in enumerate(shown):
        y = top + i * height
        if stacked:
            made = _stack(s, metrics, tones, axis, y=y, height=height, brief=brief)
        else:
            made = _side_by_side(s, beside, tones, axis, y=y + GAP, thick=thick, brief=brief)
        rows.append(_row(s, teams, y + height / 2, made, "" if made else _why_none(s, metrics, brief)))
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


def _lengths(s: BuildFigures, metrics: Sequence[Metric], brief: Brief, *, stacked: bool) -> list[float]:
    """How far along the axis the bars of a row go."""
    ends = [max(reach_of(s.figures.get(m.key, Figure()), m, brief), default=0.0) for m in metrics]
    return [sum(ends)] if stacked else ends


def _thickness(rows: int, bars_each: int) -> tuple[float, float]:
    """How thick a bar is and how high a row, so that many still fit on a screen."""
    thick = min(18.0, max(9.0, 220.0 / max(rows * bars_each, 1)))
    return thick, max(LEAST_ROW, bars_each * thick + (bars_each - 1) * 2 + GAP * 2)


def _why_none(s: BuildFigures, metrics: Sequence[Metric], brief: Brief) -> str:
    reasons = (s.figures[m.key].reason for m in metrics if m.key in s.figures)
    return next((said(reason, brief.setting) for reason in reasons if reason), "not read")


def _legend(named: Sequence[tuple[str, str]], inside: Sequence[Metric]) -> tuple[tuple[str, str, float], ...]:
    """What each look stands for, side by side."""
    out, at = [], LEFT
    for tone, label in [*named, *(("b-control", m.label) for m in inside)]:
        out.append((tone, label, at))
        at += 34 + LETTER * len(label)
    return tuple(out)


def _band(control: Figure, metric: Metric, axis: ValueAxis, brief: Brief) -> tuple[float, float] | None:
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


def _side_by_side(
    s: BuildFigures,
    metrics: Sequence[Metric],
    tones: Sequence[str],
    axis: ValueAxis,
    *,
    y: float,
    thick: float,
    brief: Brief,
) -> tuple[Bar, ...]:
    out = []
    for k, metric in enumerate(metrics):
        made = _bar(s, metric, axis, y + k * (thick + 2), height=thick, tone=tones[k], brief=brief)
        if made is not None:
            out.append(made)
    return tuple(out)


def _bar(
    s: BuildFigures, metric: Metric, axis: ValueAxis, y: float, height: float, tone: str, brief: Brief
) -> Bar | None:
    figure = s.figures.get(metric.key, Figure())
    ends = _ends(figure, metric, brief)
    if ends is None:
        return None
    low, high = ends
    half = half_width_of(figure, metric, brief)
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
    axis: ValueAxis,
    *,
    y: float,
    height: float,
    brief: Brief,
) -> tuple[Bar, ...]:
    out = []
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
    return tuple(out)


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
