"""How sure is a difference? One spread for the class, Student's t, and a word that holds its rate.

A try = build + run + error, the errors independent with one standard deviation for the class
(`Spread`). Uncertainties follow JCGM 100:2008 (GUM): Type A from repeats, Type B from the
instrument's step as a rectangular distribution, each counted once.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from math import exp, isfinite, sqrt
from typing import Literal

from thermion.core.judging.spread import Spread, size
from thermion.core.lazy import ArrayLike, FloatArray, special
from thermion.core.lazy import numpy as np
from thermion.core.reasons import Because, Why
from thermion.core.values import Direction, exceeds, finite, not_negative, single

Word = Literal["clear", "leaning", "too close to call", "not known"]
Verdict = Literal["better", "worse", "changed"]
P95, P68 = 0.975, 0.8413447460685429  # one-sided, for two-sided 95 % and 68 %
FEW = 3.0  # degrees of freedom up to which a common part may not add any
MOST_TRIES = 20  # more tries of each than this: call it a tie
UNKNOWN, EXACT = Why.NO_REPEATS, Why.EXACT_REPEATS


@dataclass(frozen=True)
class Claim:
    """A difference a − b, its standard uncertainty, degrees of freedom, 95 % interval and word.

    `se`, `dof`, `low` and `high` are None where the word is ``not known``. `times` is how many times as
    much a is as b, with its 95 % interval, where results vary in proportion to their size.
    """

    difference: float
    se: float | None
    dof: float | None
    low: float | None
    high: float | None
    word: Word
    why: Because = Why.NONE
    times: tuple[float, float, float] | None = None

    @property
    def chance(self) -> float:
        """How often equal builds would differ by as much as this or more; 1 where it is not known."""
        if not self.se or self.dof is None:
            return 1.0
        return 2.0 * t_tail(abs(self.difference) / self.se, self.dof)


def t_quantile(probability: float, dof: float) -> float:
    """Quantile of Student's t; of the normal distribution where `dof` is infinite."""
    if not isfinite(dof):
        return float(special.ndtri(probability))
    return float(special.stdtrit(dof, probability))


def t_tail(t: float, dof: float) -> float:
    """Chance of Student's t above `t`."""
    return float(special.ndtr(-t) if not isfinite(dof) else special.stdtr(dof, -t))


def compare(
    a: ArrayLike, b: ArrayLike, *, resolution: float, spread: Spread | None, common_se: float = 0.0
) -> Claim:
    """Difference of the means of two builds' tries, and how sure it is.

    Parameters
    ----------
    a, b : shape (n,), (m,): results of the tries, in one unit.
    resolution : step of the instrument in that unit.
    spread : how much a try varies in that unit, or as a share above a floor; None if not known.
    common_se : standard uncertainty of what repeating does not average out (two thermometers'
        offsets, the sun's), in that unit.

    Returns
    -------
    Claim: ``clear`` when the 95 % interval excludes zero, ``leaning`` when the 68 % one does,
    ``too close to call`` when neither, ``not known`` without a spread. Where builds are equal
    ``clear`` comes in at most 5 % of comparisons, at any number of repeats.

    Raises
    ------
    ValueError naming the argument for no tries, numbers not finite or below zero.

    Notes
    -----
    Variance s²·(g(ȳ_a)²/n + g(ȳ_b)²/m) + resolution²/12·(1/n + 1/m) + common_se², where g is 1 or, above
    a floor c, √(y² + c²), and the largest of those that the spread's floors give; Student's t with the
    spread's degrees of freedom. With a common part they are Welch–Satterthwaite's (GUM G.4.1), but never
    more than the spread's own where those are three or fewer: simulated, 6.7 % instead of 5 % of equal
    builds came out ``clear`` otherwise.
    """
    x, y = _tries("a", a), _tries("b", b)
    means, shares = (float(x.mean()), float(y.mean())), (1.0 / x.size, 1.0 / y.size)
    step2 = not_negative("resolution", resolution) ** 2 / 12.0
    own = None if spread is None else variance_of(means, shares, spread) + step2 * sum(shares)
    return claim_from(means[0] - means[1], own, spread, common_se=common_se)


def variance_of(means: Sequence[float], shares: Sequence[float], spread: Spread) -> float:
    """Variance of a sum or difference of means of builds, each of 1/share tries."""
    return max(
        sd**2 * sum(share * size(mean, above) ** 2 for mean, share in zip(means, shares, strict=True))
        for sd, above in spread.each
    )


def claim_of(
    difference: float,
    factor: float,
    spread: Spread | None,
    *,
    resolution: float = 0.0,
    common_se: float = 0.0,
    at_once: int = 1,
) -> Claim:
    """`compare` where all tries vary alike, for a difference whose variance is `factor` times that of
    one try, plus the common part."""
    step2 = not_negative("resolution", resolution) ** 2 / 12.0
    own = None if spread is None else (spread.sd**2 + step2) * factor
    return claim_from(difference, own, spread, common_se=common_se, at_once=at_once)


