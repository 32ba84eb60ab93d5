"""The record in words."""

from __future__ import annotations

from collections.abc import Collection, Sequence

from thermion.records.judging.conclusions import Other


def carried_to(ids: Collection[int], others: Sequence[Other]) -> str:
    """Into which challenges a conclusion was carried."""
    titles = [c.title for c in others if c.id in ids]
    return f"carried to {', '.join(titles)}" if titles else ""
