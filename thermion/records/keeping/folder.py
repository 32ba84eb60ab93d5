"""Who uses a data folder: one server at a time, and where it answers.

Two locks of the operating system, which lets go of them when a process ends, however it ends: one of
the process that serves, and one of its supervisor, so that nobody comes in between while a server
that died is started again.
"""

from __future__ import annotations

import json
import os
import shutil
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from filelock import FileLock, Timeout

from thermion.records.errors import Refused

LOCK, KEPT, WHERE = "in_use.lock", "kept.lock", "in_use.json"


@contextmanager
def _locked(folder: Path, name: str) -> Iterator[None]:
    folder.mkdir(mode=0o700, parents=True, exist_ok=True)
    lock = FileLock(folder / name, timeout=0)
    try:
        lock.acquire()
    except Timeout:
        raise Refused(
            f"Thermion already runs with the data in {folder}{_where(folder)}. Open that, or stop it first."
        ) from None
    try:
        yield
    finally:
        lock.release()


@contextmanager
def kept_for(folder: Path) -> Iterator[None]:
    """Hold the folder for a server that another process is; Refused when it is held."""
    with _locked(folder, KEPT):
        yield


@contextmanager
def used_by(folder: Path, address: str) -> Iterator[None]:
    """Hold the folder while the block runs; Refused, with the other's address, when it is held."""
    with _locked(folder, LOCK):
        try:
            _say_where(folder, address, ready=False)
            yield
        finally:
            (folder / WHERE).unlink(missing_ok=True)


@contextmanager
def alone_in(folder: Path) -> Iterator[None]:
    """Hold the folder against every server, also one that is just being started again."""
    with kept_for(folder), used_by(folder, ""):
        yield


def server_answers(folder: Path, address: str) -> None:
    """Note that this process serves the folder now."""
    _say_where(folder, address, ready=True)


def server_is_ready(folder: Path, pid: int) -> bool:
    """Whether the process with this number got as far as serving the folder before it died."""
    found = _said(folder)
    return found.get("pid") == pid and found.get("ready") is True


def empty(folder: Path) -> None:
    """Delete all that lies in a folder but what holds it."""
    for path in folder.iterdir():
        if path.name in (LOCK, KEPT, WHERE):
            continue
        if path.is_dir() and not path.is_symlink():
            shutil.rmtree(path)
        else:
            path.unlink()


def _say_where(folder: Path, address: str, *, ready: bool) -> None:
    said = {"address": address, "pid": os.getpid(), "ready": ready}
    (folder / WHERE).write_text(json.dumps(said), encoding="utf-8")


def _said(folder: Path) -> dict[str, object]:
    try:
        found = json.loads((folder / WHERE).read_text(encoding="utf-8"))
    except (OSError, ValueError):
        return {}
    return found if isinstance(found, dict) else {}


def _where(folder: Path) -> str:
    address = _said(folder).get("address", "")
    return f" at {address}" if isinstance(address, str) and address else ""
