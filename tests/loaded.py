"""What every application in the tests starts from: the whole program loaded, each template compiled once."""

from __future__ import annotations

from pathlib import Path

from flask import Flask
from jinja2 import FileSystemBytecodeCache
from sqlalchemy.orm import configure_mappers

from thermion.core import lazy
from thermion.web.app import blueprints

COMPILED = Path(__file__).parent.parent / ".pytest_cache" / "templates"


def load() -> None:
    COMPILED.mkdir(parents=True, exist_ok=True)
    Flask.jinja_options = {"bytecode_cache": FileSystemBytecodeCache(str(COMPILED))}
    list(blueprints())
    configure_mappers()
    lazy.load()


load()
