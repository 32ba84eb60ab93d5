"""The record in words."""

from __future__ import annotations

from collections.abc import Collection, Sequence

from thermion.records.tables import Challenge


def carried_to(ids: Collection[int], after: Sequence[Challenge]) -> str:
    """Into which later challenges a conclusion was carried."""
    titles = [c.title for c in after if c.id in ids]
    return f"carried to {', '.join(titles)}" if titles else ""
