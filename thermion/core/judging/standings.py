"""Places as intervals: who may be first, who cannot be, and the chance of being best."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import lru_cache
from math import isfinite, sqrt
from pathlib import Path
from typing import Any, Generic, TypeVar

from thermion.core.judging.claims import P95, Claim, claim_from, t_quantile
from thermion.core.judging.spread import Spread
from thermion.core.lazy import ArrayLike, FloatArray, special
from thermion.core.lazy import numpy as np
from thermion.core.values import Direction, finite, not_negative

K = TypeVar("K", bound=Any)  # names a build: a letter, a number, a subject; they sort

DRAWS, SEED = 4000, 20
SIGMAS, TAUS = 21, 32  # points at which the two unknown spreads are taken


@dataclass(frozen=True)
class Standing(Generic[K]):
    """A build's place: from `first` to `last`, with its value ± `half_width` (95 %).

    Without a known spread `half_width`, the places and `chance_best` are None; `value` is None
    where only an interval is known.
    """

    key: K
    value: float | None
    half_width: float | None
    first: int | None
    last: int | None
    chance_best: float | None

    @property
    def sole_first(self) -> bool:
        return self.last == 1


def not_placed(key: K, value: float | None = None, half_width: float | None = None) -> Standing[K]:
    """A build of which nobody can say where it stands among the others."""
    return Standing(key=key, value=value, half_width=half_width, first=None, last=None, chance_best=None)


def standing(
    tries: Mapping[K, ArrayLike], direction: Direction, *, resolution: float, spread: Spread | None
) -> list[Standing[K]]:
    """Builds in the order of their means, best first, each with the places it may have.

    Parameters
    ----------
    tries : results of each build, shape (n,), in one unit.
    direction : which way is better; with ``none`` there is no order and no place.
    resolution : step of the instrument.  spread : how much a try varies; None if not known.

    Returns
    -------
    list of Standing. `half_width` is t·se of the mean. `first` is 1 + the builds certainly better,
    `last` the number of builds less those certainly worse: by all pairs together at 95 %
    (Tukey–Kramer, studentized range at the spread's degrees of freedom). The sole first place
    alone is decided by the t test of the first against every other, since the largest of several
    equal means beats the second in far fewer than 5 % [1]_. `chance_best`: builds drawn from a
    normal population whose spread is integrated over, and σ with its degrees of freedom; seeded
    draws that add up to 1.

    Raises
    ------
    ValueError naming the build for no tries or numbers not finite.

    References
    ----------
    .. [1] S. Gutmann and Z. Maymin, Ann. Stat. 15, 456 (1987), doi:10.1214/aos/1176350279.
    .. [2] C. Y. Kramer, Biometrics 12, 307 (1956), doi:10.2307/3001469.
    """
    values = {key: np.atleast_1d(finite(str(key), found)) for key, found in tries.items()}
    empty = [key for key, found in values.items() if found.size == 0]
    if empty:
        raise ValueError(f"{empty[0]}: expected at least one try")
    not_negative("resolution", resolution)
    sign = -1.0 if direction == "higher" else 1.0
    order = sorted(values)
    if direction != "none":
        order.sort(key=lambda key: sign * values[key].mean())
    means = np.array([values[key].mean() for key in order])
    share = np.array([1.0 / values[key].size for key in order])
    if spread is None or direction == "none":
        return [not_placed(key, float(m)) for key, m in zip(order, means, strict=True)]
    alone = variances(means, share, spread, resolution)  # (floors, k)
    half = half_widths(alone.max(axis=0), spread)
    if not alone.any():
        return [not_placed(key, float(m), h) for key, m, h in zip(order, means, half, strict=True)]
    pairs = (alone[:, :, None] + alone[:, None, :]).max(axis=0)
    rivals = [
        claim_from(float(means[0] - means[j]), float(pairs[0, j]), spread) for j in range(1, len(order))
    ]
    first, last = places(means, pairs, rivals, spread.dof)
    level, by = evened(means, spread.above)
    chances = chances_best(-sign * level, alone[0] / by, spread.dof)
    rows = zip(order, means.tolist(), half, first, last, chances, strict=True)
    return [Standing(*row) for row in rows]


def evened(means: FloatArray, above: float | None) -> tuple[FloatArray, FloatArray]:
    """Means on a scale on which all tries vary alike, asinh(y/c) where they vary in proportion to
    √(y² + c²), and what variances are divided by there. Unlike builds are a normal population on that
    scale, if on any."""
    if above is None:
        return means, np.ones(means.size)
    return np.arcsinh(means / above), means**2 + above**2


def variances(means: FloatArray, share: FloatArray, spread: Spread, resolution: float) -> FloatArray:
    """Variance of each mean (k,) of 1/share tries, by each floor of the spread (floors, k)."""
    step2 = resolution**2 / 12.0
    each = [
        sd**2 * (1.0 if above is None else means**2 + above**2) + step2 + 0.0 * means
        for sd, above in spread.each
    ]
    return np.array(each) * share


def half_widths(variance: FloatArray, spread: Spread | None) -> list[float | None]:
    """t·se of each value of these variances (k,); None where nothing is known."""
    if spread is None or not variance.any():
        return [None] * variance.size
    reach = t_quantile(P95, spread.dof)
    return [float(reach * w) for w in np.sqrt(variance)]


def places(
    means: FloatArray, variance: FloatArray, rivals: Sequence[Claim], dof: float
) -> tuple[list[int], list[int]]:
    """First and last place of each build.

    `means` (k,), best first; `variance` (k, k) of their differences, infinite where they do not
    compare; `rivals` the first build's claims against each other one, in their order.
    """
    count = means.size
    reach = range_quantile(count, dof) / sqrt(2.0) * np.sqrt(variance)
    apart = np.abs(means[:, None] - means[None, :]) > reach
    above = apart & (np.arange(count)[:, None] < np.arange(count)[None, :])  # [i, j]: i certainly better
    first = (1 + above.sum(axis=0)).tolist()
    last = (count - above.sum(axis=1)).tolist()
    if all(claim.word == "clear" for claim in rivals):
        last[0] = 1
        first[1:] = [max(place, 2) for place in first[1:]]
    elif last[0] == 1:  # by all pairs, but not by the test that decides
        last[0] = 2
    return first, last


@lru_cache(maxsize=1)
def _range_table() -> tuple[FloatArray, FloatArray]:
    """1/ν (n,) and 95 % points of the studentized range (n, 39) for 2 to 40 means."""
    rows = np.loadtxt(Path(__file__).with_name("studentized_range.txt"))
    return 1.0 / rows[:, 0], rows[:, 1:]


@lru_cache(maxsize=512)
def range_quantile(count: int, dof: float) -> float:
    """95 % point of the studentized range of `count` means on `dof` degrees of freedom.

    From a table made with scipy.stats.studentized_range (Lund and Lund 1983), interpolated in
    1/ν; above 40 means the wider Bonferroni bound.
    """
    if count < 2:
        return 0.0
    inverse, table = _range_table()
    if count > table.shape[1] + 1:
        pairs = count * (count - 1) / 2
        return sqrt(2.0) * t_quantile(1 - 0.025 / pairs, dof)
    at = 0.0 if not isfinite(dof) else min(1.0 / dof, 1.0)
    column = table[:, count - 2]
    return float(np.exp(np.interp(at, inverse[::-1], np.log(column[::-1]))))


def chances_best(
    means: FloatArray, variance: FloatArray, dof: float, fixed: FloatArray | None = None
) -> list[float]:
    """Chance that each of the builds is truly the best, the highest being best.

    `means` (k,), `variance` (k,) of each at the estimated spread, on `dof` degrees of freedom, and
    what is `fixed` beside it (a thermometer's offset).
    Builds are taken as drawn from a normal population of unknown mean and spread τ, with
    a half-Cauchy prior of τ over the typical standard error [1]_; σ² as ν·s²/χ²_ν. Simulated in
    docs/truth.md.

    References
    ----------
    .. [1] A. Gelman, Bayesian Analysis 1, 515 (2006), doi:10.1214/06-BA117A.
    """
    k = means.size
    if k == 1:
        return [1.0]
    scale, believed = sigmas(dof)
    v = scale[:, None] * variance + (0.0 if fixed is None else fixed)  # (sigmas, k)
    typical = np.sqrt(k / (1.0 / v).sum(axis=1))  # (sigmas,)
    width = float(np.ptp(means))
    most = np.maximum(30.0, 10.0 * width / typical)
    steps = (np.arange(TAUS) + 0.5) / TAUS
    ratio = 0.03 * (most[:, None] / 0.03) ** steps  # τ over the typical error (sigmas, taus)
    tau = ratio * typical[:, None]
    prior = believed[:, None] * ratio / (1 + ratio**2) * np.log(most / 0.03)[:, None]
    total = v[:, None, :] + tau[:, :, None] ** 2
    weight = 1.0 / total
    sum_w = weight.sum(axis=2)
    middle = (weight * means).sum(axis=2) / sum_w
    fit = 0.5 * np.log(weight).sum(axis=2) - 0.5 * np.log(sum_w)
    fit -= 0.5 * (weight * (means - middle[:, :, None]) ** 2).sum(axis=2)
    odds = (np.exp(fit - fit.max()) * prior).ravel()
    pick, level, noise = _draws(k)
    chosen = np.searchsorted(np.cumsum(odds) / odds.sum(), pick)
    g, h = np.divmod(np.minimum(chosen, odds.size - 1), TAUS)
    mu = middle[g, h] + level / np.sqrt(sum_w[g, h])
    tau2, vg = tau[g, h][:, None] ** 2, v[g]
    true = (means * tau2 + mu[:, None] * vg) / (tau2 + vg) + noise * np.sqrt(vg * tau2 / (tau2 + vg))
    won = np.bincount(true.argmax(axis=1), minlength=k)
    return [float(x) for x in won / DRAWS]


def sigmas(dof: float) -> tuple[FloatArray, FloatArray]:
    """Points of σ²/s² = ν/χ²_ν, evenly in its logarithm far into both tails, and their weights."""
    if not isfinite(dof):
        return np.ones(1), np.ones(1)
    low, high = 2 * special.gammaincinv(dof / 2, np.array([2e-4, 1 - 2e-4]))
    chi2 = low * (high / low) ** ((np.arange(SIGMAS) + 0.5) / SIGMAS)
    density = np.log(chi2) * dof / 2 - chi2 / 2  # of ln χ²
    return dof / chi2, np.exp(density - density.max())


@lru_cache(maxsize=64)
def _draws(k: int) -> tuple[FloatArray, FloatArray, FloatArray]:
    """The same draws every time, so that a page says the same twice."""
    dice = np.random.default_rng(SEED)
    return dice.random(DRAWS), dice.standard_normal(DRAWS), dice.standard_normal((DRAWS, k))
