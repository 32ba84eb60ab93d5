"""Attempts of a test by turns laid out by result: a row for each build, a dot for each attempt."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from thermion.core.judging.findings import Tried
from thermion.core.kinds.views import Picture
from thermion.records.planning.briefs import Brief
from thermion.records.tables import Team
from thermion.web.components.shapes import marker_at
from thermion.web.pictures.curves import Tick, nice_ticks

WIDTH, RIGHT, TOP = 760.0, 30.0, 20.0


@dataclass(frozen=True, kw_only=True)
class Spaced:
    """Room for names, for a row, and how far below the frame the numbers and the words stand."""

    left: float
    row: float
    tick: float
    name: float
    ticks: int


DESK, BOARD = (
    Spaced(left=150.0, row=34.0, tick=20.0, name=42.0, ticks=8),
    Spaced(left=190.0, row=38.0, tick=32.0, name=64.0, ticks=5),
)


@dataclass(frozen=True, kw_only=True)
class AttemptDot:
    """An attempt: hollow when nothing moved, faint when it was hand-held."""

    x: float
    path: str
    hollow: bool
    faint: bool
    said: str


@dataclass(frozen=True)
class AttemptLine:
    y: float
    name: str
    colour: str
    dots: tuple[AttemptDot, ...]


@dataclass(frozen=True, kw_only=True)
class AttemptChart:
    title: str
    label: str
    rows: tuple[AttemptLine, ...]
    ticks: tuple[Tick, ...]
    foot: float
    spaced: Spaced = DESK
    width: float = WIDTH
    right: float = WIDTH - RIGHT

    @property
    def left(self) -> float:
        return self.spaced.left


def attempt_chart(
    tried: Sequence[Tried], picture: Picture, teams: Mapping[int, Team], brief: Brief, spaced: Spaced = DESK
) -> AttemptChart | None:
    """The picture, spaced for where it is looked at; None without attempts."""
    read = next((r for r in brief.kind.test.reads if r.key == picture.read), None)
    zero = next((r.key for r in brief.kind.test.reads if r.zero), "")
    if read is None or not any(t.trial.attempts for t in tried):
        return None
    show = brief.setting.from_si
    values = [show(a.values.get(read.key, 0.0), read.unit) for t in tried for a in t.trial.attempts]
    ticks = nice_ticks(0.0, max(values) or 1.0, spaced.ticks)
    scale = (WIDTH - spaced.left - RIGHT) / ticks[-1]
    rows = []
    for i, t in enumerate(tried):
        team, y = teams[t.subject.team_id], TOP + spaced.row * (i + 0.5)
        dots = []
        for k, a in enumerate(t.trial.attempts):
            value = show(a.values.get(read.key, 0.0), read.unit)
            x = spaced.left + value * scale
            path = marker_at(x, y + 6 * (k % 3 - 1), team.shape)
            dots.append(
                AttemptDot(
                    x=x,
                    path=path,
                    hollow=a.values.get(zero, 0.0) == 0,
                    faint=a.free,
                    said=f"{team.name}: {brief.setting.write(value, 1)}",
                )
            )
        number = t.subject.version
        version = f" {number}" if number > 1 else ""
        rows.append(AttemptLine(y, f"{team.name}{version}", team.colour, tuple(dots)))
    label = f"{read.label}, {brief.setting.label(read.unit)}".rstrip(", ")
    return AttemptChart(
        title=f"{read.label} of every attempt",
        label=label,
        rows=tuple(rows),
        ticks=tuple(Tick(spaced.left + x * scale, f"{x:g}") for x in ticks),
        foot=TOP + spaced.row * len(rows) + 6,
        spaced=spaced,
    )
