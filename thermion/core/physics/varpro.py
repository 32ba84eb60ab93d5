"""Variable projection for many exponential approaches at once; used by `approach` only.

The model a·e + b·(1 − e), e = exp(−k·t), is linear in start a and asymptote b once the rate k
is fixed. What is left is one unknown per curve: ln k, scanned on a ladder of rates (each twice
the last, so that decays follow by squaring) and then refined until the derivative of the
residual sum of squares (RSS) vanishes.

G. H. Golub and V. Pereyra, SIAM J. Numer. Anal. 10, 413 (1973), doi:10.1137/0710036.
"""

from __future__ import annotations

from dataclasses import dataclass

from thermion.core.lazy import ArrayLike, FloatArray
from thermion.core.lazy import numpy as np

RUNGS = 19  # of the ladder of rates that is tried
_SETTLED = 1e-6  # change of ln k after which the next secant step is below rounding
_TINY = 1e-300
Fixed = tuple[float | None, float | None]


def rung(number: ArrayLike) -> FloatArray:
    """Rate × span at rungs of the ladder: from 0.001 to 262, each twice the one below."""
    return np.asarray(1e-3 * 2.0 ** np.asarray(number))


@dataclass(frozen=True)
class Fits:
    """One row per curve; rates in 1/span, `profile` is the RSS at each rate of the ladder."""

    start: FloatArray
    asymptote: FloatArray
    rate: FloatArray
    se_start: FloatArray
    se_asymptote: FloatArray
    se_rate: FloatArray
    rss: FloatArray
    profile: FloatArray


@dataclass(frozen=True)
class _State:
    """The best linear parameters at given rates, and how the RSS changes with ln k."""

    start: FloatArray
    asymptote: FloatArray
    slope: FloatArray  # d RSS / d ln k
    bend: FloatArray  # its Gauss-Newton second derivative
    var: FloatArray  # (3, curves): diagonal of (JᵀJ)⁻¹ for start, asymptote, rate


def fit_rows(t: FloatArray, v: FloatArray, w: FloatArray, fixed: Fixed) -> Fits:
    """Fit every row of `v` (curves, n) at times `t` (curves, n) in units of its span.

    `w` is 1 where a reading exists, else 0 (and `v` is then 0); `fixed` holds start and
    asymptote where they are given. Inside, readings run down and curves across, so that sums
    over readings are sums of long rows.
    """
    t, v, w = (np.ascontiguousarray(x.T) for x in (t, v, w))
    profile = _scan(t, v, w, fixed)
    theta = _refine(profile, t, v, w, fixed)
    rate = np.exp(theta)
    at = _state(rate, t, v, w, fixed)
    e = np.exp(-rate * t)
    residual = (v - at.asymptote - (at.start - at.asymptote) * e) * w
    rss = _dot(residual, residual)
    n_free = 1 + sum(p is None for p in fixed)
    s2 = rss / np.maximum(w.sum(axis=0) - n_free, 1.0)
    se = np.sqrt(np.maximum(at.var * s2, 0.0))
    return Fits(
        start=at.start,
        asymptote=at.asymptote,
        rate=rate,
        se_start=se[0],
        se_asymptote=se[1],
        se_rate=se[2],
        rss=rss,
        profile=profile,
    )


def _dot(a: FloatArray, b: FloatArray) -> FloatArray:
    """Scalar product of each pair of columns."""
    return np.asarray(np.einsum("nc,nc->c", a, b))


def _scan(t: FloatArray, v: FloatArray, w: FloatArray, fixed: Fixed) -> FloatArray:
    """RSS at each rate of the ladder, shape (curves, rates)."""
    out = np.empty((v.shape[1], RUNGS))
    n, total = w.sum(axis=0), _dot(v, v)
    e = np.exp(-rung(0) * t) * w
    for j in range(RUNGS):
        if fixed == (None, None):
            se, sv = e.sum(axis=0), v.sum(axis=0)
            hit = _dot(e, v) - se * sv / n
            size = _dot(e, e) - se * se / n
            left = total - sv * sv / n
        else:
            r, column = _one_sided(e, v, w, fixed)
            left = _dot(r, r)
            hit = _dot(column, r) if column is not None else np.zeros(v.shape[1])
            size = _dot(column, column) if column is not None else np.ones(v.shape[1])
        out[:, j] = np.maximum(left - hit * hit / np.maximum(size, _TINY), 0.0)
        np.multiply(e, e, out=e)
    return out


