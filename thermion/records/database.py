"""The database: one SQLite file in the data folder, migrated at start, safe to write at once."""

from __future__ import annotations

import os
import secrets
import sqlite3
import threading
import time
from collections.abc import Callable, Hashable, Iterator, Sequence
from contextlib import closing, contextmanager
from datetime import UTC, datetime
from pathlib import Path
from typing import Any, TypeVar

from platformdirs import user_data_path
from sqlalchemy import Engine, create_engine, event
from sqlalchemy.orm import Session, sessionmaker

from thermion.records.errors import Busy, Refused
from thermion.records.keeping.copies import check, copy, copy_before
from thermion.records.revisions import FILE_NAME, HEAD
from thermion.records.stamps import Stamps, Thing

KEY_LETTERS = 32  # of a key that signs
WAIT_S, PATIENT_S = 3.0, 60.0  # for the writers' turn: a screen that will send again, and a person's own act
WAITING = 9  # writers at most: others are answered, and three of the server's threads stay free for readers
T = TypeVar("T")


class WritersTurn:
    """Whose turn it is to write in this process; SQLite lets writers try again at random, and one may
    starve."""

    def __init__(self) -> None:
        self._lock = threading.RLock()  # one writer within another is told so by SQLite
        self._room = threading.BoundedSemaphore(WAITING)

    @contextmanager
    def taken(self, wait_s: float = WAIT_S) -> Iterator[None]:
        """It is this thread's turn while the block runs; Busy when others take too long."""
        if not self._lock.acquire(blocking=False):
            self._wait(wait_s)
        try:
            yield
        finally:
            self._lock.release()

    def _wait(self, wait_s: float) -> None:
        busy = Busy("Thermion is busy storing something large.")
        if not self._room.acquire(blocking=wait_s > WAIT_S):
            raise busy
        try:
            if not self._lock.acquire(timeout=wait_s):
                raise busy
        finally:
            self._room.release()


class Memory:
    """Values worked out from stored rows, each with the stamp of what it was worked out from.

    Only sessions that read have one: what a writer sees may never be committed.
    """

    def __init__(self, most: int = 4096) -> None:
        self._most = most
        self._kept: dict[Hashable, tuple[Hashable, Any]] = {}
        self._lock = threading.Lock()

    def find(self, key: Hashable, stamp: Hashable) -> Any | None:
        """What was kept under `key`, if it was worked out from what `stamp` says."""
        with self._lock:
            found = self._kept.get(key)
            if found is None or found[0] != stamp:
                return None
            self._kept[key] = self._kept.pop(key)  # the one used last is dropped last
            return found[1]

    def clear(self) -> None:
        with self._lock:
            self._kept.clear()

    def keep(self, key: Hashable, stamp: Hashable, value: object) -> None:
        with self._lock:
            self._kept.pop(key, None)
            self._kept[key] = (stamp, value)
            while len(self._kept) > self._most:
                del self._kept[next(iter(self._kept))]


def touches(session: Session, *things: Thing) -> None:
    """A writer that says what it touches, touches these things too."""
    touched: set[Thing] | None = session.info.get("touched")
    if touched is not None:
        touched.update(things)


def memory_of(session: Session) -> Memory:
    """The memory of a reading session; a new, empty one for a writer."""
    found: Memory = session.info.get("memory") or Memory()
    return found


def default_folder(name: str = "Thermion") -> Path:
    """Where this user's data lies unless --data says otherwise."""
    return user_data_path(name, appauthor=False)


def asked_once(session: Session, key: Hashable, make: Callable[[], T]) -> T:
    """What a page asks for in several places is asked of the record once: a reading session sees one
    state of it. A writer always asks.
    """
    if "memory" not in session.info:
        return make()
    known: dict[Hashable, T] = session.info.setdefault("asked", {})
    if key not in known:
        known[key] = make()
    return known[key]


