"""Sentences that many pages say."""

from __future__ import annotations

from thermion.records.running.runs import Going

STATES = {"draft": "draft", "waiting": "waits for check", "signed": "signed off", "issued": "issued"}


def count(number: float, one: str, many: str = "") -> str:
    """“1 turn”, “2 turns”: a number with the thing counted."""
    shown = f"{number:g}"
    return f"{shown} {one}" if number == 1 else f"{shown} {many or one + 's'}"


def minutes(number: int) -> str:
    return f"{number} min"


def bell_ends(time: str, class_name: str) -> str:
    """When the bell rings; with the class on a page that is not of it."""
    return f"to the bell at {time}{f' ({class_name})' if class_name else ''}"


def still_fits(fits: str) -> str:
    return f"until packing up; {fits}" if fits else "until packing up"


def going(run: Going) -> str:
    """A run that goes on elsewhere."""
    if run.held == "marks":
        return f"{run.title}, minute {int(run.since_s // 60)}"
    return f"{run.title}, turns"


def not_stored(fields: int) -> str:
    """Above a form with fields to look at again."""
    return f"Not stored yet: {count(fields, 'field needs', 'fields need')} another look. What you typed is still here."
