"""How much a try varies: one spread for a class, alike for all builds or in proportion to their size."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from math import exp, hypot, log, sqrt
from typing import Literal

from thermion.core.lazy import ArrayLike, special
from thermion.core.lazy import numpy as np
from thermion.core.values import finite, not_negative, positive

Origin = Literal["repeats", "repeats and earlier classes", "earlier classes"]
# Where results vary in proportion above a floor c, nobody knows c well: what is claimed holds with a
# floor this many times lower and higher too. Simulated (docs/truth.md): with twice, a c that is wrong by
# three lets up to 14 % of equals come out clear; with two and a half up to 8 %, at 0.95 of the power.
FLOORS = (1.0, 1 / 2.5, 2.5)
LENT_DOF, LEAST_LENDERS = 8.0, 3


@dataclass(frozen=True)
class Spread:
    """Standard deviation of one try, its degrees of freedom, where it is from.

    Without `above` all tries vary alike, by `sd` [unit of the metric]. With it they vary in proportion
    to their size above a floor: by sd·√(y² + above²), so that `sd` is a share and `above` has the unit
    of the metric; `also` are (sd, above) for a lower and a higher floor, with which what is claimed has to
    hold too. ValueError for what is below zero, or degrees of freedom not above it.
    """

    sd: float
    dof: float
    source: Origin = "repeats"
    above: float | None = None
    also: tuple[tuple[float, float], ...] = ()

    def __post_init__(self) -> None:
        not_negative("sd", self.sd)
        positive("dof", self.dof)
        if self.above is not None:
            positive("above", self.above)

    @property
    def each(self) -> tuple[tuple[float, float | None], ...]:
        """(sd, above) that what is claimed has to hold with, the one that is believed first."""
        return ((self.sd, self.above), *self.also)

    def at(self, value: float) -> float:
        """Standard deviation of one try of a build with this value, by the floor that is believed."""
        return self.sd * size(value, self.above)


def size(value: float, above: float | None) -> float:
    """What a try's standard deviation is in proportion to: √(y² + c²); 1 where all vary alike."""
    return 1.0 if above is None else hypot(value, above)


def floors_of(above: float | None) -> tuple[float | None, ...]:
    """The floor that is believed, a lower and a higher one; only None where all vary alike."""
    return (None,) if above is None else tuple(above * by for by in FLOORS)


def pool(
    groups: Iterable[ArrayLike],
    *,
    resolution: float = 0.0,
    prior: Spread | None = None,
    above: float | None = None,
) -> Spread | None:
    """How much a try varies, pooled over everything that was tried more than once.

    Parameters
    ----------
    groups : each the tries of the same thing under the same conditions, shape (n,), in one unit;
        a group of one says nothing, an empty one neither.
    resolution : step of the instrument in that unit [GUM 4.3.7]; values that agree after rounding
        still hide resolution/√12.
    prior : what earlier classes' repeats of the same kind say; `above` as here.
    above : the floor c [that unit] where results vary in proportion to g(y) = √(y² + c²): s is pooled
        from residuals over g of the build's mean. None where all vary alike.

    Returns
    -------
    Spread, or None without any repeat and without a prior. s² = Σ(y − ȳ)²/g²/ν on ν = Σ(n − 1)
    degrees of freedom, never below resolution²/12 (over g²); with a prior s₀² on ν₀ the weighted
    mean (ν₀·s₀² + ν·s²)/(ν₀ + ν) on ν₀ + ν [1]_.

    Raises
    ------
    ValueError naming the argument for numbers that are not finite or a resolution below zero.

    References
    ----------
    .. [1] G. K. Smyth, Stat. Appl. Genet. Mol. Biol. 3, 3 (2004), doi:10.2202/1544-6115.1027.
    """
    step2 = not_negative("resolution", resolution) ** 2 / 12.0
    if above is not None:
        positive("above", above)
    floors = floors_of(above)
    squares, least, dof = [0.0] * len(floors), [0.0] * len(floors), 0.0
    for group in groups:
        values = finite("groups", group)
        if values.size < 2:
            continue
        mean, free = float(values.mean()), values.size - 1
        around = float(((values - mean) ** 2).sum())
        for i, floor in enumerate(floors):
            g2 = size(mean, floor) ** 2
            squares[i] += around / g2
            least[i] += free * step2 / g2
        dof += free
    if dof == 0:
        least = [step2 if above is None else 0.0]
    return spread_of(squares, dof, [x / max(dof, 1.0) for x in least], prior, above)


