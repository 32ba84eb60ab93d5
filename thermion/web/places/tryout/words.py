"""Sentences of Try out."""

from __future__ import annotations

from thermion.core.kinds.base import Kind


def how(kind: Kind, count: int, attempts: int) -> str:
    """What is tried, and how often each design is tested."""
    each = (
        ""
        if kind.test.shape != "turns"
        else f", {attempts} {'attempt' if attempts == 1 else 'attempts'} each"
    )
    return (
        f"{count} designs that the limits allow, from bare to rich, are run by simulation under this brief{each}. "
        "Values are typical, so read the picture, not the last digit."
    )
