"""The server: one process that holds a data folder and answers for it until it is told to stop."""

from __future__ import annotations

import logging
import select
import time
from collections.abc import Sequence
from contextlib import suppress
from logging.handlers import RotatingFileHandler
from pathlib import Path
from typing import TYPE_CHECKING, Protocol

import click

from thermion import supervisor

if TYPE_CHECKING:
    from flask import Flask

THREADS = 12
LOGS, LOG_SIZE = "logs", 1_000_000
CONNECTIONS = 700  # at once; a process has 1024 files, and a page opens up to six
CROWDED, ROOM = 500, 250  # from so many on it is made, down to so many
SILENT_S = 20  # a connection that asks nothing is closed after that long
SILENT_IN_A_CROWD_S = 2.0


def listen(folder: Path, host: str, port: int, demo: bool) -> None:
    """Serve a folder that this process holds until Ctrl-C."""
    import faulthandler
    from datetime import datetime

    from thermion.records.keeping.copies import daily_copy
    from thermion.records.keeping.passphrase import passphrase_of
    from thermion.web import create_app
    from thermion.web.door import is_this_computer, own_urls

    beyond = not is_this_computer(host)
    trusted = None if beyond else ["127.0.0.1", "localhost", "[::1]"]  # beyond it, the door looks
    try:
        daily_copy(folder, datetime.now().astimezone())
    except OSError as error:  # a class that waits needs the program more than its copy
        click.echo(f"thermion: today's copy could not be made: {error}. Everything else works.", err=True)
    config: dict[str, object] = {"DATA": folder, "DEMO": demo, "TRUSTED_HOSTS": trusted}
    if beyond:
        config |= {"DOOR": passphrase_of(folder), "DOOR_URLS": own_urls(host, port)}
    log = _log_to(folder / LOGS)
    with suppress(OSError):  # should the interpreter itself ever fall over, it says where
        faulthandler.enable((folder / LOGS / "faults.log").open("a", encoding="utf-8"))
    if supervisor.is_server():
        supervisor.stop_with_supervisor()
    app = create_app(config)
    again = app.config["STARTED_AGAIN"] = supervisor.times_started_again()
    log.info("started%s at %s:%s", f" again, time {again}" if again else "", host, port)
    _serve(app, folder, host, port, demo)


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


def _serve(app: Flask, folder: Path, host: str, port: int, demo: bool) -> None:
    from threading import Thread

    from waitress import create_server

    from thermion.core import lazy
    from thermion.records.keeping.folder import server_answers

    connections: dict[int, object] = {}
    try:
        server = create_server(
            app,
            map=connections,
            host=host,
            port=port,
            threads=THREADS,
            clear_untrusted_proxy_headers=True,
            connection_limit=CONNECTIONS,
            channel_timeout=SILENT_S,
            cleanup_interval=5,
            backlog=256,
            asyncore_use_poll=hasattr(select, "poll"),  # select ends at the 1024th file
        )
    except OSError as error:
        raise click.ClickException(
            f"Port {port} cannot be used ({error.strerror}). Try another: --port {port + 1}"
        ) from None
    server_answers(folder, f"http://{host}:{port}")
    if not app.config["STARTED_AGAIN"]:
        what = "the Skerry Light demo" if demo else "your classes"
        click.echo(f"Thermion with {what} at http://{host}:{port}  (data in {folder}; Ctrl-C stops)")
        if app.config["DOOR"]:
            urls = " or ".join(app.config["DOOR_URLS"])
            click.echo(f"Other devices open {urls} and give: {app.config['DOOR']}")
    Thread(target=_make_room, args=(connections,), name="room", daemon=True).start()
    Thread(target=lazy.load, daemon=True).start()  # while the first page is on its way
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
