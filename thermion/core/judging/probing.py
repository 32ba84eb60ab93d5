"""What a probe's latest values say of itself: silent, stuck, jumping, in the hand, its clock wrong."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise
from statistics import median
from typing import Literal

SILENT_S, INTERVALS = 20.0, 4.0  # silent after so long, and after so many of its own intervals
JUMP_K, JUMP_WITHIN_S = 15.0, 30.0  # by more than this from one value to the next
STUCK_S, STUCK = 300.0, 8  # the same number so long, and so often
HAND_C, HAND_ABOVE_K = (26.0, 38.0), 4.0  # a probe in a hand: so warm, and warmer than the others
LATE_S = 20.0  # between what a probe's clock says and its arrival, once: what comes in batches ends with now

LOW_BATTERY = 15.0  # percent: it may not last the lesson

Trouble = Literal["", "silent", "jumped", "stuck", "in the hand", "clock"]


@dataclass(frozen=True)
class Measured:
    """One value as a device sent it, in the stored unit, by the name of its channel.

    Of what a probe says of itself `stored_unit` is "battery" [%] or "signal" [dBm].
    `time_s` is its own time since 1970 [s]; None where it was taken `ago_s` before it arrived. `unit` is the
    device's word for it.
    """

    name: str
    unit: str
    stored_unit: str
    value: float
    time_s: float | None
    ago_s: float = 0.0


@dataclass(frozen=True)
class SentValue:
    """A channel's latest values, oldest first: times [s, any zero] and values [stored unit].

    `now_s` is the present on the same axis, `late_s` how long after its own time the latest arrived.
    """

    time_s: Sequence[float]
    value: Sequence[float]
    now_s: float
    late_s: float = 0.0

    @property
    def age_s(self) -> float:
        return self.now_s - self.time_s[-1]


@dataclass(frozen=True)
class Found:
    """A trouble and its size: seconds of silence or of a wrong clock, kelvin of a jump."""

    trouble: Trouble = ""
    size: float = 0.0


def trouble_of(sent: SentValue, others: Sequence[float] = (), *, started: bool = True) -> Found:
    """What is to be said of a probe before its values are believed.

    `others` are the latest values of the other probes; before the test has `started`, one that is as warm
    as a hand and warmer than they are is still in a hand.
    """
    if not sent.time_s:
        return Found("silent", 0.0)
    gaps = [b - a for a, b in pairwise(sent.time_s)]
    usual, silence, last = median(gaps) if gaps else 0.0, sent.age_s - sent.late_s, sent.value[-1]
    warm = bool(others) and HAND_C[0] < last < HAND_C[1] and last > median(others) + HAND_ABOVE_K
    same = _same_since(sent)
    found: tuple[tuple[Trouble, float], ...] = (
        ("silent", silence if silence > max(SILENT_S, INTERVALS * usual) else 0.0),
        ("clock", sent.late_s if sent.late_s > LATE_S else 0.0),
        ("jumped", _jump(sent)),
        ("stuck", same if same > STUCK_S and len(sent.value) >= STUCK else 0.0),
        ("in the hand", last if warm and not started else 0.0),
    )
    return next((Found(name, size) for name, size in found if size), Found())


def _jump(sent: SentValue) -> float:
    """The latest jump between two neighbouring values within the last minute, with its sign; 0 for none."""
    pairs = [*zip(sent.time_s, sent.time_s[1:], sent.value, sent.value[1:], strict=False)]
    for t0, t1, a, b in reversed(pairs):
        if sent.now_s - t1 > 60.0 + sent.late_s:
            break
        if t1 - t0 <= JUMP_WITHIN_S and abs(b - a) > JUMP_K:
            return b - a
    return 0.0


def _same_since(sent: SentValue) -> float:
    for t, v in zip(reversed(sent.time_s), reversed(sent.value), strict=True):
        if v != sent.value[-1]:
            return sent.time_s[-1] - t
    return sent.time_s[-1] - sent.time_s[0]
