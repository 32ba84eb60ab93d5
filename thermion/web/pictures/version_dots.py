"""All versions of all builds by one figure: a row for a build, a dot with its whisker for a version."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from thermion.core.kinds.analysis import Metric
from thermion.core.values import Figure
from thermion.records.planning.briefs import Brief
from thermion.records.tables import Team
from thermion.web.components.shapes import marker_at
from thermion.web.pictures.bars import (
    FIRST,
    LEAST_ROW,
    LEFT,
    BarChart,
    BarRow,
    BuildFigures,
    Dot,
    ValueAxis,
    half_width_of,
    reach_of,
)
from thermion.web.pictures.figures import figure_words


def versions_chart(
    shown: Sequence[BuildFigures], metric: Metric, teams: Mapping[int, Team], brief: Brief
) -> BarChart | None:
    """One metric of all builds and of all versions of each: a row for a build, a mark a version."""
    by: dict[int, list[BuildFigures]] = {}
    for s in shown:
        by.setdefault(s.subject.team_id, []).append(s)
    values = [x for s in shown for x in _whiskered(s.figures.get(metric.key, Figure()), metric, brief)]
    if not values:
        return None
    axis = ValueAxis(values)
    height = max(LEAST_ROW, min(52.0, 320.0 / len(by)))
    rows = []
    for i, (team_id, mine) in enumerate(by.items()):
        y = FIRST + (i + 0.5) * height
        dots, note = _dots(mine, metric, axis, teams[team_id], y=y, height=height, brief=brief)
        trail = "L".join(f"{dot.x:.1f},{dot.y:.1f}" for dot in dots)
        rows.append(
            BarRow(
                y=y,
                name=teams[team_id].name,
                colour=teams[team_id].colour,
                dots=tuple(dots),
                trail=f"M{trail}" if len(dots) > 1 else "",
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


def _whiskered(figure: Figure, metric: Metric, brief: Brief) -> list[float]:
    """The numbers that a dot with its whisker needs room for; not below zero where the value is above."""
    half = half_width_of(figure, metric, brief)
    out = []
    for x in reach_of(figure, metric, brief):
        out += [x + half, x - half if x < 0 else x]
    return out


def _dots(
    mine: Sequence[BuildFigures],
    metric: Metric,
    axis: ValueAxis,
    team: Team,
    *,
    y: float,
    height: float,
    brief: Brief,
) -> tuple[list[Dot], str]:
    """A mark for each version of one build, a little lower for each; why one has none."""
    dots: list[Dot] = []
    note = ""
    apart = min(11.0, height / (len(mine) + 1))
    for s in mine:
        figure = s.figures.get(metric.key, Figure())
        words = f"version {s.subject.version}: {figure_words(figure, metric, brief)}"
        reach = reach_of(figure, metric, brief)
        if not reach:
            note = words
            continue
        x = axis.x(reach[-1])
        step = y + (len(dots) - (len(mine) - 1) / 2) * apart
        half = half_width_of(figure, metric, brief)
        whisker = (max(axis.x(reach[-1] - half), LEFT), axis.x(reach[-1] + half)) if half else None
        dots.append(
            Dot(
                x=x,
                y=step,
                path=marker_at(x, step, team.shape),
                label=f"{_bound_sign(figure)}{s.subject.version}",
                whisker=whisker,
                said=f"{team.name} {words}",
            )
        )
    return dots, note


def _bound_sign(figure: Figure) -> str:
    if figure.value is not None:
        return ""
    return "≥" if figure.at_least is not None else "≤"
