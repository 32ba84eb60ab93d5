"""What a family of challenge is made of; each family is one value of `Kind` in its own file."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field
from typing import Literal

from thermion.core.builds import Plan
from thermion.core.scoring import Term
from thermion.core.units import Setting, convert, stored_unit
from thermion.core.values import Direction, Figure, FloatArray

AgeBand = Literal["6-8", "9-12", "13-16"]
AGE_BANDS: tuple[AgeBand, ...] = ("6-8", "9-12", "13-16")


@dataclass(frozen=True)
class Metric:
    """A figure of merit. `unit` is the base unit it is computed in."""

    key: str
    label: str
    unit: str
    better: Direction
    digits: int = 1


@dataclass(frozen=True)
class Condition:
    """A number of the rig held fixed for everyone; `tolerance` decides if runs compare."""

    key: str
    label: str
    unit: str
    default: float
    tolerance: float
    low: float
    high: float
    hint: str = ""
    when: tuple[str, str] | None = None  # (choice key, value) in which it applies
    actual: bool = False  # measured anew for each run

    def si(self, field: Literal["default", "tolerance", "low", "high"]) -> float:
        """That number in the stored unit; a tolerance is a difference."""
        unit = self.unit
        if field == "tolerance" and unit.startswith("deg") and unit != "degree":
            unit = "delta_" + unit
        return convert(getattr(self, field), unit, stored_unit(unit))


@dataclass(frozen=True)
class Choice:
    """A setting with a few named values."""

    key: str
    label: str
    options: tuple[tuple[str, str], ...]


@dataclass(frozen=True)
class Phase:
    """A stretch of a clocked test with its own clock and marks."""

    key: str
    label: str
    begin: str  # words on the button that starts it
    until_s: float
    every_s: float


@dataclass(frozen=True)
class Place:
    """Where a part can go, and which materials are usual there."""

    key: str
    label: str
    job: str


@dataclass(frozen=True)
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


@dataclass(frozen=True)
class School:
    """A way of scoring; terms name metrics with base units, turned into the class's own."""

    key: str
    label: str
    sentence: str
    terms: tuple[Term, ...]


@dataclass(frozen=True)
class Caution:
    """A safety rule; `when` limits it to a choice, e.g. ("heat_source", "sun")."""

    text: str
    adult: bool = False
    when: tuple[str, str] | None = None


@dataclass(frozen=True)
class Trace:
    """Readings of one build in one phase: time taken [s], value [SI]."""

    time_s: tuple[float, ...] = ()
    value: tuple[float, ...] = ()


@dataclass(frozen=True)
class Trial:
    """One build in one run: its traces by phase, the run's conditions, air, and plan counts."""

    traces: Mapping[str, Trace]
    conditions: Mapping[str, float]
    air: Mapping[str, Trace] = field(default_factory=dict)
    units_used: float = 0.0
    impact_points: float = 0.0
    interval_s: Mapping[str, float] = field(default_factory=dict)


@dataclass(frozen=True)
class Fitted:
    """A figure set and the fitted curves (times [s], values) to draw through the points."""

    figures: Mapping[str, Figure]
    curves: Mapping[str, tuple[Sequence[float], Sequence[float]]]


@dataclass(frozen=True)
class Shape:
    """A polygon or line of a drawing in mm, y upward, with what it is.

    `place` is what a click on it selects; `tone` names its look; `label` is read aloud.
    """

    kind: Literal["polygon", "line", "text"]
    points: tuple[tuple[float, float], ...]
    tone: str
    place: str = ""
    label: str = ""


@dataclass(frozen=True)
class Drawing:
    """Shapes back to front and the window they need (x, y, width, height in mm)."""

    title: str
    view: tuple[float, float, float, float]
    shapes: tuple[Shape, ...]


@dataclass(frozen=True)
class Kind:
    """A family of challenge: all that the rest of the house needs to know about it."""

    key: str
    label: str
    metrics: tuple[Metric, ...]
    headline: tuple[str, ...]  # metrics shown first
    phases: tuple[Phase, ...]
    choices: tuple[Choice, ...]
    conditions: tuple[Condition, ...]
    criteria: tuple[Condition, ...]  # levels the figures refer to
    places: tuple[Place, ...]
    factors: tuple[Factor, ...]
    materials: tuple[tuple[str, float | None], ...]  # default offers with limits
    schools: tuple[School, ...]
    capped_by: Mapping[str, str]  # metric in minutes -> phase whose last mark ends the watching
    cautions: tuple[Caution, ...]
    stories: Mapping[AgeBand, str]
    possible_c: tuple[float, float]
    possible_air_c: tuple[float, float]
    resolution: float
    prediction: str  # metric that teams predict
    level: str  # criterion drawn as a line on the curves
    fit: Callable[[Sequence[Trial]], list[Fitted]]
    hints: Callable[[Plan], list[str]]
    draw: Callable[[Plan, Mapping[str, float]], Drawing]
    rehearse: Callable[[Plan, Mapping[str, float], str, Sequence[float], float], FloatArray]
    correct: Callable[[Figure, Mapping[str, float], Mapping[str, float]], Figure | None]

    def metric(self, key: str) -> Metric:
        for metric in self.metrics:
            if metric.key == key:
                return metric
        raise ValueError(f"metric: expected one of this family's, got {key}")

    def phase(self, key: str) -> Phase:
        for phase in self.phases:
            if phase.key == key:
                return phase
        raise ValueError(f"phase: expected one of this family's, got {key}")

    def metric_units(self) -> dict[str, str]:
        return {metric.key: metric.unit for metric in self.metrics}

    def _cap(self, term: Term, last_mark_s: Mapping[str, float]) -> float | None:
        phase = self.capped_by.get(term.metric)
        if phase is None or phase not in last_mark_s:
            return term.cap
        return last_mark_s[phase] / 60.0

    def settings(self, choices: Mapping[str, str]) -> list[Condition]:
        """Conditions that apply under these choices."""
        return [c for c in self.conditions if c.when is None or choices.get(c.when[0]) == c.when[1]]

    def cautions_for(self, choices: Mapping[str, str]) -> list[Caution]:
        return [c for c in self.cautions if c.when is None or choices.get(c.when[0]) == c.when[1]]

    def rule(
        self, school: str, setting: Setting, last_mark_s: Mapping[str, float]
    ) -> tuple[Term, ...]:
        """A school's terms in the class's units, capped by the length of the phase they need."""
        for preset in self.schools:
            if preset.key == school:
                return tuple(
                    Term(
                        t.metric,
                        setting.unit_of(t.unit),
                        t.weight,
                        t.divisor,
                        self._cap(t, last_mark_s),
                    )
                    for t in preset.terms
                )
        raise ValueError(f"school: expected one of {[s.key for s in self.schools]}, got {school}")
