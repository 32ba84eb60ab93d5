"""What programs on this computer are told of the door."""

from __future__ import annotations

from thermion.web.payloads import Answer


class TeamCode(Answer):
    team: str
    code: str


class CodesListed(Answer):
    """Where other devices come in, and the code of each team of a class; none while the door is closed."""

    door: str
    codes: list[TeamCode]
