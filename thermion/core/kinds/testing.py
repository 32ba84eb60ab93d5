"""How a family is tested: what is read, when, with what kit, what is seen and asked."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field
from typing import Literal

from thermion.core.kinds.trials import Attempt
from thermion.core.kinds.when import When, applying, difference_unit
from thermion.core.physics.units import convert, stored_unit
from thermion.core.values import Check, single


@dataclass(frozen=True, kw_only=True)
class Phase:
    """A stretch of a clocked test with its own clock and marks."""

    key: str
    label: str
    begin: str  # words on the button that starts it
    until_s: float
    every_s: float
    when: When = None

    def marks(self, sparse: float = 1.0) -> list[float]:
        """The usual marks [s]; `sparse` 2 has half as many."""
        return even_marks(self.until_s, self.every_s * sparse)

    def marks_in(self, marks: Mapping[str, Sequence[float]] | None) -> list[float]:
        """This phase's marks [s] among those of a brief; the usual ones if it has none there."""
        return list((marks or {}).get(self.key, ())) or self.marks()


def even_marks(until_s: float, every_s: float) -> list[float]:
    """Marks from zero to `until_s`, one every `every_s` [s], the end always included."""
    end, step = single("until_s", until_s), single("every_s", every_s)
    if step <= 0 or end <= 0:
        raise ValueError(("every_s" if step <= 0 else "until_s") + ": expected above zero")
    count = int(end / step + 1e-9)
    marks = [i * step for i in range(count + 1)]
    return marks if abs(marks[-1] - end) < 1e-6 else [*marks, end]


def _as_it_is(value: float, _: Mapping[str, float]) -> float:
    return value


@dataclass(frozen=True, kw_only=True)
class Gauge:
    """A machine that shows what is read in its own way: a counter for a height, a balance for water.

    It sends in the stored `unit`; `of` is what is read [stored unit] by its value and the rig, good to a
    standard uncertainty of this `share` of it. What is `zeroed` counts from where it stood before the attempt.
    """

    label: str
    unit: str
    of: Callable[[float, Mapping[str, float]], float] = _as_it_is
    zeroed: bool = True
    share: float = 0.0

    def may_be(self, value: float, end: float) -> bool:
        """Whether a value that is not at the end of what can be may as well be there."""
        return self.share > 0 and value != end and abs(value - end) <= 2 * self.share * end


COUNTER = Gauge(label="counter", unit="count")
DISTANCE = Gauge(label="distance", unit="meter")
TIMER = Gauge(label="timer", unit="second", zeroed=False)


@dataclass(frozen=True, kw_only=True)
class Reads:
    """Something that is read: what can be (`low` to `high`) and the instrument's step.

    All three in the shown `unit`. `words` name the values of a scale in words, 0 first; `whole`
    numbers are counted; `scale` is the drawing it is pointed at on. `back` is asked when a value of a
    scale that only rises goes back. `gauges` are machines that can read it at a station. `above_air`: what
    it is read of is warmer than the air. `part_of`: a condition that it can be no more than, how much of it
    [stored unit] one of that is, and what that is, in words. `common`: a condition that all begin at.
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
    back: str = ""
    scale: Literal["", "track", "string", "jug"] = ""  # what it is pointed at on
    limit: str = ""  # condition that is its upper end
    within: str = ""  # what is read before it in the same attempt and is its upper end
    optional: bool = False
    zero: bool = False  # 0 when nothing moved, lifted or was caught
    things: tuple[str, str] = ("", "")  # what is counted: one, many
    gauges: tuple[Gauge, ...] = ()
    above_air: bool = False
    part_of: tuple[str, float, str] | None = None
    common: str = ""

    @property
    def digits(self) -> int:
        """Decimals in which it is shown: tenths of a degree, whole grams and millilitres."""
        return 0 if self.resolution >= 1 and self.unit != "degC" else 1

    @property
    def step_si(self) -> float:
        """The instrument's step in the stored unit."""
        unit = difference_unit(self.unit)
        return convert(self.resolution, unit, stored_unit(unit))


def counted_out(reads: Sequence[Reads], values: Mapping[str, float]) -> dict[str, float]:
    """What was counted out for an attempt, as the load of a lift: only attempts with as much are alike."""
    return {r.key: values[r.key] for r in reads if r.whole and not r.words and r.key in values}


AIR = Reads(
    key="air_c", label="Air", unit="degC", low=-40.0, high=60.0, resolution=0.5
)  # read beside a clocked test

# What is noted of a race with one probe: where it started, and the stopwatch.
RACE_READS = (
    Reads(
        key="start_c",
        label="Probe at the start",
        unit="degC",
        low=-10.0,
        high=80.0,
        resolution=0.1,
        common="start_c",
    ),
    Reads(
        key="time_s",
        label="Time to the target",
        unit="second",
        low=0,
        high=3600,
        resolution=0.1,
        optional=True,
    ),
)

Doubt = Callable[[float, Sequence[float], float | None, Mapping[str, float], Mapping[str, str]], Check]
Suggest = Callable[[Sequence[Attempt], Mapping[str, float], Mapping[str, str]], tuple[dict[str, float], str]]


@dataclass(frozen=True)
class ReadLater:
    """What is read once more after the test.

    `doubt` is asked about a value [stored unit], given those before it, the last one of the test,
    the rig and the choices.
    """

    read: Reads
    doubt: Doubt

    @property
    def when(self) -> When:
        return self.read.when


