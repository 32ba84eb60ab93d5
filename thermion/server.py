"""The server: one process that holds a data folder and answers for it until it is told to stop."""

from __future__ import annotations

import logging
import select
import threading
import time
from collections.abc import Sequence
from contextlib import suppress
from dataclasses import dataclass
from logging.handlers import RotatingFileHandler
from pathlib import Path
from typing import TYPE_CHECKING, Any, Protocol

import click

from thermion import supervisor

if TYPE_CHECKING:
    from flask import Flask
    from waitress.server import BaseWSGIServer

THREADS = 12
DOOR_ABOVE, LAST_PORT = 100, 65535
LOGS, LOG_SIZE = "logs", 1_000_000
CONNECTIONS = 450  # at once at the Desk and at the door; a process has 1024 files, and a page opens up to six
CROWDED, ROOM = 300, 150  # from so many on it is made, down to so many
CLOSES_WITHIN_S = 5.0
FOLLOWS_S = 2.0  # in which the door does what the record says
SILENT_S = 20  # a connection that asks nothing is closed after that long
SILENT_IN_A_CROWD_S = 2.0
SETTINGS: dict[str, Any] = {
    "threads": THREADS,
    "clear_untrusted_proxy_headers": True,
    "connection_limit": CONNECTIONS,
    "channel_timeout": SILENT_S,
    "cleanup_interval": 5,
    "backlog": 256,
    "asyncore_use_poll": hasattr(select, "poll"),  # select ends at the 1024th file
}


@dataclass(frozen=True, kw_only=True)
class Where:
    """On which address of this computer Thermion answers, and where its door is for others."""

    host: str
    port: int
    door_host: str
    door_port: int

    @staticmethod
    def of(host: str, port: int, door_host: str, door_port: int | None) -> Where:
        """As given to a command; the door a hundred ports above, or below where there is no room."""
        usual = port + DOOR_ABOVE if port + DOOR_ABOVE <= LAST_PORT else port - DOOR_ABOVE
        return Where(host=host, port=port, door_host=door_host, door_port=door_port or usual)

    @property
    def url(self) -> str:
        return f"http://{self.host}:{self.port}"


def listen(folder: Path, where: Where, demo: bool) -> None:
    """Serve a folder that this process holds until Ctrl-C."""
    import faulthandler
    from datetime import datetime

    from thermion.records.keeping.copies import daily_copy
    from thermion.web import create_app
    from thermion.web.network import is_this_computer

    if not is_this_computer(where.host):
        raise click.ClickException(
            f"Thermion itself answers on this computer only, not on {where.host}. Other devices come in by the "
            "door, which is opened on the page Devices; --door-host says on which address."
        )
    try:
        daily_copy(folder, datetime.now().astimezone())
    except OSError as error:  # a class that waits needs the program more than its copy
        click.echo(f"thermion: today's copy could not be made: {error}. Everything else works.", err=True)
    config: dict[str, object] = {"DATA": folder, "DEMO": demo}
    log = _log_to(folder / LOGS)
    with suppress(OSError):  # should the interpreter itself ever fall over, it says where
        faulthandler.enable((folder / LOGS / "faults.log").open("a", encoding="utf-8"))
    if supervisor.is_server():
        supervisor.stop_with_supervisor()
    app = create_app(config)
    again = app.config["STARTED_AGAIN"] = supervisor.times_started_again()
    log.info("started%s at %s:%s", f" again, time {again}" if again else "", where.host, where.port)
    _serve(app, folder, where, demo)


def _log_to(folder: Path) -> logging.Logger:
    """What is worth a line goes into a file that stays small; a disk that takes none is no reason to stop."""
    with suppress(OSError):
        folder.mkdir(mode=0o700, exist_ok=True)
        faults = folder / "faults.log"
        if faults.exists() and faults.stat().st_size > LOG_SIZE:
            faults.replace(folder / "faults.log.1")
        handler = RotatingFileHandler(
            folder / "thermion.log", maxBytes=LOG_SIZE, backupCount=3, encoding="utf-8"
        )
        handler.setFormatter(logging.Formatter("%(asctime)s %(levelname)s %(message)s"))
        logging.basicConfig(level=logging.INFO, handlers=[handler], force=True)
    logging.getLogger("waitress.queue").setLevel(logging.ERROR)  # a line for each request that waited
    logging.getLogger("alembic").setLevel(logging.WARNING)
    return logging.getLogger("thermion")


