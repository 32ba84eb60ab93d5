"""What a learner wrote, put out of sight by one key at the Desk, and back again.

It is taken out of where it stood, so that no page, board, sheet or file can show it, and kept beside. A
photograph is taken away instead.
"""

from __future__ import annotations

from collections.abc import Mapping

from thermion.records.tables import Idea, Version

WRITTEN: Mapping[
    type[Version | Idea], Mapping[str, object]
] = {  # what a team writes, and what stands there instead
    Version: {"change_note": "", "worked": "", "failed": "", "answer": ""},
    Idea: {"why": "", "strokes": []},
}


def hide(row: Version | Idea) -> None:
    """Put a team's words out of sight; of what was hidden before, what is written anew takes the place.

    A screen that is open there is told that it was changed.
    """
    out = dict(row.hidden)
    for name, empty in WRITTEN[type(row)].items():
        if getattr(row, name) != empty:
            out[name] = getattr(row, name)
            setattr(row, name, empty)
    _changed(row, out)


def show(row: Version | Idea) -> None:
    """Put them back, but for what the team has written anew meanwhile."""
    for name, words in row.hidden.items():
        if getattr(row, name) == WRITTEN[type(row)][name]:
            setattr(row, name, words)
    _changed(row, {})


def _changed(row: Version | Idea, hidden: dict[str, object]) -> None:
    row.hidden = hidden
    if isinstance(row, Version):
        row.revision += 1
