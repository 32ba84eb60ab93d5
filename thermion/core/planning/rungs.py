"""Rungs of one challenge: for some teams an easier or a harder brief, tested like everybody's.

A rung changes how much of each material there is, whose words are used, and adds one aim. The test itself
(marks, loads, what is held fixed, what is better) is the same for all, so results stay on one scale.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from math import ceil
from typing import Literal, get_args

from thermion.core.ages import AGES, AgeBand
from thermion.core.plans import Offer
from thermion.core.values import Unfit

RungKey = Literal["easier", "harder"]
RUNGS: tuple[RungKey, ...] = get_args(RungKey)
SHARES = (0.5, 0.75, 1.0, 1.5, 2.0)  # of the units that the brief allows
LONGEST_AIM = 200


@dataclass(frozen=True, kw_only=True)
class Rung:
    """What differs for the teams on it: `share` of each limit, the age whose `words` are used, an `aim` more."""

    key: RungKey
    share: float
    words: AgeBand
    aim: str = ""

    def check(self) -> None:
        """ValueError, naming the argument, for what no rung can be."""
        if self.key not in RUNGS:
            raise Unfit("key", f"expected one of {list(RUNGS)}, got {self.key}")
        if self.share not in SHARES:
            raise Unfit("share", f"expected one of {list(SHARES)}, got {self.share:g}")
        if self.words not in AGES:
            raise Unfit("words", f"expected one of {list(AGES)}, got {self.words}")
        if len(self.aim) > LONGEST_AIM:
            raise Unfit("aim", f"at most {LONGEST_AIM} characters")


def usual_rung(key: RungKey, age: AgeBand) -> Rung:
    """What a rung begins with beside a brief for this age: half as much more of everything and the words of
    the next younger age, or three quarters of it and the words of the next older one."""
    at = AGES.index(age)
    if key == "easier":
        return Rung(key=key, share=1.5, words=AGES[max(at - 1, 0)])
    aim = "Say what each part is there for."
    return Rung(key=key, share=0.75, words=AGES[min(at + 1, len(AGES) - 1)], aim=aim)


def offers_on(rung: Rung, offers: Sequence[Offer]) -> tuple[Offer, ...]:
    """What is on offer on a rung: the same materials at the same points, each limit [units] as its share,
    rounded up, so that nothing that is on offer is ever none."""
    return tuple(
        offer if offer.limit is None else replace(offer, limit=float(ceil(offer.limit * rung.share - 1e-9)))
        for offer in offers
    )
