"""What every application in the tests starts from: the whole program loaded, each template compiled once."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta
from pathlib import Path

from flask import Flask
from jinja2 import FileSystemBytecodeCache
from sqlalchemy.orm import configure_mappers

from thermion.core import lazy
from thermion.records import moments
from thermion.web.app import blueprints

COMPILED = Path(__file__).parent.parent / ".pytest_cache" / "templates"


def quiet_clock() -> moments.OwnClock:
    """A computer's clock that nobody sets: the machine under the tests may set its own meanwhile."""
    began, counter = datetime.now(UTC), moments.counter
    since = counter()
    return moments.OwnClock(lambda: began + timedelta(seconds=counter() - since), counter)


def load() -> None:
    COMPILED.mkdir(parents=True, exist_ok=True)
    Flask.jinja_options = {"bytecode_cache": FileSystemBytecodeCache(str(COMPILED))}
    list(blueprints())
    configure_mappers()
    lazy.load()
    moments.OWN = quiet_clock()


load()
