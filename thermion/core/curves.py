"""Curves of readings against time: exponential approach, crossings, peaks, holding, falling.

All functions take times in seconds [s] and values in one SI unit (°C for temperatures) and
use the time at which a reading was taken, never the time for which it was planned.
"""

from __future__ import annotations

from dataclasses import dataclass
from math import sqrt

import numpy as np
from numpy.typing import ArrayLike
from scipy.special import stdtrit

from thermion.core.values import Figure, FloatArray, finite, series, single

_GRID = np.exp(np.linspace(np.log(1e-3), np.log(200.0), 90))  # rate × span, dimensionless
_RECTANGLE = sqrt(12.0)  # GUM 4.3.7: resolution / √12 is the standard uncertainty
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


@dataclass(frozen=True)
class Crossing:
    """When a level was passed [s].

    `after_s` and `before_s` bracket it. `censored` is true when it was not observed:
    not reached by the last reading (only `after_s`), or passed before the first
    (only `before_s`); `time_s` is then None. `gap_s` is the width of the bracket.
    """

    time_s: float | None
    after_s: float | None
    before_s: float | None
    censored: bool

    @property
    def gap_s(self) -> float | None:
        if self.after_s is None or self.before_s is None:
            return None
        return self.before_s - self.after_s


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


def first_crossing(
    time_s: ArrayLike, value: ArrayLike, level: float, *, direction: str = "either"
) -> Crossing:
    """First time the readings pass `level`, by linear interpolation between two readings.

    `direction` is "up", "down" or "either". For "either" the first reading decides from
    which side the level is approached. Returns a `Crossing`; see there for censoring.
    Raises ValueError for bad input or an unknown direction.
    """
    t, v = series(time_s, value)
    level = single("level", level)
    if direction not in ("up", "down", "either"):
        raise ValueError("direction: expected 'up', 'down' or 'either'")
    up = v[0] < level if direction == "either" else direction == "up"
    beyond = v >= level if up else v <= level
    if direction == "either" and v[0] == level:
        return Crossing(float(t[0]), float(t[0]), float(t[0]), False)
    if beyond[0]:
        return Crossing(None, None, float(t[0]), True)
    reached = np.flatnonzero(beyond)
    if reached.size == 0:
        return Crossing(None, float(t[-1]), None, True)
    i = int(reached[0])
    share = (level - v[i - 1]) / (v[i] - v[i - 1])
    return Crossing(
        float(t[i - 1] + share * (t[i] - t[i - 1])), float(t[i - 1]), float(t[i]), False
    )


def _leans_on_gap(gap_s: float, interval_s: float | None) -> tuple[str, ...]:
    if interval_s and gap_s > 2 * interval_s * 1.001:
        return (f"leans on a gap of {gap_s / 60:.3g} min without readings",)
    return ()


def peak(time_s: ArrayLike, value: ArrayLike, *, resolution: float = 0.0) -> Figure:
    """Highest reading, in the unit of `value`; se is the instrument's alone."""
    _, v = series(time_s, value)
    notes = ("still rising at the last reading",) if v.size > 1 and v[-1] > v[:-1].max() else ()
    return Figure(float(v.max()), resolution / _RECTANGLE, notes=notes)


def rise(time_s: ArrayLike, value: ArrayLike, *, resolution: float = 0.0) -> Figure:
    """Highest reading minus the first [unit of value]; two instrument readings' uncertainty."""
    _, v = series(time_s, value)
    if v.size < 2:
        return Figure(reason="one reading; a rise needs two")
    return Figure(float(v.max() - v[0]), resolution / _RECTANGLE * sqrt(2.0))


