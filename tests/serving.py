"""A server in a process of its own, which can be killed at any moment."""

from __future__ import annotations

import json
import multiprocessing
import os
import signal
import socket
import subprocess
import sys
import time
import urllib.request
from contextlib import suppress
from pathlib import Path

from thermion.server import Where, listen

# A process per server, as a user has it, forked from one that has the program loaded already.
PROCESSES = multiprocessing.get_context("forkserver")
PROCESSES.set_forkserver_preload(["thermion.server", "tests.loaded", "waitress"])


def free_port(first: int = 0) -> int:
    """One that nobody listens at: the next from `first` on, or any."""
    while True:
        with suppress(OSError), socket.socket() as free:
            free.bind(("127.0.0.1", first))
            return int(free.getsockname()[1])
        first += 1


class Server:
    """`thermion serve` in a process of its own, which can be killed and started again."""

    def __init__(self, folder: Path, port: int = 0) -> None:
        self.folder = folder
        self.port = port or free_port()
        self.where = Where(
            host="127.0.0.1", port=self.port, door_host="127.0.0.1", door_port=free_port(self.port + 1)
        )
        self.start()

    @property
    def door(self) -> str:
        """Where other devices come in, while it is open."""
        return f"http://127.0.0.1:{self.where.door_port}"

    @property
    def url(self) -> str:
        return f"http://127.0.0.1:{self.port}"

    def start(self) -> None:
        self.process = PROCESSES.Process(target=listen, args=(self.folder, self.where, False), daemon=True)
        self.process.start()
        self.wait()

    def wait(self) -> None:
        """Until it answers, however slow the machine is; a process that has ended never will."""
        while self.is_alive():
            try:
                urllib.request.urlopen(f"{self.url}/favicon.ico")
                return
            except OSError:
                time.sleep(0.05)
        raise RuntimeError("the server did not start")

    def is_alive(self) -> bool:
        return self.process.is_alive()

    def kill(self) -> None:
        self.process.kill()
        self.process.join()


class Supervised(Server):
    """`thermion serve` as a user starts it: under its supervisor."""

    killed = 0  # the server that was killed last

    def start(self) -> None:
        words = ["serve", "--data", str(self.folder), "--port", str(self.port)]
        words += ["--door-host", self.where.door_host, "--door-port", str(self.where.door_port)]
        self.said = (self.folder / "said.txt").open("a+")
        self.started = subprocess.Popen(
            [sys.executable, "-m", "thermion", *words], stdout=subprocess.DEVNULL, stderr=self.said
        )
        self.wait()

    def is_alive(self) -> bool:
        return self.started.poll() is None

    def server_pid(self) -> int:
        """Of the process that serves; 0 between two of them."""
        with suppress(OSError, ValueError):
            return int(json.loads((self.folder / "in_use.json").read_text())["pid"])
        return 0

    def kill(self) -> None:
        """The server, not its supervisor; between two of them, the next one: none is killed twice."""
        while self.is_alive():
            pid = self.server_pid()
            with suppress(ProcessLookupError):
                if pid not in (0, self.killed):
                    os.kill(pid, signal.SIGKILL)
                    self.killed = pid
                    return
            time.sleep(0.02)

    def stop(self) -> int:
        """As by a person; its exit code."""
        self.started.terminate()
        return self.started.wait()

    def lines(self) -> list[str]:
        self.said.seek(0)
        return self.said.read().splitlines()
