"""The database: one SQLite file in the data folder, migrated at start, safe to write at once."""

from __future__ import annotations

import os
import secrets
import sqlite3
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

from alembic import command
from alembic.config import Config
from platformdirs import user_data_path
from sqlalchemy import Engine, create_engine, event
from sqlalchemy.orm import Session, sessionmaker

FILE_NAME = "thermion.sqlite3"


def default_folder(name: str = "Thermion") -> Path:
    """Where this user's data lies unless --data says otherwise."""
    return user_data_path(name, appauthor=False)


class Database:
    """Engine and sessions over the data folder; creates the folder and migrates the file."""

    def __init__(self, folder: Path) -> None:
        folder.mkdir(parents=True, exist_ok=True)
        self.folder = folder
        self.path = folder / FILE_NAME
        self.engine: Engine = create_engine(f"sqlite:///{self.path}")
        event.listen(self.engine, "connect", _prepare)
        event.listen(self.engine, "begin", _begin)
        self.session = sessionmaker(self.engine, expire_on_commit=False)
        self._writer = sessionmaker(
            self.engine.execution_options(immediate=True), expire_on_commit=False
        )

    def migrate(self, revision: str = "head") -> None:
        """Bring the file up to `revision`; a new file gets all tables."""
        config = Config()
        config.set_main_option("script_location", "thermion.records:migrations")
        config.attributes["engine"] = self.engine
        command.upgrade(config, revision)

    @contextmanager
    def writing(self) -> Iterator[Session]:
        """A session that commits at the end, or rolls back on an error.

        It takes the write lock first, so that what it reads is still true when it writes.
        """
        with self._writer() as session, session.begin():
            yield session

    def secret_key(self) -> str:
        """The key that signs cookies, made once and kept beside the data."""
        path = self.folder / "secret_key"
        if not path.exists():
            handle = os.open(path, os.O_CREAT | os.O_WRONLY | os.O_TRUNC, 0o600)
            with os.fdopen(handle, "w") as file:
                file.write(secrets.token_hex(32))
        return path.read_text().strip()

    def backup(self, target: Path) -> None:
        """A consistent copy of the file while the application may be running.

        Raises FileExistsError rather than overwrite.
        """
        if target.exists():
            raise FileExistsError(f"{target} is already there")
        source = sqlite3.connect(self.path)
        copy = sqlite3.connect(target)
        with source, copy:
            source.backup(copy)
        source.close()
        copy.close()

    def close(self) -> None:
        self.engine.dispose()


def _prepare(connection: Any, _record: Any) -> None:
    """WAL so that readers never wait; FULL so that a commit is on the disk when it returns."""
    connection.isolation_level = None  # transactions are begun below, not by the driver
    cursor = connection.cursor()
    for pragma in (
        "journal_mode = WAL", "synchronous = FULL", "foreign_keys = ON", "busy_timeout = 5000",
    ):  # fmt: skip
        cursor.execute(f"PRAGMA {pragma}")
    cursor.close()


def _begin(connection: Any) -> None:
    immediate = connection.get_execution_options().get("immediate", False)
    connection.exec_driver_sql("BEGIN IMMEDIATE" if immediate else "BEGIN")
