"""A server in a process of its own, which can be killed at any moment."""

from __future__ import annotations

import multiprocessing
import socket
import time
import urllib.request
from pathlib import Path

from thermion.cli import listen

# A process per server, as a user has it, forked from one that has the program loaded already.
PROCESSES = multiprocessing.get_context("forkserver")
PROCESSES.set_forkserver_preload(["thermion.cli", "tests.loaded", "waitress"])


class Server:
    """`thermion serve` in a process of its own, which can be killed and started again."""

    def __init__(self, folder: Path) -> None:
        self.folder = folder
        with socket.socket() as free:
            free.bind(("127.0.0.1", 0))
            self.port = free.getsockname()[1]
        self.start()

    @property
    def url(self) -> str:
        return f"http://127.0.0.1:{self.port}"

    def start(self) -> None:
        self.process = PROCESSES.Process(
            target=listen, args=(self.folder, "127.0.0.1", self.port, False), daemon=True
        )
        self.process.start()
        for _ in range(150):
            try:
                urllib.request.urlopen(f"{self.url}/favicon.ico")
                return
            except OSError:
                time.sleep(0.1)
        raise RuntimeError("the server did not start")

    def kill(self) -> None:
        self.process.kill()
        self.process.join()
