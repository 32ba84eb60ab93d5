"""What a family of challenge declares: metrics, conditions, places, schools, cautions, bench."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Literal, Protocol, TypeVar

from thermion.core.judging.scoring import Term
from thermion.core.physics.units import convert, stored_unit
from thermion.core.planning.kit import Need
from thermion.core.values import Direction

SKIES = ("clear", "hazy", "clouds pass", "overcast")
AgeBand = Literal["6-8", "9-12", "13-16"]
AGE_BANDS: tuple[AgeBand, ...] = ("6-8", "9-12", "13-16")
When = tuple[str, ...] | None  # (key of a choice, the values of it) under which something applies


def difference_unit(unit: str) -> str:
    """The unit of a difference of two values in `unit`: of temperatures, the delta."""
    return "delta_" + unit if unit in ("degC", "degF") else unit


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
    words: tuple[str, ...] = ()  # names of the values of a scale in words, 0 first

    def si(self, field: Literal["default", "tolerance", "low", "high"]) -> float:
        """That number in the stored unit; a tolerance is a difference."""
        unit = difference_unit(self.unit) if field == "tolerance" else self.unit
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
    numbers are counted; `scale` is the drawing it is pointed at on.
    """

    key: str
    label: str
    unit: str
    low: float
    high: float
    resolution: float
    words: tuple[str, ...] = ()
    whole: bool = False
    when: When = None
    scale: Literal["", "track", "string", "jug"] = ""  # what it is pointed at on
    limit: str = ""  # condition that is its upper end
    optional: bool = False
    zero: bool = False  # 0 when nothing moved, lifted or was caught
    things: tuple[str, str] = ("", "")  # what is counted: one, many

    @property
    def digits(self) -> int:
        """Decimals in which it is shown: tenths of a degree, whole grams and millilitres."""
        return 0 if self.resolution >= 1 and self.unit != "degC" else 1

    @property
    def step_si(self) -> float:
        """The instrument's step in the stored unit."""
        unit = difference_unit(self.unit)
        return convert(self.resolution, unit, stored_unit(unit))


AIR = Reads("air_c", "Air", "degC", -40.0, 60.0, 0.5)  # read beside a clocked test

# What is noted of a race with one probe: where it started, and the stopwatch.
RACE_READS = (
    Reads("start_c", "Probe at the start", "degC", -10.0, 80.0, 0.1),
    Reads("time_s", "Time to the target", "second", 0, 3600, 0.1, optional=True),
)


@dataclass(frozen=True)
class Picture:
    """How findings are drawn.

    ``curves``: readings against time. ``strips``: attempts laid out by what is `read`.
    ``points``: attempts by what is `read` and the first of `metrics`. ``bars``: each of the
    metrics as a bar of a build, open where it is only a bound, `against` the metric of the
    control. ``stack``: the metrics of a build end to end, in one unit. `tones`: the look of each
    of the metrics.
    """

    key: str
    label: str
    form: Literal["curves", "strips", "points", "bars", "stack"]
    read: str = ""
    metrics: tuple[str, ...] = ()
    against: str = ""
    tones: tuple[Literal["heat", "cold", "water", "lost", "plain"], ...] = ("plain", "lost")
    labels: tuple[str, ...] = ()  # of the metrics in the picture, where theirs are long
    when: When = None


CURVES = Picture("curves", "Curves", "curves")


@dataclass(frozen=True)
class Observation:
    """Something seen at a test, and the question that points a team to its cause."""

    key: str
    seen: str
    ask: str


@dataclass(frozen=True)
class RigCheck:
    """Something to look at before the first test.

    With `readings`, a number in `unit` is noted at each of these spots, and they agree when
    they differ by no more than `agree` (both in the shown `unit`). `sets` names the condition
    that follows from them: see `Kind.calibrate`.
    """

    key: str
    text: str
    unit: str = ""
    readings: tuple[str, ...] = ()
    agree: float = 0.0
    sets: str = ""
    when: When = None


@dataclass(frozen=True)
class Cut:
    """Lengths to cut beforehand: pieces of `length_m` [m] out of stock of `stock_m` [m]."""

    item: str
    length_m: float
    stock_m: float
    count: int = 1
    per: Literal["team", "class"] = "team"


@dataclass(frozen=True)
class Bench:
    """What the lesson and the room need: seconds a step takes, kit, cuts, checks, know-how.

    A clocked test needs `set_up_s` and `read_s` a reading; a turn at a station is fitting, run
    and reset. `techniques` go wrong unless shown first; `waiting` is for teams in the queue.
    """

    set_up_s: float = 300.0
    read_s: float = 10.0
    fit_s: float = 40.0
    run_s: float = 60.0
    reset_s: float = 30.0
    kit: tuple[Need, ...] = ()
    cuts: tuple[Cut, ...] = ()
    checks: tuple[RigCheck, ...] = ()
    techniques: tuple[str, ...] = ()
    waiting: tuple[str, ...] = ()


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
    """Where a part can go, what it does there, and which materials most teams would try."""

    key: str
    label: str
    job: str
    usual: tuple[str, ...] = ()


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
    """A safety rule; `when` limits it to a choice, e.g. ("heat_source", "sun").

    `adult` asks for an adult's hand; `older` is said at 13 to 16 instead, without that hand.
    """

    text: str
    adult: bool = False
    older: str = ""
    when: When = None


class _Conditional(Protocol):
    @property
    def when(self) -> When: ...


_C = TypeVar("_C", bound=_Conditional)


def applying(items: Sequence[_C], choices: Mapping[str, str]) -> list[_C]:
    """Those of the items that apply under the choices made."""
    return [x for x in items if x.when is None or choices.get(x.when[0]) in x.when[1:]]