def spread_of(
    squares: Sequence[float],
    dof: float,
    least: Sequence[float],
    prior: Spread | None = None,
    above: float | None = None,
) -> Spread | None:
    """`pool` from sums of squares on their degrees of freedom, one for each floor; `least` are the
    smallest variances."""
    if dof <= 0:
        if prior is None:
            return None
        return Spread(
            sd=max(prior.sd, sqrt(least[0])),
            dof=prior.dof,
            source="earlier classes",
            above=prior.above,
            also=prior.also,
        )
    found = [max(ss / dof, low) for ss, low in zip(squares, least, strict=True)]
    source: Origin = "repeats"
    if prior is not None:
        known = [sd**2 for sd, _ in prior.each] * (len(found) if len(prior.each) == 1 else 1)
        found = [(prior.dof * s0 + dof * s2) / (prior.dof + dof) for s0, s2 in zip(known, found, strict=True)]
        found = [max(s2, low) for s2, low in zip(found, least, strict=True)]
        source, dof = "repeats and earlier classes", prior.dof + dof
    also = tuple((sqrt(s2), (above or 0.0) * by) for s2, by in zip(found[1:], FLOORS[1:], strict=False))
    return Spread(sd=sqrt(found[0]), dof=dof, source=source, above=above, also=also)


def lent(lenders: Sequence[tuple[Sequence[float], float]], above: float | None = None) -> Spread | None:
    """The spread that earlier challenges of the same family and metric lend to one without repeats.

    Parameters
    ----------
    lenders : of each challenge its variances s², one for each floor, and their degrees of freedom.
    above : the floor of the metric, as in `pool`.

    Returns
    -------
    Spread, or None with fewer than three lenders or when one of them never varied. s₀ and d₀ by Smyth's
    moments of ln s² (the variances themselves vary from challenge to challenge); degrees of freedom the
    least of d₀, the lenders' sum, and 8: simulated, 4.8 to 5.3 % of equal builds come out clear then.

    References
    ----------
    .. [1] G. K. Smyth, Stat. Appl. Genet. Mol. Biol. 3, 3 (2004), section 6.2.
    """
    if len(lenders) < LEAST_LENDERS or any(min(s2) <= 0 for s2, _ in lenders):
        return None
    half = np.array([dof / 2 for _, dof in lenders])
    total = float(2 * half.sum())
    found: list[float] = []
    dof = total
    for floor in range(len(lenders[0][0])):
        e = np.log([s2[floor] for s2, _ in lenders]) - special.digamma(half) + np.log(half)
        spare = float(((e - e.mean()) ** 2).sum() / (len(e) - 1) - special.polygamma(1, half).mean())
        if spare <= 0:  # they do not vary more than by chance: one variance for all
            found.append(sum(s2[floor] * d for s2, d in lenders) / total)
            continue
        d0 = 2 * _trigamma_inverse(spare)
        found.append(exp(float(e.mean()) + float(special.digamma(d0 / 2)) - log(d0 / 2)))
        dof = min(dof, d0)
    also = tuple((sqrt(s2), (above or 0.0) * by) for s2, by in zip(found[1:], FLOORS[1:], strict=False))
    return Spread(
        sd=sqrt(found[0]), dof=max(min(dof, LENT_DOF), 1.0), source="earlier classes", above=above, also=also
    )


def _trigamma_inverse(x: float) -> float:
    """y with ψ′(y) = x, by Newton's method on 1/ψ′ (Smyth 2004, appendix)."""
    if x > 1e7:
        return 1 / sqrt(x)
    if x < 1e-6:
        return 1 / x
    y = 0.5 + 1 / x
    for _ in range(50):
        tri = float(special.polygamma(1, y))
        step = tri * (1 - tri / x) / float(special.polygamma(2, y))
        y += step
        if -step / y < 1e-8:
            break
    return y
