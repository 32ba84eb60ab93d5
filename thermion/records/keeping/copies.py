"""Copies of the record: made whole or not at all, checked before they count, put back on purpose.

A copy is one SQLite file beside nothing else: never a write-ahead log of another state.
"""

from __future__ import annotations

import os
import shutil
import sqlite3
from contextlib import closing
from dataclasses import dataclass
from datetime import datetime
from pathlib import Path

from thermion.records.errors import Refused
from thermion.records.revisions import FILE_NAME, HEAD, REVISIONS

FOLDER = "copies"  # of the data folder
KEPT = 7  # newest daily copies
FEW = {"import": 3, "delete": 3}  # of copies before acts that can be undone the newest stay
COUNTED = ("classes", "challenges", "runs", "readings", "attempts")
NEEDED = {"alembic_version", "classes", "challenges", "runs", "readings"}
NEEDED_NOW = NEEDED | {"house", "attempts", "conducted", "teams", "entries", "probes"}
SIDE_FILES = ("-wal", "-shm", "-journal")


@dataclass(frozen=True, kw_only=True)
class CopyChecked:
    """What a file of the record was found to hold: its form, and rows by table."""

    path: Path
    revision: str
    counts: dict[str, int]
    size: int
    made_at: datetime

    @property
    def is_current(self) -> bool:
        return self.revision == HEAD


def check(path: Path) -> CopyChecked:
    """Look a file through: whole, of Thermion, of a form that this Thermion knows.

    Raises Refused, in one sentence, for anything else. Nothing is written, not even beside it.
    """
    if not path.is_file():
        raise Refused(f"There is no file {path}.", "file")
    try:
        with closing(_look(path)) as connection:
            found = connection.execute("PRAGMA quick_check(1)").fetchone()[0]
            if found != "ok":
                raise Refused(f"{path} is damaged: {found}.", "file")
            tables = {
                row[0] for row in connection.execute("SELECT name FROM sqlite_master WHERE type = 'table'")
            }
            if not tables >= NEEDED:
                raise Refused(f"{path} holds no Thermion data.", "file")
            rows = connection.execute("SELECT version_num FROM alembic_version").fetchall()
            if len(rows) != 1:
                raise Refused(f"{path} holds no Thermion data.", "file")
            row = rows[0]
            if row[0] == HEAD and not tables >= NEEDED_NOW:
                missing = ", ".join(sorted(NEEDED_NOW - tables))
                raise Refused(f"{path} lacks what Thermion keeps ({missing}).", "file")
            alive = connection.execute(
                "SELECT name FROM sqlite_master WHERE type NOT IN ('table', 'index') LIMIT 1"
            ).fetchone()
            if alive is not None:  # Thermion makes none, and they would act by themselves
                raise Refused(
                    f"{path} holds a trigger or a view ({alive[0]}): it is no copy of ours.", "file"
                )
            counts = {
                name: connection.execute(f"SELECT count(*) FROM {name}").fetchone()[0]  # noqa: S608 - our names
                for name in COUNTED
                if name in tables
            }
    except sqlite3.DatabaseError as error:
        raise Refused(f"{path} cannot be read as Thermion data: {error}.", "file") from None
    if row[0] not in REVISIONS:
        if not str(row[0]).isdecimal() or str(row[0]) <= HEAD:
            raise Refused(f"{path} is of a form that Thermion never had ({row[0]}).", "file")
        raise Refused(
            f"{path} was written by a newer Thermion (form {row[0]}, this one knows {HEAD}). Update Thermion first.",
            "file",
        )
    state = path.stat()
    return CopyChecked(
        path=path,
        revision=row[0],
        counts=counts,
        size=state.st_size,
        made_at=datetime.fromtimestamp(state.st_mtime).astimezone(),
    )


def _look(path: Path) -> sqlite3.Connection:
    """To read and nothing else; a file with a log of its own is read with it."""
    beside = any(Path(f"{path}{end}").exists() for end in SIDE_FILES)
    how = "mode=ro" if beside else "mode=ro&immutable=1"
    return sqlite3.connect(f"file:{path.absolute().as_posix()}?{how}", uri=True)


