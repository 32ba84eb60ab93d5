"""The record in words."""

from __future__ import annotations

from collections.abc import Collection, Sequence

from thermion.records.judging.conclusions import Other
from thermion.records.tables import Challenge
from thermion.web.components.words import listed


def carried_to(ids: Collection[int], others: Sequence[Other]) -> str:
    """Into which challenges a conclusion was carried."""
    titles = [c.title for c in others if c.id in ids]
    return f"carried to {', '.join(titles)}" if titles else ""


def on_shelf(title: str) -> str:
    return f"The brief of {title} is on the shelf: a new challenge can begin with it."


def copied(names: Sequence[str]) -> str:
    """Where a brief was copied to."""
    said = listed(names)
    return f"The brief is in {said} now. The cautions are read there anew."


def package_name(title: str) -> str:
    """What a package is called as a file."""
    plain = "".join(ch if ch.isalnum() and ch.isascii() else "-" for ch in title.lower()).strip("-")[:60]
    return f"{plain or 'design-challenges'}.zip"


def of_picture(name: str) -> str:
    """What a picture of a package shows, by the name of its file: `build-A2.svg`, `run-1.svg`."""
    what, _, which = name.removesuffix(".svg").partition("-")
    return f"{what.capitalize()} {which}"


def opened(number: int) -> str:
    return f"{number} challenges are open now."


LISTED = 4  # questions of a file that are said at once


def look_at(questions: Sequence[str]) -> str:
    """What a page would have asked about what a file brought."""
    rest = len(questions) - LISTED
    more = f" And {rest} more: look at the values in question." if rest > 0 else ""
    return f"It is stored as it was. Look at this: {' '.join(questions[:LISTED])}{more}"


def not_read(names: Sequence[str]) -> str:
    """Tables of a package that were changed since it was written: the challenge files hold all of it."""
    return (
        f"Changed since this package was written: {listed(names)}. Thermion reads the challenge files in it, "
        "not the tables: what was changed there is not in."
    )


def here_already(found: Sequence[Challenge], of: int) -> str:
    """Which challenges of a file are in the record already."""
    first = found[0]
    if of == 1:
        return f"This is the same challenge as {first.title} of {first.school_class.name}."
    names = ", ".join(c.title for c in found[:4]) + (", …" if len(found) > 4 else "")
    return f"{len(found)} of these {of} challenges are here already: {names}."
