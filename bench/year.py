"""A year's data: six classes, seven challenges each, three versions of twelve builds, loggers at every row."""

from __future__ import annotations

import statistics
import time
from collections.abc import Callable
from dataclasses import dataclass
from datetime import timedelta
from pathlib import Path
from typing import Any
from unittest import mock

from flask import Flask, Response, render_template, request
from flask.testing import FlaskClient
from sqlalchemy import event, func, select

from bench.families import START, make_family, make_teams, put_challenge
from thermion.core.kinds import all_kinds
from thermion.records.planning import week
from thermion.records.tables import Build, Entry, Reading, Run, Version
from thermion.web import create_app
from thermion.web.places.findings import views as findings

CLASSES, LOGGED = 6, 800
MOST_QUERIES = 15
SideBySide = Callable[[dict[str, Callable[[], object]], int], dict[str, float]]


@dataclass(frozen=True)
class Year:
    """The application over a year's data, and each family's challenge in the first class."""

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


def pages(app: Flask, challenge_id: int) -> dict[str, str]:
    """Every page of a challenge, with its newest run and version."""
    with app.extensions["thermion"].session() as session:
        run = session.scalar(select(func.max(Run.id)).where(Run.challenge_id == challenge_id))
        version = session.scalar(
            select(func.max(Version.id)).join(Build).where(Build.challenge_id == challenge_id)
        )
    at = f"/challenges/{challenge_id}"
    return {
        "brief": f"{at}/brief/task",
        "rig": f"{at}/brief/rig",
        "lessons": f"{at}/brief/lessons",
        "kit": f"{at}/brief/kit",
        "builds": f"{at}/builds",
        "plan": f"/versions/{version}",
        "runs": f"{at}/runs",
        "run": f"/runs/{run}",
        "board": f"/board/runs/{run}",
        "findings": f"{at}/findings",
        "record": f"{at}/record",
    }


def class_pages(class_id: int) -> dict[str, str]:
    at = f"/classes/{class_id}"
    return {"home": "/", "store": f"{at}/store", "kit": f"{at}/kit", "week": f"{at}/week", "class": at}


def _get(client: FlaskClient, address: str) -> Callable[[], None]:
    def get() -> None:
        assert client.get(address).status_code == 200, address

    return get


def asked(app: Flask, address: str) -> int:
    """Statements of one page, seen for the first time since something was stored."""
    seen: list[str] = []

    def note(_c: object, _k: object, statement: str, *_: object) -> None:
        if statement != "BEGIN":
            seen.append(statement)

    app.extensions["thermion"]._remembered.clear()
    event.listen(app.extensions["thermion"].engine, "before_cursor_execute", note)
    assert app.test_client().get(address).status_code == 200
    event.remove(app.extensions["thermion"].engine, "before_cursor_execute", note)
    return len(seen)


def measure(folder: Path, side_by_side: SideBySide) -> str:
    """The table of the year, as ratios."""
    began = time.perf_counter()
    year = make_year(folder / "year")
    client = year.app.test_client()
    lines = [
        f"a year: {CLASSES} classes x 7 challenges x 3 versions x 12 teams, {year.stored / 1e6:.2f} million "
        f"values, made in {time.perf_counter() - began:.0f} s"
    ]
    for key, challenge_id in year.challenge.items():
        alone, alone_id, _ = make_family(folder / f"alone-{key}", key, LOGGED)
        bare, bare_id, _ = make_family(folder / f"bare-{key}", key)
        lines += _family(key, side_by_side, (year.app, challenge_id), (alone, alone_id), (bare, bare_id))
    small, _, _ = make_family(folder / "small", "solar_oven")
    ratios = []
    for name, address in class_pages(1).items():
        full = side_by_side({"full": _get(client, address), "one": _get(small.test_client(), address)}, 15)
        ratios.append(f"{name} {full['full'] / full['one']:.2f} ({asked(year.app, address)} queries)")
    lines.append("  full class against one challenge (aim 3): " + ", ".join(ratios))
    lines.append("  " + first_findings(year))
    lines.append("  " + polling(year, side_by_side))
    return "\n".join(lines)


