"""Prints every ratio of the issue list; run with `make bench`."""

from __future__ import annotations

import gzip
import posixpath
import re
import sqlite3
import statistics
import tempfile
import time
from collections.abc import Callable
from datetime import UTC, datetime, timedelta
from pathlib import Path
from unittest import mock

from flask import Flask, jsonify, render_template, request
from sqlalchemy import event, insert

from bench import core, families, planning, polling, room, year
from bench.starting import starting
from thermion.core.kinds import all_kinds
from thermion.core.kinds.base import Kind
from thermion.core.kinds.testing import even_marks
from thermion.core.physics.units import Setting
from thermion.core.plans import Part, Plan
from thermion.records.building import builds
from thermion.records.building.builds import Draft
from thermion.records.planning import briefs
from thermion.records.planning.classes import TeamInput, save_class
from thermion.records.running import runs
from thermion.records.tables import Challenge, Reading
from thermion.web import create_app
from thermion.web.pictures.drawings import CHECK, drawing_svg
from thermion.web.pictures.labels import labels_of
from thermion.web.places.findings import views as view

START = datetime(2026, 6, 1, 12, 0, tzinfo=UTC)


def side_by_side(tasks: dict[str, Callable[[], object]], rounds: int) -> dict[str, float]:
    """Median seconds of each task, taken in turns so that both see the same machine."""
    times: dict[str, list[float]] = {name: [] for name in tasks}
    for task in tasks.values():
        task()
    for _ in range(rounds):
        for name, task in tasks.items():
            begin = time.perf_counter()
            task()
            times[name].append(time.perf_counter() - begin)
    return {name: statistics.median(values) for name, values in times.items()}


def make_class(folder: Path, teams: int, versions: int, marks: int) -> tuple[Flask, int]:
    """An application with one class, `versions` runs of `teams` builds, `marks` readings each."""
    app = create_app({"DATA": folder})
    half = even_marks(1800, 1800 / (marks / 2 - 1))
    database = app.extensions["thermion"]
    with database.writing() as session:
        made = save_class(
            session,
            name="Bench",
            temp_unit="degC",
            decimal="point",
            zone="UTC",
            teams=[TeamInput(name=f"Team {chr(65 + i)}", letter=chr(65 + i)) for i in range(teams)],
        )
        challenge = briefs.create_challenge(session, made, "solar_oven", "Bench")
        briefs.save_marks(session, challenge, {"heating": half, "cooling": half})
        briefs.acknowledge_cautions(challenge)
        briefs.finish_brief(challenge)
        brief = briefs.brief_of(challenge)
        plan = Plan(
            (
                Part(place="window", material="cling_film", form="flat", units=2),
                Part(place="wall", material="straw", form="flat", units=4),
            ),
            {"height_m": 0.12},
        )
        for number in range(versions):
            ids = []
            for team in made.teams:
                version = builds.start_version(session, challenge, team.id)
                builds.save_draft(version, 1, Draft(plan=plan, prediction=60.0, change_note="more"))
                builds.hand_in(version, brief)
                builds.sign(version, brief)
                builds.issue(version)
                session.flush()
                ids.append(version.id)
            at = START + timedelta(days=number)
            run = runs.create_run(session, challenge, version_ids=ids, conditions={}, now=at)
            runs.start_phase(session, run, brief, "heating", at)
            runs.start_phase(session, run, brief, "cooling", at + timedelta(minutes=31))
            _fill(session, run, brief)
        return app, challenge.id


def _fill(session, run, brief) -> None:
    rows = []
    for entry in run.entries:
        top = 0 if entry.is_air else 30 + entry.position * 2
        for phase in ("heating", "cooling"):
            for mark in brief.marks[phase]:
                share = 1 - 2.718 ** (-mark / 700)
                value = 20 + top * (share if phase == "heating" else 1 - share)
                rows.append(
                    {
                        "entry_id": entry.id,
                        "phase": phase,
                        "mark_s": mark,
                        "time_s": mark + 5,
                        "value": round(value * 2) / 2,
                        "client_id": f"{run.id}-{entry.id}-{phase}{mark}",
                        "entered_at": START,
                        "arrived_at": START,
                        "timed": True,
                        "source": "hand",
                        "question": "",
                    }
                )
    session.execute(insert(Reading), rows)


