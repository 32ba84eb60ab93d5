"""How long the command and the application take to load, against what they stand on."""

from __future__ import annotations

import os
import statistics
import subprocess
import sys
import tempfile
import time
from pathlib import Path

ROUNDS = 7
TASKS = {
    "click": "import click",
    "help": "from thermion.cli import main; main(['--help'], standalone_mode=False)",
    "alone": "import flask, sqlalchemy, waitress",
    "load": "import thermion.web",
    "open": (
        "import sys; from pathlib import Path; from thermion.web import create_app;"
        "create_app({'DATA': Path(sys.argv[1])})"
    ),
}


def starting(folder: Path) -> str:
    """Each as a process of its own, compiled beforehand as after an installation."""
    with tempfile.TemporaryDirectory() as compiled:
        environment = {k: v for k, v in os.environ.items() if k != "PYTHONDONTWRITEBYTECODE"}
        environment["PYTHONPYCACHEPREFIX"] = compiled
        times: dict[str, list[float]] = {name: [] for name in TASKS}
        for round_ in range(ROUNDS + 1):
            for name, code in TASKS.items():
                begin = time.perf_counter()
                command = [sys.executable, "-c", code, str(folder / "start")]
                subprocess.run(command, check=True, env=environment, stdout=subprocess.DEVNULL)
                if round_:  # the first one compiles
                    times[name].append(time.perf_counter() - begin)
    took = {name: statistics.median(values) for name, values in times.items()}
    return (
        f"thermion --help {took['help'] / took['click']:.1f} x import click (aim 3); "
        f"import thermion.web {took['load'] / took['alone']:.2f} x import flask, sqlalchemy, waitress "
        f"({took['alone'] * 1e3:.0f} ms; aim 1.7), with all places and the data opened "
        f"{took['open'] / took['alone']:.2f} x"
    )
