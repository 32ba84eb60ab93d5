"""What findings are about: one version of what a team made in a challenge of a class."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True, order=True)
class Subject:
    """A version of a team's build, by the numbers of its class, challenge and team.

    A team's letter is for people and tells it apart inside its class only; across classes and
    years this does.
    """

    class_id: int
    challenge_id: int
    team_id: int
    version: int
