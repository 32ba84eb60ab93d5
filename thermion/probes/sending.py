"""Sending values to Thermion: kept until they are answered, so that nothing is lost while it is away."""

from __future__ import annotations

import json
import time
import urllib.error
import urllib.request
from collections import deque
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field

MOST_KEPT = 200_000  # values: two hours of eight channels, three times over
IN_ONE = 500
AWAY_S = 2.0
Record = Mapping[str, object]


class NeverTaken(Exception):  # noqa: N818 - an answer to a person
    """The server will never take it: a wrong key, or a door that is closed."""


@dataclass(kw_only=True)
class Sender:
    """Posts SenML records to an address with a probe's key; those without an answer wait."""

    url: str
    key: str
    said: Callable[[str], None] = print
    waiting: deque[Record] = field(default_factory=lambda: deque(maxlen=MOST_KEPT))
    sent: int = 0

    def put(self, name: str, value: float, unit: str, at_s: float) -> None:
        """A value of a channel, in a SenML unit, taken at a moment [s since 1970]."""
        self.waiting.append({"n": name, "u": unit, "v": round(value, 6), "t": round(at_s, 3)})

    def flush(self) -> bool:
        """Send what waits; False while the server is away. Refused when it will not take it at all."""
        while self.waiting:
            pack = [self.waiting[i] for i in range(min(IN_ONE, len(self.waiting)))]
            answered = self._post(json.dumps(pack).encode())
            if answered is None:
                return False
            for refused in answered.get("refused", []):
                self.said(f"not stored: {refused.get('name')}: {refused.get('why')}")
            for _ in pack:
                self.waiting.popleft()
            self.sent += len(pack)
        return True

    def _post(self, body: bytes) -> dict[str, list[dict[str, str]]] | None:
        head = {"Authorization": f"Bearer {self.key}", "Content-Type": "application/senml+json"}
        asked = urllib.request.Request(self.url, body, head)  # noqa: S310 - the address was given
        try:
            with urllib.request.urlopen(asked, timeout=10) as answer:  # noqa: S310
                found: dict[str, list[dict[str, str]]] = json.loads(answer.read())
                return found
        except urllib.error.HTTPError as error:
            if error.code in (400, 401, 403, 404, 413):
                raise NeverTaken(_why(error)) from None
            return None
        except (OSError, ValueError):
            return None

    def drain(self, wait_s: float = 60.0, *, sleep: Callable[[float], None] = time.sleep) -> bool:
        """Go on trying until all is answered, or for so long."""
        until = time.monotonic() + wait_s
        while not self.flush():
            if time.monotonic() > until:
                return False
            sleep(min(AWAY_S, wait_s))
        return True


def _why(error: urllib.error.HTTPError) -> str:
    """The sentence of an answer that is no success."""
    text = error.read().decode("utf-8", "replace")
    try:
        return str(json.loads(text)["error"])
    except (ValueError, KeyError, TypeError):  # not from Thermion
        return text[:300] or str(error)
