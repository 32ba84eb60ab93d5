"""What a file leaves open, as a question with the likely answer; and what was answered."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

Answers = Mapping[str, str]


@dataclass(frozen=True, kw_only=True)
class Question:
    """`options` are (value, words); `likely` is the value that is filled in. `columns` it is about, if any."""

    key: str
    text: str
    options: tuple[tuple[str, str], ...]
    likely: str
    columns: tuple[int, ...] = ()

    def answer(self, answers: Answers) -> str | None:
        """What was answered, if it is one of the options."""
        given = answers.get(self.key)
        return given if given in {value for value, _ in self.options} else None
