"""What more tries would tell: a chance, drawn from what is known of the builds and of the spread."""

from __future__ import annotations

from collections.abc import Mapping
from functools import lru_cache
from typing import Any, TypeVar

from thermion.core.judging.claims import P95
from thermion.core.judging.spread import Spread
from thermion.core.judging.standings import evened, variances
from thermion.core.lazy import ArrayLike, FloatArray, NDArray, special
from thermion.core.lazy import numpy as np
from thermion.core.values import Direction, finite, not_negative

K = TypeVar("K", bound=Any)  # names a build

SIGMAS, DRAWS, SEED, TAUS, WIDEST = 50, 2000, 26, 40, 6.0


def chance_to_tell(
    tries: Mapping[K, ArrayLike],
    first: K,
    second: K,
    more: int | Mapping[K, int],
    *,
    direction: Direction,
    resolution: float,
    spread: Spread | None,
) -> float:
    """Chance that two builds differ clearly after more tries, given all that was tried so far.

    Parameters
    ----------
    tries : results of each build, shape (n,), in one unit.
    first, second : the two builds that are compared.
    more : how often each of the two is tried again; or, by build, how often it is.
    direction : which way is better; a chance is one whichever of the two comes out ahead.
    resolution : step of the instrument.  spread : how much a try varies; None if not known, and
        then every build's new tries alone would show it, which is not foretold: 0 is returned.

    Returns
    -------
    The share of seeded draws in which the pair is ``clear``, 0 to 1.

    Raises
    ------
    ValueError naming the argument for a build without tries, numbers not finite, or tries below zero.

    Notes
    -----
    σ² from its inverse χ², the builds' own spread τ flat on 0 to 6 s, both weighted by the likelihood
    of the means, the true values given both, then the new tries, with which the spread is pooled anew.
    Simulated in docs/truth.md: said and found agree within 0.1.
    """
    keys = list(tries)
    values = {key: np.atleast_1d(finite(str(key), tries[key])) for key in keys}
    for name, key in (("first", first), ("second", second)):
        if key not in values or values[key].size == 0:
            raise ValueError(f"{name}: expected a build with at least one try")
    again = dict(more) if isinstance(more, Mapping) else {first: more, second: more}
    if any(n < 0 for n in again.values()):
        raise ValueError("more: expected no number below zero")
    not_negative("resolution", resolution)
    if spread is None or direction == "none":
        return 0.0
    kept = [key for key in keys if values[key].size]
    means = np.array([values[key].mean() for key in kept])
    n = np.array([values[key].size for key in kept], dtype=float)
    plus = np.array([again.get(key, 0) for key in kept])
    one = variances(means, np.ones(len(kept)), spread, resolution)  # (floors, k): of one try
    level, by = evened(means, spread.above)
    return Foresight(level, one / by, n, spread.dof).chance(kept.index(first), kept.index(second), plus)


