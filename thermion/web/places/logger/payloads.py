"""What the line-up of a file and the server say to each other."""

from __future__ import annotations

from pydantic import Field

from thermion.web.payloads import Answer, RowId, Sent


class Laying(Sent):
    """A file as it is laid now: where its first reading falls [s], and which channel is which row."""

    phase: str = Field(max_length=16)
    begin_s: float = Field(ge=-4e5, le=4e5)
    rows: dict[int, RowId] = Field(max_length=400)
    overlap: str = Field(default="both", pattern="^(both|gaps)$")


class Lying(Answer):
    """What storing it so would do, in words; `over` and `before` ask what to do with moments
    that are read already, or lie before the start.
    """

    said: list[str]
    begin: str
    store: str
    over: bool = False
    before: bool = False
    error: str = ""
