"""Findings of every family, 12 builds in 3 versions each, against ready-made values."""

from __future__ import annotations

import statistics
import time
from collections.abc import Callable, Sequence
from datetime import UTC, datetime, timedelta
from pathlib import Path
from unittest import mock

import numpy as np
from flask import Flask, render_template
from sqlalchemy import insert
from sqlalchemy.orm import Session

from thermion.core.kinds import all_kinds
from thermion.core.kinds.trials import Trace, Trial
from thermion.core.physics.materials import MATERIALS
from thermion.core.plans import Part, Plan
from thermion.records.building import builds
from thermion.records.building.builds import Draft
from thermion.records.planning import briefs, week
from thermion.records.planning.briefs import Brief
from thermion.records.planning.classes import TeamInput, save_class
from thermion.records.running import runs
from thermion.records.tables import AttemptRow, Challenge, Entry, Reading, Run, SchoolClass
from thermion.web import create_app
from thermion.web.places.findings import views as view

START = datetime(2026, 6, 1, 12, 0, tzinfo=UTC)
TEAMS, VERSIONS = 12, 3
SideBySide = Callable[[dict[str, Callable[[], object]], int], dict[str, float]]


def make_family(folder: Path, key: str, logged: int = 0) -> tuple[Flask, int, int]:
    """A class with one challenge of a family, all its builds tested; app, id, stored values."""
    app = create_app({"DATA": folder})
    with app.extensions["thermion"].writing() as session:
        made = make_teams(session, "Bench")
        for day in range(5):
            week.save_lesson(session, made.id, START + timedelta(days=day), 4500, 300)
        challenge_id, stored = put_challenge(session, made, key, logged)
    return app, challenge_id, stored


def make_teams(session: Session, name: str) -> SchoolClass:
    """A class of twelve teams."""
    return save_class(
        session,
        name=name,
        temp_unit="degC",
        decimal="point",
        zone="UTC",
        teams=[TeamInput(name=f"Team {chr(65 + i)}", letter=chr(65 + i)) for i in range(TEAMS)],
    )


def put_challenge(session: Session, made: SchoolClass, key: str, logged: int = 0) -> tuple[int, int]:
    """A challenge of a family, tested in three versions; its id and how many values are stored.

    `logged` readings of a logger stand beside those taken by hand, for each row and phase.
    """
    challenge = briefs.create_challenge(session, made, key, key.replace("_", " "))
    briefs.acknowledge_cautions(challenge)
    briefs.finish_brief(challenge)
    brief = briefs.brief_of(challenge)
    usual = {f.key: f.si("default") for f in brief.kind.build.factors}
    parts = tuple(
        Part(place=p.key, material=m, form=MATERIALS[m].forms[0], units=1)
        for p in brief.kind.build.places
        for m in (p.usual or ("felt",))[:1]
    )
    stored = 0
    for number in range(VERSIONS):
        versions = []
        for team in made.teams:
            version = builds.start_version(session, challenge, team.id)
            builds.save_draft(version, 1, Draft(plan=Plan(parts, usual), prediction=5.0, change_note="more"))
            version.state, version.issued_at = "issued", version.created_at
            versions.append(version)
        session.flush()
        at = START + timedelta(days=number)
        run = runs.create_run(
            session, challenge, version_ids=[v.id for v in versions], conditions={}, now=at, control=True
        )
        if brief.kind.test.shape == "marks":
            for phase in brief.kind.test.phases:
                runs.start_phase(session, run, brief, phase.key, at)
        trials = _trials(key, number, Plan(parts, usual), brief)
        stored += _store(session, run, brief, trials, logged)
    return challenge.id, stored


_SIMULATED: dict[tuple[str, int], Sequence[Trial]] = {}


def _trials(key: str, number: int, plan: Plan, brief: Brief) -> Sequence[Trial]:
    """What the family's model says of a class of equal builds; the same for every class."""
    if (key, number) not in _SIMULATED:
        _SIMULATED[key, number] = brief.kind.rehearsal.simulate(
            [plan] * TEAMS, brief.values, number, brief.choices
        )
    return _SIMULATED[key, number]


