"""What came of the nasty logger files, and of mutations of them."""

from __future__ import annotations

import random
from collections.abc import Sequence
from dataclasses import replace
from datetime import UTC, datetime
from itertools import product

from tests.formats.nasty import Nasty
from thermion.core.physics.units import convert
from thermion.formats.logger.reader import LoggerFile, UnreadableFile, read_logger

NOW = datetime(2026, 6, 10, tzinfo=UTC)
MOST_ANSWERS = 200
NEAR_S, NEAR_C = 0.06, 0.06
WORDS = {
    "right": "read right",
    "asked": "read right after a question",
    "refused": "refused with a fair reason",
    "unfair": "refused, though it can be read",
    "no answer": "asked, and no answer is right",
    "losses": "read in part, its losses said",
    "wrong": "silently wrong",
}
Curve = Sequence[tuple[float, float]]


def bare(heading: str) -> str:
    """A heading without its unit and signs, so that names are compared and not how they are written."""
    for sign in "([":
        heading = heading.partition(sign)[0]
    return "".join(ch for ch in heading.lower() if ch.isalnum())


def channels_of(found: LoggerFile) -> dict[str, Curve]:
    """What was read, in °C, by the bare names."""
    return {
        bare(c.heading): [
            (t, convert(v, c.unit or "degC", "degC")) for t, v in zip(c.time_s, c.value, strict=True)
        ]
        for c in found.channels
    }


def lies_on(mine: Curve, truth: Curve) -> bool:
    """Whether every value that was read stands at its own time, counted from some row of the truth."""
    if not mine:
        return True
    (first, value), *_ = mine
    for began, true in truth:
        if abs(true - value) > NEAR_C:
            continue
        at = {round(t - began, 1): v for t, v in truth}
        if all(abs(at.get(round(t - first, 1), 1e9) - v) < NEAR_C for t, v in mine):
            return True
    return False


def same(found: LoggerFile, wanted: Nasty) -> str:
    """right, losses (less than is true, and said so) or wrong."""
    got = channels_of(found)
    truth = {bare(name): values for name, values in wanted.truth.items()}
    if set(got) - set(truth):
        return "wrong"
    said = bool(
        found.skipped_count or found.notes or found.questions or any(c.lost_count for c in found.channels)
    )
    whole = True
    for name, values in truth.items():
        if name not in got:
            if not any(bare(heading) == name for heading, _ in found.left_out):
                return "wrong"
            whole = False
            continue
        if not lies_on(got[name], values):
            return "wrong"
        whole = whole and len(got[name]) == len(values)
    if whole:
        return "right"
    return "losses" if said else "wrong"


def score(wanted: Nasty) -> tuple[str, str]:
    """What came of a file, and why."""
    try:
        found = read_logger(wanted.data, zone="UTC", now=NOW)
    except UnreadableFile as error:
        return ("refused" if wanted.want == "refused" else "unfair"), str(error)
    asked = [q for q in found.questions if not q.key.startswith("unit")]
    if wanted.want == "refused":
        return ("asked" if asked else "wrong"), "read"
    if not asked:
        return same(found, wanted), ", ".join(found.notes)
    choices = [[(q.key, value) for value, _ in q.options] for q in found.questions]
    for n, answers in enumerate(product(*choices)):
        if n > MOST_ANSWERS:
            break
        try:
            again = read_logger(wanted.data, dict(answers), zone="UTC", now=NOW)
        except UnreadableFile:
            continue
        if same(again, wanted) == "right":
            return "asked", "; ".join(q.text for q in asked)
    return "no answer", "; ".join(q.text for q in asked)


def mutated(case: Nasty, draw: random.Random) -> Nasty | None:
    """The file with something done to it that leaves what is true of each row; None where it is no text."""
    if isinstance(case.text, bytes) or case.want == "refused":
        return None
    lines = case.text.rstrip("\n").split("\n")
    if len(lines) < 8:
        return None
    first = next((i for i, line in enumerate(lines) if line[:1].isdigit()), 1)
    at = draw.randrange(first, len(lines)) if len(lines) > first else first
    deed = draw.choice(["drop", "twice", "cut", "blank", "spaces", "tail", "crlf", "quote", "noise"])
    if case.name.startswith("fixed") and deed in ("drop", "twice", "cut"):
        return None  # where rows are counted, one more or less cannot be seen
    if deed == "drop":
        del lines[at]
    elif deed == "twice":
        lines.insert(at, lines[at])
    elif deed == "cut":
        lines = [*lines[: max(at, first + 6)], lines[-1][: draw.randrange(1, 6)]]
    elif deed == "blank":
        lines.insert(at, "")
    elif deed == "spaces":
        lines = [line.replace(",", ", ") for line in lines]
    elif deed == "tail":
        lines = [f"{line}," if line and not line.startswith(('"', "{")) else line for line in lines]
    elif deed == "noise":
        lines.insert(at, "# the lamp was moved")
    text = ("\r\n" if deed == "crlf" else "\n").join(lines) + "\n"
    if deed == "quote":
        text = text.replace(",A,", ',"A",')
    return replace(case, name=f"{case.name}, {deed} at {at}", text=text)


def wrong_in(case: Nasty) -> str:
    """What is wrong in a mutated file that was read without a question; "" where nothing is."""
    try:
        found = read_logger(case.data, zone="UTC", now=NOW)
    except UnreadableFile:
        return ""
    if any(not q.key.startswith("unit") for q in found.questions):
        return ""
    truth = {bare(name): values for name, values in case.truth.items()}
    for name, curve in channels_of(found).items():
        if name not in truth:
            return f"a channel {name}"
        if not lies_on(curve, truth[name]):
            return f"{name} is not where it was"
    return ""
