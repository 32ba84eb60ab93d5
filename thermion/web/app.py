"""The WSGI application: settings, the house's helpers, and every place found in its folder."""

from __future__ import annotations

import hashlib
from collections.abc import Iterator, Mapping
from datetime import timedelta
from importlib import import_module
from pathlib import Path
from pkgutil import iter_modules

from flask import Blueprint, Flask
from flask_compress import Compress
from flask_wtf import CSRFProtect
from jinja2 import BaseLoader, FileSystemLoader, PrefixLoader

from thermion.core.lazy import all_is_kept
from thermion.records import moments
from thermion.records.database import Database, default_folder
from thermion.records.judging.earlier import relearn_all
from thermion.web import (
    access,
    addresses,
    described,
    errors,
    guards,
    listening,
    places,
    sessions,
    static_files,
    sweeping,
)
from thermion.web.components import frame
from thermion.web.guessing import Guesses

HERE = Path(__file__).parent


def create_app(config: Mapping[str, object] | None = None) -> Flask:
    """The application over one data folder.

    `config` may hold DATA (folder), DEMO (shown in the header) and any Flask setting.
    """
    sweeping.init()
    app = Flask(__name__, static_folder=None)
    addresses.init(app)
    app.config.update(
        DATA=default_folder(),
        DEMO=False,
        MAX_CONTENT_LENGTH=16 * 1024 * 1024,
        MAX_FORM_MEMORY_SIZE=2 * 1024 * 1024,
        SESSION_COOKIE_SAMESITE="Strict",
        PERMANENT_SESSION_LIFETIME=timedelta(days=400),  # a device's row says when it ends
        SESSION_COOKIE_HTTPONLY=True,
        WTF_CSRF_TIME_LIMIT=None,  # a run page stays open all day
        COMPRESS_ALGORITHM=["br", "gzip"],
        COMPRESS_ALGORITHM_STREAMING=["br", "deflate"],
    )
    app.config.update(config or {})
    database = Database(Path(app.config["DATA"]))
    if database.migrate():
        relearn_all(database)
    app.extensions["thermion"] = database
    with database.session() as session:
        moments.OWN.settle(moments.newest_of_open_runs(session))
    database.house()  # asked now: later the disk may not answer
    app.secret_key = app.config["SECRET_KEY"] or database.secret_key()
    # two Thermions on one computer (demo and own data) share a host, so their cookies differ
    mine = hashlib.sha256(str(database.folder.resolve()).encode()).hexdigest()[:8]
    app.config["SESSION_COOKIE_NAME"] = f"thermion-{mine}"
    app.jinja_env.trim_blocks = app.jinja_env.lstrip_blocks = True
    app.jinja_env.loader = templates()
    app.extensions["guesses"] = Guesses()
    listening.init(app)
    access.init(app)  # before anything else is looked at
    csrf = CSRFProtect(app)
    Compress(app)
    for part in (guards, sessions, static_files, frame, errors):
        part.init(app)
    with all_is_kept():
        for blueprint in blueprints():
            app.register_blueprint(blueprint)
    described.init(app)
    for endpoint, view in app.view_functions.items():
        if access.is_for_probes(app, endpoint):  # which no browser's session opens
            csrf.exempt(view)
    return app


def blueprints() -> Iterator[Blueprint]:
    """Those of every place: each module of a place whose name begins with `views`."""
    for place in iter_modules(places.__path__):
        package = import_module(f"{places.__name__}.{place.name}")
        for module in iter_modules(package.__path__):
            if module.name.startswith("views"):
                views = import_module(f"{package.__name__}.{module.name}")
                yield from (found for found in vars(views).values() if isinstance(found, Blueprint))


def templates() -> BaseLoader:
    """Templates by folder: runs/grid.html stands in places/runs/templates/grid.html."""
    folders = {place.name: HERE / "places" / place.name for place in iter_modules(places.__path__)}
    folders |= {"components": HERE / "components", "pictures": HERE / "pictures"}
    return PrefixLoader({name: FileSystemLoader(folder / "templates") for name, folder in folders.items()})
