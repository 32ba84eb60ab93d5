"""What can go wrong with an action, in words for the person; nothing is stored when raised."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass


@dataclass(frozen=True)
class Way:
    """Something that can be done about what was refused: sent again with these values in it."""

    label: str
    change: Mapping[str, str | bool]


class Refused(Exception):  # noqa: N818 - an answer to a person, not a fault
    """The action breaks a rule. `field` names the input it belongs to, `ways` what can be done."""

    def __init__(self, message: str, field: str | None = None, ways: Sequence[Way] = ()) -> None:
        super().__init__(message)
        self.message = message
        self.field = field
        self.ways = tuple(ways)


class Gone(Refused):
    """What was acted on is no longer there (deleted in another tab)."""


class Conflict(Refused):
    """Someone else changed it meanwhile."""


class Busy(Refused):
    """The record is being written by others for longer than anybody should wait; later it goes through."""


class Implausible(Refused):
    """Refused as what cannot be; `suggestion` is the likely value as typed, "" if none is known."""

    def __init__(self, message: str, field: str | None, suggestion: str = "") -> None:
        ways = [Way(f"Take {suggestion}", {"typed": suggestion, "keep": True})] if suggestion else []
        super().__init__(message, field, ways)
        self.suggestion = suggestion


class Unsure(Refused):
    """Not refused for good: asked. Sent again with `sure` it goes through."""
