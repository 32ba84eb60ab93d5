"""Fewer points that look the same: of each short stretch of time, only the lowest and the highest."""

from __future__ import annotations

from collections.abc import Sequence

from thermion.core.lazy import numpy as np


def keep_extremes(time_s: Sequence[float], value: Sequence[float], most: int) -> list[int]:
    """Which points to draw of a series in order of time, so that no peak or dip is lost.

    Parameters
    ----------
    time_s, value : the series, of equal length, times rising [s].
    most : about how many points are wanted, at least 4.

    Returns
    -------
    Indices, rising: all of them if there are no more than `most`; else the first, the last, and the
    lowest and highest of each of most/2 equal stretches of time (min-max decimation).
    """
    count = len(time_s)
    if count <= most:
        return list(range(count))
    time, shown = np.asarray(time_s, float), np.asarray(value, float)
    span = max(float(time[-1] - time[0]), 1e-12)
    stretch = np.minimum((time - time[0]) * (most // 2) / span, most // 2 - 1).astype(int)
    order = np.lexsort((shown, stretch))  # by stretch, the lowest value first
    starts = np.flatnonzero(np.diff(stretch[order], prepend=-1))
    ends = np.append(starts[1:], count) - 1
    return [int(i) for i in np.unique([0, count - 1, *order[starts], *order[ends]])]
