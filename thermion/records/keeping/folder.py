"""Who uses a data folder: one server at a time, and where it answers."""

from __future__ import annotations

import json
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from filelock import FileLock, Timeout

from thermion.records.errors import Refused

LOCK, WHERE = "in_use.lock", "in_use.json"


@contextmanager
def used_by(folder: Path, address: str) -> Iterator[None]:
    """Hold the folder while the block runs; Refused, with the other's address, when it is held.

    The operating system lets go of it when the process ends, however it ends.
    """
    folder.mkdir(mode=0o700, parents=True, exist_ok=True)
    lock = FileLock(folder / LOCK, timeout=0)
    try:
        lock.acquire()
    except Timeout:
        raise Refused(
            f"Thermion already runs with the data in {folder}{_where(folder)}. Open that, or stop it first."
        ) from None
    try:
        (folder / WHERE).write_text(json.dumps({"address": address}), encoding="utf-8")
        yield
    finally:
        (folder / WHERE).unlink(missing_ok=True)
        lock.release()


def _where(folder: Path) -> str:
    try:
        address = json.loads((folder / WHERE).read_text(encoding="utf-8")).get("address", "")
    except (OSError, ValueError, AttributeError):
        return ""
    return f" at {address}" if isinstance(address, str) and address else ""