def initial_rate(time_s: ArrayLike, value: ArrayLike, *, readings: int = 3) -> Figure:
    """Slope of the first `readings` readings by least squares [unit of value per minute]."""
    t, v = series(time_s, value)
    if t.size < max(readings, 2):
        return Figure(reason=f"{t.size} readings; the first rate needs {max(readings, 2)}")
    x, y = t[:readings] / 60.0, v[:readings]
    dx = x - x.mean()
    slope = float((dx * y).sum() / (dx**2).sum())
    resid = y - y.mean() - slope * dx
    dof = x.size - 2
    se = sqrt(float((resid**2).sum()) / dof / float((dx**2).sum())) if dof > 0 else None
    return Figure(slope, se)


def held_above(
    time_s: ArrayLike, value: ArrayLike, level: float, *, interval_s: float | None = None
) -> Figure:
    """Minutes spent at or above `level`, crossings interpolated.

    When the last reading is still above the level the value is unknown and `at_least` holds
    the minutes seen. `interval_s` is the planned interval, to notice gaps.
    """
    t, v = series(time_s, value)
    level = single("level", level)
    total = 0.0
    notes: tuple[str, ...] = ()
    for i in range(t.size - 1):
        a, b, dt = v[i], v[i + 1], t[i + 1] - t[i]
        if max(a, b) < level:
            continue
        share = 1.0 if min(a, b) >= level else (max(a, b) - level) / abs(b - a)
        total += share * dt
        notes = notes or _leans_on_gap(float(dt), interval_s)
    minutes = float(total / 60.0)
    if v[-1] >= level and t.size > 1:
        return Figure(at_least=minutes, reason="still above at the last reading", notes=notes)
    return Figure(minutes, notes=notes)


def fall_after(
    time_s: ArrayLike, value: ArrayLike, minutes: float, *, interval_s: float | None = None
) -> Figure:
    """Fall from the peak within `minutes` after it [unit of value], interpolated.

    Not known when the readings stop earlier; `at_least` is then the fall seen so far.
    """
    t, v = series(time_s, value)
    top = int(np.argmax(v))
    end = float(t[top] + 60.0 * single("minutes", minutes))
    if end > t[-1] + 1e-9:
        seen = float(v[top] - v[-1])
        return Figure(at_least=max(seen, 0.0), reason="readings stop before that time")
    after = int(np.searchsorted(t, end))
    notes = _leans_on_gap(float(t[after] - t[after - 1]), interval_s) if after else ()
    return Figure(float(v[top] - np.interp(end, t, v)), notes=notes)


def minutes_to_fall(
    time_s: ArrayLike,
    value: ArrayLike,
    kelvin: float,
    *,
    interval_s: float | None = None,
    resolution: float = 0.0,
) -> Figure:
    """Minutes from the peak until the value has fallen by `kelvin`.

    A fall never seen is a bound (`at_least`), never a time. se follows from the
    instrument's resolution and the slope at the crossing.
    """
    t, v = series(time_s, value)
    top = int(np.argmax(v))
    drop = single("kelvin", kelvin)
    if drop <= 0:
        raise ValueError("kelvin: expected a fall above zero")
    cross = first_crossing(t[top:], v[top:], float(v[top]) - drop, direction="down")
    if cross.time_s is None:
        seen = (t[-1] - t[top]) / 60.0
        return Figure(
            at_least=float(seen), reason="had not fallen that far when the readings stopped"
        )
    i = int(np.searchsorted(t, cross.time_s))
    slope = abs(v[i] - v[i - 1]) / (t[i] - t[i - 1])
    se = resolution / _RECTANGLE * sqrt(2.0) / slope / 60.0
    return Figure(
        float(cross.time_s - t[top]) / 60.0,
        float(se),
        notes=_leans_on_gap(cross.gap_s or 0.0, interval_s),
    )


def degree_minutes_above(time_s: ArrayLike, value: ArrayLike, ambient: float) -> Figure:
    """Area between the curve and `ambient` by the trapezoid rule [K·min]; signed."""
    t, v = series(time_s, value)
    if t.size < 2:
        return Figure(reason="one reading; an area needs two")
    return Figure(float(np.trapezoid(v - single("ambient", ambient), t) / 60.0))