class Database:
    """Engine and sessions over the data folder; creates the folder and migrates the file."""

    def __init__(self, folder: Path) -> None:
        folder.mkdir(mode=0o700, parents=True, exist_ok=True)
        self.folder = folder
        self.path = folder / FILE_NAME
        if not self.path.exists():  # what a class wrote is for its teacher's eyes
            os.close(os.open(self.path, os.O_CREAT | os.O_WRONLY, 0o600))
        self.engine: Engine = create_engine(f"sqlite:///{self.path}")
        event.listen(self.engine, "connect", _prepare)
        event.listen(self.engine, "begin", _begin)
        self._lock = threading.Lock()
        self.stamps = Stamps(self._data_version)
        self.turn = WritersTurn()
        self._watch: sqlite3.Connection | None = None
        self._remembered, self._recent = Memory(most=128), Memory(most=32)
        self._house = ""
        self.memory = Memory()
        self.session = sessionmaker(self.engine, expire_on_commit=False, info={"memory": self.memory})
        self._writer = sessionmaker(self.engine.execution_options(immediate=True), expire_on_commit=False)

    def migrate(self, revision: str = "head") -> bool:
        """Bring the file up to `revision`; a new file gets all tables. True if there were older data,
        of which a copy was made first."""
        found = self._revision()
        if revision == "head" and found == HEAD:
            return False
        if found is not None and found > HEAD:
            raise Refused(
                f"These data were written by a newer Thermion (form {found}, this one knows {HEAD}). "
                "Update Thermion, then open them again; nothing was changed."
            )
        if found is not None and revision == "head":
            copy_before(self.folder, f"form-{HEAD}", datetime.now(UTC))
        from alembic import command  # only an older or a new file needs it
        from alembic.config import Config

        config = Config()
        config.set_main_option("script_location", "thermion.records:migrations")
        config.attributes["engine"] = self.engine
        command.upgrade(config, revision)
        return found is not None

    def _revision(self) -> str | None:
        """How far the file was brought; None for a new one."""
        known = "SELECT 1 FROM sqlite_master WHERE name = 'alembic_version'"
        with self.engine.connect() as connection:
            if connection.exec_driver_sql(known).scalar() is None:
                return None
            found: str | None = connection.exec_driver_sql("SELECT version_num FROM alembic_version").scalar()
            return found

    @contextmanager
    def writing(self, *things: Thing, only: bool = False) -> Iterator[Session]:
        """A session that commits at the end, or rolls back on an error.

        It takes the write lock first, so that what it reads is still true when it writes. Writers of this
        process take turns. With `only`, it touches no more than these things and those that `touches`
        names in the block; else it may change anything.
        """
        with self.turn.taken(), self._writer() as session:
            session.info["touched"] = set(things) if only else None
            try:
                with session.begin():
                    session.connection()  # begins: from here on nobody else commits
                    self.stamps.begins()
                    yield session
                    session.flush()
                    self.stamps.commits(session.info["touched"])
            finally:
                self.stamps.ended()

    @contextmanager
    def whole(self, why: str) -> Iterator[None]:
        """The one gate for acts that replace the record as a whole, while this process holds its folder.

        Nobody writes while the block runs. The last state is kept as a copy before it begins, named by
        `why`: whatever was acknowledged stands there or in what comes after.
        """
        with self.turn.taken(wait_s=PATIENT_S):
            copy_before(self.folder, why, datetime.now(UTC))
            yield

    def put_back(self, file: Path) -> bool:
        """Make the record what a copy holds; what was there is kept as a copy. True if it was an older
        one, which was brought up to date.

        Refused, with nothing changed, for a file that is no copy of ours.
        """
        check(file)
        with self.whole("restore"):
            self.fill_from(file)
            return self.migrate()

    def _data_version(self) -> int:
        """SQLite's data_version, asked on a connection that never writes itself."""
        with self._lock:
            if self._watch is None:
                self._watch = sqlite3.connect(self.path, check_same_thread=False)
            return int(self._watch.execute("PRAGMA data_version").fetchone()[0])

    def remember(self, key: Hashable, make: Callable[[], T], of: Sequence[Thing] = ()) -> T:
        """`make()`, or what it gave before if nothing has been committed since; with `of`, nothing that
        touched these things."""
        version = self.stamps.stamp(*of)
        found: tuple[T] | None = self._remembered.find(key, version)
        if found is not None:
            return found[0]
        made = make()
        self._remembered.keep(key, version, (made,))
        return made

    def recent(
        self, key: Hashable, make: Callable[[], T], of: Sequence[Thing], young_s: float
    ) -> tuple[T, bool]:
        """`make()`, or what it gave before if nothing touched these things or it is younger than `young_s`;
        and whether it is what it would be now. For what many screens ask for while much is stored."""
        stamp, now = self.stamps.stamp(*of), time.monotonic()
        with self._lock:
            found: tuple[str, float, T] | None = self._recent.find(key, None)
            if found is not None and found[0] != stamp and now - found[1] >= young_s:
                # the one who asks makes it; until then it is young for the others
                self._recent.keep(key, None, (found[0], now, found[2]))
                found = None
        if found is not None:
            return found[2], found[0] == stamp
        made = make()
        self._recent.keep(key, None, (stamp, now, made))
        return made, True

    def secret_key(self) -> str:
        """The key that signs cookies, made once, whole or not at all, and kept beside the data.

        Refused when the file is there and holds no key.
        """
        path = self.folder / "secret_key"
        if not path.exists():
            part = path.with_name(f".{path.name}.{secrets.token_hex(4)}")
            handle = os.open(part, os.O_CREAT | os.O_WRONLY | os.O_EXCL, 0o600)
            with os.fdopen(handle, "w") as file:
                file.write(secrets.token_hex(32))
                file.flush()
                os.fsync(file.fileno())
            part.replace(path)
        key = path.read_text(encoding="utf-8", errors="replace").strip()
        if len(key) < KEY_LETTERS:
            raise Refused(f"{path} holds no key. Delete it: Thermion makes a new one, and open pages reload.")
        return key

    def house(self) -> str:
        """The key of these data: a copy that is put back keeps it, another installation's differs."""
        if not self._house:
            with self.engine.connect() as connection:
                self._house = str(connection.exec_driver_sql("SELECT key FROM house").scalar_one())
        return self._house

    def backup(self, target: Path) -> None:
        """A consistent copy of the file while the application may be running; see `copies.copy`."""
        copy(self.path, target)

    def fill_from(self, file: Path) -> None:
        """Make the record what a copy holds, in one transaction; see `put_back`."""
        with closing(sqlite3.connect(file)) as old, closing(sqlite3.connect(self.path)) as new:
            old.backup(new)
        self.engine.dispose()
        self.forget()

    def forget(self) -> None:
        """Nothing that was worked out before is believed: stored rows were changed, not added."""
        self._house = ""
        self.memory.clear()
        self._remembered.clear()
        self._recent.clear()
        self.stamps.everything()

    def close(self) -> None:
        if self._watch is not None:
            self._watch.close()
            self._watch = None
        self.engine.dispose()


def _prepare(connection: Any, _record: Any) -> None:
    """WAL so that readers never wait; FULL so that a commit is on the disk when it returns."""
    connection.isolation_level = None  # transactions are begun below, not by the driver
    cursor = connection.cursor()
    for pragma in ("journal_mode = WAL", "synchronous = FULL", "foreign_keys = ON", "busy_timeout = 5000"):
        cursor.execute(f"PRAGMA {pragma}")
    cursor.close()


def _begin(connection: Any) -> None:
    immediate = connection.get_execution_options().get("immediate", False)
    connection.exec_driver_sql("BEGIN IMMEDIATE" if immediate else "BEGIN")
