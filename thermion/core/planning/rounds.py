"""Marks of a clocked test: which is due, which were missed, when the next one comes."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise
from typing import Literal

from thermion.core.values import finite

MarkState = Literal["ahead", "due", "past"]


@dataclass(frozen=True)
class Slot:
    """A mark [s from the start of its phase] and the span in which it is the due one [s]."""

    mark_s: float
    due_from_s: float
    due_until_s: float

    def state(self, elapsed_s: float) -> MarkState:
        if elapsed_s < self.due_from_s:
            return "ahead"
        return "due" if elapsed_s < self.due_until_s else "past"


def slots(marks_s: Sequence[float]) -> list[Slot]:
    """Slots of a phase: a mark is due from its moment until the next mark's.

    The last is due for as long as the interval before it. Raises ValueError unless the marks
    start at zero and increase.
    """
    marks = finite("marks_s", marks_s)
    if marks.size == 0 or marks[0] != 0:
        raise ValueError("marks_s: expected the first mark at time zero")
    if any(b <= a for a, b in pairwise(marks.tolist())):
        raise ValueError("marks_s: expected increasing marks without repeats")
    last = float(marks[-1] - marks[-2]) if marks.size > 1 else 300.0
    ends = [*marks[1:].tolist(), float(marks[-1]) + last]
    return [Slot(float(m), float(m), float(e)) for m, e in zip(marks, ends, strict=True)]


def true_time(elapsed_s: float, mark_s: float, slot: Slot) -> tuple[float, bool]:
    """Time to store for a reading typed at `elapsed_s` for a mark, and whether it was measured.

    Typed while its mark is due, or a little after (half a slot): the moment of entry.
    Typed later (from paper, a correction): the planned mark, marked as not measured.
    """
    grace = (slot.due_until_s - slot.due_from_s) / 2
    if slot.due_from_s - 30.0 <= elapsed_s <= slot.due_until_s + grace:
        return max(elapsed_s, 0.0), True
    return mark_s, False
