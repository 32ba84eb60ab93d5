"""What a table holds for a run, and what stands in its way."""

from __future__ import annotations

from collections.abc import Sequence

from thermion.formats.asking import Question
from thermion.records.running.table_in import Clash, Outcome
from thermion.web.components.words import count

OVER, WRONG, LEAVE = "over", "wrong", "leave"


def over(clashes: Sequence[Clash]) -> Question:
    """What becomes of values where others stand already."""
    first = clashes[0]
    many = count(
        len(clashes), "value stands there already and is another", "values stand there already and are others"
    )
    return Question(
        key=OVER,
        text=f"{many} ({first.where}: {first.stands} there, {first.typed} in the table). Which count?",
        options=(
            ("keep", "What stands there"),
            ("replace", "The table's; the earlier ones are kept with them"),
        ),
        likely="keep",
    )


def wrong(found: Sequence[tuple[str, str]]) -> Question:
    """What becomes of cells that cannot be taken."""
    return Question(
        key=WRONG,
        text=f"{count(len(found), 'cell', 'cells')} cannot be taken as written, listed below.",
        options=((LEAVE, "Leave it out" if len(found) == 1 else "Leave them out"),),
        likely=LEAVE,
    )


def store(outcome: Outcome, attempts: bool) -> str:
    """What the key does."""
    return f"Store {_what(outcome.stored, attempts)}"


def stored(number: int, attempts: bool) -> str:
    """What was stored."""
    return f"{_what(number, attempts)} stored."


def taken_back(number: int, attempts: bool) -> str:
    return f"{_what(number, attempts)} taken back."


def _what(number: int, attempts: bool) -> str:
    return count(number, "attempt", "attempts") if attempts else count(number, "value", "values")


def same(outcome: Outcome) -> str:
    """Values that stand there already as they are in the table."""
    if not outcome.same:
        return ""
    return f"{count(outcome.same, 'value stands', 'values stand')} there already, the same."


def paper(begins: bool) -> str:
    """What becomes of a test whose clock was never started."""
    if not begins:
        return ""
    return "The test counts as held on paper: values stand at their planned minutes, shown with ≈."
