"""Fitting an exponential approach: heating to a limit, Newton cooling, a probe's response.

The names are offered by `thermion.core.curves`, with the rest of what is done to a curve.
"""

from __future__ import annotations

from dataclasses import dataclass
from math import sqrt

import numpy as np
from numpy.typing import ArrayLike
from scipy.special import stdtrit

from thermion.core.values import FloatArray, finite, series, single

_GRID = np.exp(np.linspace(np.log(1e-3), np.log(200.0), 90))  # rate × span, dimensionless
MIN_TIMES = 4


@dataclass(frozen=True)
class Approach:
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
    reason: str | None = None
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
    [1]_ scans the rate over five decades around 1/span, then Levenberg-Marquardt steps on
    all free parameters polish the best. Standard errors come from s²(JᵀJ)⁻¹.

    References
    ----------
    .. [1] G. H. Golub and V. Pereyra, SIAM J. Numer. Anal. 10, 413 (1973),
       doi:10.1137/0710036.
    """
    t, v = series(time_s, value)
    return fit_approach_many(
        t, v[np.newaxis, :], start=start, asymptote=asymptote, resolution=resolution
    )[0]


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
    span = np.where(m, t, -np.inf).max(axis=1) - np.minimum(np.where(m, t, np.inf).min(axis=1), 0.0)
    low, high = np.where(m, v, np.inf).min(axis=1), np.where(m, v, -np.inf).max(axis=1)
    with np.errstate(invalid="ignore"):
        change = np.where(count > 0, high - low, 0.0)
    ordered = np.where(m, t, np.inf)
    ordered.sort(axis=1)
    with np.errstate(invalid="ignore"):  # inf − inf between missing readings
        distinct = 1 + (np.diff(ordered, axis=1) > 0).sum(axis=1) - (count < v.shape[1])
    usable = (distinct >= MIN_TIMES) & (change > 0) & (span > 0)
    out: list[Approach] = [
        _refused(int(count[i]), int(distinct[i]), change[i]) for i in range(len(v))
    ]
    rows = np.flatnonzero(usable)
    if rows.size == 0:
        return out
    fit = _fit_rows(t[rows] / span[rows, None], v[rows], m[rows], fixed)
    for k, i in enumerate(rows):
        out[i] = _approach(
            fit, k, int(count[i]), n_free, float(span[i]), float(change[i]), resolution
        )
    return out


def _refused(n: int, distinct: int, change: float) -> Approach:
    if distinct < MIN_TIMES:
        reason = f"{max(distinct, 0)} different times; a curve needs at least {MIN_TIMES}"
    else:
        reason = "the readings do not change"
    return no_fit(reason, n)


def no_fit(reason: str, n: int = 0) -> Approach:
    """The answer where nothing could be fitted."""
    return Approach(None, None, None, None, None, None, None, n, False, reason)


@dataclass(frozen=True)
class _Fit:
    params: FloatArray  # (k, 3): start, asymptote, rate per span
    se: FloatArray  # (k, 3)
    rss: FloatArray  # (k,)
    profile: FloatArray  # (k, grid): RSS at each rate of the grid


def _linear(
    e: FloatArray,
    v: FloatArray,
    w: FloatArray,
    fixed: tuple[float | None, float | None],
) -> tuple[FloatArray, FloatArray, FloatArray]:
    """Best start, asymptote and RSS for given decays `e`; sums run over the last axis."""
    start, asymptote = fixed
    f = 1.0 - e
    if start is not None and asymptote is not None:
        a, b = np.full(e.shape[:-1], start), np.full(e.shape[:-1], asymptote)
    elif start is not None:
        den = (w * f * f).sum(-1)
        b = (w * f * (v - start * e)).sum(-1) / np.maximum(den, 1e-300)
        a = np.full_like(b, start)
    elif asymptote is not None:
        den = (w * e * e).sum(-1)
        a = (w * e * (v - asymptote * f)).sum(-1) / np.maximum(den, 1e-300)
        b = np.full_like(a, asymptote)
    else:  # intercept and slope against e, centred so that nearly equal decays stay exact
        n = w.sum(-1)
        em = (w * e).sum(-1) / n
        vm = (w * v).sum(-1) / n
        de = e - em[..., None]
        slope = (w * de * v).sum(-1) / np.maximum((w * de * de).sum(-1), 1e-300)
        b = vm - slope * em
        a = b + slope
    r = v - (b[..., None] + (a - b)[..., None] * e)
    return a, b, (w * r * r).sum(-1)


def _fit_rows(
    t: FloatArray,
    v: FloatArray,
    m: np.ndarray,
    fixed: tuple[float | None, float | None],
) -> _Fit:
    """Fit every row; `t` is in units of its span."""
    w = m.astype(float)
    e = np.exp(-_GRID[None, :, None] * t[:, None, :])
    profile = _linear(e, v[:, None, :], w[:, None, :], fixed)[2]
    rate = _GRID[np.argmin(profile, axis=1)]
    a, b, rss = _linear(np.exp(-rate[:, None] * t), v, w, fixed)
    params = np.stack([a, b, rate], axis=1)
    free = [i for i, p in enumerate((*fixed, None)) if p is None]
    damping = np.full(len(v), 1e-3)
    going = np.arange(len(v))  # only rows that have not settled are worked on
    for _ in range(60):
        done = _polish(params, rss, damping, rate, going, t, v, w, free)
        going = going[~done]
        if going.size == 0:
            break
    jac, resid = _jacobian(params, t, v, w, free)
    rss = (resid**2).sum(-1)
    dof = np.maximum(w.sum(-1) - len(free), 1.0)
    scale = np.sqrt(np.maximum(np.einsum("cni,cni->ci", jac, jac), 1e-300))
    unit = jac / scale[:, None, :]
    cov = np.linalg.pinv(np.einsum("cni,cnj->cij", unit, unit), hermitian=True, rcond=1e-14)
    se = np.zeros_like(params)
    variance = np.maximum(np.einsum("cii->ci", cov), 0.0) * (rss / dof)[:, None]
    se[:, free] = np.sqrt(variance) / scale
    return _Fit(params, se, rss, profile)


def _polish(
    params: FloatArray,
    rss: FloatArray,
    damping: FloatArray,
    rate: FloatArray,
    rows: np.ndarray,
    t: FloatArray,
    v: FloatArray,
    w: FloatArray,
    free: list[int],
) -> np.ndarray:
    """One Levenberg-Marquardt step on `rows`, in place; true for the rows that settled."""
    p, t, v, w, lam = params[rows], t[rows], v[rows], w[rows], damping[rows]
    jac, resid = _jacobian(p, t, v, w, free)
    turned = jac.transpose(0, 2, 1)
    jtj, grad = turned @ jac, (turned @ resid[..., None])[..., 0]
    scale = np.sqrt(np.maximum(np.einsum("cii->ci", jtj), 1e-300))
    lhs = jtj / (scale[:, :, None] * scale[:, None, :]) + lam[:, None, None] * np.eye(len(free))
    step = np.linalg.solve(lhs, (grad / scale)[..., None])[..., 0] / scale
    trial = p.copy()
    trial[:, free] += step
    trial[:, 2] = np.clip(trial[:, 2], rate[rows] * 1e-3, rate[rows] * 1e3)
    model = trial[:, 1:2] + (trial[:, 0:1] - trial[:, 1:2]) * np.exp(-trial[:, 2:3] * t)
    new = (w * (v - model) ** 2).sum(-1)
    better = new <= rss[rows]
    small = np.all(np.abs(step) <= 1e-10 * (np.abs(p[:, free]) + 1e-12), axis=1)
    params[rows[better]] = trial[better]
    rss[rows[better]] = new[better]
    damping[rows] = np.where(better, np.maximum(lam * 0.05, 1e-14), lam * 8.0)
    return np.asarray(small | (lam > 1e8))


def _jacobian(
    params: FloatArray, t: FloatArray, v: FloatArray, w: FloatArray, free: list[int]
) -> tuple[FloatArray, FloatArray]:
    a, b, k = params[:, 0:1], params[:, 1:2], params[:, 2:3]
    e = np.exp(-k * t)
    full = np.stack([e, 1.0 - e, -(a - b) * t * e], axis=-1) * w[..., None]
    return full[..., free], w * (v - b - (a - b) * e)


def _approach(
    fit: _Fit, k: int, n: int, n_free: int, span: float, change: float, resolution: float
) -> Approach:
    start, asymptote, rate = (float(x) for x in fit.params[k])
    se_start, se_asymptote, se_rate = (float(x) for x in fit.se[k])
    tau = span / rate
    dof = n - n_free
    reason = None
    if resolution > 0 and change < 3 * resolution:
        reason = f"the change ({change:.3g}) is under three steps of the instrument"
    elif dof <= 0:
        reason = "as many unknowns as readings; the fit cannot be checked"
    elif se_asymptote > change or abs(asymptote - start) > 20 * change:
        reason = "the run is too short against the time constant to tell where it levels off"
    bound = None if reason is None else _tau_bound(fit.profile[k], float(fit.rss[k]), dof, span)
    return Approach(
        start=start,
        asymptote=asymptote,
        time_constant_s=tau,
        se_start=se_start,
        se_asymptote=se_asymptote,
        se_time_constant_s=span * se_rate / rate**2,
        residual_sd=sqrt(float(fit.rss[k]) / dof) if dof > 0 else None,
        n=n,
        reliable=reason is None,
        reason=reason,
        time_constant_at_least_s=bound,
    )


def _tau_bound(profile: FloatArray, rss: float, dof: int, span: float) -> float | None:
    """Shortest τ that the data do not exclude at 95 % (profile likelihood)."""
    if dof <= 0 or rss <= 0:
        return None
    limit = rss * (1.0 + float(stdtrit(dof, 0.95)) ** 2 / dof)
    allowed = np.flatnonzero(profile <= limit)
    if allowed.size == 0 or allowed[-1] == len(profile) - 1:
        return None
    return float(span / _GRID[allowed[-1]])
