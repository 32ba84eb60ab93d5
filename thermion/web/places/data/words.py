"""What is said of the data and their copies."""

from __future__ import annotations

from thermion.records.keeping.copies import CopyChecked
from thermion.web.components.words import count

WHAT = {
    "class": "class with its challenges",
    "challenge": "challenge with its builds and readings",
    "run": "run",
    "version": "draft",
}
KINDS = {
    "day": "at the first start of a day",
    "before-restore": "before another copy was put back",
    "before-form": "before a newer Thermion changed the data's form",
    "before-import": "before a file was read in",
    "before-delete": "before a class was deleted",
    "by-hand": "made here",
}


def size(number: int) -> str:
    """“5 kB”, “1.2 MB”."""
    if number < 1_000_000:
        return f"{max(round(number / 1000), 1)} kB"
    return f"{number / 1_000_000:.1f} MB"


def holds(copy: CopyChecked) -> str:
    """“3 challenges, 7 runs, 420 readings and attempts”."""
    counts = copy.counts
    noted = counts.get("readings", 0) + counts.get("attempts", 0)
    return ", ".join(
        (
            count(counts.get("challenges", 0), "challenge"),
            count(counts.get("runs", 0), "run"),
            count(noted, "reading or attempt", "readings and attempts"),
        )
    )


def when_made(copy: CopyChecked) -> str:
    """Why a copy was made, by its name."""
    return next((said for start, said in KINDS.items() if copy.path.name.startswith(start)), "found here")


def put_back(copy: CopyChecked) -> str:
    return f"Put back {copy.path.name}? What is there now is kept as a copy."


def started_again(times: int) -> str:
    """That the server died and was started again; "" when it never did."""
    if not times:
        return ""
    return (
        f"Thermion stopped by itself {count(times, 'time')} since it was started, and began again each time. "
        "What was stored is safe; the file logs/faults.log in this folder may tell why."
    )
