"""Who may be best: the typical try of each build with bars that can be compared by eye."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass

from thermion.core.judging.findings import Findings
from thermion.core.subjects import Subject
from thermion.records.tables import Team
from thermion.web.components.shapes import marker_at
from thermion.web.pictures.curves import nice_ticks

WIDTH, LEFT, RIGHT, FIRST = 760.0, 132.0, 28.0, 12.0
LEAST_ROW, MOST_ROW = 30.0, 46.0


_Scale = Callable[[float], float]


@dataclass(frozen=True, kw_only=True)
class StandingRow:
    """A build: its bar and mark in picture coordinates; None where there is none."""

    y: float
    name: str
    colour: str
    bar: tuple[float, float] | None
    mark: str
    fact: float | None
    open_low: bool
    open_high: bool
    may: str
    said: str


@dataclass(frozen=True, kw_only=True)
class StandingChart:
    """The picture: rows best first, and numbers along the bottom."""

    rows: tuple[StandingRow, ...]
    ticks: tuple[tuple[float, str], ...]
    foot: float
    label: str
    known: bool
    width: float = WIDTH
    left: float = LEFT
    right: float = WIDTH - RIGHT


@dataclass(frozen=True)
class _Reach:
    """What is known of a build, in the score's unit."""

    value: float | None
    low: float | None
    high: float | None
    fact: float | None


def standing_chart(
    found: Findings, teams: Mapping[int, Team], label: str, may: Mapping[Subject, str]
) -> StandingChart | None:
    """The newest versions in the order of their places; None where nothing has a number.

    `label` names the axis; `may` the places a build may have, in words.
    """
    latest = {v.subject: v for v in found.latest().values()}
    subjects = [p.key for p in found.places]
    widths = {} if found.score is None else found.score.bars([s for s in subjects if s in found.score])
    reach: dict[Subject, _Reach] = {}
    for placed in found.places:
        v, half = latest[placed.key], widths.get(placed.key)
        low, high = v.score.at_least, v.score.at_most
        if placed.value is not None and half is not None:
            low, high = max(placed.value - half, found.limits[0]), min(placed.value + half, found.limits[1])
        reach[placed.key] = _Reach(placed.value, low, high, v.score.total)
    numbers = [x for r in reach.values() for x in (r.value, r.low, r.high, r.fact) if x is not None]
    if not numbers:
        return None
    ticks = nice_ticks(min(numbers), max(*numbers, min(numbers) + 1e-6), 7)
    scale = (WIDTH - LEFT - RIGHT) / max(ticks[-1] - ticks[0], 1e-9)

    def x(value: float) -> float:
        return LEFT + (value - ticks[0]) * scale

    height = max(LEAST_ROW, min(MOST_ROW, 320.0 / len(reach)))
    rows = [
        _row(s, r, teams[s.team_id], FIRST + (i + 0.5) * height, x, may.get(s, ""))
        for i, (s, r) in enumerate(reach.items())
    ]
    known = any(r.bar is not None for r in rows)
    marks = tuple((x(t), f"{t:g}".replace("-", "−")) for t in ticks)
    return StandingChart(
        rows=tuple(rows), ticks=marks, foot=FIRST + len(rows) * height + 4, label=label, known=known
    )


def _row(subject: Subject, r: _Reach, team: Team, y: float, x: _Scale, may: str) -> StandingRow:
    bar = None
    if r.low is not None or r.high is not None:
        ends = LEFT if r.low is None else x(r.low), WIDTH - RIGHT if r.high is None else x(r.high)
        bar = (max(ends[0], LEFT), min(ends[1], WIDTH - RIGHT))
    mark = "" if r.value is None else marker_at(x(r.value), y, team.shape)
    fact = None if r.fact is None or (r.value is not None and abs(r.fact - r.value) < 1e-9) else x(r.fact)
    version = f" {subject.version}" if subject.version > 1 else ""
    return StandingRow(
        y=y,
        name=f"{team.name}{version}",
        colour=team.colour,
        bar=bar,
        mark=mark,
        fact=fact,
        open_low=r.low is None,
        open_high=r.high is None,
        may=may,
        said=may,
    )
