"""What the kit list and the server say to each other."""

from __future__ import annotations

from pydantic import Field

from thermion.web.payloads import Answer, Sent


class ItemSent(Sent):
    """One thing ticked off, or its pack or the cost of one as typed."""

    item: str = Field(min_length=1, max_length=80)
    have: bool | None = None
    pack: str | None = Field(default=None, max_length=40)
    pack_cost: str | None = Field(default=None, max_length=40)


class ItemSaved(Answer):
    saved: bool = True