class Foresight:
    """What builds may truly be, drawn once, and what more tries of them would then show.

    `means` (k,), the variance of one try of each by each floor (floors, k), how often each was tried
    (k,), and the degrees of freedom of the spread.
    """

    def __init__(self, means: FloatArray, one: FloatArray, n: FloatArray, dof: float) -> None:
        self._means, self._one, self._n, self._dof = means, one, n, min(dof, 1e6)
        if one.any():
            dice = np.random.default_rng(SEED)
            chi2 = 2 * special.gammaincinv(self._dof / 2, (np.arange(SIGMAS) + 0.5) / SIGMAS)
            scale = np.asarray(self._dof / chi2, dtype=np.float64)  # σ²/s², each as likely as the next
            self._scale, self._true = _true_values(means, one[0], n, scale, dice)

    def chance(self, a: int, b: int, plus: NDArray[Any], common: float = 0.0) -> float:
        """Chance that two of them are clearly apart after `plus` (k,) more tries of each; `common` is the
        variance of their difference that no try takes away."""
        if not self._one.any():
            return float(self._means[a] != self._means[b])
        dice = np.random.default_rng(SEED + 1)
        squares, gained = np.full(DRAWS, self._dof), 0  # in units of s²
        new = {i: np.full(DRAWS, self._means[i]) for i in (a, b)}
        for i in map(int, np.flatnonzero(plus > 0)):
            m, n, mean = int(plus[i]), self._n[i], self._means[i]
            own = self._scale * self._one[0, i]
            fresh = self._true[:, i] + dice.normal(0, 1, DRAWS) * np.sqrt(own / m)
            within = dice.chisquare(m - 1, DRAWS) * own if m > 1 else 0.0
            squares += (within + n * m / (n + m) * (fresh - mean) ** 2) / self._one[0, i]
            gained += m
            if i in new:
                new[i] = (n * mean + m * fresh) / (n + m)
        dof = self._dof + gained
        total = self._n + plus
        own = squares / dof * (self._one[:, a] / total[a] + self._one[:, b] / total[b]).max()
        reach = special.stdtrit(dof, P95)
        return float(np.mean(np.abs(new[a] - new[b]) > reach * np.sqrt(own + common)))


def _true_values(
    means: FloatArray, one: FloatArray, n: FloatArray, scale: FloatArray, dice: np.random.Generator
) -> tuple[FloatArray, FloatArray]:
    """Draws of σ²/s² (draws,) among `scale` (sigmas,), and of what the builds truly are (draws, k): shrunk
    to one another as far as they seem alike. Both as likely as the means make them."""
    k = means.size
    typical = float(np.sqrt(np.mean(one)))
    tau2 = ((np.arange(TAUS) + 0.5) / TAUS * WIDEST * typical) ** 2
    v = scale[:, None] * (one / n)[None, :]  # (sigmas, k)
    weight = 1.0 / (v[:, None, :] + tau2[None, :, None])
    sum_w = weight.sum(axis=2)
    middle = (weight * means).sum(axis=2) / sum_w
    fit = 0.5 * np.log(weight).sum(axis=2) - 0.5 * np.log(sum_w)
    fit -= 0.5 * (weight * (means - middle[:, :, None]) ** 2).sum(axis=2)
    odds = np.cumsum(np.exp(fit - fit.max()))
    chosen = np.searchsorted(odds / odds[-1], dice.random(DRAWS)).clip(0, odds.size - 1)
    g, h = np.divmod(chosen, TAUS)
    t2, own = tau2[h][:, None], v[g]
    mu = middle[g, h] + dice.normal(0, 1, DRAWS) / np.sqrt(sum_w[g, h])
    shrunk = (means * t2 + mu[:, None] * own) / (t2 + own)
    apart = np.sqrt(own * t2 / (t2 + own))
    return scale[g], np.asarray(shrunk + dice.normal(0, 1, (DRAWS, k)) * apart, dtype=float)


@lru_cache(maxsize=256)
def design_chance(builds: int, again: int, lead: float = 3.0) -> float:
    """Chance that the first of so many builds is told from the others, when nothing was tried twice yet.

    `again` of them are tried once more, the first among them; it is ahead of equals by `lead` times what a
    try varies by. Seeded draws of classes, judged by the pooled t test of the first two, to three digits.
    """
    dice = np.random.default_rng(SEED)
    n = np.array([2] * again + [1] * (builds - again))
    if again < 1 or builds < 2:
        return 0.0
    means = dice.normal(0, 1, (DRAWS, builds)) / np.sqrt(n)
    means[:, 0] += lead
    s2 = dice.chisquare(again, DRAWS) / again
    rivals = means[:, 1:]
    second = rivals.argmax(axis=1)
    gap = means[:, 0] - rivals.max(axis=1)
    se = np.sqrt(s2 * (1 / n[0] + 1 / n[1:][second]))
    return round(float(np.mean(gap > special.stdtrit(again, P95) * se)), 3)
