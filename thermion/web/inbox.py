"""Files that were brought and not yet stored, with what was answered about each; kept for a week."""

from __future__ import annotations

import hashlib
from collections.abc import Iterable
from dataclasses import dataclass, field
from pathlib import Path
from time import time
from typing import Literal

from flask import request
from pydantic import BaseModel, ConfigDict

from thermion.formats.asking import Question
from thermion.web.sessions import database

WAITS_S = 7 * 86400.0  # a file that was shown may be taken in so long after


Door = Literal["logger", "table", "challenge"]


class Note(BaseModel):
    """What is known of a file beside what stands in it: by which `door` it came, what was answered, and
    `used`, the runs it was stored in, by phase."""

    model_config = ConfigDict(extra="ignore", defer_build=True)
    name: str = ""
    door: Door = "logger"
    answers: dict[str, str] = {}
    used: list[tuple[int, str]] = []


@dataclass(frozen=True)
class InboxFile:
    """A file in the inbox; its number follows from its content."""

    file_id: str
    note: Note = field(compare=False)

    @property
    def path(self) -> Path:
        return _folder() / f"{self.file_id}.csv"

    def data(self) -> bytes:
        return self.path.read_bytes()

    def save(self) -> None:
        self.path.with_suffix(".json").write_text(self.note.model_dump_json(), "utf-8")


def _folder() -> Path:
    folder = database().folder / "inbox"
    folder.mkdir(mode=0o700, exist_ok=True)
    return folder


def given(questions: Iterable[Question]) -> dict[str, str]:
    """What the request's form answers to these questions; only what they offer."""
    sent = {name.removeprefix("q-"): value for name, value in request.form.items() if name.startswith("q-")}
    return {q.key: sent[q.key] for q in questions if q.answer(sent) is not None}


def put(data: bytes, name: str, door: Door) -> InboxFile:
    """Keep a file; one of the same content is the same file, with what was answered about it."""
    for path in _folder().iterdir():
        if time() - path.stat().st_mtime > WAITS_S:
            path.unlink(missing_ok=True)
    file_id = hashlib.sha256(door.encode() * (door != "logger") + data).hexdigest()[:24]
    kept = find(file_id) or InboxFile(file_id, Note())
    kept.path.write_bytes(data)
    kept.note.name, kept.note.door = name[:80] or kept.note.name, door
    kept.save()
    return kept


def find(file_id: str) -> InboxFile | None:
    """A kept file by its number; None when there is none, whatever is asked for."""
    if len(file_id) != 24 or not all(ch in "0123456789abcdef" for ch in file_id):
        return None
    path = _folder() / f"{file_id}.csv"
    if not path.exists():
        return None
    try:
        note = Note.model_validate_json(path.with_suffix(".json").read_text("utf-8"))
    except (OSError, ValueError):
        note = Note()
    return InboxFile(file_id, note)


def all_kept(door: Door) -> list[InboxFile]:
    """Every kept file that came by this door, the newest first."""
    paths = sorted(_folder().glob("*.csv"), key=lambda p: -p.stat().st_mtime)
    found = [kept for path in paths if (kept := find(path.stem)) is not None]
    return [kept for kept in found if kept.note.door == door]
