"""Figures of trials, remembered by all that a trial says: one new reading fits one build anew."""

from __future__ import annotations

import threading
from collections.abc import Hashable, Sequence

from thermion.core.kinds.base import Kind
from thermion.core.kinds.trials import Fitted, Trial

MOST = 2048  # trials: a class's year, and more
_kept: dict[Hashable, Fitted] = {}
_lock = threading.Lock()


def fit_trials(kind: Kind, trials: Sequence[Trial]) -> list[Fitted]:
    """The family's figures of each trial; those worked out before are taken as they were.

    A trial's figures follow from nothing but the trial, so its content is the key.
    """
    keys = [(kind.analysis.fit, trial.content()) for trial in trials]
    with _lock:
        found = {key: _kept[key] for key in keys if key in _kept}
    new = {key: trial for key, trial in zip(keys, trials, strict=True) if key not in found}
    found |= dict(zip(new, kind.analysis.fit(list(new.values())) if new else [], strict=True))
    with _lock:
        for key in keys:
            _kept.pop(key, None)
            _kept[key] = found[key]
        while len(_kept) > MOST:
            del _kept[next(iter(_kept))]
    return [found[key] for key in keys]