@dataclass(frozen=True)
class Observation:
    """Something seen at a test, and the question that points a team to its cause.

    A class's own word that it let go of is not `offered` any more, but known where it was noted; nor is one
    whose test is another (`when`).
    """

    key: str
    seen: str
    ask: str
    offered: bool = True
    when: When = None


ONE_GLASS = ("each thermometer",)  # the spots of the check in one glass: one for each that there is


@dataclass(frozen=True, kw_only=True)
class RigCheck:
    """Something to look at before the first test.

    With `readings`, a number in `unit` is noted at each of these spots, and they agree when
    they differ by no more than `agree` (both in the shown `unit`). `sets` gives the conditions
    that follow from them [stored unit].
    """

    key: str
    text: str
    unit: str = ""
    readings: tuple[str, ...] = ()
    agree: float = 0.0
    sets: Callable[[Sequence[float]], dict[str, float]] | None = None
    when: When = None

    @property
    def of_thermometers(self) -> bool:
        """Whether it is the check in one glass, of every team's thermometer and the air's."""
        return self.readings == ONE_GLASS


@dataclass(frozen=True, kw_only=True)
class Need:
    """What a challenge needs of one thing, if `when` holds: `quantity` per team, learner or class.

    `pack` units come in a pack that costs `pack_cost`; `spare` is a share (0.1 for a tenth).
    """

    item: str
    quantity: float
    per: Literal["team", "learner", "class"] = "team"
    spare: float = 0.1
    pack: float = 1.0
    pack_cost: float = 0.0
    unit: str = ""
    when: When = None


@dataclass(frozen=True)
class Technique:
    """What goes wrong unless it is shown first, in one sentence, where `when` holds."""

    text: str
    when: When = None


@dataclass(frozen=True, kw_only=True)
class PreCut:
    """Lengths to cut beforehand: pieces of `length_m` [m] out of stock of `stock_m` [m]."""

    item: str
    length_m: float
    stock_m: float
    count: int = 1
    per: Literal["team", "class"] = "team"
    spare: float = 0.1  # as of what is bought


@dataclass(frozen=True, kw_only=True)
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
    cuts: tuple[PreCut, ...] = ()
    checks: tuple[RigCheck, ...] = ()
    techniques: tuple[Technique, ...] = ()
    waiting: tuple[str, ...] = ()

    def techniques_for(self, choices: Mapping[str, str]) -> list[str]:
        """What is shown first at the test that was chosen."""
        return [t.text for t in applying(self.techniques, choices)]


def _no_suggestion(*_: object) -> tuple[dict[str, float], str]:
    return {}, ""


def _as_read(values: Mapping[str, float], _: Mapping[str, float]) -> dict[str, float]:
    return dict(values)


@dataclass(frozen=True, kw_only=True)
class Testing:
    """How a run goes and what is noted in it.

    `shape`: all builds at ``marks``, one after another in ``turns`` at a station, or in ``races``
    with one probe; turns and races have a queue and attempts, only marks have a grid. `suggest`
    gives values for the next attempt and why, from those before it, the rig and the choices; where a build
    `goes_on` it begins with what it gave in an earlier test;
    `complete` what follows at once from an attempt's values and the rig.
    """

    shape: Literal["marks", "turns", "races"]
    reads: tuple[Reads, ...]
    phases: tuple[Phase, ...] = ()
    devices: tuple[tuple[str, str], ...] = ()  # key and label of each device a team makes
    control: str = ""  # what stands untouched beside the builds, if anything
    reads_air: bool = True  # the air is read beside a clocked test
    later: ReadLater | None = None
    suggest: Suggest = _no_suggestion
    goes_on: When = ("", "")
    complete: Callable[[Mapping[str, float], Mapping[str, float]], dict[str, float]] = _as_read
    observations: tuple[Observation, ...] = ()
    bench: Bench = field(default_factory=Bench)

    def phase(self, key: str) -> Phase:
        for phase in self.phases:
            if phase.key == key:
                return phase
        raise ValueError(f"phase: expected one of this family's, got {key}")

    def reads_for(self, choices: Mapping[str, str]) -> list[Reads]:
        """What is read under these choices, in the order in which it is noted."""
        return applying(self.reads, choices)

    def grid_read(self, choices: Mapping[str, str]) -> Reads | None:
        """The one thing read of every build at marks; None when it is not that kind of test."""
        return self.reads_for(choices)[0] if self.shape == "marks" else None

    def attempt_reads(self, choices: Mapping[str, str]) -> list[Reads]:
        """What is noted of an attempt, in order; nothing in a test at marks."""
        if self.shape == "marks":
            return []
        return list(RACE_READS) if self.shape == "races" else self.reads_for(choices)

    def later_for(self, choices: Mapping[str, str]) -> ReadLater | None:
        """What is read once more after the test under these choices."""
        return next(iter(applying([self.later] if self.later else [], choices)), None)

    def trace_key(self, phase: str, choices: Mapping[str, str], device: str = "") -> str:
        """Under which key `fit` looks for the readings of a phase: see `Trial`."""
        if device in dict(self.devices):
            return device
        read = self.grid_read(choices)
        return read.key if read is not None and len(self.reads) > 1 else phase

    def kit_for(self, choices: Mapping[str, str]) -> list[Need]:
        """What must be there under these choices."""
        return applying(self.bench.kit, choices)

    def checks_for(self, choices: Mapping[str, str]) -> list[RigCheck]:
        """Checks of the rig that apply under these choices."""
        return applying(self.bench.checks, choices)
