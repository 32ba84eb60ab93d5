"""Runs: what is happening now, which mark is next, is the number plausible?"""

from __future__ import annotations

from datetime import UTC, datetime
from itertools import pairwise
from typing import Any
from zoneinfo import ZoneInfo

from flask import Blueprint, Response, jsonify, redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue
from wtforms import BooleanField, Field

from thermion.core.physics.units import NotANumber, parse_minutes
from thermion.probes.simulated import SimulatedProbe
from thermion.records.building import builds
from thermion.records.errors import Implausible, Refused
from thermion.records.planning.briefs import Brief, brief_of, get_challenge
from thermion.records.running import rig, runs
from thermion.records.running.readings import ReadingInput, save_reading
from thermion.records.running.waves import apart, next_wave
from thermion.records.tables import Challenge, Entry, Run
from thermion.web.bars import run_bars
from thermion.web.charts import TALL, WIDE
from thermion.web.errors import status_of
from thermion.web.forms import condition_field, form_of, long_text, pick
from thermion.web.page import data_page, frame, once, open_challenge, reading, sent_json, svg_file, writing
from thermion.web.pictures import chart_svg, run_chart
from thermion.web.run_state import cell_of, minutes_text, shown, state_of, word_pictures
from thermion.web.run_tables import readings_table, runs_table
from thermion.web.views.later import later_panel
from thermion.web.views.race import race_board, race_page
from thermion.web.views.station import station_board, station_page

bp = Blueprint("runs", __name__)


@bp.get("/challenges/<int:challenge_id>/runs.<any(csv,json):ending>")
def listed(challenge_id: int, ending: str) -> ResponseReturnValue:
    """The runs with their conditions as data."""
    challenge, brief = open_challenge(challenge_id)
    items = runs.runs_of(reading(), challenge_id)
    table = runs_table(items, brief, challenge.school_class.zone)
    return data_page(ending, "", lambda: table, f"runs-{challenge_id}", {"setting": brief.setting})


@bp.route("/challenges/<int:challenge_id>/runs", methods=["GET", "POST"])
def index(challenge_id: int) -> ResponseReturnValue:
    challenge, brief = open_challenge(challenge_id)
    form = form_of(_run_fields(brief))
    problem: Refused | None = None
    if request.method == "POST" and form.validate():
        try:
            with writing() as session:
                return once(
                    session,
                    request.form.get("once", ""),
                    lambda: url_for(".run", run_id=_create(session, challenge_id, brief, form).id),
                )
        except Refused as refused:
            problem = refused
    found = builds.builds_of(reading(), challenge_id)
    choices = [
        {"build": b, "versions": [v for v in b.versions if v.parts], "newest": _newest(b.versions)}
        for b in found
        if b.versions
    ]
    wave = next_wave(reading(), challenge, brief, [c["newest"] for c in choices])
    for choice in choices:
        if wave is not None and choice["newest"] not in wave.versions:
            choice["newest"] = 0
    values = frame(
        challenge,
        "runs",
        form=form,
        problem=problem,
        choices=choices,
        runs=runs.runs_of(reading(), challenge_id),
        speeds=runs.SPEEDS,
        wave=wave,
        rig_open=rig.still_open(reading(), challenge, brief),
    )
    return render_template("runs/index.html", **values), 422 if problem or form.errors else 200


def _newest(versions: list[Any]) -> int:
    issued = [v.id for v in versions if v.state == "issued"]
    return issued[-1] if issued else 0


def _run_fields(brief: Brief) -> dict[str, Field]:
    fields: dict[str, Field] = {
        c.key: condition_field(c, brief.setting, brief.values[c.key])
        for c in brief.kind.brief.settings(brief.choices)
        if c.actual
    }
    if brief.kind.test.control:
        fields["control"] = BooleanField(f"Control beside them: {brief.kind.test.control}", default=True)
    fields["note"] = long_text("Sky, place, anything unusual", 500)
    speeds = [("1", "1× – the real test"), ("30", "30× – rehearsal"), ("60", "60× – rehearsal")]
    fields["speed"] = pick("Clock", speeds, "1")
    return fields