def copy(source: Path, target: Path) -> CopyChecked:
    """A consistent copy of a record, also while it is in use.

    It is written beside `target` under another name, checked, and only then given its own; on a full
    disk nothing of it is left. Raises FileExistsError rather than overwrite, and Refused when what was
    written does not read back.
    """
    if target.exists():
        raise FileExistsError(f"{target} is already there")
    target.parent.mkdir(parents=True, exist_ok=True)
    part = target.with_name(f".{target.name}.part")
    try:
        part.unlink(missing_ok=True)
        _private(part)
        with closing(sqlite3.connect(source)) as old, closing(sqlite3.connect(part)) as new:
            old.backup(new)
            new.execute("PRAGMA journal_mode = DELETE")  # one file, without a log of its own
        check(part)
        _settled(part)
        if target.exists():
            raise FileExistsError(f"{target} is already there")
        part.replace(target)
    except sqlite3.OperationalError as error:
        raise OSError(f"the copy could not be written ({error})") from None
    finally:
        for end in ("", *SIDE_FILES):
            Path(f"{part}{end}").unlink(missing_ok=True)
    return check(target)


def _private(path: Path) -> None:
    """An empty file that only its owner can read."""
    os.close(os.open(path, os.O_CREAT | os.O_WRONLY | os.O_EXCL, 0o600))


def _settled(path: Path) -> None:
    """On the disk, not only on its way there."""
    with path.open("rb+") as file:
        os.fsync(file.fileno())


def stamp(now: datetime) -> str:
    return now.strftime("%Y-%m-%d-%H%M%S")


def copies_of(folder: Path) -> list[CopyChecked]:
    """The copies that read well, the newest first."""
    found = []
    for path in sorted((folder / FOLDER).glob("*.sqlite3"), key=lambda p: p.stat().st_mtime, reverse=True):
        try:
            found.append(check(path))
        except Refused:
            continue
    return found


def daily_copy(folder: Path, now: datetime) -> CopyChecked | None:
    """A copy at the first start of a day; the newest seven stay. None when today has one already."""
    source, target = folder / FILE_NAME, folder / FOLDER / f"day-{now:%Y-%m-%d}.sqlite3"
    if target.exists() or not source.exists():
        return None
    made = copy(source, target)
    for old in sorted((folder / FOLDER).glob("day-*.sqlite3"), reverse=True)[KEPT:]:
        old.unlink()
    return made


def copy_before(folder: Path, why: str, now: datetime) -> CopyChecked:
    """A copy of the record as it is, under a name that says before what it was made."""
    base = f"before-{why}-{stamp(now)}"
    target, number = folder / FOLDER / f"{base}.sqlite3", 1
    while target.exists():
        number += 1
        target = folder / FOLDER / f"{base}-{number}.sqlite3"
    made = copy(folder / FILE_NAME, target)
    if why in FEW:
        mine = sorted((folder / FOLDER).glob(f"before-{why}-*.sqlite3"), key=lambda p: p.stat().st_mtime)
        for old in mine[: -FEW[why]]:
            old.unlink()
    return made


def restore(folder: Path, file: Path, now: datetime) -> CopyChecked:
    """Put a copy in the place of the record; nobody else may use the folder meanwhile.

    The copy is checked first. What was there stays in the folder of copies under a dated name: as a copy
    if it reads, else with its log beside it, as it was found.
    """
    good = check(file)
    target = folder / FILE_NAME
    if target.exists() and file.absolute() == target.absolute():
        raise Refused(f"{file} is the record itself; choose a copy.", "file")
    folder.mkdir(parents=True, exist_ok=True)
    new = target.with_name(f".{FILE_NAME}.new")
    for end in ("", *SIDE_FILES):
        Path(f"{new}{end}").unlink(missing_ok=True)
    made = copy(file, new)
    if made.counts != good.counts:
        raise Refused(f"{file} changed while it was read. Try again.", "file")
    if target.exists():
        _put_aside(folder, target, now)
    new.replace(target)
    return check(target)


def _put_aside(folder: Path, target: Path, now: datetime) -> None:
    try:
        copy_before(folder, "restore", now)
    except (Refused, OSError, sqlite3.DatabaseError):
        kept = folder / FOLDER / f"broken-{stamp(now)}.sqlite3"
        kept.parent.mkdir(parents=True, exist_ok=True)
        for end in ("", *SIDE_FILES):
            if (side := Path(f"{target}{end}")).exists():
                shutil.move(side, f"{kept}{end}")
        return
    for end in ("", *SIDE_FILES):
        Path(f"{target}{end}").unlink(missing_ok=True)
