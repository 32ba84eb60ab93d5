"""How a family's readings and findings are looked at."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Literal

from thermion.core.kinds.building import View
from thermion.core.kinds.trials import Attempt
from thermion.core.kinds.when import When, applying


@dataclass(frozen=True, kw_only=True)
class Picture:
    """How findings are drawn.

    ``curves``: readings against time. ``attempts``: attempts laid out by what is `read`.
    ``points``: attempts by what is `read` and the first of `metrics`. ``bars``: each of the
    metrics as a bar of a build, open where it is only a bound, `against` the metric of the
    control. ``stack``: the metrics of a build end to end, in one unit. `tones`: the look of each
    of the metrics.
    """

    key: str
    label: str
    form: Literal["curves", "attempts", "points", "bars", "stack"]
    read: str = ""
    metrics: tuple[str, ...] = ()
    against: str = ""
    tones: tuple[Literal["heat", "cold", "water", "lost", "plain"], ...] = ("plain", "lost")
    labels: tuple[str, ...] = ()  # of the metrics in the picture, where theirs are long
    when: When = None


CURVES = Picture(key="curves", label="Curves", form="curves")


def _no_point(*_: object) -> float | None:
    return None


@dataclass(frozen=True)
class Views:
    """Pictures of the findings (the first is shown first), and what is drawn while testing.

    `level` names the criterion drawn as a line on the curves; `point` gives the height of an
    attempt in a picture of points, under the rig; `draw_word` a value of a scale in words.
    """

    pictures: tuple[Picture, ...] = (CURVES,)
    level: str = ""
    point: Callable[[Attempt, Mapping[str, float]], float | None] = _no_point
    draw_word: Callable[[int], View] | None = None

    def pictures_for(self, choices: Mapping[str, str]) -> list[Picture]:
        return applying(self.pictures, choices)
