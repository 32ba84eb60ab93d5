"""What is said of the door and of devices."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import datetime, timedelta

from thermion.core.door import Role
from thermion.records.tables import Device
from thermion.web.components.words import count, minutes
from thermion.web.pictures.codes import spaced

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


def plans_wait(number: int) -> str:
    return "1 plan waits" if number == 1 else f"{number} plans wait"


def answered(team: str) -> str:
    return f"{team} has answered"


def to_look_at(number: int) -> str:
    return f"{count(number, 'value')} to look at"


def not_read(teams: Sequence[str]) -> str:
    """Teams that have not read the mark that is due."""
    return f"{teams[0]} has not read" if len(teams) == 1 else f"{len(teams)} have not read"


def gone(found: Sequence[Device]) -> str:
    """Devices that are in and have not been heard of for a while."""
    if len(found) == 1:
        return f"{device_words(found[0])} is gone"
    return f"{len(found)} devices gone"


def device_words(device: Device) -> str:
    """A device as the Desk speaks of it: the pad of a team by its name."""
    if device.team is not None:
        return f"Pad of {device.team.name}"
    return f"{ROLES[device.role]} {device.number}"
