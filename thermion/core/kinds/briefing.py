"""What the brief of a family asks: conditions, levels, choices, ways of scoring, cautions, stories."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from math import sqrt
from typing import Literal

from thermion.core.ages import AgeBand, said_to
from thermion.core.kinds.when import When, applying, difference_unit, holds
from thermion.core.physics.units import Setting, convert, stored_unit
from thermion.core.values import Direction

SKIES = ("clear", "hazy", "clouds pass", "overcast")
OfRuns = Literal["mean", "best", "last"]


@dataclass(frozen=True, kw_only=True)
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
    instead: tuple[When, str, str] | None = None  # under a choice: another label and hint
    older: bool = False  # learners read of it from 13 on
    young: str = ""  # what the youngest read instead of a number; nothing: they do not read of it
    measured: float = 0.0  # standard uncertainty when it was measured: a share of it, if `relative`
    estimated: float = 0.0  # the same when it was only estimated
    relative: bool = False
    safe: Mapping[AgeBand, float | None] = field(default_factory=dict)  # what suits an age; see `at_age`
    safe_is: Literal["most", "least"] = "most"

    def at_age(self, age: AgeBand) -> Condition:
        """With the limit that keeps this age from harm, which its usual value keeps too.

        An age that `safe` does not name keeps the limit of the next younger; None says that there is none.
        """
        limit = said_to(age, self.safe) if self.safe else None
        if limit is None:
            return self
        hint = f"at {'most' if self.safe_is == 'most' else 'least'} {limit:g}"
        if self.unit == "degC":
            hint = f"{limit:g} °C or less"
        hint = f"{hint} at ages {age.replace('-', ' to ')}"
        said = f"{self.hint}; {hint}" if self.hint else hint
        if self.safe_is == "most":
            return replace(self, high=limit, default=min(self.default, limit), hint=said, safe={})
        return replace(self, low=limit, default=max(self.default, limit), hint=said, safe={})

    def under(self, choices: Mapping[str, str]) -> Condition:
        """With the label and hint that it has under these choices."""
        if self.instead is None or not holds(self.instead[0], choices):
            return self
        return replace(self, label=self.instead[1], hint=self.instead[2], instead=None)

    def uncertainty(self, value: float, how: str = "", tolerance: float | None = None) -> float:
        """Standard uncertainty [stored unit] of a `value` [stored unit], by how it was obtained:
        "measured", "estimated", or only held within a `tolerance` [stored unit], as a rectangle
        (GUM 4.3.7). Without a word it is as good as estimated where it is read anew, else held."""
        known = {"measured": self.measured, "estimated": self.estimated, "": self.estimated}.get(how, 0.0)
        if known:
            unit = difference_unit(self.unit)
            return known * abs(value) if self.relative else convert(known, unit, stored_unit(unit))
        within = self.si("tolerance") if tolerance is None else tolerance
        return within / sqrt(3.0)

    def si(self, field: Literal["default", "tolerance", "low", "high"]) -> float:
        """That number in the stored unit; a tolerance is a difference."""
        unit = difference_unit(self.unit) if field == "tolerance" else self.unit
        return convert(getattr(self, field), unit, stored_unit(unit))


@dataclass(frozen=True, kw_only=True)
class Instrument:
    """What a reading is taken with: its step, and how far it may be off beside that (one standard
    uncertainty), both in the shown `unit`. A step of 0 is one that nobody reads to."""

    key: str
    label: str
    unit: str
    step: float
    off: float = 0.0
    when: When = None
    hint: str = ""

    @property
    def settings(self) -> tuple[Condition, ...]:
        """Its numbers as a class can change them."""
        most = max(20 * self.step, 20 * self.off)
        step = Condition(
            key=f"step_{self.key}",
            label=f"{self.label}: step",
            unit=self.unit,
            default=self.step,
            tolerance=0,
            low=1e-3,
            high=most,
        )
        off = Condition(
            key=f"u_{self.key}",
            label=f"{self.label}: off by",
            unit=self.unit,
            default=self.off,
            tolerance=0,
            low=0,
            high=most,
        )
        return (step, off) if self.step else (off,)


@dataclass(frozen=True)
class Choice:
    """A setting with a few named values; `scores`: it says what counts, and is chosen beside the rule."""

    key: str
    label: str
    options: tuple[tuple[str, str], ...]
    scores: bool = False


RUNS = "runs"  # the choice of what counts of a version's several runs
_OF_RUNS = (("mean", "the mean"), ("best", "the best"), ("last", "the last"))


def several_runs(usual: OfRuns = "mean") -> Choice:
    """What counts of a version that was tested in several runs: the `usual` of the family stands first."""
    return Choice(
        RUNS,
        "When a version is tested again, what counts is",
        tuple(sorted(_OF_RUNS, key=lambda option: option[0] != usual)),
        scores=True,
    )


@dataclass(frozen=True)
class Term:
    """A term of a scoring rule: weight × (metric in `unit`, at most `cap`) / divisor."""

    metric: str
    unit: str
    weight: float = 1.0
    divisor: float = 1.0
    cap: float | None = None


@dataclass(frozen=True, kw_only=True)
class School:
    """A way of scoring; terms name metrics with base units, turned into the class's own."""

    key: str
    label: str
    sentence: str
    terms: tuple[Term, ...]
    better: Direction = "higher"
    when: When = None


