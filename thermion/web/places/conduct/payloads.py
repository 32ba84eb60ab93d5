"""What the line of a lesson and the server say to each other."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from thermion.web.payloads import Answer, RowId, Sent, StepKey


class DoneSent(Sent):
    """A key of the line or of the lesson's page; see `thermion.records.planning.conduct.Done`."""

    what: Literal["start", "next", "back", "end", "minute", "pause", "go", "turn", "says"]
    seen: str = Field(max_length=40)
    row: RowId = 0
    by: int = Field(default=1, ge=-60, le=60)
    challenge: str = Field(default="", max_length=20)
    phase: StepKey = Field(default="", max_length=16)
    act: str = Field(default="", max_length=16)
    says: str = Field(default="", max_length=400)


class LineDrawn(Answer):
    """The line as it is now, and a word when something was not done."""

    html: str
    mark: str = ""  # of the state that is shown: whoever acts says which was seen
    said: str = ""
    now: str = ""


class BellSent(Sent):
    """What is to become of a test in which the bell rang."""

    run: RowId
    how: Literal["close", "on", "apart"]


class BellDone(Answer):
    to: str = ""


class BoardSent(Sent):
    """What the board is to show; "" what is going on."""

    shows: Literal["", "step", "results", "findings"]
    challenge: RowId = 0
    step: int = Field(default=0, ge=0, le=100)


class BoardDone(Answer):
    shows: str
    step: int
