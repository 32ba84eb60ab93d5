"""How sure are we? Differences, rankings with shared places, improvement and its cause.

Uncertainties follow JCGM 100:2008 (GUM): Type A from repeats, Type B from the instrument's
resolution as a rectangular distribution, combined in quadrature.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from math import inf, sqrt
from typing import Any, Generic, Literal, TypeVar

from thermion.core.lazy import ArrayLike, FloatArray, special
from thermion.core.lazy import numpy as np
from thermion.core.values import Direction, exceeds, finite, single

Word = Literal["clear", "leaning", "too close to call"]
P95, P68 = 0.975, 0.8413447460685429  # one-sided, for two-sided 95 % and ±1 standard deviation


K = TypeVar("K", bound=Any)  # names a build: a letter, a number, a subject; they sort


@dataclass(frozen=True)
class Claim:
    """A difference a − b with its standard uncertainty, 95 % interval and verdict word."""

    difference: float
    se: float
    low: float
    high: float
    word: Word
    why: str = ""


def pooled_sd(groups: Sequence[ArrayLike]) -> float | None:
    """Within-group standard deviation pooled over groups of repeats; None without repeats."""
    squares, dof = 0.0, 0
    for group in groups:
        values = finite("groups", group)
        if values.size > 1:
            squares += float(((values - values.mean()) ** 2).sum())
            dof += values.size - 1
    return sqrt(squares / dof) if dof else None


def compare(
    a: ArrayLike,
    b: ArrayLike,
    *,
    resolution: float,
    pooled_sd: float | None = None,
    statistic: Literal["mean", "median"] = "mean",
) -> Claim:
    """Difference of two builds from their repeated tries.

    Parameters
    ----------
    a, b : shape (n,), (m,): results of the tries, in one unit.
    resolution : step of the instrument in that unit; enters as resolution/√12 per side.
    pooled_sd : the class's within-build spread, used where a side has a single try.
    statistic : difference of means or of medians (the median's se is √(π/2) larger,
        its asymptotic value for normal spread).

    Returns
    -------
    Claim: ``clear`` when the 95 % interval excludes zero, ``leaning`` for the 68 % one,
    else ``too close to call``. Single tries with no known spread are never ``clear``.

    Notes
    -----
    Repeats on both sides: Welch-Satterthwaite degrees of freedom [1]_.

    References
    ----------
    .. [1] B. L. Welch, Biometrika 34, 28 (1947), doi:10.1093/biomet/34.1-2.28.
    """
    x, y = np.atleast_1d(finite("a", a)), np.atleast_1d(finite("b", b))
    if x.size == 0 or y.size == 0:
        raise ValueError(("a" if x.size == 0 else "b") + ": expected at least one try")
    step = single("resolution", resolution)
    if step < 0:
        raise ValueError("resolution: expected zero or more")
    centre = np.mean if statistic == "mean" else np.median
    widen = 1.0 if statistic == "mean" else sqrt(np.pi / 2)
    difference = float(centre(x) - centre(y))
    parts, dof, why = _spread(x, y, pooled_sd)
    known_spread = parts is not None
    spread2 = sum(parts) * widen**2 if parts is not None else 0.0
    se = sqrt(spread2 + 2 * step**2 / 12.0)
    if parts is not None and spread2 == 0 and difference != 0 and step == 0:
        known_spread = min(x.size, y.size) > 1
    reach = float(special.ndtri(P95)) if dof == inf else float(special.stdtrit(dof, P95))
    reach68 = float(special.ndtri(P68)) if dof == inf else float(special.stdtrit(dof, P68))
    size = abs(difference)
    if size > reach * se and known_spread:
        word: Word = "clear"
    elif size > reach68 * se:
        word = "leaning"
    else:
        word = "too close to call"
    return Claim(difference, se, difference - reach * se, difference + reach * se, word, why)


def _spread(
    x: FloatArray, y: FloatArray, pooled: float | None
) -> tuple[tuple[float, float] | None, float, str]:
    """Variances of the two centres, degrees of freedom, and where they come from."""
    if x.size > 1 and y.size > 1:
        vx, vy = float(x.var(ddof=1)) / x.size, float(y.var(ddof=1)) / y.size
        total = vx + vy
        if total == 0:
            return (0.0, 0.0), float(x.size + y.size - 2), "from the repeats"
        dof = total**2 / (vx**2 / (x.size - 1) + vy**2 / (y.size - 1))
        return (vx, vy), dof, "from the repeats"
    if pooled is not None:
        s2 = single("pooled_sd", pooled) ** 2
        return (s2 / x.size, s2 / y.size), inf, "from the spread of the class's repeats"
    repeated = x if x.size > 1 else y
    if repeated.size > 1:
        s2 = float(repeated.var(ddof=1))
        return (s2 / x.size, s2 / y.size), float(repeated.size - 1), "from one side's repeats"
    return None, inf, "one try each and no repeat in the class: how much a try varies is unknown"


@dataclass(frozen=True)
class Placed(Generic[K]):
    """A build's place; `shared` when another cannot be told apart from it.

    `value` is None where only an interval is known.
    """

    key: K
    value: float | None
    place: int
    shared: bool


def rank(
    tries: Mapping[K, ArrayLike], direction: Direction, *, resolution: float, pooled_sd: float | None = None
) -> list[Placed[K]]:
    """Places, best first; builds that cannot be told from the first of their group share it.

    "Cannot be told apart" is the verdict ``too close to call``. With direction ``none``
    there is no order and everyone's place is 1.
    """
    means = {key: float(np.mean(finite(str(key), values))) for key, values in tries.items()}
    sign = -1.0 if direction == "higher" else 1.0
    order = sorted(sorted(means), key=lambda key: sign * means[key] if direction != "none" else 0.0)
    groups: list[list[K]] = []
    for key in order:
        leader = groups[-1][0] if groups else None
        if leader is not None and (
            direction == "none"
            or compare(tries[leader], tries[key], resolution=resolution, pooled_sd=pooled_sd).word
            == "too close to call"
        ):
            groups[-1].append(key)
        else:
            groups.append([key])
    out: list[Placed[K]] = []
    for group in groups:
        place = len(out) + 1
        out += [Placed(key, means[key], place, len(group) > 1) for key in group]
    return out


def improvement(
    v1: ArrayLike,
    v2: ArrayLike,
    direction: Direction = "none",
    *,
    resolution: float = 0.0,
    pooled_sd: float | None = None,
) -> tuple[Literal["better", "worse", "changed"], Claim]:
    """Second version against the same team's first: v2 − v1 and which way that is.

    Without a direction of better it has only changed.
    """
    claim = compare(v2, v1, resolution=resolution, pooled_sd=pooled_sd)
    if direction == "none" or claim.difference == 0:
        return "changed", claim
    gained = (claim.difference > 0) == (direction == "higher")
    return ("better" if gained else "worse"), claim


@dataclass(frozen=True)
class Attribution:
    """What a change in the result may be put down to."""

    verdict: Literal["candidate", "cannot say which", "repeatability"]
    sentence: str


def attribution(changes: Sequence[str]) -> Attribution:
    """One factor changed: a fair candidate; several: cannot say which; none: repeatability."""
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
