"""What a family of challenge is made of; each family is one value of `Kind` in its own file."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field
from typing import Literal, Protocol, TypeVar

from thermion.core.builds import Plan
from thermion.core.scoring import Term
from thermion.core.units import Setting, convert, stored_unit
from thermion.core.values import Direction, Figure, FloatArray

AgeBand = Literal["6-8", "9-12", "13-16"]
AGE_BANDS: tuple[AgeBand, ...] = ("6-8", "9-12", "13-16")
When = tuple[str, str] | None  # (key of a choice, its value) under which something applies


@dataclass(frozen=True)
class Metric:
    """A figure of merit, shown in `unit`; its figures are in the stored unit (SI) of that."""

    key: str
    label: str
    unit: str
    better: Direction
    digits: int = 1
    when: When = None

    @property
    def si_unit(self) -> str:
        """The unit its figures are computed in."""
        return stored_unit(self.unit)


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
    when: When = None
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
    when: When = None


@dataclass(frozen=True)
class Reads:
    """Something that is read: what can be (`low` to `high`) and the instrument's step.

    All three in the shown `unit`. `words` name the values of a scale in words, 0 first; `whole`
    numbers are counted. `of` names the device it is read of when a team has several.
    """

    key: str
    label: str
    unit: str
    low: float
    high: float
    resolution: float
    words: tuple[str, ...] = ()
    whole: bool = False
    of: str = ""
    when: When = None

    @property
    def step_si(self) -> float:
        """The instrument's step in the stored unit."""
        unit = self.unit
        if unit.startswith("deg") and unit != "degree":
            unit = "delta_" + unit
        return convert(self.resolution, unit, stored_unit(unit))


@dataclass(frozen=True)
class Observation:
    """Something seen at a test, and the question that points a team to its cause."""

    key: str
    seen: str
    ask: str


@dataclass(frozen=True)
class BriefDefault:
    """What a brief starts from at one age: story, success in words, and how much of it.

    `limits` is the share of the usual material limits, `attempts` how many each team has in a
    test by turns, `marks` how often the marks of a clocked test come (1 usual, 2 half as often).
    """

    story: str
    success: str
    school: str
    limits: float = 1.0
    attempts: int = 3
    marks: float = 1.0


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
    better: Direction = "higher"
    when: When = None


@dataclass(frozen=True)
class Caution:
    """A safety rule; `when` limits it to a choice, e.g. ("heat_source", "sun")."""

    text: str
    adult: bool = False
    when: When = None


@dataclass(frozen=True)
class Trace:
    """Readings of one build in one phase: time taken [s], value [SI]."""

    time_s: tuple[float, ...] = ()
    value: tuple[float, ...] = ()


@dataclass(frozen=True)
class Attempt:
    """One go at a station: what was read [stored unit], what was seen, and if hand-held."""

    values: Mapping[str, float]
    seen: tuple[str, ...] = ()
    free: bool = False


@dataclass(frozen=True)
class Trial:
    """One build in one run.

    `traces` by phase, or by what is read when a phase has several; `attempts` of a test by
    turns, in order; `control` traces of the untouched control beside it; the run's
    conditions [stored unit], the air, and the plan's counts.
    """

    traces: Mapping[str, Trace]
    conditions: Mapping[str, float]
    air: Mapping[str, Trace] = field(default_factory=dict)
    units_used: float = 0.0
    impact_points: float = 0.0
    interval_s: Mapping[str, float] = field(default_factory=dict)
    attempts: tuple[Attempt, ...] = ()
    control: Mapping[str, Trace] = field(default_factory=dict)

    def fair(self) -> tuple[Attempt, ...]:
        """Attempts that may be ranked: those that were not hand-held."""
        return tuple(a for a in self.attempts if not a.free)


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


def _no_correction(*_: object) -> Figure | None:
    return None