class Door:
    """The listener for other devices, in a thread of its own beside the Desk's: no crowd at it slows that.

    Whether it stands open is in the record: it opens again with a server that was started again, and closes
    when its day is over.
    """

    def __init__(self, app: Flask, where: Where) -> None:
        self._app, self._where = app, where
        self._lock = threading.Lock()
        self._server: BaseWSGIServer | None = None
        self.is_open = False

    def open(self) -> str:
        with self._lock:
            return self._open()

    def close(self) -> None:
        with self._lock:
            self._close()

    def _open(self) -> str:
        from waitress import create_server

        from thermion.web.access import through_the_door

        if self._server is not None:
            return ""
        connections: dict[int, object] = {}
        try:
            server = create_server(
                through_the_door(self._app.wsgi_app),
                map=connections,
                host=self._where.door_host,
                port=self._where.door_port,
                **SETTINGS,
            )
        except OSError as error:
            return (
                f"Port {self._where.door_port} cannot be used for the door ({error.strerror}). Start Thermion "
                f"with another: --door-port {self._where.door_port + 10}"
            )
        server.thermion_connections = connections
        self._server, self.is_open = server, True
        threading.Thread(target=server.run, name="door", daemon=True).start()
        threading.Thread(target=_make_room, args=(connections,), name="room at the door", daemon=True).start()
        return ""

    def _close(self) -> None:
        from waitress import wasyncore

        server, self._server, self.is_open = self._server, None, False
        if server is None:
            return
        closed = threading.Event()

        def all_closed() -> None:
            wasyncore.close_all(server.thermion_connections)
            closed.set()

        server.trigger.pull_trigger(all_closed)  # its loop's own thread alone may close what it looks at
        closed.wait(CLOSES_WITHIN_S)  # so that the same port can be opened again at once

    def urls(self) -> list[str]:
        from thermion.web.network import own_urls

        return own_urls(self._where.door_host, self._where.door_port)

    def follow(self) -> None:
        """Do what the record says of the door, again and again."""
        from thermion.records import moments
        from thermion.records.running.devices import is_open

        said = ""
        while True:
            with suppress(Exception), self._lock, self._app.extensions["thermion"].session() as session:
                wanted = is_open(session, moments.steady())  # nobody opens or closes it meanwhile
                problem = self._open() if wanted else ""
                if problem and problem != said:
                    logging.getLogger("thermion").warning("%s", problem)
                said = problem
                if not wanted:
                    self._close()
            time.sleep(FOLLOWS_S)


def _serve(app: Flask, folder: Path, where: Where, demo: bool) -> None:
    from waitress import create_server

    from thermion.core import lazy
    from thermion.records.keeping.folder import server_answers

    connections: dict[int, object] = {}
    try:
        server = create_server(app, map=connections, host=where.host, port=where.port, **SETTINGS)
    except OSError as error:
        raise click.ClickException(
            f"Port {where.port} cannot be used ({error.strerror}). Try another: --port {where.port + 1}"
        ) from None
    door = app.extensions["listener"] = Door(app, where)
    server_answers(folder, where.url)
    if not app.config["STARTED_AGAIN"]:
        what = "the Skerry Light demo" if demo else "your classes"
        click.echo(f"Thermion with {what} at {where.url}  (data in {folder}; Ctrl-C stops)")
    threading.Thread(target=_make_room, args=(connections,), name="room", daemon=True).start()
    threading.Thread(target=door.follow, name="door follows", daemon=True).start()
    threading.Thread(target=lazy.load, daemon=True).start()  # while the first page is on its way
    try:
        server.run()
    except KeyboardInterrupt:
        server.close()


class Connection(Protocol):
    """A connection, as the server's library keeps it."""

    requests: list[object]
    last_activity: float
    will_close: bool


def to_close(channels: Sequence[Connection], now: float) -> list[Connection]:
    """Of a crowd those that have said nothing for a while, the longest silent first, until there is room."""
    if len(channels) < CROWDED:
        return []
    silent = [c for c in channels if not c.requests and c.last_activity < now - SILENT_IN_A_CROWD_S]
    return sorted(silent, key=lambda c: c.last_activity)[: len(channels) - ROOM]


def _make_room(connections: dict[int, object]) -> None:
    """One device that opens connections and says nothing locks nobody out."""
    from waitress.channel import HTTPChannel

    while True:
        time.sleep(0.5)
        for channel in to_close(
            [c for c in list(connections.values()) if isinstance(c, HTTPChannel)], time.time()
        ):
            channel.will_close = True  # the server's own loop closes it
