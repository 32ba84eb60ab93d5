"""Wrong codes: who gives too many waits a minute, and nobody else; the Desk sees how many there were."""

from __future__ import annotations

from dataclasses import dataclass, field
from datetime import datetime
from functools import cached_property
from ipaddress import ip_address, ip_network
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from limits.strategies import MovingWindowRateLimiter

PER_MINUTE = 10


@dataclass
class Guesses:
    """Wrong codes since this process started: how many, from how many places, and when the last one came."""

    wrong: int = 0
    last: datetime | None = None
    places: set[str] = field(default_factory=set)

    @cached_property
    def _limiter(self) -> MovingWindowRateLimiter:
        from limits.storage import MemoryStorage  # only a door needs it
        from limits.strategies import MovingWindowRateLimiter

        return MovingWindowRateLimiter(MemoryStorage())

    @cached_property
    def _limit(self):  # type: ignore[no-untyped-def]
        from limits import parse

        return parse(f"{PER_MINUTE} per minute")

    def too_many(self, address: str) -> bool:
        return not self._limiter.test(self._limit, _place(address))

    def was_wrong(self, address: str, now: datetime) -> None:
        self._limiter.hit(self._limit, _place(address))
        self.wrong, self.last = self.wrong + 1, now
        if len(self.places) < 1000:
            self.places.add(_place(address))


def _place(address: str) -> str:
    """A device's address; of IPv6 its half that a device cannot change by itself."""
    try:
        found = ip_address(address)
    except ValueError:
        return address
    return address if found.version == 4 else str(ip_network(f"{found}/64", strict=False))
