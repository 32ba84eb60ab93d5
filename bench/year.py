"""A year's data: six classes, seven challenges each, three versions of twelve builds, loggers at every row."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from datetime import timedelta
from pathlib import Path

from flask import Flask

from bench.families import START, make_teams, put_challenge
from thermion.core.kinds import all_kinds
from thermion.records.planning import week
from thermion.web import create_app

CLASSES, LOGGED = 6, 800
SideBySide = Callable[[dict[str, Callable[[], object]], int], dict[str, float]]


@dataclass(frozen=True)
class Year:
    """The application over a year's data, and the number of each family's challenge in its first class."""

    app: Flask
    challenge: dict[str, int]
    stored: int


def make_year(folder: Path, classes: int = CLASSES, logged: int = LOGGED) -> Year:
    app = create_app({"DATA": folder})
    first: dict[str, int] = {}
    stored = 0
    for number in range(classes):
        with app.extensions["thermion"].writing() as session:
            made = make_teams(session, f"Class {number + 1}")
            for day in range(5):
                week.save_lesson(session, made.id, START + timedelta(days=day), 4500, 300)
            for key in all_kinds():
                challenge_id, values = put_challenge(session, made, key, logged)
                first.setdefault(key, challenge_id)
                stored += values
    return Year(app, first, stored)
