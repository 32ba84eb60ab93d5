"""What follows from the trials of a family: its metrics and how they are worked out."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property

from thermion.core.kinds.trials import Fitted, Trial
from thermion.core.kinds.when import When, applying
from thermion.core.physics.units import stored_unit
from thermion.core.values import Direction, Figure


@dataclass(frozen=True, kw_only=True)
class Varies:
    """How the tries of a metric vary when nothing was changed.

    In proportion to their size above a floor: `share` of √(y² + `above`²), `above` in the shown unit and
    `why` it is that; alike for all builds where `above` is None, by about `alike`. y counts from `zero`:
    a number [shown unit], or the key of a condition (``air_c``: the excess over the air). A build at one
    of the `ends` (numbers, or keys of conditions) could not vary. `never`: nothing of it does.
    """

    above: float | None = None
    why: str = ""
    zero: float | str = 0.0
    ends: tuple[float | str, ...] = ()
    share: float = 0.06
    alike: float = 1.0
    never: bool = False


ALIKE, NEVER = Varies(), Varies(never=True)


@dataclass(frozen=True, kw_only=True)
class Metric:
    """A figure of merit, shown in `unit`; its figures are in the stored unit (SI) of that.

    `means` says what it is worked out from, for who has the number alone. `reads` names what is read that it
    is one of: what can be read of that, can be predicted.
    """

    key: str
    label: str
    means: str
    unit: str
    better: Direction
    digits: int = 1
    when: When = None
    reads: str = ""
    varies: Varies = ALIKE

    @property
    def si_unit(self) -> str:
        """The unit its figures are computed in."""
        return stored_unit(self.unit)


Figures = Mapping[str, Figure]
Correct = Callable[[str, Figures, Mapping[str, float], Mapping[str, float]], float | None]


def _no_repeats(_: Trial) -> list[Trial]:
    return []


def _no_correction(*_: object) -> float | None:
    return None


@dataclass(frozen=True, kw_only=True)
class Analysis:
    """Figures of trials, and which of them are shown, predicted and compared.

    `fit` turns trials into figures. `repeats` gives the same test again inside one trial, which
    shows how much a try varies. `correct` gives what a metric would be under another run's conditions,
    where physics allows, from all figures of the try; `corrected_for` are the conditions it
    depends on, `corrected_words` what is said of it. `bounds_words`: how often its bounds are false, where
    that is more than rarely.
    """

    metrics: tuple[Metric, ...]
    headline: tuple[str, ...]  # metrics shown first
    prediction: str  # metric that teams predict
    fit: Callable[[Sequence[Trial]], list[Fitted]]
    compares: str = ""  # metric that compares builds and versions on one page
    of_control: tuple[str, ...] = ()  # metrics counted in those of the control beside it
    claims: tuple[str, ...] = ()  # metrics by which versions are judged; the first shown if none is named
    repeats: Callable[[Trial], Sequence[Trial]] = _no_repeats
    correct: Correct = _no_correction
    corrected_for: tuple[str, ...] = ()
    corrected_words: str = ""
    bounds_words: str = ""  # how often what is seen only between two checks is not there

    def metric(self, key: str) -> Metric:
        for metric in self.metrics:
            if metric.key == key:
                return metric
        raise ValueError(f"metric: expected one of this family's, got {key}")

    def metric_units(self) -> dict[str, str]:
        """Unit of each metric's figures: the stored one."""
        return self._units

    @cached_property
    def _units(self) -> dict[str, str]:
        return {metric.key: metric.si_unit for metric in self.metrics}

    def headline_for(self, choices: Mapping[str, str]) -> tuple[Metric, ...]:
        """Metrics shown first under these choices."""
        return tuple(applying([self.metric(key) for key in self.headline], choices))

    def compared_for(self, choices: Mapping[str, str]) -> list[Metric]:
        """Metrics by which versions are compared, the family's own first."""
        keys = dict.fromkeys(key for key in (self.compares, *self.headline) if key)
        return applying([self.metric(key) for key in keys], choices)

    def claimed_for(self, choices: Mapping[str, str]) -> tuple[Metric, ...]:
        """Metrics by which a version is judged against the one before."""
        named = tuple(applying([self.metric(key) for key in self.claims], choices))
        return named or self.headline_for(choices)[:1]

    def prediction_for(self, choices: Mapping[str, str]) -> Metric:
        """The metric that teams predict under these choices."""
        wanted = applying([self.metric(self.prediction)], choices)
        return (wanted or list(self.headline_for(choices)))[0]
