"""Teams are told apart by letter, shape and colour together."""

from __future__ import annotations

from collections.abc import Sequence

SHAPES = ("circle", "square", "triangle", "diamond", "drop", "hexagon", "cross", "star")
COLOURS = ("blue", "rust", "green", "plum", "ochre", "teal", "rose", "slate")


def look(index: int) -> tuple[str, str]:
    """Shape and colour for the n-th team; the pair repeats only after 64 teams."""
    turn, at = divmod(index, len(SHAPES))
    return SHAPES[at], COLOURS[(at + 3 * turn) % len(COLOURS)]


def pick_letters(wanted: Sequence[tuple[str, str]]) -> list[str]:
    """One capital letter per (name, wished letter), all different.

    The wish first, then the letters of the name in order, then any letter or digit left. A word that all
    names share tells nothing: of Team A and Team B it comes last.
    """
    shared = set.intersection(*(set(name.upper().split()) for name, _ in wanted)) if wanted[1:] else set()
    taken: set[str] = set()
    out = []
    for name, wish in wanted:
        own = [word for word in name.upper().split() if word not in shared]
        choices = [wish.upper()[:1], *"".join(own), *name.upper(), *"ABCDEFGHIJKLMNOPQRSTUVWXYZ0123456789"]
        letter = next((c for c in choices if c.isalnum() and c not in taken), None)
        if letter is None:
            raise ValueError("wanted: expected fewer teams than there are letters and digits")
        taken.add(letter)
        out.append(letter)
    return out