def _store(session: Session, run: Run, brief: Brief, trials: Sequence[Trial], logged: int) -> int:
    readings: list[dict[str, object]] = []
    attempts = []
    by_version = dict(
        zip(dict.fromkeys(e.version_id for e in run.entries if e.version_id), trials, strict=True)
    )

    def keep(entry: Entry, phase: str, trace: Trace) -> None:
        marks = brief.marks.get(phase, ())
        scaled = brief.kind.test.shape == "marks" and bool(brief.read_at(entry.is_air).words)
        by_hand = [(m, float(np.interp(m, trace.time_s, trace.value)), m) for m in marks]
        by_hand = by_hand or [(t, v, None) for t, v in zip(trace.time_s, trace.value, strict=True)]
        moments = np.linspace(trace.time_s[0], trace.time_s[-1], logged)
        values = np.round(np.interp(moments, trace.time_s, trace.value), 2)
        from_file = [(t, v, None) for t, v in zip(moments.tolist(), values.tolist(), strict=True)]
        for k, (t, exact, mark) in enumerate([*by_hand, *from_file]):
            v = float(np.floor(exact)) if scaled else exact
            readings.append(
                {
                    "entry_id": entry.id,
                    "phase": phase,
                    "mark_s": mark,
                    "time_s": t,
                    "value": v,
                    "client_id": f"{entry.id}-{phase}-{k}",
                    "entered_at": START,
                    "arrived_at": START,
                    "timed": True,
                    "source": "hand" if k < len(by_hand) else "file",
                    "question": "",
                }
            )

    for entry in run.entries:
        trial = by_version.get(entry.version_id, trials[0])
        traces = trial.traces if entry.version_id else trial.control
        if brief.kind.test.shape == "races":
            keep(entry, f"race-{entry.position}", next(iter(traces.values())))
            attempts.append(_attempt(entry, {"start_c": 20.0}, 0, f"race-{entry.position}"))
            continue
        for k, a in enumerate(trial.attempts if entry.version_id else ()):
            attempts.append(_attempt(entry, dict(a.values), k))
        if brief.kind.test.shape == "marks":
            for phase in brief.kind.test.phases:
                key = entry.device if entry.version_id and entry.device else None
                key = key or brief.kind.test.trace_key(phase.key, brief.choices)
                found = traces.get(key) or next(iter(traces.values()), None)
                if found is not None:
                    keep(entry, phase.key, found)
    if readings:
        session.execute(insert(Reading), readings)
    if attempts:
        session.execute(insert(AttemptRow), attempts)
    return len(readings) + len(attempts)


def _attempt(entry, values: dict[str, float], k: int, race: str = "") -> dict[str, object]:
    return {
        "entry_id": entry.id,
        "values": values,
        "seen": "",
        "adjusted": "",
        "note": "",
        "free": False,
        "withdrawn": False,
        "race": race,
        "client_id": f"a{entry.id}-{k}",
        "at": START + timedelta(minutes=k),
    }


def measure(folder: Path, side_by_side: SideBySide) -> str:
    """One line a family: the page against its ready-made values, and the first view."""
    lines = [f"findings of each family, {TEAMS} builds x {VERSIONS} versions (aim 3):"]
    for key in all_kinds():
        app, challenge_id, stored = make_family(folder / key, key)
        client, address = app.test_client(), f"/challenges/{challenge_id}/findings"
        kept: dict[str, dict] = {}
        real = view.render_template

        def keep(template: str, into_=kept, real_=real, **values: object) -> str:
            into_[template] = values
            return real_(template, **values)

        with mock.patch.object(view, "render_template", keep):
            assert client.get(address).status_code == 200
        values = kept["findings/index.html"]

        def ready_made(app=app, address=address, values=values) -> None:
            with app.test_request_context(address):
                render_template("findings/index.html", **values)

        def first_view(app=app, client=client, address=address, at=challenge_id) -> float:
            with app.extensions["thermion"].writing() as session:
                session.get_one(Challenge, at).credit += 1e-9
            app.extensions["thermion"].stamps.everything()
            begin = time.perf_counter()
            client.get(address)
            return time.perf_counter() - begin

        def page(client=client, address=address) -> None:
            client.get(address)

        found = side_by_side({"page": page, "render": ready_made}, 25)
        first = statistics.median(first_view() for _ in range(9))
        lines.append(
            f"  {key} ({stored} stored): {found['page'] * 1e3:.1f} ms, ready-made "
            f"{found['render'] * 1e3:.1f} ms, ratio {found['page'] / found['render']:.2f}; "
            f"first view {first * 1e3:.0f} ms"
        )
    return "\n".join(lines)