def claim_from(
    difference: float,
    own: float | None,
    spread: Spread | None,
    *,
    common_se: float = 0.0,
    at_once: int = 1,
    times: tuple[float, float] | None = None,
) -> Claim:
    """A claim of a difference with the variance `own` of what repeating averages out.

    With `at_once` the intervals hold for so many comparisons together (Bonferroni). `times`: the
    quotient of the two, and the standard uncertainty of its logarithm.
    """
    difference, common = single("difference", difference), not_negative("common_se", common_se)
    if spread is None or own is None:
        return Claim(
            difference=difference, se=None, dof=None, low=None, high=None, word="not known", why=UNKNOWN
        )
    variance = own + common**2
    if variance == 0:
        if difference != 0:
            return Claim(
                difference=difference, se=None, dof=None, low=None, high=None, word="not known", why=EXACT
            )
        return Claim(
            difference=0.0,
            se=0.0,
            dof=spread.dof,
            low=0.0,
            high=0.0,
            word="too close to call",
            why=Why.ALL_EQUAL,
        )
    dof = spread.dof
    if common > 0 and dof > FEW:
        dof = spread.dof * (variance / own) ** 2 if own > 0 else float("inf")
    se = sqrt(variance)
    reach, lean = (t_quantile(1 - (1 - p) / at_once, dof) * se for p in (P95, P68))
    word: Word = "too close to call"
    if abs(difference) > reach:
        word = "clear"
    elif abs(difference) > lean:
        word = "leaning"
    ratio = None
    if times is not None:
        far = exp(t_quantile(1 - (1 - P95) / at_once, dof) * times[1])
        ratio = (times[0], times[0] / far, times[0] * far)
    return Claim(
        difference=difference,
        se=se,
        dof=dof,
        low=difference - reach,
        high=difference + reach,
        word=word,
        why=_from(spread),
        times=ratio,
    )


def _from(spread: Spread) -> Why:
    if spread.source == "earlier classes":
        return Why.FROM_EARLIER
    if spread.source == "repeats and earlier classes":
        return Why.FROM_BOTH
    return Why.FROM_REPEATS


def _tries(name: str, values: ArrayLike) -> FloatArray:
    found = np.atleast_1d(finite(name, values))
    if found.size == 0:
        raise ValueError(f"{name}: expected at least one try")
    return found


def verdict_of(difference: float, better: Direction) -> Verdict:
    """Which way a change went; without a direction of better it has only changed."""
    if better == "none" or difference == 0:
        return "changed"
    return "better" if (difference > 0) == (better == "higher") else "worse"


def settle(
    difference: float,
    spread: Spread | None,
    n_a: int,
    n_b: int,
    *,
    power: float = 0.8,
    common_se: float = 0.0,
) -> int | None:
    """How many more tries of each of two builds would make a true gap of this size ``clear``.

    Parameters
    ----------
    difference : the gap [unit of the metric], of either sign.
    spread : how much a try varies [that unit], alike for all builds; every new try adds a degree of
        freedom to it.
    n_a, n_b : tries made so far.
    power : probability with which it shall come out clear.
    common_se : what repeating does not average out, as in `compare`.

    Returns
    -------
    The smallest number, 0 where those made would do; None when more than 20 of each are needed
    (call it a tie), the gap is zero, or no spread is known.

    Notes
    -----
    Power of the two-sided t test at 5 % by the noncentral t distribution [1]_.

    References
    ----------
    .. [1] J. Cohen, Statistical Power Analysis for the Behavioral Sciences, 2nd ed. (1988), ch. 2.
    """
    gap = abs(single("difference", difference))
    if not 0 < single("power", power) < 1:
        raise ValueError("power: expected between 0 and 1")
    if spread is None or gap == 0:
        return None
    common = not_negative("common_se", common_se)
    if spread.sd == 0 and common == 0:
        return 0
    for more in range(MOST_TRIES + 1):
        own = spread.sd**2 * (1.0 / (n_a + more) + 1.0 / (n_b + more))
        variance, dof = own + common**2, spread.dof + 2 * more
        if common > 0 and dof > FEW:
            dof = dof * (variance / own) ** 2 if own > 0 else float("inf")
        if power_of(gap / sqrt(variance), dof) >= power:
            return more
    return None


def power_of(noncentrality: float, dof: float) -> float:
    """Chance that a two-sided t test at 5 % finds a gap of so many standard errors."""
    reach = t_quantile(P95, dof)
    if not isfinite(dof):
        return float(special.ndtr(noncentrality - reach) + special.ndtr(-noncentrality - reach))
    missed, wrong = special.nctdtr(dof, noncentrality, np.array([reach, -reach]))
    return float(1.0 - np.nan_to_num(missed) + np.nan_to_num(wrong))  # NaN: too small to be computed


@dataclass(frozen=True)
class Attribution:
    """What a change in the result may be put down to."""

    verdict: Literal["candidate", "cannot say which", "no difference", "repeatability"]
    sentence: str


def attribution(changes: Sequence[str], *, told: bool = True) -> Attribution:
    """One factor changed: a fair candidate; several: cannot say which; none: repeatability.

    Where no difference can be `told`, the sentence names no cause of one.
    """
    if changes and not told:
        return Attribution("no difference", "The difference is not sure enough to name a cause.")
    if len(changes) == 1:
        return Attribution("candidate", f"Only one thing changed, so it may be the cause: {changes[0]}")
    if changes:
        return Attribution(
            "cannot say which",
            f"{len(changes)} things changed at once, so the result cannot say which did it.",
        )
    return Attribution("repeatability", "Nothing was changed: the difference shows how much a repeat varies.")


@dataclass(frozen=True)
class Mismatch:
    """A condition in which two runs differ by more than its tolerance (SI)."""

    key: str
    a: float
    b: float
    tolerance: float


def comparable(
    run_a: Mapping[str, float], run_b: Mapping[str, float], tolerance: Mapping[str, float] | None = None
) -> list[Mismatch]:
    """Conditions known for both runs that differ by more than the tolerance; empty if fair.

    Without tolerances every condition that both runs know must be equal.
    """
    if tolerance is None:
        tolerance = dict.fromkeys(sorted(run_a.keys() & run_b.keys()), 0.0)
    return [
        Mismatch(key, run_a[key], run_b[key], allowed)
        for key, allowed in tolerance.items()
        if key in run_a and key in run_b and exceeds(run_a[key] - run_b[key], allowed)
    ]
