"""When garbage is looked for: on Python 3.11 at moments of our own.

That Python begins a collection in the middle of an allocation. With many threads at work in
SQLAlchemy it was seen to die of it (docs/decisions.md); from 3.12 on it collects between
instructions, as the thread below does here.
"""

from __future__ import annotations

import gc
import os
import sys
import time
from threading import Thread

EVERY_S = 1.0
FEW = 700  # new objects, up to which nobody is at work: Python's own threshold
ALL_EVERY = 20  # sweeps look at everything, not only at what is new


def _sweep() -> None:
    number = 0
    while True:
        time.sleep(EVERY_S)
        if gc.get_count()[0] > FEW:
            number += 1
            gc.collect(1 if number % ALL_EVERY else 2)


def _begin() -> None:
    gc.disable()
    Thread(target=_sweep, name="sweep", daemon=True).start()


class _Sweeping:
    begun = False


def init() -> None:
    """Sweep from now on, also in processes that this one forks."""
    if sys.version_info >= (3, 12) or _Sweeping.begun:
        return
    _Sweeping.begun = True
    _begin()
    if hasattr(os, "register_at_fork"):  # a fork has no thread but the one that forked
        os.register_at_fork(after_in_child=_begin)
