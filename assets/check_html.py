"""Renders every page of the demo and runs the Nu HTML checker over them."""

from __future__ import annotations

import subprocess
import sys
import tempfile
from pathlib import Path

from thermion.demo import build_demo
from thermion.web import create_app

PAGES = (
    "/",
    "/classes/new",
    "/classes/1",
    "/classes/1/challenges/new",
    "/import",
    *(f"/challenges/1/brief/{s}" for s in ("task", "rig", "marks", "materials", "score", "safety")),
    *(f"/challenges/4/brief/{s}" for s in ("lessons", "kit", "sun", "try")),
    *(
        f"/challenges/{n}/sheets/{s}"
        for n in (1, 5)
        for s in ("brief", "plan", "data", "reflection", "teams", "safety")
    ),
    "/challenges/5/brief/rig",
    "/challenges/5/brief/lessons",
    "/challenges/2/rig-check",
    "/classes/1/kit",
    "/classes/1/store",
    "/classes/1/week",
    "/challenges/5/runs",
    "/challenges/8/sheets/data",
    "/challenges/1/builds",
    "/challenges/3/builds",
    "/versions/1",
    "/versions/9",
    "/versions/30",
    "/challenges/1/runs",
    "/runs/1",
    "/runs/4",
    "/runs/4/file",
    "/board/runs/4",
    "/board/runs/5",
    "/challenges/6/runs",
    "/challenges/6/findings",
    "/challenges/6/record",
    "/runs/5",
    "/challenges/1/findings",
    "/challenges/4/findings",
    "/challenges/1/record",
    "/nothing-here",
    *(f"/runs/{n}" for n in (7, 8, 9, 10)),
    *(f"/board/runs/{n}" for n in (7, 9, 10)),
    "/runs/7?entry=30",
    "/runs/10?correct=1",
    "/challenges/9/runs",
    "/challenges/10/rig-check",
    *(f"/challenges/{n}/findings" for n in (5, 9, 10)),
    "/challenges/5/findings?picture=versions",
    "/challenges/8/brief/task",
    "/challenges/8/builds",
    "/challenges/6/findings?picture=versions",
)

ALPINE = ".*(Attribute .x-|Trailing slash).*"  # Alpine's own attributes are no HTML


def main() -> int:
    with tempfile.TemporaryDirectory() as name:
        app = create_app({"DATA": Path(name) / "data"})
        build_demo(app.extensions["thermion"])
        client = app.test_client()
        files = []
        for i, address in enumerate(PAGES):
            file = Path(name) / f"{i:02d}{address.replace('/', '-')}.html"
            file.write_text(client.get(address).get_data(as_text=True), encoding="utf-8")
            files.append(str(file))
        jar = "node_modules/vnu-jar/build/dist/vnu.jar"
        done = subprocess.run(  # noqa: S603 - our own files, our own jar
            ["java", "-jar", jar, "--errors-only", "--filterpattern", ALPINE, *files],  # noqa: S607
            check=False,
        )
    print(f"{len(PAGES)} pages checked", "" if done.returncode == 0 else "with findings")
    return done.returncode


if __name__ == "__main__":
    sys.exit(main())
