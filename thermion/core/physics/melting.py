"""Melting seen by eye: stages at marks give intervals, and intervals are what is compared."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from thermion.core.lazy import ArrayLike
from thermion.core.lazy import numpy as np
from thermion.core.reasons import Because, Why
from thermion.core.values import series

STAGES = ("firm", "glossy", "edges blurred", "slumped", "liquid")
Verdict = Literal["sooner", "later", "within one check", "not known"]


@dataclass(frozen=True)
class Reached:
    """When a stage came: later than `after_s` [s], not later than `before_s` [s].

    `after_s` None: it was there at the first check. `before_s` None: never reached while
    watched. `note` says if the sample was seen to go back.
    """

    after_s: float | None
    before_s: float | None
    note: Because = Why.NONE

    @property
    def known(self) -> bool:
        return self.after_s is not None and self.before_s is not None


def stage_intervals(time_s: ArrayLike, stage: ArrayLike) -> tuple[Reached, ...]:
    """For each stage 1 to 4: last time not yet, first time seen.

    `time_s` shape (n,) increasing [s]; `stage` shape (n,), whole numbers 0 (firm) to 4 (liquid).
    A stage that was skipped between two checks has the interval of the later one. ValueError
    naming the argument for anything else.
    """
    t, s = series(time_s, stage)
    if np.any(s != np.round(s)) or np.any(s < 0) or np.any(s > 4):
        raise ValueError("stage: expected whole numbers from 0 (firm) to 4 (liquid)")
    note = Why.SEEN_GOING_BACK if np.any(np.diff(s) < 0) else Why.NONE
    out = []
    for level in range(1, 5):
        seen = np.flatnonzero(s >= level)
        if seen.size == 0:
            out.append(Reached(float(t[-1]), None, note))
            continue
        i = int(seen[0])
        out.append(Reached(float(t[i - 1]) if i else None, float(t[i]), note))
    return tuple(out)


def sooner(a: Reached, b: Reached) -> Verdict:
    """Which came first, by intervals and never by their middles.

    ``sooner`` (``later``) only if the intervals do not overlap, else ``within one check``.
    ``not known`` when both were never reached.
    """
    if a.before_s is None and b.before_s is None:
        return "not known"
    if a.before_s is not None and b.after_s is not None and a.before_s <= b.after_s:
        return "sooner"
    if b.before_s is not None and a.after_s is not None and b.before_s <= a.after_s:
        return "later"
    return "within one check"


@dataclass(frozen=True)
class Bounds:
    """A ratio known to lie between `low` and `high`; None where it has no bound."""

    low: float
    high: float | None


def protection_ratio(device: Reached, control: Reached) -> Bounds | None:
    """Time of the device over the time of the control beside it, as an interval.

    None when neither was reached, or nothing is known of the control's time.
    """
    if control.before_s is None and device.before_s is None:
        return None
    low = 0.0
    if device.after_s is not None and control.before_s:
        low = device.after_s / control.before_s
    high = device.before_s / control.after_s if device.before_s and control.after_s else None
    return Bounds(low, high)
