"""What is read off a fitted curve, with the uncertainty that its parameters have together."""

from __future__ import annotations

from collections.abc import Callable
from math import inf, sqrt
from typing import NamedTuple

from thermion.core.lazy import ArrayLike
from thermion.core.lazy import numpy as np
from thermion.core.physics.approach import Approach
from thermion.core.values import finite


class ReadOff(NamedTuple):
    """A number read off a curve, its standard uncertainty from the readings, and its degrees of
    freedom."""

    value: float
    se: float
    dof: float


def read_off(
    fit: Approach,
    time_s: ArrayLike,
    of: Callable[[float, float, float], float],
    *,
    noise: float,
    asymptote_known: bool = False,
) -> ReadOff:
    """A function of a fitted curve's start, asymptote and time constant [s], with its uncertainty.

    Parameters
    ----------
    fit : a reliable fit.  time_s : shape (n,), when the readings were taken [s].
    of : the function; it must be smooth around the fit.
    noise : standard uncertainty of one reading as the instrument has it. Where the readings scatter
        more about the curve than that, their scatter counts, on n − p degrees of freedom.
    asymptote_known : the asymptote was given, not fitted.

    Raises
    ------
    ValueError without a fit.

    Notes
    -----
    u² = gᵀ·s²(JᵀJ)⁻¹·g with the gradient g by central differences: JCGM 100:2008, 5.2.2, with
    the correlations of the parameters.
    """
    start, end, tau = fit.start, fit.asymptote, fit.time_constant_s
    if start is None or end is None or tau is None:
        raise ValueError(f"there is no fit to read off: {fit.reason}")
    t = finite("time_s", time_s)
    fall = np.exp(-t / tau)
    columns = [fall, 1 - fall, (start - end) * fall * t / tau**2]
    size = max(abs(start - end), 1e-9)
    steps = [1e-5 * size, 1e-5 * size, 1e-5 * tau]
    if asymptote_known:
        del columns[1], steps[1]
    at = np.array([start, end, tau])
    which = [0, 2] if asymptote_known else [0, 1, 2]
    gradient = []
    for i, step in zip(which, steps, strict=True):
        up, down = at.copy(), at.copy()
        up[i] += step
        down[i] -= step
        gradient.append((of(*up) - of(*down)) / (2 * step))
    j, g = np.array(columns).T, np.array(gradient)
    shape = float(g @ np.linalg.pinv(j.T @ j) @ g)
    scatter, dof = fit.residual_sd or 0.0, float(t.size - len(which))
    sd, free = (scatter, dof) if scatter > noise and dof > 0 else (noise, inf)
    return ReadOff(of(start, end, tau), sd * sqrt(max(shape, 0.0)), free)
