"""What a family's model would do at life size: numbers to turn, and what follows over a year."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass

from thermion.core.kinds.briefing import Condition
from thermion.core.values import Figure


@dataclass(frozen=True, kw_only=True)
class LifeFact:
    """A figure that follows, in its stored unit; `unit` is how it is shown."""

    label: str
    unit: str
    figure: Figure
    digits: int = 0


@dataclass(frozen=True, kw_only=True)
class LifeMonth:
    """A month: what was used and what was too much, and what is left at its end; one unit for all."""

    name: str
    used: float
    over: float
    left: float


@dataclass(frozen=True, kw_only=True)
class LifeYear:
    """What follows; `said` answers the question in one sentence, `months` are shown in `unit`."""

    said: str
    facts: tuple[LifeFact, ...]
    months: tuple[LifeMonth, ...]
    unit: str


@dataclass(frozen=True, kw_only=True)
class LifeSize:
    """A family's model at life size.

    `work` takes the settings [stored unit] and gives a year. `share` names the setting that may be taken
    from a class's best build, by the figure `from_metric`. `legend` names used, too much and left.
    """

    question: str
    model: str
    settings: tuple[Condition, ...]
    work: Callable[[Mapping[str, float]], LifeYear]
    legend: tuple[str, str, str]
    share: str = ""
    from_metric: str = ""

    def usual(self) -> dict[str, float]:
        """Every setting at its default [stored unit]."""
        return {c.key: c.si("default") for c in self.settings}
