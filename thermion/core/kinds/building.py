"""What is built in a family: places for parts, factors, materials; how it is drawn and questioned."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from typing import Literal

from thermion.core.physics.materials import MATERIALS
from thermion.core.physics.units import convert, stored_unit
from thermion.core.plans import Part, Plan


@dataclass(frozen=True)
class PartPlace:
    """Where a part can go, what it does there, and which materials most teams would try."""

    key: str
    label: str
    job: str
    usual: tuple[str, ...] = ()


@dataclass(frozen=True, kw_only=True)
class Factor:
    """A dimension or angle of a build, set by pointing."""

    key: str
    label: str
    unit: str
    default: float
    low: float
    high: float
    step: float

    def si(self, field: Literal["default", "low", "high", "step"]) -> float:
        """That number in the stored unit."""
        return convert(getattr(self, field), self.unit, stored_unit(self.unit))


Point = tuple[float, float]


@dataclass(frozen=True, kw_only=True)
class Shape:
    """A polygon, line or word of a drawing in mm, y upward, with what it is.

    `place` is what a click on it selects; `tone` names its look, `form` how its sheet is used
    (crumpled, shredded …); `label` is read aloud.
    """

    kind: Literal["polygon", "line", "text"]
    points: tuple[Point, ...]
    tone: str
    place: str = ""
    label: str = ""
    form: str = ""


@dataclass(frozen=True, kw_only=True)
class Handle:
    """A point of a drawing by which a factor is set: where it is, and how it moves.

    `at` [mm] is where it stands now, `step` [mm] by how much it moves for one more of the
    factor's shown unit; with `about` [mm] it turns about that point instead, `turn` degrees
    (counter-clockwise) for one more degree of the factor.
    """

    factor: str
    at: tuple[float, float]
    step: tuple[float, float] = (0.0, 0.0)
    about: tuple[float, float] | None = None
    turn: float = 0.0


@dataclass(frozen=True, kw_only=True)
class View:
    """A build seen from one side: shapes back to front, the window they need (x, y, width, height
    in mm, y upward), handles, and where each place and factor is `seen` on it [mm].
    """

    name: str
    window: tuple[float, float, float, float]
    shapes: tuple[Shape, ...]
    handles: tuple[Handle, ...] = ()
    seen: Mapping[str, Point] = field(default_factory=dict)


@dataclass(frozen=True)
class Drawing:
    """A build from one or more sides, all in one scale; `to_scale` unless some of it is enlarged."""

    title: str
    views: tuple[View, ...]
    to_scale: bool = True

    @property
    def shapes(self) -> list[Shape]:
        return [shape for view in self.views for shape in view.shapes]

    @property
    def handles(self) -> list[Handle]:
        return [handle for view in self.views for handle in view.handles]


@dataclass(frozen=True)
class SetAngle:
    """One angle to set [degrees] with a word on it; `angle_deg` is None where none helps."""

    label: str
    angle_deg: float | None
    note: str = ""


@dataclass(frozen=True)
class Aim:
    """How to aim what gathers light at a sun of some height, and how that looks."""

    advice: tuple[SetAngle, ...]
    drawing: Drawing


def _no_caption(_: Plan) -> str:
    return ""


def _one_stock(_: Mapping[str, str]) -> dict[str, str]:
    return {}


@dataclass(frozen=True, kw_only=True)
class Building:
    """What is built: where parts go, what can be set, what is on offer, and how it is drawn.

    `draw` takes a plan and the rig [stored units]; `hints` asks what a plan leaves open;
    `caption` says what a build is where that is what is compared; `aim`, where the sun matters,
    says how to aim it at an elevation of the sun [degrees]; `stocks` gives, under the brief's
    choices, the stock of each place where limits do not count for the whole build.
    """

    places: tuple[PartPlace, ...]
    factors: tuple[Factor, ...]
    materials: tuple[tuple[str, float | None], ...]  # default offers with limits
    draw: Callable[[Plan, Mapping[str, float]], Drawing]
    hints: Callable[[Plan], list[str]]
    caption: Callable[[Plan], str] = _no_caption
    aim: Callable[[Mapping[str, float], float], Aim] | None = None
    stocks: Callable[[Mapping[str, str]], Mapping[str, str]] = _one_stock

    def usual(self) -> Plan:
        """A plan without parts, every factor at its default."""
        return Plan((), {factor.key: factor.si("default") for factor in self.factors})

    def example(self) -> Plan:
        """Two units at every place of what most teams try there first, every factor at its default."""
        offered = [key for key, _ in self.materials]
        firsts = [(p.key, next((m for m in p.usual if m in offered), offered[0])) for p in self.places]
        parts = tuple(
            Part(place=place, material=m, form=MATERIALS[m].forms[0], units=2.0) for place, m in firsts
        )
        return Plan(parts, self.usual().factors)

    def place_names(self) -> dict[str, str]:
        """Label of each place."""
        return {place.key: place.label for place in self.places}

    def factor_names(self) -> dict[str, tuple[str, str]]:
        """Label and shown unit of each factor."""
        return {factor.key: (factor.label, factor.unit) for factor in self.factors}
