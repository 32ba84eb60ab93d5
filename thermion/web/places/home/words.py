"""Names that are filled in until the class gives its own."""

from __future__ import annotations


def first_class(number: int) -> str:
    return f"Class {number}"


def first_name(index: int) -> str:
    """Of the n-th team."""
    return f"Team {chr(ord('A') + index)}"
