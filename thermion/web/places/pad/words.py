"""What a pad says, for three ages: what to do now, and the key that leads there."""

from __future__ import annotations

from collections.abc import Mapping

from thermion.core.ages import AgeBand, in_order, said_to
from thermion.core.planning.pads import Doing

# What is said, youngest first; and what the key says.
DO: Mapping[Doing, tuple[tuple[str, str, str], str]] = {
    "walk": (
        (
            "Walk. Look. Do not touch.",
            "Go to this place and find one thing to learn from.",
            "Go to this place: compare design and result, and note one idea you would take.",
        ),
        "",
    ),
    "read": (
        ("Read the number.", "Your build is tested: read it at each mark.", "Read your build at each mark."),
        "Read",
    ),
    "try": (
        (
            "Your turn!",
            "It is your turn: test your build, and note what came out.",
            "Your turn at the station: test, and note the result.",
        ),
        "Our turn",
    ),
    "turn": (
        (
            "Wait. Your turn comes.",
            "Your build is tested at the station. Wait for your turn.",
            "Your build is tested at the station: be ready when it is called.",
        ),
        "",
    ),
    "idea": (
        ("Draw your idea.", "Draw an idea. Everybody draws one.", "Draw an idea each, then compare them."),
        "Draw an idea",
    ),
    "plan": (
        (
            "Make your plan.",
            "Choose what goes where, and say what you expect.",
            "Complete the plan within its limits, with a prediction.",
        ),
        "Our plan",
    ),
    "answer": (
        ("The teacher asks.", "The teacher has a question.", "The teacher has a question about your plan."),
        "Look at it",
    ),
    "waits": (
        (
            "Wait for the teacher.",
            "Your plan waits for the teacher.",
            "Your plan is handed in and waits for the check.",
        ),
        "Our plan",
    ),
    "fetch": (
        ("Fetch your things.", "Your plan is signed. Fetch this:", "Signed. Fetch what is on the plan:"),
        "",
    ),
    "build": (
        ("Build it.", "Build what is on your plan.", "Build to the plan; what differs is noted."),
        "Our plan",
    ),
    "results": (
        (
            "Look what came out.",
            "Your test is over. What came out?",
            "The test is over: compare and explain.",
        ),
        "Our results",
    ),
    "change": (
        (
            "Make it better.",
            "Change one thing, and say why.",
            "Change one thing at a time, and say what it should do.",
        ),
        "Next version",
    ),
}
NOTHING: Mapping[AgeBand, str] = in_order(
    ("Wait.", "Nothing is to be done yet.", "No challenge is on for this class yet.")
)


def do(what: Doing, age: AgeBand) -> str:
    return said_to(age, in_order(DO[what][0]))


def key(what: Doing) -> str:
    return DO[what][1]


def nothing(age: AgeBand) -> str:
    return said_to(age, NOTHING)


TO_BE_LOOKED_AT = "Typed by the team itself. Is it so?"
READ: Mapping[str, str] = {
    "before": "The clock has not been started",
    "now": "Read now",
    "minute": "minute {minute}",
    "next": "Next: minute {minute} in {left}",
    "over": "All is read",
    "closed": "The test is over",
    "kept": "Kept on this device. It is sent by itself.",
    "what": "a reading",
    "yes": "{typed} is right",
    "likely": "It is {likely}",
}


def where(title: str, number: int) -> str:
    """A test, as the tray names it."""
    return f"{title}, run {number}"