def _create(session: Any, challenge_id: int, brief: Brief, form: Any) -> Run:
    conditions = {c.key: form[c.key].data for c in brief.kind.brief.settings(brief.choices) if c.actual}
    speed = float(form["speed"].data)
    return runs.create_run(
        session,
        get_challenge(session, challenge_id),
        version_ids=[int(v) for v in request.form.getlist("version") if v.isdigit() and v != "0"],
        conditions=conditions,
        rehearsal=speed != 1.0,
        speed=speed,
        note=form["note"].data or "",
        apart_s=apart(session, challenge_id),
        control="control" in form and bool(form["control"].data),
    )


def open_run(run_id: int) -> tuple[Run, Challenge, Brief]:
    run = runs.get_run(reading(), run_id)
    challenge, brief = open_challenge(run.challenge_id)
    return run, challenge, brief


@bp.get("/runs/<int:run_id>")
@bp.get("/runs/<int:run_id>.<any(csv,json):ending>")
def run(run_id: int, ending: str | None = None) -> ResponseReturnValue:
    item, challenge, brief = open_run(run_id)
    if brief.kind.test.held == "races" and ending is None:
        return race_page(item, challenge, brief)
    if brief.kind.test.held != "marks":
        return station_page(item, challenge, brief, ending)
    if ending is not None:
        return data_page(
            ending,
            "",
            lambda: readings_table([item], brief),
            f"run-{item.number}-readings",
            {"setting": brief.setting},
        )
    values = frame(
        challenge,
        "runs",
        run=item,
        state=state_of(item, brief),
        chart=_chart(item, brief),
        words=word_pictures(brief),
        later=later_panel(item, brief, challenge.school_class.zone),
    )
    return render_template("runs/run.html", **values)


@bp.get("/board/runs/<int:run_id>")
def board(run_id: int) -> ResponseReturnValue:
    """The projector's window on a run: clock, next mark, curves; no controls."""
    item, challenge, brief = open_run(run_id)
    if brief.kind.test.held == "races":
        return race_board(item, challenge, brief)
    if brief.kind.test.held == "turns":
        return station_board(item, challenge, brief)
    values = frame(challenge, "runs", run=item, state=state_of(item, brief), chart=_chart(item, brief))
    return render_template("runs/board.html", **values)


@bp.get("/runs/<int:run_id>/state.json")
def state(run_id: int) -> ResponseReturnValue:
    item, _, brief = open_run(run_id)
    return jsonify(state_of(item, brief))


def _chart(item: Run, brief: Brief, height: float = TALL) -> str:
    """Curves of the run so far; of a scale in words, when each row got where it counts."""
    if brief.read_at(air=False).words:
        return run_bars(reading(), item, brief)
    found = runs.current_readings(reading(), [item.id])
    return chart_svg(run_chart(item.entries, found, brief, height))


@bp.get("/runs/<int:run_id>/curves.svg")
def curves(run_id: int) -> Response:
    item, _, brief = open_run(run_id)
    if request.headers.get("X-Inline"):
        height = WIDE if request.args.get("wide") else TALL
        return Response(_chart(item, brief, height), mimetype="text/html")
    return svg_file(_chart(item, brief, WIDE), f"run-{item.number}-curves")


@bp.post("/runs/<int:run_id>/<any(start,close,reopen,delete):action>")
def act(run_id: int, action: str) -> ResponseReturnValue:
    with writing() as session:
        item = runs.get_run(session, run_id)
        challenge_id = item.challenge_id
        if action == "start":
            brief = brief_of(get_challenge(session, challenge_id))
            runs.start_phase(session, item, brief, request.form.get("phase", ""))
        elif action == "close":
            runs.close_run(item)
        elif action == "reopen":
            runs.reopen_run(item)
        else:
            runs.delete_run(session, item)
    if action in ("start", "reopen"):
        return redirect(url_for(".run", run_id=run_id), 303)
    if action == "close":
        apart = {"rehearsal": 1} if item.rehearsal else {}
        return redirect(url_for("findings.index", challenge_id=challenge_id, **apart), 303)
    return redirect(url_for(".index", challenge_id=challenge_id), 303)


@bp.post("/runs/<int:run_id>/start.json")
def start(run_id: int) -> ResponseReturnValue:
    """Start a phase without leaving the page; a second click changes nothing."""
    with writing() as session:
        item = runs.get_run(session, run_id)
        brief = brief_of(get_challenge(session, item.challenge_id))
        runs.start_phase(session, item, brief, str(sent_json().get("phase", "")))
    return state(run_id)


