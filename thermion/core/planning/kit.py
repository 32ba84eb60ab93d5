"""Kit for a class: quantities with spares, packs and costs, and cutting plans."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from math import ceil

from thermion.core.kinds.testing import Need
from thermion.core.values import not_negative, positive, whole

_ROUND = 1e-9


@dataclass(frozen=True)
class Line:
    """One line of the list: needed with spares, packs to get, what that makes and costs."""

    item: str
    needed: float
    packs: int
    total: float
    cost: float
    unit: str = ""


def kit_list(needs: Sequence[Need], teams: int, learners: int) -> tuple[Line, ...]:
    """Quantity × count × (1 + spare), rounded up to packs; needs of one item are added first.

    ValueError naming the argument for no team, negative amounts or an empty pack.
    """
    count = {"team": whole("teams", teams), "learner": whole("learners", learners, 0), "class": 1}
    wanted: dict[str, float] = {}
    first: dict[str, Need] = {}
    for need in needs:
        if need.per not in count:
            raise ValueError("per: expected 'team', 'learner' or 'class'")
        amount = not_negative("quantity", need.quantity) * count[need.per]
        amount *= 1 + not_negative("spare", need.spare)
        wanted[need.item] = wanted.get(need.item, 0.0) + amount
        first.setdefault(need.item, need)
    out = []
    for item, amount in wanted.items():
        need = first[item]
        size, price = positive("pack", need.pack), not_negative("pack_cost", need.pack_cost)
        packs = ceil(amount / size - _ROUND)
        out.append(
            Line(
                item=item, needed=amount, packs=packs, total=packs * size, cost=packs * price, unit=need.unit
            )
        )
    return tuple(out)


@dataclass(frozen=True)
class CutPlan:
    """Lengths cut from each stock length [m], cuts to make, waste [m] and its share."""

    stocks: tuple[tuple[float, ...], ...]
    cuts: int
    waste_m: float
    waste_share: float


def cut_plan(pieces: Sequence[tuple[float, int]], stock_m: float, *, kerf_m: float = 0.0) -> CutPlan:
    """Pieces (length [m], count) out of stock lengths [m] by first-fit decreasing.

    `kerf_m` is lost at every cut. At most 11/9 of the fewest stocks possible, plus one.
    A piece longer than the stock: ValueError naming pieces.

    References
    ----------
    .. [1] D. S. Johnson, Near-Optimal Bin Packing Algorithms, PhD thesis, MIT (1973).
    """
    stock, kerf = positive("stock_m", stock_m), not_negative("kerf_m", kerf_m)
    lengths: list[float] = []
    for length, count in pieces:
        if positive("pieces", length) > stock * (1 + _ROUND):
            raise ValueError(f"pieces: expected lengths up to the stock's {stock:g} m")
        lengths += [length] * whole("pieces", count, least=0)
    bins: list[list[float]] = []
    room: list[float] = []
    for length in sorted(lengths, reverse=True):
        at = next((i for i, free in enumerate(room) if length <= free + stock * _ROUND), None)
        if at is None:
            bins.append([])
            room.append(stock)
            at = len(bins) - 1
        bins[at].append(length)
        room[at] = max(room[at] - length - kerf, 0.0)
    cuts = sum(len(b) - (abs(sum(b) + kerf * (len(b) - 1) - stock) <= stock * _ROUND) for b in bins)
    total = stock * len(bins)
    waste = total - sum(lengths)
    return CutPlan(tuple(tuple(b) for b in bins), cuts, waste, waste / total if total else 0.0)
