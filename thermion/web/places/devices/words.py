"""What is said of the door and of devices."""

from __future__ import annotations

from datetime import datetime, timedelta

from thermion.core.door import Role
from thermion.web.components.words import count, minutes

ROLES: dict[Role, str] = {
    "second desk": "Second desk",
    "helper": "Helper",
    "station": "Station",
    "board": "Board",
    "team": "Pad",
}
MAY: dict[Role, str] = {
    "second desk": "all that this computer may, but for the data as a whole, keys and the door",
    "helper": "runs, readings, attempts and plan checks of this class",
}
ASKS_COOKIES = (
    "This browser keeps no cookies, so Thermion cannot tell this device from another. Allow cookies for this "
    "address in its settings (a private window often forbids them), then join again."
)
TOO_MANY = "Too many wrong codes from this device. Wait a minute, then type it once more."


def spaced(code: str) -> str:
    """A code as it is read aloud: syllable by syllable."""
    return "·".join(code[i : i + 2] for i in range(0, len(code), 2))


def ago(seen: datetime | None, now: datetime) -> str:
    """When a device was last heard of."""
    if seen is None:
        return "not since Thermion was started"
    since = now - seen
    if since < timedelta(seconds=20):
        return "now"
    if since < timedelta(minutes=2):
        return f"{since.total_seconds():.0f} s ago"
    return f"{minutes(round(since.total_seconds() / 60))} ago"


def guessed(wrong: int, places: int, last: str) -> str:
    if not wrong:
        return ""
    return f"{count(wrong, 'wrong code')} from {count(places, 'device')}, the last at {last}."


def let_in(role: Role, code: str) -> str:
    return f"{ROLES[role]}: {spaced(code)}. It serves once, within five minutes."


def opened(urls: list[str]) -> str:
    return f"The door is open at {' or '.join(urls)}."


def away(name: str) -> str:
    return f"{name[:1].upper()}{name[1:]} was sent away. What it holds and has not sent stays on it."
