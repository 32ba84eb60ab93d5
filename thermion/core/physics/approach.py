"""Fitting an exponential approach: heating to a limit, Newton cooling, a probe's response.

The names are offered by `thermion.core.physics.curves`, with the rest of what is done to a curve.
"""

from __future__ import annotations

from typing import NamedTuple

from thermion.core.lazy import ArrayLike, FloatArray, NDArray, special
from thermion.core.lazy import numpy as np
from thermion.core.physics.varpro import Fits, fit_rows, rung
from thermion.core.reasons import Because, Why, because
from thermion.core.values import finite, series, single

MIN_TIMES = 4


class Approach(NamedTuple):
    """Result of fitting value(t) = asymptote + (start − asymptote)·exp(−t/τ).

    Values are in the unit of the data, times in s. A parameter that was passed in has a
    standard error of 0. Where nothing could be fitted the numbers are None and `reason`
    says why. `time_constant_at_least_s` is the one-sided 95 % bound, given when τ itself
    is not reliable but the data exclude short ones.
    """

    start: float | None
    asymptote: float | None
    time_constant_s: float | None
    se_start: float | None
    se_asymptote: float | None
    se_time_constant_s: float | None
    residual_sd: float | None
    n: int
    reliable: bool
    reason: Because | None = None
    time_constant_at_least_s: float | None = None

    def at(self, time_s: ArrayLike) -> FloatArray:
        """Fitted values at `time_s` [s]; ValueError when there is no fit."""
        if self.start is None or self.asymptote is None or self.time_constant_s is None:
            raise ValueError(f"there is no fit to evaluate: {self.reason}")
        t = finite("time_s", time_s)
        change = (self.start - self.asymptote) * np.exp(-t / self.time_constant_s)
        return np.asarray(self.asymptote + change, dtype=float)


def fit_approach(
    time_s: ArrayLike,
    value: ArrayLike,
    *,
    start: float | None = None,
    asymptote: float | None = None,
    resolution: float = 0.0,
) -> Approach:
    """Least-squares exponential approach to an asymptote, from no starting value.

    Parameters
    ----------
    time_s : shape (n,), seconds from the zero of the curve; increasing.
    value : shape (n,), the readings.
    start, asymptote : fix that parameter at the given value instead of fitting it.
    resolution : smallest step of the instrument, in the unit of `value`; 0 if unknown.

    Returns
    -------
    Approach, with `residual_sd` = √(RSS/(n − p)).

    Raises
    ------
    ValueError naming the argument for empty, unequal, unordered or non-finite input.

    Notes
    -----
    The model is linear in start and asymptote once the rate is fixed. Variable projection
    [1]_ scans the rate over five decades around 1/span, then finds where the derivative of
    the residual sum of squares vanishes. Standard errors come from s²(JᵀJ)⁻¹.

    References
    ----------
    .. [1] G. H. Golub and V. Pereyra, SIAM J. Numer. Anal. 10, 413 (1973),
       doi:10.1137/0710036.
    """
    t, v = series(time_s, value)
    return fit_approach_many(t, v[np.newaxis, :], start=start, asymptote=asymptote, resolution=resolution)[0]


def fit_approach_many(
    time_s: ArrayLike,
    value: ArrayLike,
    *,
    mask: ArrayLike | None = None,
    start: float | None = None,
    asymptote: float | None = None,
    resolution: float = 0.0,
) -> list[Approach]:
    """`fit_approach` for a whole class of curves at once.

    Parameters
    ----------
    time_s : shape (n,) shared by all curves, or (curves, n) [s].
    value : shape (curves, n).
    mask : shape (curves, n), true where a reading exists; entries where it is false are
        ignored, whatever they hold. All readings exist when it is not given.
    start, asymptote, resolution : as in `fit_approach`, the same for every curve.

    Returns
    -------
    list of `Approach`, one per curve, equal to fitting each alone.
    """
    raw = np.atleast_2d(np.asarray(value, dtype=float))
    m = np.ones(raw.shape, bool) if mask is None else np.atleast_2d(np.asarray(mask, bool))
    if m.shape != raw.shape:
        raise ValueError(f"mask: expected the shape of value {raw.shape}, got {m.shape}")
    v = finite("value", np.where(m, raw, 0.0))
    t_raw = np.asarray(time_s, dtype=float)
    if t_raw.shape[-1:] != v.shape[-1:] or (t_raw.ndim == 2 and t_raw.shape != v.shape):
        raise ValueError(f"time_s: expected shape {v.shape} or ({v.shape[1]},), got {t_raw.shape}")
    t = finite("time_s", np.where(m, np.broadcast_to(t_raw, v.shape), 0.0))
    fixed = (
        None if start is None else single("start", start),
        None if asymptote is None else single("asymptote", asymptote),
    )
    n_free = 1 + sum(p is None for p in fixed)
    count = m.sum(axis=1)
    whole = mask is None and v.shape[1] > 0
    low, high = _ends(v, m, whole)
    first, last = _ends(t, m, whole)
    with np.errstate(invalid="ignore"):
        span = last - np.minimum(first, 0.0)
        change = np.where(count > 0, high - low, 0.0)
    distinct = _distinct(t, m, whole)
    usable = (distinct >= MIN_TIMES) & (change > 0) & (span > 0)
    rows = np.flatnonzero(usable)
    fits = None
    if rows.size:
        w = m[rows].astype(float)
        middle = v[rows].sum(axis=1) / w.sum(axis=1)
        level = middle if fixed == (None, None) else np.zeros(rows.size)
        fits = fit_rows(t[rows] / span[rows, None], (v[rows] - level[:, None]) * w, w, fixed)
        made = _approaches(
            fits, level, count[rows], n_free, span=span[rows], change=change[rows], resolution=resolution
        )
        if rows.size == len(v):
            return made
    found = iter(made if fits is not None else [])
    return [next(found) if usable[i] else _refused(int(count[i]), int(distinct[i])) for i in range(len(v))]


