"""A family put together from the files of its folder."""

from __future__ import annotations

from importlib import import_module
from typing import TypeVar

from thermion.core.kinds.analysis import Analysis
from thermion.core.kinds.base import Kind
from thermion.core.kinds.briefing import Briefing
from thermion.core.kinds.building import Building
from thermion.core.kinds.life_size import LifeSize
from thermion.core.kinds.rehearsal import Rehearsal
from thermion.core.kinds.testing import Testing
from thermion.core.kinds.views import Views

T = TypeVar("T")


def family(folder: str, label: str) -> Kind:
    """The family in a folder, by the folder's own name; see docs/families.md for its files.

    Raises ImportError or TypeError naming the file and the value that it lacks.
    """
    return Kind(
        key=folder.rpartition(".")[2],
        label=label,
        brief=_value(folder, "brief", "BRIEF", Briefing),
        build=_value(folder, "body", "BUILD", Building),
        test=_value(folder, "how_tested", "TEST", Testing),
        analysis=_value(folder, "analysis", "ANALYSIS", Analysis),
        rehearsal=_value(folder, "rehearsal", "REHEARSAL", Rehearsal),
        views=_optional(folder, "analysis", "VIEWS", Views) or Views(),
        life_size=_optional(folder, "life_size", "LIFE_SIZE", LifeSize),
    )


def _value(folder: str, file: str, name: str, kind: type[T]) -> T:
    found = _optional(folder, file, name, kind)
    if found is None:
        raise TypeError(f"{folder}.{file} has no {kind.__name__} called {name}")
    return found


def _optional(folder: str, file: str, name: str, kind: type[T]) -> T | None:
    where = f"{folder}.{file}"
    try:
        found = getattr(import_module(where), name, None)
    except ModuleNotFoundError as missing:
        if missing.name != where:  # the file is there, and something that it needs is not
            raise
        return None
    if found is not None and not isinstance(found, kind):
        raise TypeError(f"{where}: {name} is no {kind.__name__}")
    return found
