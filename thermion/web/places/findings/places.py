"""The places that a build may have, and its chance of being the best, in words for three ages."""

from __future__ import annotations

from thermion.core.ages import AgeBand, reader
from thermion.core.judging.standings import Standing
from thermion.core.subjects import Subject


def ordinal(number: int) -> str:
    ending = {1: "st", 2: "nd", 3: "rd"}.get(number if number < 20 else number % 10, "th")
    return f"{number}{ending}"


def may_be(standing: Standing[Subject] | None) -> str:
    """The places a build may have: “1st”, “1st to 3rd”, “not known”."""
    if standing is None or standing.first is None or standing.last is None:
        return "not known"
    if standing.first == standing.last:
        return ordinal(standing.first)
    return f"{ordinal(standing.first)} to {ordinal(standing.last)}"


def odds(chance: float | None, age: AgeBand) -> str:
    """The chance of truly being the best, in plain odds; in percent from 13 on."""
    if chance is None:
        return ""
    if reader(age).symbols:
        return "< 1 %" if chance < 0.01 else "> 99 %" if chance > 0.99 else f"{chance * 100:.0f} %"
    tenths = round(chance * 10)
    if tenths == 0:
        return "no" if reader(age).plain else "< 1 in 20"
    if tenths == 10:
        return "yes, nearly sure" if reader(age).plain else "> 19 in 20"
    return f"{tenths} in 10"
