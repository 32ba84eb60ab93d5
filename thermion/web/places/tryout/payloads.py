"""How far trying a brief out is."""

from __future__ import annotations

from thermion.web.payloads import Answer


class Progress(Answer):
    """Designs that have run, of how many, and the result as HTML when all have."""

    done: int
    of: int
    html: str = ""
