"""What the strip of lessons and the server say to each other."""

from __future__ import annotations

from pydantic import Field

from thermion.web.payloads import Answer, Sent, StepKey


class StepSent(Sent):
    """A step dragged or keyed to another lesson, stretched [min], left out (0) or put back."""

    phase: StepKey = Field(max_length=16)
    minutes: float | None = Field(default=None, ge=0, le=1e4)
    lesson: int | None = Field(default=None, ge=-1000, le=1000)


class StripDrawn(Answer):
    html: str
