"""Is this amount a slip? Judged from all that is known around it: the same build, the others, the rig.

A number is asked about, never changed: a likely correction stands beside it where one slip explains it
(a decimal sign, metres for centimetres, minutes for seconds).
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from math import inf
from statistics import median

from thermion.core.values import Check, Code

APART = 2.5  # times as much as the same build's other tries, from which a slip is looked for
FAR = 4.0  # times as much, from which it is asked about though no slip explains it
FAR_FROM_ALL = 5.0  # times more than the most of all others, or less than the least
NEAR = 1.35  # times: so near to what was expected that a slip explains it
LEAST_OTHERS = 3

# What a slip multiplies the true number with is taken back by these.
SIGN = (
    (0.1, "A decimal sign left out?"),
    (10.0, "A decimal sign too many?"),
    (0.01, "A decimal sign left out?"),
)
LENGTH = ((100.0, "Was that in metres?"), (10.0, "A decimal sign too many?"))
TIME = ((60.0, "Was that in minutes?"),)


@dataclass(frozen=True)
class Known:
    """What is known of an amount before it is typed, all in its stored unit.

    `earlier` of the same build under the same load, `others` of other builds; the `most` that can have
    been there (ice that was put in) and what that `is`; the value that all have in `common`, how far from
    it is `usual`. `loose`: it may lie anywhere between nothing and its end, as a lift that stopped halfway.
    """

    earlier: tuple[float, ...] = ()
    others: tuple[float, ...] = ()
    most: float = inf
    most_is: str = ""
    common: float | None = None
    usual: float = 0.0
    loose: bool = False


def doubt_of(
    value: float, unit: str, known: Known, show: Callable[[float], str], *, end: float = inf
) -> Check | None:
    """What is to be asked about an amount; None where nothing is.

    Parameters
    ----------
    value : the amount [stored unit].  unit : the shown unit, by which slips are looked for.
    known : what is known around it.  show : an amount as it is written.
    end : the end of what can be, such as the string's whole length [stored unit].
    """
    if known.common is not None and abs(value - known.common) > known.usual:
        return Check("ask", f"All start at {show(known.common)}. Is this so?", code="jump")
    if value <= 0:
        return None
    if value > known.most:
        return Check("ask", f"That is more than {known.most_is} ({show(known.most)}).", code="jump")
    earlier = [v for v in known.earlier if v > 0]
    in_metres = unit in ("centimeter", "millimeter") and _near(value * 100, [end, *earlier])
    if in_metres and value * 100 <= end * 1.02:
        return _explained(value, 100.0, "Was that in metres?", show)
    return None if known.loose else _beside_others(value, earlier, known, _slips(unit), show)


def _beside_others(
    value: float,
    earlier: Sequence[float],
    known: Known,
    slips: Sequence[tuple[float, str]],
    show: Callable[[float], str],
) -> Check | None:
    """What is asked of a value beside what the same build did before, else beside the other builds."""
    if earlier:
        return _beside(value, [median(earlier)], slips, show, what="what it did before", apart=APART, far=FAR)
    others = [v for v in known.others if v > 0]
    if len(others) < LEAST_OTHERS:
        return None
    return _beside(
        value,
        [min(others), max(others)],
        slips,
        show,
        what="all others",
        apart=FAR_FROM_ALL,
        far=FAR_FROM_ALL,
    )


def _slips(unit: str) -> Sequence[tuple[float, str]]:
    if unit == "second":
        return (*SIGN, *TIME)
    return (*SIGN, *LENGTH) if unit in ("centimeter", "millimeter") else SIGN


def _beside(
    value: float,
    range_: Sequence[float],
    slips: Sequence[tuple[float, str]],
    show: Callable[[float], str],
    what: str,
    apart: float,
    far: float,
) -> Check | None:
    """What is asked of a value beside a range of others."""
    low, high = min(range_), max(range_)
    if low / apart <= value <= high * apart:
        return None
    for factor, question in slips:
        if low / NEAR <= value * factor <= high * NEAR:
            return _explained(value, factor, question, show)
    if low / far <= value <= high * far:
        return None
    shown = show(low) if low == high else f"{show(low)} to {show(high)}"
    return Check("ask", f"Far from {what} ({shown}). Is it so?", code="jump")


def _near(value: float, those: Sequence[float]) -> bool:
    return any(v < inf and v / 1.05 <= value <= v * 1.05 for v in those)


def _explained(value: float, factor: float, question: str, show: Callable[[float], str]) -> Check:
    code: Code = "decimal place" if factor in (0.1, 0.01, 10.0) else "other unit"
    return Check("ask", f"{question} Then it is {show(value * factor)}.", value * factor, code)