def saving(folder: Path) -> str:
    """A reading through the application against a bare handler with the same durability."""
    app, _ = make_class(folder / "app", 8, 0, 40)
    database = app.extensions["thermion"]
    with database.writing() as session:
        challenge = briefs.get_challenge(session, 1)
        teams = {t.id for t in challenge.school_class.teams}
        plan = Plan((Part(place="window", material="cling_film", form="flat", units=2),), {})
        ids = []
        for team in teams:
            version = builds.start_version(session, challenge, team)
            builds.save_draft(version, 1, Draft(plan=plan, prediction=60.0, change_note=""))
            version.state, version.issued_at = "issued", version.created_at
            session.flush()
            ids.append(version.id)
        now = datetime.now(UTC) - timedelta(minutes=35)
        entries = []
        for _ in range(14):  # enough empty cells for every save to be a first one
            run = runs.create_run(session, challenge, version_ids=ids, conditions={}, now=now)
            runs.start_phase(session, run, briefs.brief_of(challenge), "heating", now)
            entries += [(run.id, e.id) for e in run.entries[1:]]
        marks = briefs.brief_of(challenge).marks["heating"][:10]
    client = app.test_client()
    token = re.search(r'name="csrf" content="([^"]+)"', client.get("/").get_data(as_text=True))
    head = {"X-CSRFToken": token.group(1)}
    cells = iter([(r, e, m) for r, e in entries for m in marks])
    count = iter(range(10**6))

    def through_application() -> None:
        run_id, entry, mark = next(cells)
        sent = {
            "entry": entry,
            "phase": "heating",
            "mark": mark,
            "typed": f"{20 + mark / 100}",
            "client_id": f"b{next(count)}",
            "entered_at": datetime.now(UTC).isoformat(),
        }
        answer = client.post(f"/runs/{run_id}/readings", json=sent, headers=head)
        assert answer.status_code == 200, answer.json

    bare = bare_handler(folder / "bare.sqlite3").test_client()

    def through_bare_handler() -> None:
        sent = {
            "entry": 1,
            "phase": "heating",
            "mark": 0.0,
            "typed": "20.5",
            "client_id": f"a{next(count)}",
            "entered_at": datetime.now(UTC).isoformat(),
        }
        assert bare.post("/readings", json=sent).status_code == 200

    found = side_by_side({"app": through_application, "bare": through_bare_handler}, 400)
    return (
        f"save a reading: {found['app'] * 1e3:.2f} ms, bare handler {found['bare'] * 1e3:.2f} ms, "
        f"ratio {found['app'] / found['bare']:.2f} (aim 1.5)"
    )


def bare_handler(path: Path) -> Flask:
    """The least that can store the same row: Flask and sqlite3, WAL, synchronous FULL."""
    app = Flask("bare")
    setup = sqlite3.connect(path)
    setup.execute("pragma journal_mode = wal")
    setup.execute(
        "create table readings (id integer primary key, entry_id integer, phase text, mark_s real,"
        " time_s real, timed integer, value real, source text, question text, suggestion real,"
        " client_id text unique, entered_at text, arrived_at text, supersedes_id integer unique)"
    )
    setup.commit()
    setup.close()

    @app.post("/readings")
    def save() -> object:
        sent = request.get_json()
        connection = sqlite3.connect(path)
        connection.execute("pragma synchronous = full")
        connection.execute(
            "insert into readings (entry_id, phase, mark_s, time_s, timed, value, source, question,"
            " client_id, entered_at, arrived_at) values (?,?,?,?,1,?,'hand','',?,?,?)",
            (
                sent["entry"],
                sent["phase"],
                sent["mark"],
                5.0,
                float(sent["typed"]),
                sent["client_id"],
                sent["entered_at"],
                datetime.now(UTC).isoformat(),
            ),
        )
        connection.commit()
        connection.close()
        return jsonify(saved=True)

    return app


def findings(folder: Path) -> str:
    """The findings page against rendering the same HTML from ready-made values."""
    app, challenge_id = make_class(folder / "findings", 12, 3, 40)
    client = app.test_client()
    address = f"/challenges/{challenge_id}/findings"
    kept: dict[str, dict] = {}
    real = view.render_template

    def keep(template: str, **values: object) -> str:
        kept[template] = values
        return real(template, **values)

    with mock.patch.object(view, "render_template", keep):
        html = client.get(address).get_data(as_text=True)
    values = kept["findings/index.html"]

    def ready_made() -> None:
        with app.test_request_context(address):
            render_template("findings/index.html", **values)

    def after_a_change() -> None:
        with app.extensions["thermion"].writing() as session:
            session.get_one(Challenge, challenge_id).credit += 1e-9
        app.extensions["thermion"].stamps.everything()  # the write itself is not what is measured

    def first_view() -> float:
        after_a_change()
        begin = time.perf_counter()
        client.get(address)
        return time.perf_counter() - begin

    found = side_by_side({"page": lambda: client.get(address), "render": ready_made}, 40)
    first = statistics.median(first_view() for _ in range(15))
    return (
        f"findings, 12 builds x 3 versions x 40 readings ({len(html) / 1000:.0f} kB): "
        f"{found['page'] * 1e3:.0f} ms, from ready-made values {found['render'] * 1e3:.0f} ms, "
        f"ratio {found['page'] / found['render']:.2f} (aim 3); first view after a change "
        f"{first * 1e3:.0f} ms, ratio {first / found['render']:.1f}"
    )


