"""Renders every page of the demo and runs the Nu HTML checker over them."""

from __future__ import annotations

import subprocess
import sys
import tempfile
from pathlib import Path

sys.path.insert(0, str(Path(__file__).parent.parent))
from tests.pages import PAGES
from thermion.demo import build_demo
from thermion.web import create_app

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
