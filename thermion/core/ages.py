"""The ages that learners are written for, in order, and what each can read."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Literal, TypeVar, get_args

AgeBand = Literal["6-8", "9-12", "13-16"]
AGES: tuple[AgeBand, ...] = get_args(AgeBand)  # youngest first
USUAL: AgeBand = "9-12"

T = TypeVar("T")


@dataclass(frozen=True, kw_only=True)
class Reader:
    """What learners of an age read: `plain`, pictures and few words, no unit but the one they read;
    `symbols`, formulas, percent and uncertainties. `words` says so to a teacher."""

    words: str
    plain: bool = False
    symbols: bool = False


READERS: Mapping[AgeBand, Reader] = {
    "6-8": Reader(words="few words, no units", plain=True),
    "9-12": Reader(words="plain words and units"),
    "13-16": Reader(words="symbols, units, formulas", symbols=True),
}


def reader(age: AgeBand) -> Reader:
    """What learners of this age read."""
    return READERS[age]


def said_to(age: AgeBand, says: Mapping[AgeBand, T]) -> T:
    """What is said to an age: its own words, else those of the next younger age that has some, else of the
    next older one."""
    at = AGES.index(age)
    return next(says[other] for other in (*reversed(AGES[: at + 1]), *AGES[at + 1 :]) if other in says)


def in_order(says: Sequence[T]) -> Mapping[AgeBand, T]:
    """Words for the ages in their order, youngest first."""
    return dict(zip(AGES, says, strict=False))
