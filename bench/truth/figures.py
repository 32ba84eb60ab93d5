"""Coverage: how often the 95 % interval of every figure holds the simulator's true value.

Classroom conditions as in docs/truth.md: readings uncertain by 0.2 K and rounded to half degrees,
up to 30 s late, thermometers off by 0.5 K, a stopwatch in the hand within 0.2 s, a jug read to half a
graduation, wind within 0.15 m/s, a sun measured to 5 % or estimated to 10 %, a scale to its step.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from bench.truth.classes import CLASSES
from thermion.core.kinds import get_kind
from thermion.core.values import Figure


@dataclass
class Tally:
    """Of one figure: intervals, those that hold the truth; bounds, those that are true; neither."""

    intervals: int = 0
    held: int = 0
    bounds: int = 0
    true_bounds: int = 0
    silent: int = 0

    def add(self, figure: Figure | None, true: float) -> None:
        if figure is not None and figure.low is not None and figure.high is not None:
            self.intervals += 1
            slack = 1e-9 * max(abs(true), 1.0)
            self.held += figure.low - slack <= true <= figure.high + slack
        elif figure is not None and (figure.at_least is not None or figure.at_most is not None):
            self.bounds += 1
            low = figure.at_least is None or true >= figure.at_least - 1e-9
            self.true_bounds += low and (figure.at_most is None or true <= figure.at_most + 1e-9)
        else:
            self.silent += 1

    @property
    def coverage(self) -> float | None:
        return self.held / self.intervals if self.intervals else None


def coverage(family: str, classes: int, seed: int) -> dict[str, Tally]:
    """Tallies of every figure that the family's simulator knows the truth of."""
    dice = np.random.default_rng(seed)
    kind = get_kind(family)
    out: dict[str, Tally] = {}
    for trial, true in CLASSES[family](kind, classes, dice):
        figures = kind.analysis.fit([trial])[0].figures
        for key, value in true.items():
            out.setdefault(key, Tally()).add(figures.get(key.split()[-1]), value)
    return out
