"""A team's own device: the one thing that this team does next, from what is on and how far its build is."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Literal

Doing = Literal[
    "walk", "read", "try", "turn", "idea", "plan", "answer", "waits", "fetch", "build", "results", "change"
]
BEFORE_PLAN = frozenset({"", "task", "ideas"})  # steps at which a team that has no plan still has ideas
State = Literal["", "draft", "waiting", "signed", "issued"]  # of its newest version; "": it has none
Pads = Literal[
    "", "typed", "looked"
]  # whether teams read on their pads, and if the teacher looks at it first


@dataclass(frozen=True, kw_only=True)
class Stands:
    """How it stands with a team: the step that is on, its newest version, what is asked and read of it.

    `reads`: a test at marks with this build is on and teams read at it. `turns`: one is on in which builds take
    turns, and this one still has some; `on`: its turn has come, and teams note theirs. `tried`: something was read
    of the newest version, and its test is closed.
    """

    phase: str = ""
    walking: bool = False
    state: State = ""
    asked: bool = False
    reads: bool = False
    turns: bool = False
    on: bool = False
    tried: bool = False


PLANNED: Mapping[State, Doing] = {"waiting": "waits", "signed": "fetch"}


def doing(stands: Stands) -> Doing:
    """What this team does next."""
    if stands.walking:
        return "walk"
    if stands.reads:
        return "read"
    if stands.turns:
        return "try" if stands.on else "turn"
    if stands.state == "":
        return "idea" if stands.phase in BEFORE_PLAN else "plan"
    if stands.state == "draft":
        return "answer" if stands.asked else "idea" if stands.phase == "ideas" else "plan"
    return PLANNED.get(stands.state) or _when_built(stands)


def _when_built(stands: Stands) -> Doing:
    if not stands.tried:
        return "build"
    return "change" if stands.phase in ("change", "retest") else "results"
