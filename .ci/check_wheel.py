"""The wheel as a user installs it: in an environment of its own, outside the clone, the demo started.

Run from the root of the project with the interpreter that a user would have.
"""

from __future__ import annotations

import os
import re
import subprocess
import sys
import tempfile
import time
import urllib.request
from pathlib import Path

ROOT = Path(__file__).parent.parent
PORT = "8941"
PAGES = ("/", "/challenges/1/findings", "/runs/4", "/challenges/1/brief/lessons", "/classes/1/store")


def main() -> None:
    with tempfile.TemporaryDirectory() as name:
        place = Path(name)
        python = place / "env" / "bin" / "python"
        pip = [str(python), "-m", "pip", "--quiet", "--disable-pip-version-check"]
        subprocess.run([sys.executable, "-m", "venv", place / "env"], check=True)
        subprocess.run(
            [*pip, "install", "--require-hashes", "-r", ROOT / "requirements.txt"],
            check=True,
            stderr=subprocess.DEVNULL,
        )
        build = [*pip, "wheel", "--no-deps", "--no-build-isolation", "-w", place, ROOT]
        subprocess.run(build, check=True)
        (wheel,) = place.glob("*.whl")
        subprocess.run([*pip, "install", "--no-index", wheel], check=True)  # its own requirements hold
        thermion = place / "env" / "bin" / "thermion"
        environment = {k: v for k, v in os.environ.items() if not k.startswith("PYTHON")}
        environment |= {"THERMION_DATA": str(place / "demo"), "THERMION_PORT": PORT}
        running = subprocess.Popen([thermion, "demo"], cwd=place, env=environment)
        try:
            look(f"http://127.0.0.1:{PORT}")
        finally:
            running.terminate()
            running.wait()
    print("wheel: installed on its own, the demo answers")


def look(address: str) -> None:
    """Every page, and each file of ours that it names, is there."""
    for _ in range(240):
        time.sleep(0.5)
        try:
            fetch(address + "/")
            break
        except OSError:
            continue
    files: set[str] = set()
    for page in PAGES:
        html = fetch(address + page).decode()
        files |= set(re.findall(r'(?:src|href)="(/static/[^"?]+)', html))
    for file in files:
        assert fetch(address + file), file
    assert len(files) > 5, files


def fetch(address: str) -> bytes:
    with urllib.request.urlopen(address, timeout=30) as answer:
        content: bytes = answer.read()
        return content


if __name__ == "__main__":
    main()