def _family(
    key: str,
    side_by_side: SideBySide,
    full: tuple[Flask, int],
    alone: tuple[Flask, int],
    bare: tuple[Flask, int],
) -> list[str]:
    """Every page of a challenge in the year, against it alone; and with loggers against without."""
    here, there, plain = (pages(*each) for each in (full, alone, bare))
    ratios, with_loggers, queries = [], [], []
    for name, address in here.items():
        tasks = {
            "year": _get(full[0].test_client(), address),
            "alone": _get(alone[0].test_client(), there[name]),
        }
        if name in ("run", "board"):
            tasks["bare"] = _get(bare[0].test_client(), plain[name])
        found = side_by_side(tasks, 9)
        ratios.append(f"{name} {found['year'] / found['alone']:.2f}")
        queries.append(asked(full[0], address))
        if "bare" in found:
            with_loggers.append(f"{name} {found['year'] / found['bare']:.2f}")
    return [
        f"  {key}: year/alone (aim 1.2) {', '.join(ratios)}; with/without loggers (aim 1.5) "
        f"{', '.join(with_loggers)}; most queries {max(queries)} (aim {MOST_QUERIES})"
    ]


def first_findings(year: Year) -> str:
    """The first view after one new reading, against the page from what was judged before (whose words,
    picture and frame are made anew), and against its template filled with all of that ready-made.
    """
    challenge_id = year.challenge["solar_oven"]
    app, client = year.app, year.app.test_client()
    database, address = app.extensions["thermion"], f"/challenges/{challenge_id}/findings"
    kept: dict[str, dict[str, object]] = {}
    evidences: list[Any] = []
    real = findings.render_template

    def keep(template: str, **values: object) -> str:
        kept[template] = values
        return real(template, **values)

    judge = findings.evidence_for

    def once(*asked: Any) -> Any:
        evidences.append(judge(*asked))
        return evidences[-1]

    with (
        mock.patch.object(findings, "render_template", keep),
        mock.patch.object(findings, "evidence_for", once),
    ):
        client.get(address)
    values, evidence = kept["findings/index.html"], evidences[0]
    with database.session() as session:
        entry = session.scalars(
            select(Entry.id).join(Run).where(Run.challenge_id == challenge_id, Entry.version_id.is_not(None))
        ).first()

    def ready() -> float:
        begin = time.perf_counter()
        with app.test_request_context(address):
            render_template("findings/index.html", **values)
        return time.perf_counter() - begin

    def judged() -> float:
        database._remembered.clear()
        begin = time.perf_counter()
        with mock.patch.object(findings, "evidence_for", return_value=evidence):
            client.get(address)
        return time.perf_counter() - begin

    def first(number: int) -> float:
        with database.writing() as session:
            session.add(
                Reading(
                    entry_id=entry,
                    phase="heating",
                    time_s=1700.0 + number,
                    value=50.0,
                    client_id=f"new-{number}",
                    entered_at=START,
                    arrived_at=START,
                )
            )
        database.stamps.everything()
        begin = time.perf_counter()
        client.get(address)
        return time.perf_counter() - begin

    shown = statistics.median(ready() for _ in range(15))
    known = statistics.median(judged() for _ in range(15))
    new = statistics.median(first(n) for n in range(15))
    return (
        f"findings, first view after one new reading: {new * 1e3:.0f} ms, from values judged before "
        f"{known * 1e3:.0f} ms, ratio {new / known:.2f} (aim 4); the template alone {shown * 1e3:.0f} ms, "
        f"ratio {new / shown:.2f}"
    )


def polling(year: Year, side_by_side: SideBySide) -> str:
    """What a screen asks every few seconds, when nothing was stored."""
    run = pages(year.app, year.challenge["solar_oven"])["run"]
    client = year.app.test_client()
    mark = {"If-None-Match": client.get(f"{run}/state.json").headers["ETag"]}
    bare = Flask("bare")

    @bare.get("/state")
    def state() -> Response:
        answer = Response(status=304 if request.if_none_match.contains("x") else 200)
        answer.set_etag("x")
        return answer

    other = bare.test_client()

    def ours() -> None:
        assert client.get(f"{run}/state.json", headers=mark).status_code == 304

    def theirs() -> None:
        assert other.get("/state", headers={"If-None-Match": '"x"'}).status_code == 304

    found = side_by_side({"ours": ours, "bare": theirs}, 400)
    return f"a poll when nothing changed: {found['ours'] / found['bare']:.2f} x a bare handler (aim 1.5)"
