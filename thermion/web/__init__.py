"""The application: what a teacher sees, one blueprint per place of the path."""

from __future__ import annotations

import hashlib
from pathlib import Path
from typing import Any

from flask import Flask
from flask_compress import Compress
from flask_wtf import CSRFProtect

from thermion.records.database import Database, default_folder
from thermion.web import errors, page, security
from thermion.web.views import (
    brief,
    builds,
    classes,
    conclusions,
    findings,
    later,
    logger,
    planning,
    race,
    record,
    runs,
    sheets,
    station,
    store,
    tryout,
)


def create_app(config: dict[str, Any] | None = None) -> Flask:
    """The WSGI application over one data folder.

    `config` may hold DATA (folder), DEMO (shown in the header) and any Flask setting.
    """
    app = Flask(__name__)
    app.config.update(
        DATA=default_folder(),
        DEMO=False,
        MAX_CONTENT_LENGTH=16 * 1024 * 1024,
        MAX_FORM_MEMORY_SIZE=2 * 1024 * 1024,
        SESSION_COOKIE_SAMESITE="Lax",
        SESSION_COOKIE_HTTPONLY=True,
        WTF_CSRF_TIME_LIMIT=None,  # a run page stays open all day
        COMPRESS_ALGORITHM=["br", "gzip"],
        COMPRESS_ALGORITHM_STREAMING=["br", "deflate"],
    )
    app.config.update(config or {})
    database = Database(Path(app.config["DATA"]))
    database.migrate()
    app.extensions["thermion"] = database
    app.secret_key = app.config["SECRET_KEY"] or database.secret_key()
    # two Thermions on one computer (demo and own data) share a host, so their cookies differ
    mine = hashlib.sha256(str(database.folder.resolve()).encode()).hexdigest()[:8]
    app.config["SESSION_COOKIE_NAME"] = f"thermion-{mine}"
    app.jinja_env.trim_blocks = app.jinja_env.lstrip_blocks = True
    CSRFProtect(app)
    Compress(app)
    security.init(app)
    page.init(app)
    errors.init(app)
    places = (
        classes,
        brief,
        planning,
        tryout,
        builds,
        store,
        runs,
        race,
        later,
        logger,
        findings,
        conclusions,
        record,
        sheets,
        station,
    )
    for module in places:
        app.register_blueprint(module.bp)
    app.register_blueprint(brief.data)
    return app
