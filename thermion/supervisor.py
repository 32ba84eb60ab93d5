"""A small process that runs the server as another one and starts it again should it die.

It loads nothing of the application. The server stops when this one does, however that ends: it
reads from a pipe that only this process holds open.
"""

from __future__ import annotations

import os
import signal
import subprocess
import sys
import threading
import time
from collections.abc import Callable, Sequence
from contextlib import suppress
from pathlib import Path
from types import FrameType

from thermion.records.keeping.folder import kept_for, server_is_ready

CHILD = "THERMION_STARTED_AGAIN"  # set for the server: how often it was started again
COULD_NOT_START = 3  # the server's exit code when it has said in a sentence why
GIVES_UP_AFTER = 3  # starts in a row after which nothing answered
STOPS_WITHIN_S = 10.0


class _Stopped(Exception):  # noqa: N818 - the wish of a person, not a fault
    """Told to stop, by a key or by the system."""


def is_server() -> bool:
    """Whether this process is the server that a supervisor started."""
    return CHILD in os.environ


def times_started_again() -> int:
    """How often the server was started again; 0 without a supervisor."""
    return int(os.environ.get(CHILD, "0") or "0")


def keep_serving(words: Sequence[str], again: Sequence[str], folder: Path, say: Callable[[str], None]) -> int:
    """Run `thermion WORDS`, and `thermion AGAIN` whenever it has died; the exit code in the end.

    0 when it was told to stop, 1 when it could not start. Refused when another holds the folder.
    """
    signal.signal(signal.SIGTERM, _told)
    died, unready, command = 0, 0, words
    with kept_for(folder), suppress(_Stopped):  # told between two servers
        while True:
            code, ready = _run(command, folder, died, say)
            if code == 0:
                return 0
            if code == COULD_NOT_START:
                return 1
            unready = 0 if ready else unready + 1
            if unready == GIVES_UP_AFTER:
                say(f"thermion: the server died {unready} times before it answered ({_how(code)}).")
                return 1
            died, command = died + 1, again
            times = "once" if died == 1 else f"{died} times"
            said = f"the server died ({_how(code)}) and is started again, {times} so far"
            say(f"thermion: {said}. What was stored is safe.")
    return 0


def _told(_number: int, _frame: FrameType | None) -> None:
    raise _Stopped


def _how(code: int) -> str:
    if code >= 0:
        return f"exit code {code}"
    with suppress(ValueError):
        return signal.Signals(-code).name
    return f"signal {-code}"


def _run(words: Sequence[str], folder: Path, died: int, say: Callable[[str], None]) -> tuple[int, bool]:
    """(exit code of one server, whether it had answered); 0 when this process was told to stop."""
    server = subprocess.Popen(  # noqa: S603 - this program itself
        [sys.executable, "-P", "-m", "thermion", *words],
        env={**os.environ, CHILD: str(died)},
        stdin=subprocess.PIPE,
        stderr=subprocess.PIPE,
    )
    assert server.stdin is not None
    told = threading.Thread(target=_pass_on, args=(server, say), daemon=True)
    told.start()
    try:
        code = server.wait()
    except (_Stopped, KeyboardInterrupt):
        code = 0
        server.stdin.close()  # by which it stops
        with suppress(KeyboardInterrupt, _Stopped, subprocess.TimeoutExpired):
            server.wait(STOPS_WITHIN_S)
        server.kill()
        server.wait()
    told.join(1.0)
    return code, server_is_ready(folder, server.pid)


def _pass_on(server: subprocess.Popen[bytes], say: Callable[[str], None]) -> None:
    """What the server says of faults, as it says it."""
    assert server.stderr is not None
    for line in server.stderr:
        say(line.decode(errors="replace").rstrip("\n"))


def stop_with_supervisor() -> None:
    """In the server: end as by Ctrl-C when the supervisor is gone."""

    def watch() -> None:
        with suppress(OSError):
            while os.read(0, 1024):
                pass
        os.kill(os.getpid(), signal.SIGINT)
        time.sleep(STOPS_WITHIN_S)
        os._exit(1)  # it did not

    threading.Thread(target=watch, name="supervisor", daemon=True).start()
