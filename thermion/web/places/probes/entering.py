"""Who may send: the key of a probe, and from other machines only while the teacher lets probes in."""

from __future__ import annotations

import threading
import time
from collections import deque

from flask import current_app, request

from thermion.web.access import THROUGH_DOOR

counter = time.monotonic
PER_S, BURST_S = 20, 10  # packs of one probe
LET_IN_S = 12 * 3600.0


class Door:
    """Whether other machines may send, and how often each probe does; forgotten with the process."""

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._until = 0.0
        self._sent: dict[int, deque[float]] = {}

    def let_in(self, on: bool) -> None:
        self._until = counter() + LET_IN_S if on else 0.0

    @property
    def open(self) -> bool:
        return counter() < self._until

    def too_often(self, probe_id: int) -> bool:
        """Count a pack; whether there were too many lately."""
        now = counter()
        with self._lock:
            lately = self._sent.setdefault(probe_id, deque(maxlen=PER_S * BURST_S))
            full = len(lately) == lately.maxlen and now - lately[0] < BURST_S
            if not full:
                lately.append(now)
            return full


def door() -> Door:
    found: Door = current_app.extensions.setdefault("probe-door", Door())
    return found


def may_enter() -> bool:
    """Other machines only while the teacher lets probes in."""
    return not request.environ.get(THROUGH_DOOR) or door().open


def key_sent() -> str:
    scheme, _, key = request.headers.get("Authorization", "").partition(" ")
    return key.strip() if scheme.lower() == "bearer" else request.args.get("key", "")