@dataclass(frozen=True)
class Kind:
    """A family of challenge: all that the rest of the house needs to know about it.

    `fit` turns trials into figures, `draw` a plan into a drawing, `hints` asks what a plan
    leaves open, `simulate` gives the trials that plans would have under a rig (seeded).
    `course`, where temperatures are read, follows one build through a phase; `correct` brings
    a figure to another run's conditions where physics allows.
    """

    key: str
    label: str
    test: Literal["clocked", "turns"]
    metrics: tuple[Metric, ...]
    headline: tuple[str, ...]  # metrics shown first
    reads: tuple[Reads, ...]
    conditions: tuple[Condition, ...]
    places: tuple[Place, ...]
    factors: tuple[Factor, ...]
    materials: tuple[tuple[str, float | None], ...]  # default offers with limits
    schools: tuple[School, ...]
    observations: tuple[Observation, ...]
    cautions: tuple[Caution, ...]
    defaults: Mapping[AgeBand, BriefDefault]
    prediction: str  # metric that teams predict
    fit: Callable[[Sequence[Trial]], list[Fitted]]
    hints: Callable[[Plan], list[str]]
    draw: Callable[[Plan, Mapping[str, float]], Drawing]
    simulate: Callable[[Sequence[Plan], Mapping[str, float], int], list[Trial]]
    phases: tuple[Phase, ...] = ()
    choices: tuple[Choice, ...] = ()
    criteria: tuple[Condition, ...] = ()  # levels the figures refer to
    capped_by: Mapping[str, str] = field(default_factory=dict)  # metric in minutes -> phase
    possible_air_c: tuple[float, float] = (-40.0, 60.0)
    level: str = ""  # criterion drawn as a line on the curves
    control: str = ""  # what stands untouched beside the builds, if anything
    course: Callable[..., FloatArray] | None = None
    correct: Callable[[Figure, Mapping[str, float], Mapping[str, float]], Figure | None] = (
        _no_correction
    )

    @property
    def stories(self) -> dict[AgeBand, str]:
        return {band: default.story for band, default in self.defaults.items()}

    @property
    def possible_c(self) -> tuple[float, float]:
        """What a build's thermometer can show [°C]."""
        return self.reads[0].low, self.reads[0].high

    @property
    def resolution(self) -> float:
        """Step of the first instrument, stored unit."""
        return self.reads[0].step_si

    @property
    def logs_temperature(self) -> bool:
        """A clocked test in which one temperature is read of every build, and nothing else."""
        return (
            self.test == "clocked"
            and [r.unit for r in self.reads] == ["degC"]
            and self.course is not None
        )

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
        """Unit of each metric's figures: the stored one."""
        return {metric.key: metric.si_unit for metric in self.metrics}

    def default_rig(self) -> dict[str, float]:
        """All conditions and criteria at their defaults, stored units."""
        return {c.key: c.si("default") for c in (*self.conditions, *self.criteria)}

    def _cap(self, term: Term, last_mark_s: Mapping[str, float]) -> float | None:
        phase = self.capped_by.get(term.metric)
        if phase is None or phase not in last_mark_s:
            return term.cap
        return last_mark_s[phase] / 60.0

    def settings(self, choices: Mapping[str, str]) -> list[Condition]:
        """Conditions that apply under these choices."""
        return applying(self.conditions, choices)

    def cautions_for(self, choices: Mapping[str, str]) -> list[Caution]:
        return applying(self.cautions, choices)

    def school(self, key: str) -> School:
        for preset in self.schools:
            if preset.key == key:
                return preset
        raise ValueError(f"school: expected one of {[s.key for s in self.schools]}, got {key}")

    def rule(
        self, school: str, setting: Setting, last_mark_s: Mapping[str, float]
    ) -> tuple[Term, ...]:
        """A school's terms in the class's units, capped by the length of the phase they need."""
        return tuple(
            Term(t.metric, setting.unit_of(t.unit), t.weight, t.divisor, self._cap(t, last_mark_s))
            for t in self.school(school).terms
        )


class _Conditional(Protocol):
    @property
    def when(self) -> When: ...


_C = TypeVar("_C", bound=_Conditional)


def applying(items: Sequence[_C], choices: Mapping[str, str]) -> list[_C]:
    """Those of the items that apply under the choices made."""
    return [x for x in items if x.when is None or choices.get(x.when[0]) == x.when[1]]
