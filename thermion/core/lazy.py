"""Packages that take long to load and that only computing needs: loaded when first used.

A teacher who opens the application waits for the first page, not for the statistics. `numpy` and
`special` (of SciPy) are used as if they had been imported; types are those of the packages.
"""

from __future__ import annotations

import gc
from collections.abc import Iterator
from contextlib import contextmanager
from importlib import import_module
from typing import TYPE_CHECKING, Any

__all__ = ["ArrayLike", "FloatArray", "NDArray", "all_is_kept", "load", "numpy", "special"]

if TYPE_CHECKING:
    import numpy
    from numpy.typing import ArrayLike, NDArray
    from scipy import special

    FloatArray = NDArray[numpy.float64]
else:

    class _Later:
        """Stands for a module: loads it at the first name asked for, and keeps each name."""

        def __init__(self, name: str) -> None:
            self._name = name

        def __getattr__(self, name: str) -> Any:
            if name.startswith("__"):
                raise AttributeError(name)
            found = getattr(import_module(self._name), name)
            self.__dict__[name] = found
            return found

    numpy, special = _Later("numpy"), _Later("scipy.special")
    ArrayLike = NDArray = FloatArray = Any


@contextmanager
def all_is_kept() -> Iterator[None]:
    """While modules load, all that is made stays: looking for garbage then takes a tenth of the time,
    and to look through it again and again later would be in vain."""
    was = gc.isenabled()
    gc.disable()
    try:
        yield
    finally:
        gc.freeze()
        if was:
            gc.enable()


def load() -> None:
    """Load them now: while nobody waits."""
    import_module("numpy")
    import_module("scipy.special")
