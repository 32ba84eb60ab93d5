"""The door for other devices: what each may be, the codes that let it in, and when that ends.

A code is a word of syllables, a consonant and a vowel each. Neither alphabet has a letter that is taken for
another letter or for a digit, on paper or aloud (no c q x y w j s l i).
"""

from __future__ import annotations

import re
import secrets
from collections.abc import Collection
from datetime import datetime, timedelta
from typing import Literal, get_args

# The Desk is the computer that runs Thermion; "nobody" has not joined; a probe has a key and no session.
Role = Literal["desk", "second desk", "helper", "station", "board", "team", "probe", "nobody"]
ROLES: tuple[Role, ...] = get_args(Role)
Joins = Literal["second desk", "helper", "station", "board", "team"]
ONCE: frozenset[str] = frozenset({"second desk", "helper"})  # may much: their codes serve once, for a moment

CONSONANTS, VOWELS = "bdfghkmnprtvz", "aeou"
SHORT, LONG = 3, 4  # syllables: of a team, a board or a station; of those that may much
_FROM_DIGITS = str.maketrans({"0": "o"})
_RUDE = re.compile(
    r"ka[kg]a|pupu|pe?pe|tete|ne?g[aeou]|fag|fuk|fu[td]|put[ao]|kok|bub|nud|pe[dn]|rap|zob|dum"
)

MOMENT = timedelta(minutes=5)  # for which a code that serves once is good
AFTER_BELL = timedelta(minutes=30)  # until which a device may still look, when a lesson is over
WEEK = timedelta(days=7)


def new_code(taken: Collection[str], syllables: int = SHORT) -> str:
    """A code that is none of those in use, nor a word that a class would laugh about."""
    while True:
        letters = (secrets.choice(CONSONANTS) + secrets.choice(VOWELS) for _ in range(syllables))
        made = "".join(letters)
        if made not in taken and not _RUDE.search(made):
            return made


def heard(typed: str) -> str:
    """A code as it was typed: in capitals, with spaces or strokes between, 0 for o."""
    return "".join(ch for ch in typed.lower().translate(_FROM_DIGITS) if ch.isalnum())


def never_in_one(code: str) -> str:
    """The first letter or digit of what was heard that no code has; "" if it could be one."""
    return next((ch for ch in code if ch not in CONSONANTS and ch not in VOWELS), "")


def end_of_day(now: datetime) -> datetime:
    """Midnight at the place whose time `now` is in: by then the door has closed itself."""
    return (now + timedelta(days=1)).replace(hour=0, minute=0, second=0, microsecond=0)


def good_until(now: datetime, bell: datetime | None, *, week: bool) -> datetime:
    """When a code or a device that it let in ends: with the lesson whose bell is given, else with the day."""
    if week:
        return now + WEEK
    return end_of_day(now) if bell is None else bell + AFTER_BELL
