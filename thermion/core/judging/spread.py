"""How much a try varies: one standard deviation for a class, with its degrees of freedom."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from math import sqrt
from typing import Literal

from thermion.core.lazy import ArrayLike
from thermion.core.values import finite, not_negative, positive

Origin = Literal["repeats", "repeats and earlier classes", "earlier classes"]


@dataclass(frozen=True)
class Spread:
    """Standard deviation of one try [unit of the metric], its degrees of freedom, where it is from.

    ValueError for a standard deviation below zero or degrees of freedom not above zero.
    """

    sd: float
    dof: float
    source: Origin = "repeats"

    def __post_init__(self) -> None:
        not_negative("sd", self.sd)
        positive("dof", self.dof)


def pool(
    groups: Iterable[ArrayLike], *, resolution: float = 0.0, prior: Spread | None = None
) -> Spread | None:
    """How much a try varies, pooled over everything that was tried more than once.

    Parameters
    ----------
    groups : each the tries of the same thing under the same conditions, shape (n,), in one unit;
        a group of one says nothing, an empty one neither.
    resolution : step of the instrument in that unit [GUM 4.3.7]; values that agree after rounding
        still hide resolution/√12.
    prior : what earlier classes' repeats of the same kind say, in that unit.

    Returns
    -------
    Spread, or None without any repeat and without a prior. s² = Σ(y − ȳ)²/ν on ν = Σ(n − 1)
    degrees of freedom, never below resolution²/12; with a prior s₀² on ν₀ the weighted mean
    (ν₀·s₀² + ν·s²)/(ν₀ + ν) on ν₀ + ν [1]_.

    Raises
    ------
    ValueError naming the argument for numbers that are not finite or a resolution below zero.

    References
    ----------
    .. [1] G. K. Smyth, Stat. Appl. Genet. Mol. Biol. 3, 3 (2004), doi:10.2202/1544-6115.1027.
    """
    least = not_negative("resolution", resolution) ** 2 / 12.0
    squares, dof = 0.0, 0.0
    for group in groups:
        values = finite("groups", group)
        if values.size > 1:
            squares += float(((values - values.mean()) ** 2).sum())
            dof += values.size - 1
    return spread_of(squares, dof, least, prior)


def spread_of(squares: float, dof: float, least: float, prior: Spread | None = None) -> Spread | None:
    """`pool` from a sum of squares on its degrees of freedom; `least` is the smallest variance."""
    if dof <= 0:
        return None if prior is None else Spread(max(prior.sd, sqrt(least)), prior.dof, "earlier classes")
    s2 = max(squares / dof, least)
    if prior is None:
        return Spread(sqrt(s2), dof, "repeats")
    both = (prior.dof * prior.sd**2 + dof * s2) / (prior.dof + dof)
    return Spread(sqrt(max(both, least)), prior.dof + dof, "repeats and earlier classes")
