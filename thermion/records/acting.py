"""Who acts: every row that is added says which device brought it."""

from __future__ import annotations

from contextvars import ContextVar, Token

from sqlalchemy import String
from sqlalchemy.orm import Mapped, mapped_column

DESK, TEAM = "desk", "team"
_WHO: ContextVar[str] = ContextVar("who acts", default=DESK)


def who() -> str:
    """The device that acts: desk, "helper 2", "team A", "probe"; the Desk where nobody else was named."""
    return _WHO.get()


def is_team(name: str) -> bool:
    """Whether who brought a row is a team's device."""
    return name.startswith(TEAM)


def act_as(name: str) -> Token[str]:
    """From here on what is stored was brought by this device, until `done`."""
    return _WHO.set(name)


def done(token: Token[str]) -> None:
    _WHO.reset(token)


class Brought:
    """A row that says who brought it; "" where that was stored before it was kept."""

    by: Mapped[str] = mapped_column(String(20), default=who, server_default="")
