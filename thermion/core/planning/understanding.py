"""What a team has understood, as statements that a teacher marks while walking: by step and age."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Literal

from thermion.core.ages import USUAL, AgeBand, in_order, said_to

Mark = Literal["", "seen", "not yet"]
NEXT: Mapping[Mark, Mark] = {"": "seen", "seen": "not yet", "not yet": ""}
OWN = "own"  # begins the key of a statement of the class's own: own~step~words
LONGEST = 80


@dataclass(frozen=True)
class Statement:
    """What a teacher looks for in a team at a step."""

    key: str
    phase: str
    text: str


Said = tuple[str, str, str]
_SHIPPED: Mapping[str, tuple[tuple[str, Said], ...]] = {
    "plan": (
        (
            "why",
            (
                "says why they chose it",
                "gives a reason for each material",
                "gives a reason for form and material at each place",
            ),
        ),
        (
            "predicts",
            (
                "guesses what will happen",
                "predicts, and says why",
                "predicts a number with its unit, and why",
            ),
        ),
        ("rules", ("knows the rules", "keeps to limits and rules", "weighs limits and cost against the aim")),
    ),
    "test": (
        (
            "fair",
            (
                "knows what must be the same",
                "says what is held the same, and why",
                "names what could make it unfair",
            ),
        ),
        (
            "reads",
            ("reads the number", "reads and notes with unit and time", "reads to the instrument's step"),
        ),
    ),
    "findings": (
        (
            "evidence",
            ("says what happened", "points at a reading for what it says", "argues from data, not from hope"),
        ),
        (
            "sure",
            (
                "knows once can be luck",
                "says how sure a difference is",
                "tells a difference from the spread of tries",
            ),
        ),
        (
            "cause",
            (
                "says which part did it",
                "links a part to its effect",
                "names the transfer, gain or loss that explains it",
            ),
        ),
    ),
    "change": (
        (
            "one",
            (
                "changes one thing",
                "changes one thing and says why",
                "changes one factor, and predicts its effect",
            ),
        ),
        (
            "learnt",
            (
                "took an idea from others",
                "uses what another team found",
                "uses evidence of another team's test",
            ),
        ),
    ),
    "show": (
        (
            "parts",
            (
                "shows the clever part",
                "says which part gathers and which keeps",
                "explains gains and losses by part",
            ),
        ),
        (
            "real",
            (
                "says what is different outside",
                "says where the model differs from the real thing",
                "judges what changes at full size",
            ),
        ),
    ),
}
STEPS = tuple(_SHIPPED)


def statements(age: AgeBand, own: tuple[str, ...] = ()) -> list[Statement]:
    """Those that ship, for this age, and a class's `own` keys, step by step."""
    out = []
    for phase, each in _SHIPPED.items():
        out += [Statement(f"{phase}-{key}", phase, said_to(age, in_order(said))) for key, said in each]
        out += [found for found in map(own_statement, own) if found is not None and found.phase == phase]
    return out


def is_statement(key: str) -> bool:
    """Whether a key is that of a shipped statement or of one of a class's own."""
    return own_statement(key) is not None or key in {s.key for s in statements(USUAL)}


def own_key(phase: str, text: str) -> str:
    """The key of a statement of a class's own. ValueError naming what cannot be."""
    words = " ".join(text.replace("~", " ").split())
    if phase not in _SHIPPED:
        raise ValueError(f"phase: expected one of {', '.join(_SHIPPED)}")
    if not 1 <= len(words) <= LONGEST:
        raise ValueError(f"text: expected 1 to {LONGEST} letters")
    return f"{OWN}~{phase}~{words}"


def own_statement(key: str) -> Statement | None:
    """What a key of a class's own says; None for any other."""
    start, _, rest = key.partition("~")
    phase, _, text = rest.partition("~")
    return Statement(key, phase, text) if start == OWN and phase in _SHIPPED and text else None