def _ends(x: FloatArray, m: NDArray[np.bool_], whole: bool) -> tuple[FloatArray, FloatArray]:
    """Least and greatest of each row."""
    if whole:
        return x.min(axis=1), x.max(axis=1)
    return np.where(m, x, np.inf).min(axis=1), np.where(m, x, -np.inf).max(axis=1)


def _distinct(t: FloatArray, m: NDArray[np.bool_], whole: bool) -> NDArray[np.int_]:
    """How many different times each row has."""
    if whole and np.all(np.diff(t, axis=1) > 0):
        return np.full(len(t), t.shape[1])
    ordered = np.sort(np.where(m, t, np.inf), axis=1)
    with np.errstate(invalid="ignore"):  # inf − inf between missing readings
        steps = (np.diff(ordered, axis=1) > 0).sum(axis=1)
    return np.asarray(1 + steps - (~m).any(axis=1) * 1)


def _refused(n: int, distinct: int) -> Approach:
    reason: Because
    if distinct < MIN_TIMES:
        reason = because(Why.TOO_FEW_TIMES, times=max(distinct, 0), least=MIN_TIMES)
    else:
        reason = Why.NO_CHANGE
    return no_fit(reason, n)


def no_fit(reason: Because, n: int = 0) -> Approach:
    """The answer where nothing could be fitted."""
    return Approach(None, None, None, None, None, None, None, n, False, reason)


def _approaches(
    fits: Fits,
    level: FloatArray,
    n: NDArray[np.int_],
    n_free: int,
    span: FloatArray,
    change: FloatArray,
    resolution: float,
) -> list[Approach]:
    """The fits of rows that were lowered by `level`, in the units of the data."""
    dof = n - n_free
    tau = span / fits.rate
    se_tau = tau * fits.se_rate / fits.rate
    with np.errstate(divide="ignore", invalid="ignore"):
        sd = np.sqrt(fits.rss / dof)
    far = np.abs(fits.asymptote - fits.start) > 20 * change
    short = (fits.se_asymptote > change) | far
    sudden = se_tau > tau
    plain = (dof > 0) & ~short & ~sudden & (change >= 3 * resolution)
    columns = (
        fits.start + level,
        fits.asymptote + level,
        tau,
        fits.se_start,
        fits.se_asymptote,
        se_tau,
        sd,
        n,
        plain,
    )
    out = [Approach(*row) for row in zip(*(c.tolist() for c in columns), strict=True)]
    reason: Because
    for i in np.flatnonzero(~plain):
        if resolution > 0 and change[i] < 3 * resolution:
            reason = because(Why.CHANGE_UNDER_STEPS, change=change[i])
        elif dof[i] <= 0:
            reason = Why.NO_SPARE_READINGS
        elif short[i]:
            reason = Why.RUN_TOO_SHORT
        else:
            reason = Why.CHANGE_TOO_QUICK
        bound = _tau_bound(fits.profile[i], float(fits.rss[i]), int(dof[i]), float(span[i]))
        out[i] = out[i]._replace(
            residual_sd=out[i].residual_sd if dof[i] > 0 else None,
            reason=reason,
            time_constant_at_least_s=bound,
        )
    return out


def _tau_bound(profile: FloatArray, rss: float, dof: int, span: float) -> float | None:
    """Shortest τ that the data do not exclude at 95 % (profile likelihood)."""
    if dof <= 0 or rss <= 0:
        return None
    limit = rss * (1.0 + float(special.stdtrit(dof, 0.95)) ** 2 / dof)
    allowed = np.flatnonzero(profile <= limit)
    if allowed.size == 0 or allowed[-1] == len(profile) - 1:
        return None
    i = int(allowed[-1])
    share = (limit - profile[i]) / (profile[i + 1] - profile[i])
    return float(span / (rung(i) * (rung(i + 1) / rung(i)) ** share))