@dataclass(frozen=True, kw_only=True)
class Caution:
    """A safety rule; `when` limits it to a choice, e.g. ("heat_source", "sun").

    `adult` asks for an adult's hand; `older` is said at 13 to 16 instead, without that hand, and `young` to
    those who read few words.
    """

    text: str
    adult: bool = False
    older: str = ""
    young: str = ""
    when: When = None
    limit_of: str = ""  # a temperature of the brief whose limit at the age is said too


@dataclass(frozen=True, kw_only=True)
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


@dataclass(frozen=True, kw_only=True)
class Told:
    """Story and success of an age where another thing is built for than usual."""

    story: str
    success: str


@dataclass(frozen=True, kw_only=True)
class Briefing:
    """What the brief of a family asks, with defaults that could run as they are.

    `capped_by` names, for a metric counted in minutes, the phase whose length is its most; `sun`
    the choice under which the sun's height and light matter; `in_short` says in a sentence what it asks
    of class and room; `told` tells another story, where its choice is made.
    """

    conditions: tuple[Condition, ...]
    schools: tuple[School, ...]
    defaults: Mapping[AgeBand, BriefDefault]
    cautions: tuple[Caution, ...] = ()
    criteria: tuple[Condition, ...] = ()  # levels the figures refer to
    choices: tuple[Choice, ...] = ()
    instruments: tuple[Instrument, ...] = ()
    capped_by: Mapping[str, str] = field(default_factory=dict)
    sun: When = ()
    in_short: str = ""
    told: tuple[tuple[When, Mapping[AgeBand, Told]], ...] = ()

    @property
    def stories(self) -> dict[AgeBand, str]:
        return {band: default.story for band, default in self.defaults.items()}

    def default_for(self, age: AgeBand, choices: Mapping[str, str] | None = None) -> BriefDefault:
        """What a brief starts from at that age, told as its choices have it."""
        found = said_to(age, self.defaults)
        for when, told in self.told:
            if holds(when, choices or self.default_choices()):
                found = replace(found, **vars(said_to(age, told)))
        return found

    def at_age(self, age: AgeBand) -> Briefing:
        """The same with the limits that keep this age from harm."""
        return replace(
            self,
            conditions=tuple(c.at_age(age) for c in self.conditions),
            criteria=tuple(c.at_age(age) for c in self.criteria),
            cautions=tuple(self._caution_at(c, age) for c in self.cautions),
        )

    def _caution_at(self, caution: Caution, age: AgeBand) -> Caution:
        if not caution.limit_of:
            return caution
        most = self.setting(caution.limit_of).at_age(age).high
        limited = [
            said and f"{said.removesuffix('.')}, at most {most:g} °C."
            for said in (caution.text, caution.young)
        ]
        return replace(caution, text=limited[0], young=limited[1])

    def default_rig(self) -> dict[str, float]:
        """All conditions, criteria and instruments at their defaults, stored units."""
        return {c.key: c.si("default") for c in self.every_setting()}

    def every_setting(self) -> tuple[Condition, ...]:
        """Every number of the brief, whether it applies or not."""
        own = (c for i in self.instruments for c in i.settings)
        return (*self.conditions, *self.criteria, *own)

    def setting(self, key: str) -> Condition:
        """The number of the brief with this key; ValueError when there is none."""
        for condition in self.every_setting():
            if condition.key == key:
                return condition
        raise ValueError(f"key: no condition {key}")

    def default_choices(self) -> dict[str, str]:
        """The first option of every choice."""
        return {choice.key: choice.options[0][0] for choice in self.choices}

    def chosen(self, rows: Mapping[str, str]) -> dict[str, str]:
        """Every choice: as it was made, else the first option."""
        out = {**self.default_choices(), **rows}
        if RUNS not in rows and rows.get("counts") == "median":
            out[RUNS] = "mean"  # until there was a choice, the middle attempt of each run meant that
        return out

    def under_the_sun(self, choices: Mapping[str, str]) -> bool:
        """Whether the sun's height and light matter under these choices."""
        return self.sun != () and holds(self.sun, choices)

    def settings(self, choices: Mapping[str, str]) -> list[Condition]:
        """Conditions that apply under these choices, in the words of these choices."""
        return [c.under(choices) for c in applying(self.conditions, choices)]

    def levels(self, choices: Mapping[str, str]) -> list[Condition]:
        """Criteria that apply under these choices."""
        return applying(self.criteria, choices)

    def instruments_for(self, choices: Mapping[str, str]) -> list[Instrument]:
        """What readings are taken with under these choices."""
        return applying(self.instruments, choices)

    def cautions_for(self, choices: Mapping[str, str]) -> list[Caution]:
        return applying(self.cautions, choices)

    def schools_for(self, choices: Mapping[str, str]) -> list[School]:
        return applying(self.schools, choices)

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
            Term(
                metric=t.metric,
                unit=setting.unit_of(t.unit),
                weight=t.weight,
                divisor=t.divisor,
                cap=self._cap(t, last_mark_s),
            )
            for t in self.school(school, choices).terms
        )

    def _cap(self, term: Term, last_mark_s: Mapping[str, float]) -> float | None:
        phase = self.capped_by.get(term.metric)
        if phase is None or phase not in last_mark_s:
            return term.cap
        return last_mark_s[phase] / 60.0