def queries(folder: Path) -> str:
    """Statements per page for 3 and for 12 teams."""
    counts: dict[str, list[int]] = {}
    for teams in (3, 12):
        app, challenge_id = make_class(folder / f"queries{teams}", teams, 2, 10)
        client = app.test_client()
        pages = [f"/challenges/{challenge_id}/{name}" for name in ("builds", "runs", "findings")]
        for address in ("/", *pages, "/runs/1", "/versions/1"):
            seen: list[str] = []

            def note(_c, _k, statement, *_, seen=seen) -> None:
                seen.append(statement)

            event.listen(app.extensions["thermion"].engine, "before_cursor_execute", note)
            assert client.get(address).status_code == 200
            event.remove(app.extensions["thermion"].engine, "before_cursor_execute", note)
            counts.setdefault(address, []).append(len(seen))
    listed = ", ".join(f"{a} {few}/{many}" for a, (few, many) in counts.items())
    return f"queries per page with 3/12 teams: {listed}"


def drawings(folder: Path) -> str:
    """Twelve builds of each family with all their labels, as at the check."""
    app, _ = make_class(folder / "drawings", 2, 1, 4)
    took = {}
    with app.test_request_context():
        for kind in all_kinds().values():
            plan, rig = kind.build.example(), kind.brief.default_rig()

            def draw(kind: Kind = kind, plan: Plan = plan, rig: dict[str, float] = rig) -> None:
                for _ in range(12):
                    said = labels_of(kind.build, plan, Setting())
                    drawing_svg(kind.build.draw(plan, rig), CHECK, labels=said)

            took[kind.key] = side_by_side({"draw": draw}, 5)["draw"] * 1000
    listed = ", ".join(f"{key} {ms:.0f}" for key, ms in took.items())
    return f"twelve builds drawn with labels, ms (aim 100): {listed}"


def weight(folder: Path) -> str:
    """The run page with all it loads, compressed as served."""
    app, _ = make_class(folder / "weight", 12, 1, 24)
    client = app.test_client()
    html = client.get("/runs/1").get_data(as_text=True)
    files = set(re.findall(r'(?:src|href)="(/static/[^"]+)"', html))
    waiting = [f for f in files if "/js/" in f]
    while waiting:  # modules load modules
        at = waiting.pop()
        script = client.get(at).get_data(as_text=True)
        for name in re.findall(r'from "(\.[^"]+)"', script):
            found = posixpath.normpath(posixpath.join(posixpath.dirname(at), name))
            waiting += [found] if found not in files else []
            files.add(found)
    style = next(f for f in files if f.endswith("/app.css"))
    fonts = re.findall(r"url\(([^)]*woff2)\)", client.get(style).get_data(as_text=True).replace('"', ""))
    files |= {posixpath.join(posixpath.dirname(style), font) for font in fonts}
    sizes = {"page": len(gzip.compress(html.encode()))}
    for address in sorted(files):
        answer = client.get(address, headers={"Accept-Encoding": "gzip, deflate"})
        sizes[address.split("/", 3)[-1]] = len(answer.get_data())
    listed = ", ".join(f"{name} {size / 1000:.1f}" for name, size in sizes.items())
    return f"run page, 12 builds, compressed: {sum(sizes.values()) / 1000:.0f} kB (aim 200): {listed}"


def main() -> None:
    for measure in core.MEASURES:
        print(measure(side_by_side), flush=True)
    with tempfile.TemporaryDirectory() as name:
        for measure in (starting, saving, findings, queries, drawings, weight, *planning.MEASURES):
            print(measure(Path(name)), flush=True)
        print(families.measure(Path(name) / "families", side_by_side), flush=True)
        print(year.measure(Path(name) / "year", side_by_side), flush=True)
        print(polling.measure(Path(name)), flush=True)
        for tablets in (12, 30):
            aims = "(aims: polls 100 ms, saves 150 ms, 0.5 of a processor, 0 lost, 0 doubled)"
            print(room.work(Path(name) / f"room-{tablets}", tablets), aims, flush=True)


if __name__ == "__main__":
    main()
