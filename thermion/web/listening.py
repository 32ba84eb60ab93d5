"""The door's own listener, as the application knows it: the server puts a real one in its place."""

from __future__ import annotations

from typing import Protocol

from flask import Flask, current_app


class Listener(Protocol):
    """What other devices connect to, opened and closed while the server runs."""

    is_open: bool

    def open(self) -> str:
        """Listen; a sentence when that cannot be, "" when it does."""

    def close(self) -> None:
        """Let go of everybody, and listen no more."""

    def urls(self) -> list[str]:
        """Where other devices find it, as this computer is called now."""


class NoListener:
    """Where no server runs: the door is a word in the record."""

    is_open = False

    def open(self) -> str:
        self.is_open = True
        return ""

    def close(self) -> None:
        self.is_open = False

    def urls(self) -> list[str]:
        return ["http://127.0.0.1"]


def listener() -> Listener:
    found: Listener = current_app.extensions["listener"]
    return found


def init(app: Flask) -> None:
    app.extensions.setdefault("listener", NoListener())
