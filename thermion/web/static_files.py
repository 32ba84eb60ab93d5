"""Styles, scripts and fonts: their address names their content, so a browser asks for each of them once."""

from __future__ import annotations

import hashlib
from functools import cache
from pathlib import Path

from flask import Flask, Response, send_from_directory

from thermion.web.access import ANYBODY, may

FOLDER = Path(__file__).parent / "static"
YEAR_S = 365 * 86400


@cache
def version() -> str:
    """A word that is another as soon as any of the files is."""
    found = hashlib.blake2s(digest_size=6)
    for path in sorted(FOLDER.rglob("*")):
        if path.is_file():
            found.update(path.relative_to(FOLDER).as_posix().encode())
            found.update(path.read_bytes())
    return found.hexdigest()


def init(app: Flask) -> None:
    """Serve them below /static/<version>/. A page from before an update gets what there is now."""

    @app.get("/static/<version>/<path:filename>", endpoint="static")
    @may(ANYBODY)
    def static(version: str, filename: str) -> Response:
        response = send_from_directory(FOLDER, filename)
        if version == app.config["STATIC_VERSION"]:
            response.cache_control.max_age = YEAR_S
            response.cache_control.no_cache = None
            response.cache_control.immutable = True
        return response

    app.config["STATIC_VERSION"] = version()

    @app.url_defaults
    def versioned(endpoint: str, values: dict[str, object]) -> None:
        if endpoint == "static":
            values.setdefault("version", app.config["STATIC_VERSION"])