def _one_sided(
    e: FloatArray, v: FloatArray, w: FloatArray, fixed: Fixed
) -> tuple[FloatArray, FloatArray | None]:
    """What the fixed parameters leave unexplained, and the column of the free one, if any."""
    start, asymptote = fixed
    f = w - e
    if start is not None and asymptote is not None:
        return v - start * e - asymptote * f, None
    if start is not None:
        return v - start * e, f
    return v - (asymptote or 0.0) * f, e


def _state(rate: FloatArray, t: FloatArray, v: FloatArray, w: FloatArray, fixed: Fixed) -> _State:
    """The linear parameters at `rate`, and the change of the model with ln k across them.

    `across` is t·e with what the linear parameters could absorb taken out, so its product
    with the readings is its product with the residuals.
    """
    e = np.exp(-rate * t)
    e *= w
    across = t * e
    var = np.zeros((3, v.shape[1]))
    if fixed == (None, None):
        n = w.sum(axis=0)
        em, vm, gm = e.sum(axis=0) / n, v.sum(axis=0) / n, across.sum(axis=0) / n
        de = e - em * w
        size = np.maximum(_dot(de, de), _TINY)
        drop, share = _dot(de, v) / size, _dot(de, across) / size
        a, b = vm + drop * (1.0 - em), vm - drop * em
        across -= gm * w
        de *= share
        across -= de
        left = np.maximum(_dot(across, across), _TINY)
        var[0] = 1 / n + (1 - em) ** 2 / size + (gm + share * (1 - em)) ** 2 / left
        var[1] = 1 / n + em**2 / size + (gm - share * em) ** 2 / left
        hit = _dot(across, v)
    else:
        r, column = _one_sided(e, v, w, fixed)
        a, b = (np.full(v.shape[1], 0.0 if p is None else p) for p in fixed)
        if column is not None:
            size = np.maximum(_dot(column, column), _TINY)
            free, share = _dot(column, r) / size, _dot(column, across) / size
            a, b = (free, b) if fixed[0] is None else (a, free)
            across -= share * column
        left = np.maximum(_dot(across, across), _TINY)
        if column is not None:
            var[0 if fixed[0] is None else 1] = 1 / size + share**2 / left
        hit = _dot(across, r)
    reach = (b - a) * rate  # of one step of ln k
    var[2] = rate**2 / np.maximum(reach**2 * left, _TINY)
    return _State(start=a, asymptote=b, slope=-2.0 * reach * hit, bend=2.0 * reach**2 * left, var=var)


def _refine(profile: FloatArray, t: FloatArray, v: FloatArray, w: FloatArray, fixed: Fixed) -> FloatArray:
    """ln k at which the RSS is least between the neighbours of the best rate of the ladder.

    Secant steps on the derivative, the first by Gauss-Newton, halved into the bracket when
    they leave it. At an end of the ladder there is no bracket and the end is the answer.
    """
    best = np.argmin(profile, axis=1)
    theta = np.log(rung(best))
    low = np.log(rung(np.maximum(best - 1, 0)))
    high = np.log(rung(np.minimum(best + 1, RUNGS - 1)))
    rows = np.flatnonzero((best > 0) & (best < RUNGS - 1))
    left, least, right = (profile[rows, best[rows] + d] for d in (-1, 0, 1))
    theta[rows] += np.log(2.0) * (left - right) / np.maximum(2 * (left + right - 2 * least), _TINY)
    mine = (t, v, w) if rows.size == v.shape[1] else (t[:, rows], v[:, rows], w[:, rows])
    before = last = np.zeros(rows.size)
    for turn in range(60):
        if rows.size == 0:
            break
        here = theta[rows]
        at = _state(np.exp(here), *mine, fixed)
        uphill = at.slope > 0
        high[rows] = np.where(uphill, here, high[rows])
        low[rows] = np.where(uphill, low[rows], here)
        bend = at.bend
        if turn:
            with np.errstate(divide="ignore", invalid="ignore"):
                secant = (at.slope - last) / (here - before)
            bend = np.where(np.isfinite(secant) & (secant > 0), secant, bend)
        goal = here - at.slope / np.maximum(bend, _TINY)
        inside = (goal > low[rows]) & (goal < high[rows])
        goal = np.where(inside, goal, (low[rows] + high[rows]) / 2)
        theta[rows] = goal
        going = np.abs(goal - here) > _SETTLED
        before, last = here, at.slope
        if not going.all():
            before, last, rows = here[going], at.slope[going], rows[going]
            mine = (mine[0][:, going], mine[1][:, going], mine[2][:, going])
    return np.asarray(theta)
