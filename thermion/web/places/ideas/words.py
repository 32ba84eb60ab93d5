"""Ideas and what is taken from others, in words."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from thermion.core.physics.materials import MATERIALS
from thermion.records.tables import Idea, Team
from thermion.web.components.words import count


def picks(idea: Idea, places: Sequence[tuple[str, str]]) -> list[tuple[str, str, str]]:
    """(place, its label, material) of what an idea names, in the order of the build's places."""
    return [
        (key, label, MATERIALS[idea.picks[key]].name)
        for key, label in places
        if key in idea.picks and idea.picks[key] in MATERIALS
    ]


def photographs(kept: int, refused: Sequence[str]) -> list[str]:
    """What became of the photographs that came at once."""
    out = [f"{count(kept, 'photograph is', 'photographs are')} kept as ideas."] if kept else []
    for why, many in {r: list(refused).count(r) for r in refused}.items():
        out.append(f"{count(many, 'photograph was', 'photographs were')} not kept: {why}")
    return out


def taken(team_id: int, from_id: int, what: str, teams: Mapping[int, Team]) -> str:
    said = f"{teams[team_id].name} takes something from {teams[from_id].name}"
    return f"{said}: {what}" if what else f"{said}."


def took(version: int) -> str:
    return f"Taken into version {version}: set the units, and hand it in."


def number_of(ideas: int) -> str:
    return count(ideas, "idea") if ideas else "no idea yet"
