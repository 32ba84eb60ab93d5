"""What the page on which an idea is drawn sends."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field

from thermion.web.payloads import Answer, ClientId, Sent

Thousandth = Annotated[int, Field(ge=-100, le=1100)]


class IdeaSent(Sent):
    """Strokes as x, y, x, y … in thousandths of the drawing; materials by place; one sentence."""

    strokes: list[Annotated[list[Thousandth], Field(max_length=2000)]] = Field(max_length=400)
    picks: dict[Annotated[str, Field(max_length=32)], Annotated[str, Field(max_length=320)]] = Field(
        max_length=40
    )
    why: str = Field(default="", max_length=400)
    client_id: ClientId


class PhotographKept(Answer):
    """What became of one of many photographs."""

    kept: bool
    why: str = ""


class IdeaKept(Answer):
    to: str
