"""What the ruler of marks and the server say to each other."""

from __future__ import annotations

from pydantic import Field

from thermion.records.planning.marks import LONGEST_MARK_S
from thermion.web.payloads import Answer, Sent


class MarksTyped(Sent):
    """Marks as they stand in the field, with the minutes that were pointed at on the ruler."""

    text: str = Field(default="", max_length=400)
    toggle: float | None = Field(default=None, ge=0, le=LONGEST_MARK_S / 60)
    every: float | None = Field(default=None, ge=0.1)
    until: str = Field(default="", max_length=20)


class MarksRead(Answer):
    """Marks as they were understood [min], how they are written, and what is wrong with them."""

    minutes: list[float]
    text: str
    count: str
    error: str = ""
