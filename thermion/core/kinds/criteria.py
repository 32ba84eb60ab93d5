"""A class's own criteria: what a person judges or reads off a build, scored like a family's metrics.

A criterion's key says all there is to know of it (``own~unit~better~most~name``), so that a rule that
names it can be worked out, sent on and read back anywhere, without a list kept beside it.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from math import sqrt

from thermion.core.kinds.analysis import NEVER, Metric
from thermion.core.kinds.base import Kind
from thermion.core.physics.units import convert, stored_unit
from thermion.core.reasons import Why, because
from thermion.core.values import Direction, Figure, Source, Unfit, measured

OWN, LONGEST, JUDGES, MOST_MARKS = "own~", 40, 8, 20
STEPS = {"point": 1.0, "gram": 1.0, "centimeter": 0.1, "second": 0.1, "milliliter": 1.0, "count": 1.0}
_BETTER: tuple[Direction, ...] = ("higher", "lower")
_FURTHEST = 100_000.0  # of what is read in a unit


@dataclass(frozen=True)
class Criterion:
    """`name`, read in `unit` from 0 to `most`; whole marks of a judge where the unit is ``point``."""

    name: str
    unit: str = "point"
    better: Direction = "higher"
    most: float = 4.0

    @property
    def key(self) -> str:
        return f"{OWN}{self.unit}~{self.better}~{self.most:g}~{self.name}"

    @property
    def judged(self) -> bool:
        """Whether a person gives marks, where nothing is measured."""
        return self.unit == "point"

    @property
    def step(self) -> float:
        """What it is read to [its unit]: one judge and the next are a mark apart."""
        return STEPS[self.unit]

    def metric(self) -> Metric:
        return Metric(
            key=self.key,
            label=self.name,
            means=f"Mean of what the judges {'gave' if self.judged else 'measured'}.",
            unit=self.unit,
            better=self.better,
            digits=1 if self.step >= 1 else 2,
            varies=NEVER,
        )


def is_own(key: str) -> bool:
    return key.startswith(OWN)


def criterion(name: str, unit: str = "point", better: str = "higher", most: float | None = None) -> Criterion:
    """A criterion of these properties. ValueError that starts with the name of what cannot be."""
    said = " ".join(name.replace("~", " ").split())
    if not 0 < len(said) <= LONGEST:
        raise Unfit("name", f"expected 1 to {LONGEST} letters")
    if unit not in STEPS:
        raise Unfit("unit", f"expected one of {', '.join(STEPS)}; got {unit}")
    direction = next((d for d in _BETTER if d == better), None)
    if direction is None:
        raise Unfit("better", f"expected higher or lower, got {better}")
    end = (4.0 if most is None else most) if unit == "point" else _FURTHEST
    if unit == "point" and (not 1 <= end <= MOST_MARKS or end != round(end)):
        raise Unfit("most", f"expected a whole number from 1 to {MOST_MARKS}")
    return Criterion(said, unit, direction, end)


def criterion_of(key: str) -> Criterion:
    """The criterion that a key stands for. ValueError when it stands for none."""
    parts = key.split("~", 4)
    try:
        made = criterion(parts[4], parts[1], parts[2], float(parts[3]))
    except (IndexError, ValueError):
        raise Unfit("criterion", f"expected {OWN}unit~better~most~name, got {key}") from None
    if made.key != key:
        raise Unfit("criterion", f"expected {made.key}, got {key}")
    return made


def with_criteria(kind: Kind, keys: Iterable[str]) -> Kind:
    """The family with a class's own criteria among its metrics; other keys are passed over."""
    own = tuple(criterion_of(key).metric() for key in dict.fromkeys(keys) if is_own(key))
    if not own:
        return kind
    return replace(kind, analysis=replace(kind.analysis, metrics=(*kind.analysis.metrics, *own)))


def judged_figure(key: str, values: Sequence[float]) -> Figure:
    """What the judges of one build say together: their mean [stored unit].

    One mark is taken as good to one mark, a reading to its step as a rectangle; several that differ
    more than that are taken at their own spread. What is left open stays with the build through all
    its tries, since they are not judged anew.
    """
    made = criterion_of(key)
    if not values:
        return Figure(
            reason=because(Why.NOT_JUDGED, name=made.name)
            if made.judged
            else because(Why.CRITERION_NOT_READ, name=made.name)
        )
    count, mean = len(values), sum(values) / len(values)
    to = stored_unit(made.unit)
    one = (convert(made.step, made.unit, to) - convert(0.0, made.unit, to)) / (
        1.0 if made.judged else sqrt(12)
    )
    apart = sqrt(sum((v - mean) ** 2 for v in values) / (count - 1)) if count > 1 else 0.0
    return measured(mean, [Source(made.name, max(one, apart) / sqrt(count), "build")])
