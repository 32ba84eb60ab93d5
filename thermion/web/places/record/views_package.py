"""Packages: a challenge, a class or everything as a zip that explains itself."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from dataclasses import replace
from pathlib import Path

from flask import Blueprint, Response, render_template, request, stream_with_context
from sqlalchemy.orm import Session

from thermion.formats.package import Extra, write_package
from thermion.formats.package.tables import TABLES
from thermion.records.building.builds import builds_of, plan_of
from thermion.records.planning.briefs import Brief, brief_of, get_challenge
from thermion.records.planning.classes import get_class, list_classes
from thermion.records.running import runs
from thermion.records.running.series import series_of
from thermion.records.tables import Challenge
from thermion.web.access import DESKS, HERE, may
from thermion.web.answers import svg_text
from thermion.web.described import Asks, asks, sends
from thermion.web.pictures.curves import WIDE, chart_svg
from thermion.web.pictures.drawings import plan_svg
from thermion.web.pictures.readings import run_chart
from thermion.web.places.record import words
from thermion.web.sessions import database, open_challenge, read_session

bp = Blueprint("package", __name__)
STYLES = Path(__file__).parents[2] / "static" / "package.css"  # of its page, which is opened without Thermion
WITHOUT_WORDS = Asks("words", "0: without what people typed freely")


@bp.get("/challenges/<int:challenge_id>/package.zip")
@may(DESKS)
@sends("application/zip")
@asks(WITHOUT_WORDS)
def of_challenge(challenge_id: int) -> Response:
    """A challenge as tables, files and pictures in one zip."""
    challenge, _ = open_challenge(challenge_id)
    return _sent([challenge_id], challenge.title)


@bp.get("/classes/<int:class_id>/package.zip")
@may(DESKS)
@sends("application/zip")
@asks(WITHOUT_WORDS)
def of_class(class_id: int) -> Response:
    """All challenges of a class as a package."""
    crew = get_class(read_session(), class_id)
    return _sent([c.id for c in crew.challenges], crew.name)


@bp.get("/package.zip")
@may(HERE)
@sends("application/zip")
@asks(WITHOUT_WORDS)
def of_all() -> Response:
    """Every class that is not put away."""
    found = list_classes(read_session())
    return _sent([c.id for crew in found for c in crew.challenges], "Everything")


def _sent(challenge_ids: Sequence[int], title: str) -> Response:
    """The zip, piece by piece, from a session of its own: the request's is closed when it begins."""
    free = request.args.get("words", "1") != "0"

    def pieces() -> Iterator[bytes]:
        with database().session() as session:
            yield from write_package(
                session,
                challenge_ids,
                title if free else "Design challenges",
                words=free,
                extras=lambda challenge_id, called: _pictures(session, challenge_id, called),
                page=lambda names: _page(session, challenge_ids, names, free),
            )

    response = Response(stream_with_context(pieces()), mimetype="application/zip")
    name = words.package_name(title if free else "")
    response.headers.set("Content-Disposition", "attachment", filename=name)
    return response


def _pictures(session: Session, challenge_id: int, called: Callable[[str], str]) -> Iterator[Extra]:
    """Each team's newest build, and the curves of each run that was read at marks."""
    challenge = get_challenge(session, challenge_id)
    brief = brief_of(challenge)
    for build in builds_of(session, challenge_id):
        newest = build.versions[-1]
        name = f"pictures/{challenge_id}-build-{build.team.letter}{newest.number}.svg"
        plan = plan_of(newest)
        plan = replace(plan, parts=tuple(replace(p, material=called(p.material)) for p in plan.parts))
        yield Extra(name, svg_text(plan_svg(plan, brief)).encode())
    if brief.kind.test.shape != "marks" or brief.read_at(air=False).words:
        return
    for run in runs.runs_of(session, challenge_id):
        chart = chart_svg(run_chart(run.entries, series_of(session, [run]), brief, WIDE))
        yield Extra(f"pictures/{challenge_id}-run-{run.number}.svg", svg_text(chart).encode())


def _page(
    session: Session, challenge_ids: Sequence[int], names: Sequence[str], free: bool
) -> Iterator[Extra]:
    """A page that says what is in the package, for people, and its styles."""
    found: list[tuple[Challenge, Brief, list[tuple[str, str]]]] = []
    for challenge_id in challenge_ids:
        challenge = get_challenge(session, challenge_id)
        start = f"pictures/{challenge_id}-"
        mine = [(n, words.of_picture(n.removeprefix(start))) for n in names if n.startswith(start)]
        found.append((challenge, brief_of(challenge), mine))
    text = render_template("record/package.html", challenges=found, tables=TABLES, names=names, free=free)
    yield Extra("index.html", text.encode())
    yield Extra("index.css", STYLES.read_bytes())
