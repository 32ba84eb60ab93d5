"""What can go wrong with an action, in words for the person; nothing is stored when raised."""

from __future__ import annotations


class Refused(Exception):  # noqa: N818 - an answer to a person, not a fault
    """The action breaks a rule. `field` names the input it belongs to."""

    def __init__(self, message: str, field: str | None = None) -> None:
        super().__init__(message)
        self.message = message
        self.field = field


class Gone(Refused):
    """What was acted on is no longer there (deleted in another tab)."""


class Conflict(Refused):
    """Someone else changed it meanwhile."""


class Implausible(Refused):
    """Refused as what cannot be; `suggestion` is the likely value as typed, "" if none is known."""

    def __init__(self, message: str, field: str | None, suggestion: str = "") -> None:
        super().__init__(message, field)
        self.suggestion = suggestion


class Unsure(Refused):
    """Not refused for good: asked. Sent again with `sure` it goes through."""
