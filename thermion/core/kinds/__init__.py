"""The families of challenge. A new family is a new file here with a value named KIND."""

from __future__ import annotations

from dataclasses import replace
from functools import cache
from importlib import import_module
from pkgutil import iter_modules

from thermion.core.ages import AgeBand
from thermion.core.kinds.base import Kind


@cache
def all_kinds() -> dict[str, Kind]:
    """Every family found in this folder, by key."""
    found = {}
    for module in iter_modules(__path__):
        kind = getattr(import_module(f"{__name__}.{module.name}"), "KIND", None)
        if isinstance(kind, Kind):
            found[kind.key] = kind
    return found


FORMER = {"wind_lift": "wind_hoist"}  # what families were called in files of before


def kind_now(key: str) -> str:
    """The key of a family, by what it was called at any time."""
    return FORMER.get(key, key)


def get_kind(key: str) -> Kind:
    """The family with this key; ValueError when there is none."""
    try:
        return all_kinds()[key]
    except KeyError:
        raise ValueError(f"kind: expected one of {sorted(all_kinds())}, got {key}") from None


@cache
def kind_for(key: str, age: AgeBand) -> Kind:
    """The family as it suits an age: nothing in it can be set beyond what keeps that age from harm."""
    kind = get_kind(key)
    return replace(kind, brief=kind.brief.at_age(age))
