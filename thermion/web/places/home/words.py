"""Names that are filled in until the class gives its own."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from thermion.records.planning.habits import Habit

HABITS: Mapping[Habit, str] = {
    "choices": "what is read",
    "score": "score",
    "marks": "marks",
    "instruments": "instruments",
    "hands": "stations and readers",
}


def taken_over(taken: Sequence[Habit], title: str) -> str:
    """What a new challenge begins with that is not as usual, and where that is from."""
    return f"As in {title}: {', '.join(HABITS[habit] for habit in taken)}."


def first_class(number: int) -> str:
    return f"Class {number}"


def first_name(index: int) -> str:
    """Of the n-th team."""
    return f"Team {chr(ord('A') + index)}"
