"""What a program is told of what is here: classes, their challenges, and the numbers of their runs."""

from __future__ import annotations

from thermion.web.payloads import Answer


class RunListed(Answer):
    """A test: its number in the challenge, and `id`, by which addresses name it."""

    id: int
    number: int
    rehearsal: bool
    closed: bool


class ChallengeListed(Answer):
    id: int
    title: str
    family: str
    runs: list[RunListed]


class ClassListed(Answer):
    """A class with its teams by letter."""

    id: int
    name: str
    teams: dict[str, str]
    challenges: list[ChallengeListed]


class Contents(Answer):
    classes: list[ClassListed]
