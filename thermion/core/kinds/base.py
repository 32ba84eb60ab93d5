"""What a family of challenge is made of; each family is one value of `Kind` in its own file."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import Literal, Protocol

from thermion.core.judging.plausibility import Check
from thermion.core.judging.scoring import Term
from thermion.core.kinds.pieces import (
    AGE_BANDS,
    CURVES,
    RACE_READS,
    SKIES,
    AgeBand,
    Bench,
    BriefDefault,
    Caution,
    Choice,
    Condition,
    Cut,
    Factor,
    Metric,
    Observation,
    Phase,
    Picture,
    Place,
    Reads,
    RigCheck,
    School,
    When,
    applying,
)
from thermion.core.physics.units import Setting
from thermion.core.plans import Plan
from thermion.core.values import Figure, FloatArray

__all__ = [
    "AGE_BANDS",
    "CURVES",
    "SKIES",
    "AgeBand",
    "Attempt",
    "Bench",
    "BriefDefault",
    "Caution",
    "Choice",
    "Condition",
    "Cut",
    "Drawing",
    "Factor",
    "Fitted",
    "Handle",
    "Kind",
    "Metric",
    "Observation",
    "Phase",
    "Picture",
    "Place",
    "Reads",
    "RigCheck",
    "School",
    "Shape",
    "Trace",
    "Trial",
    "When",
    "applying",
    "each_attempt",
]


@dataclass(frozen=True)
class Trace:
    """Readings of one build in one phase: time taken [s], value [SI]."""

    time_s: tuple[float, ...] = ()
    value: tuple[float, ...] = ()


@dataclass(frozen=True)
class Attempt:
    """One go at a station: what was read [stored unit], what was seen, and if hand-held.

    `trace`: the probe's readings meanwhile, of a race with one probe.
    """

    values: Mapping[str, float]
    seen: tuple[str, ...] = ()
    free: bool = False
    trace: Trace = Trace()


@dataclass(frozen=True)
class Trial:
    """One build in one run.

    `traces` by phase, by what is read when a family reads one of several things, or by device;
    `attempts` of a test by turns, in order; `control` traces of the untouched control beside it
    and `bare` its attempts; the run's conditions [stored unit] and choices, the air, and the
    plan with its counts.
    """

    traces: Mapping[str, Trace]
    conditions: Mapping[str, float]
    air: Mapping[str, Trace] = field(default_factory=dict)
    units_used: float = 0.0
    impact_points: float = 0.0
    interval_s: Mapping[str, float] = field(default_factory=dict)
    attempts: tuple[Attempt, ...] = ()
    control: Mapping[str, Trace] = field(default_factory=dict)
    bare: tuple[Attempt, ...] = ()
    choices: Mapping[str, str] = field(default_factory=dict)
    plan: Plan = field(default_factory=Plan)

    def counts(self) -> dict[str, Figure]:
        """Units and impact of the plan, which every family reports."""
        return {"units": Figure(self.units_used, 0.0), "impact": Figure(self.impact_points, 0.0)}

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


@dataclass(frozen=True)
class Drawing:
    """Shapes back to front, the window they need (x, y, width, height in mm), and handles."""

    title: str
    view: tuple[float, float, float, float]
    shapes: tuple[Shape, ...]
    handles: tuple[Handle, ...] = ()


class Simulate(Protocol):
    """Trials that plans would have under a rig [stored units] and choices; seeded."""

    def __call__(
        self,
        plans: Sequence[Plan],
        conditions: Mapping[str, float],
        seed: int,
        choices: Mapping[str, str] | None = None,
    ) -> list[Trial]: ...


DoubtLater = Callable[[float, Sequence[float], float | None, Mapping[str, float], Mapping[str, str]], Check]
Correct = Callable[[str, Figure, Mapping[str, float], Mapping[str, float]], Figure | None]


Suggest = Callable[[Sequence[Attempt], Mapping[str, float], Mapping[str, str]], tuple[dict[str, float], str]]


def each_attempt(trial: Trial) -> list[Trial]:
    """A trial by its fair attempts, where each is the same test again."""
    return [replace(trial, attempts=(a,)) for a in trial.fair()]


def _no_caption(_: Plan) -> str:
    return ""


def _no_repeats(_: Trial) -> list[Trial]:
    return []


def _as_read(values: Mapping[str, float], _: Mapping[str, float]) -> dict[str, float]:
    return dict(values)


def _no_doubt(*_: object) -> Check:
    return Check("ok")


def _no_point(*_: object) -> float | None:
    return None


def _sets_nothing(*_: object) -> dict[str, float]:
    return {}


def _no_suggestion(*_: object) -> tuple[dict[str, float], str]:
    return {}, ""


def _no_correction(*_: object) -> Figure | None:
    return None


@dataclass(frozen=True)
class Kind:
    """A family of challenge: all that the rest of the house needs to know about it.

    `fit` turns trials into figures, `draw` a plan into a drawing, `hints` asks what a plan
    leaves open, `simulate` gives the trials that plans would have under a rig (seeded).
    `course`, where temperatures are read, follows one build through a phase; `correct` brings
    a metric's figure from one run's conditions to another's where physics allows.
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
    simulate: Simulate
    phases: tuple[Phase, ...] = ()
    choices: tuple[Choice, ...] = ()
    criteria: tuple[Condition, ...] = ()  # levels the figures refer to
    capped_by: Mapping[str, str] = field(default_factory=dict)  # metric in minutes -> phase
    pictures: tuple[Picture, ...] = (CURVES,)  # of the findings, the first is shown first
    efficiency: str = ""  # metric that compares builds and versions on one page
    devices: tuple[tuple[str, str], ...] = ()  # key and label of each device a team makes
    reads_air: bool = True  # the air is read beside a clocked test
    later: Reads | None = None  # read once more at the end, or again some time after
    level: str = ""  # criterion drawn as a line on the curves
    one_by_one: bool = False  # a clocked test with one instrument, sample after sample
    control: str = ""  # what stands untouched beside the builds, if anything
    bench: Bench = field(default_factory=Bench)
    course: Callable[..., FloatArray] | None = None
    draw_word: Callable[[int], Drawing] | None = None  # a value of a scale in words, drawn
    correct: Correct = _no_correction
    suggest: Suggest = _no_suggestion  # values to fill in for the next attempt, and why
    caption: Callable[[Plan], str] = _no_caption  # what a build is, where that is compared
    # the same test again inside one trial, which shows how much a try varies
    repeats: Callable[[Trial], Sequence[Trial]] = _no_repeats
    # what follows at once from the values of an attempt and the rig
    complete: Callable[[Mapping[str, float], Mapping[str, float]], dict[str, float]] = _as_read
    # height of an attempt in a picture of points, under the rig
    point: Callable[[Attempt, Mapping[str, float]], float | None] = _no_point
    # doubts about a value read later, given those before it, the last one of the test and the rig
    doubt_later: DoubtLater = _no_doubt
    # conditions that follow from the numbers of a rig check, by what it `sets`
    calibrate: Callable[[str, Sequence[float]], dict[str, float]] = _sets_nothing

    @property
    def stories(self) -> dict[AgeBand, str]:
        return {band: default.story for band, default in self.defaults.items()}

    @property
    def possible_c(self) -> tuple[float, float]:
        """What a build's thermometer can show [°C]."""
        return self.reads[0].low, self.reads[0].high

    @property
    def held(self) -> Literal["marks", "turns", "races"]:
        """How a run goes: all builds at marks, one after another at a station, or with one probe.

        Turns and races have a queue and attempts; only marks have a grid.
        """
        if self.one_by_one:
            return "races"
        return "turns" if self.test == "turns" else "marks"

    def grid_read(self, choices: Mapping[str, str]) -> Reads | None:
        """The one thing read of every build at marks; None when it is not that kind of test."""
        return self.reads_for(choices)[0] if self.held == "marks" else None

    def attempt_reads(self, choices: Mapping[str, str]) -> list[Reads]:
        """What is noted of an attempt, in order; nothing in a test at marks."""
        if self.held == "marks":
            return []
        return list(RACE_READS) if self.held == "races" else self.reads_for(choices)

    def can_rehearse(self, choices: Mapping[str, str]) -> bool:
        """Stand-in probes can read for a rehearsal at marks: they show temperatures only."""
        read = self.grid_read(choices)
        return read is not None and read.unit == "degC" and self.course is not None

    def later_for(self, choices: Mapping[str, str]) -> Reads | None:
        """What is read once more after the test under these choices."""
        return next(iter(applying([self.later] if self.later else [], choices)), None)

    def pictures_for(self, choices: Mapping[str, str]) -> list[Picture]:
        return applying(self.pictures, choices)

    def trace_key(self, phase: str, choices: Mapping[str, str], device: str = "") -> str:
        """Under which key `fit` looks for the readings of a phase: see `Trial`."""
        if device in dict(self.devices):
            return device
        read = self.grid_read(choices)
        return read.key if read is not None and len(self.reads) > 1 else phase

    def headline_for(self, choices: Mapping[str, str]) -> tuple[Metric, ...]:
        """Metrics shown first under these choices."""
        return tuple(applying([self.metric(key) for key in self.headline], choices))

    def prediction_for(self, choices: Mapping[str, str]) -> Metric:
        """The metric that teams predict under these choices."""
        wanted = applying([self.metric(self.prediction)], choices)
        return (wanted or list(self.headline_for(choices)))[0]

    def schools_for(self, choices: Mapping[str, str]) -> list[School]:
        return applying(self.schools, choices)

    def reads_for(self, choices: Mapping[str, str]) -> list[Reads]:
        """What is read under these choices, in the order in which it is noted."""
        return applying(self.reads, choices)

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

    def school(self, key: str, choices: Mapping[str, str] | None = None) -> School:
        """The preset of that name, the one for these choices when there are several."""
        named = [preset for preset in self.schools if preset.key == key]
        if not named:
            known = list(dict.fromkeys(s.key for s in self.schools))
            raise ValueError(f"school: expected one of {known}, got {key}")
        return next(iter(applying(named, choices or {})), named[0])

    def rule(
        self,
        school: str,
        setting: Setting,
        last_mark_s: Mapping[str, float],
        choices: Mapping[str, str] | None = None,
    ) -> tuple[Term, ...]:
        """A school's terms in the class's units, capped by the length of the phase they need."""
        return tuple(
            Term(t.metric, setting.unit_of(t.unit), t.weight, t.divisor, self._cap(t, last_mark_s))
            for t in self.school(school, choices).terms
        )