@bp.post("/runs/<int:run_id>/readings")
def save(run_id: int) -> ResponseReturnValue:
    """One reading from a screen. Answered only after it is on the disk."""
    sent = sent_json()
    try:
        item = _input(sent)
        with writing() as session:
            saved = save_reading(session, run_id, item)
    except Implausible as refused:
        return jsonify(error=refused.message, field="value", suggestion=refused.suggestion), 422
    except Refused as refused:
        return jsonify(error=refused.message, field=refused.field), status_of(refused)
    cell = cell_of(saved.reading, 1 if saved.reading.supersedes_id else 0, saved.setting, saved.quantity)
    return jsonify(cell=cell, note=saved.check.message, repeated=saved.repeated)


def _clock_seconds(text: str) -> float:
    try:
        return parse_minutes(text)
    except NotANumber as error:
        raise Refused(str(error), "time") from None


def _input(sent: dict[str, Any]) -> ReadingInput:
    """A reading as sent by the grid; Refused when it is not one."""
    try:
        at = sent.get("at")
        supersedes = sent.get("supersedes")
        entered = datetime.fromisoformat(str(sent["entered_at"]))
        if entered.tzinfo is None:
            entered = entered.replace(tzinfo=UTC)
        return ReadingInput(
            entry_id=int(sent["entry"]),
            phase=str(sent["phase"])[:16],
            mark_s=float(sent["mark"]),
            given=str(sent.get("typed", ""))[:40],
            client_id=str(sent["client_id"])[:64],
            entered_at=entered,
            supersedes_id=None if supersedes is None else int(supersedes),
            at_s=None if at in (None, "") else _clock_seconds(str(at)),
            keep=bool(sent.get("keep")),
        )
    except (KeyError, TypeError, ValueError) as error:
        raise Refused(f"This reading could not be understood ({error}).") from None


@bp.get("/runs/<int:run_id>/readings/<int:reading_id>/history.json")
def history(run_id: int, reading_id: int) -> ResponseReturnValue:
    """A value and what stood there before, newest first."""
    item, challenge, brief = open_run(run_id)
    zone = ZoneInfo(challenge.school_class.zone)
    air = {e.id for e in item.entries if e.is_air}
    rows = [
        {
            "text": shown(r, brief, air),
            "time": minutes_text(r.time_s),
            "entered": r.entered_at.astimezone(zone).strftime("%H:%M:%S"),
            "source": r.source,
        }
        for r in runs.history(reading(), item, reading_id)
    ]
    return jsonify(rows=rows)


@bp.post("/runs/<int:run_id>/probe")
def probe(run_id: int) -> ResponseReturnValue:
    """In a rehearsal: ask the row's stand-in probe now and store what it says."""
    sent = sent_json()
    item, _, brief = open_run(run_id)
    if not item.rehearsal:
        raise Refused("Simulated probes read only in a rehearsal.")
    entry = next((e for e in item.entries if e.id == sent.get("entry")), None)
    clock = next((c for c in runs.clocks(item, brief) if c.phase == sent.get("phase")), None)
    if entry is None or clock is None or clock.started_at is None:
        raise Refused("There is nothing to read there.")
    now = datetime.now(UTC)
    device = _probe_of(item, entry, brief)
    value = device.read(clock.phase, max(clock.elapsed_s(now), 0.0))
    with writing() as session:
        saved = save_reading(
            session,
            run_id,
            ReadingInput(
                entry.id,
                clock.phase,
                float(sent["mark"]),
                value,
                str(sent["client_id"])[:64],
                now,
                source="probe",
                keep=True,
            ),
        )
    return jsonify(cell=cell_of(saved.reading, 0, brief.setting, saved.quantity))


def _probe_of(item: Run, entry: Entry, brief: Brief) -> SimulatedProbe:
    started = {p.phase: p.started_at for p in item.phases}
    order = [p.key for p in brief.kind.test.phases]
    lengths = {
        a: (started[b] - started[a]).total_seconds() * item.speed
        for a, b in pairwise(order)
        if a in started and b in started
    }
    plan = builds.plan_of(entry.version) if entry.version else None
    conditions = {**brief.values, **{c.key: c.value for c in item.conditions}}
    return SimulatedProbe(brief.kind, conditions, plan, item.seed * 100 + entry.position, lengths)
