"""Runs of a challenge: setting one up, its page in the form its test has, closing it."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import UTC, datetime
from zoneinfo import ZoneInfo

from flask import Blueprint, Response, flash, redirect, request, url_for
from flask.typing import ResponseReturnValue
from flask_wtf import FlaskForm
from sqlalchemy.orm import Session
from wtforms import BooleanField, Field

from thermion.formats.results import results_table, runs_table
from thermion.records import moments
from thermion.records.building import builds
from thermion.records.errors import Gone, Refused, Unsure
from thermion.records.judging.earlier import relearn
from thermion.records.planning.briefs import Brief, get_challenge
from thermion.records.running import pads, rig, runs
from thermion.records.running.conditions import ask_about, taken_instead
from thermion.records.running.on_paper import hold_on_paper, not_from_paper
from thermion.records.running.repeats import already_tested, yardsticks
from thermion.records.running.waves import Wave, apart, next_wave
from thermion.records.stamps import shows_lesson
from thermion.records.tables import Build, Run, Version
from thermion.web.access import BOARDS, DESKS, HELPERS, NOTES, may, own_team
from thermion.web.answers import flash_undo, table_file, unless_same
from thermion.web.components.forms import condition_field, form_of, long_text, pick
from thermion.web.components.frame import day, frame, page
from thermion.web.payloads import form_ids
from thermion.web.places.runs import words
from thermion.web.places.runs.grid import grid_board, grid_page
from thermion.web.places.runs.race import race_board, race_page
from thermion.web.places.runs.station import station_board, station_page
from thermion.web.places.runs.turn import turn_page
from thermion.web.sessions import (
    once,
    open_challenge,
    open_run,
    read_session,
    run_to_change,
    shown_of_run,
    write_session,
)

bp = Blueprint("runs", __name__)
PAGES = {"marks": grid_page, "turns": station_page, "races": race_page}
BOARD_OF = {"marks": grid_board, "turns": station_board, "races": race_board}


@bp.get("/challenges/<int:challenge_id>/runs.<any(csv,json):ending>")
@may(HELPERS)
def listed(challenge_id: int, ending: str) -> Response:
    """The runs with their conditions as data."""
    challenge, brief = open_challenge(challenge_id)
    items = runs.runs_of(read_session(), challenge_id)
    table = runs_table(items, brief, challenge.school_class.zone)
    return table_file(ending, table, f"runs-{challenge_id}", brief.setting)


@dataclass(frozen=True)
class Entrant:
    """A build that can be in a run: its versions, and which one is filled in."""

    build: Build
    versions: list[tuple[Version, str]]
    filled_in: int


@dataclass(frozen=True, kw_only=True)
class RunLine:
    """A run in the list."""

    run: Run
    line: str
    state: str
    tone: str
    apart: str


@bp.route("/challenges/<int:challenge_id>/runs", methods=["GET", "POST"])
@may(HELPERS)
def index(challenge_id: int) -> ResponseReturnValue:
    challenge, brief = open_challenge(challenge_id)
    form = form_of(_run_fields(brief))
    problem: Refused | None = None
    if request.method == "POST" and form.validate():
        try:
            with write_session() as session:
                return once(
                    session, lambda: url_for(".run", run_id=_create(session, challenge_id, brief, form).id)
                )
        except Refused as refused:
            problem = refused
    session = read_session()
    found = [b for b in builds.builds_of(session, challenge_id) if b.versions]
    newest = {b.id: _newest(b.versions) for b in found}
    wave = next_wave(session, challenge, brief, list(newest.values()))
    tested = already_tested(session, challenge_id)
    old = yardsticks(found, [v for v in newest.values() if v], tested)
    rig_open = rig.still_open(session, challenge, brief)
    values = frame(
        challenge,
        "runs",
        form=form,
        problem=problem,
        ways=problem.ways if isinstance(problem, Unsure) else (),
        sure=request.form.getlist("sure"),
        how=[c.key for c in brief.kind.brief.settings(brief.choices) if f"how_{c.key}" in form],
        entrants=[_entrant(b, newest[b.id], wave) for b in found],
        wave=words.wave(wave),
        beside=words.beside(tested, old, sum(v > 0 for v in newest.values())),
        actual=[c for c in brief.kind.brief.settings(brief.choices) if c.actual],
        can_rehearse=brief.kind.can_rehearse(brief.choices),
        rig_open=rig_open,
        rig_words=words.rig_state(rig_open),
        lines=[_run_line(r, challenge.school_class.zone) for r in runs.runs_of(session, challenge_id)][::-1],
    )
    return page("runs/index.html", values, refused=bool(problem or form.errors))


def _newest(versions: list[Version]) -> int:
    return next((v.id for v in reversed(versions) if v.state == "issued"), 0)


def _entrant(build: Build, newest: int, wave: Wave | None) -> Entrant:
    offered = [(v, words.choice_of(v.number, v.state)) for v in build.versions if v.parts]
    return Entrant(build, offered, newest if wave is None or newest in wave.versions else 0)


def _run_line(run: Run, zone: str) -> RunLine:
    state, tone = words.run_state(run)
    line = words.run_line(run, day(run.created_at, zone))
    return RunLine(run=run, line=line, state=state, tone=tone, apart=words.apart_link(run))


def _run_fields(brief: Brief) -> dict[str, Field]:
    fields: dict[str, Field] = {
        c.key: condition_field(c, brief.setting, brief.values[c.key])
        for c in brief.kind.brief.settings(brief.choices)
        if c.actual
    }
    for c in brief.kind.brief.settings(brief.choices):
        if c.actual and c.measured and (request.method != "POST" or f"how_{c.key}" in request.form):
            options = [("measured", "measured"), ("estimated", "estimated")]
            fields[f"how_{c.key}"] = pick(f"{c.label} was", options, "estimated")  # until somebody did
    if brief.kind.test.control:
        label = f"Control beside them: {brief.kind.test.control}"
        fields["control"] = BooleanField(label, default=True)
    fields["note"] = long_text("Anything unusual today", 500)
    speeds = [("1", "1× – the real test"), ("30", "30× – rehearsal"), ("60", "60× – rehearsal")]
    fields["speed"] = pick("Clock", speeds, "1")
    return fields


def _create(session: Session, challenge_id: int, brief: Brief, form: FlaskForm) -> Run:
    conditions: dict[str, float] = {
        c.key: form[c.key].data for c in brief.kind.brief.settings(brief.choices) if c.actual
    }
    conditions |= taken_instead(brief, request.form.getlist("take"), conditions)
    ask_about(session, challenge_id, brief, conditions, request.form.getlist("sure"))
    how = {c: form[f"how_{c}"].data for c in conditions if f"how_{c}" in form}
    speed = float(form["speed"].data)
    return runs.create_run(
        session,
        get_challenge(session, challenge_id),
        version_ids=[number for number in form_ids("version") if number],
        conditions=conditions,
        how=how,
        rehearsal=speed != 1.0,
        speed=speed,
        note=form["note"].data or "",
        apart_s=apart(session, challenge_id),
        control="control" in form and bool(form["control"].data),
    )


@bp.get("/runs/<int:run_id>")
@may(NOTES)
def run(run_id: int) -> ResponseReturnValue:
    item, challenge, brief = open_run(run_id)
    team_id = own_team()
    if team_id is not None:
        return turn_page(item, challenge, brief, team_id)
    return PAGES[brief.kind.test.shape](item, challenge, brief)


@bp.get("/runs/<int:run_id>.<any(csv,json):ending>")
@may(HELPERS)
def as_data(run_id: int, ending: str) -> Response:
    """Everything that was read in a run."""
    item, _, brief = open_run(run_id)
    table = results_table(read_session(), [item], brief)
    return table_file(ending, table, f"run-{item.number}-{table.title.lower()}", brief.setting)


@bp.post("/runs/<int:run_id>/pads")
@may(HELPERS)
def let_pads_read(run_id: int) -> ResponseReturnValue:
    """Whether teams read on their own devices, and if what they type is looked at first."""
    with write_session() as session:
        pads.let_read(runs.get_run(session, run_id), request.form.get("pads", ""))
    return redirect(url_for(".run", run_id=run_id), 303)


@bp.get("/board/runs/<int:run_id>")
@may(BOARDS)
def board(run_id: int) -> ResponseReturnValue:
    """The projector's window on a run; `?light=dark` in a dark room."""
    light = "dark" if request.args.get("light") == "dark" else "light"

    def shown() -> ResponseReturnValue:
        item, challenge, brief = open_run(run_id)
        return BOARD_OF[brief.kind.test.shape](item, challenge, brief, light)

    minute = moments.now().replace(second=0, microsecond=0)  # it tells minutes
    of = shown_of_run(run_id)
    if of:
        of = (*of, *shows_lesson(of[-1][1]))
    return unless_same(shown, light, minute, of=of)


@bp.post("/runs/<int:run_id>/paper")
@may(HELPERS)
def from_paper(run_id: int) -> ResponseReturnValue:
    """Open every mark of a test that was held on paper, at a time of the class's place or at none."""
    try:
        with write_session() as session:
            item, brief = run_to_change(session, run_id)
            if request.form.get("back"):
                not_from_paper(session, item)
            else:
                hold_on_paper(session, item, brief, _began(item.challenge.school_class.zone))
    except Refused as refused:
        if isinstance(refused, Gone):
            raise
        flash(refused.message, "wrong")
    return redirect(url_for(".run", run_id=run_id), 303)


def _began(zone: str) -> datetime | None:
    """The day and time that was typed, at the class's place; None where none was."""
    typed = request.form.get("began", "").strip()
    if not typed:
        return None
    try:
        return datetime.fromisoformat(typed).replace(tzinfo=ZoneInfo(zone)).astimezone(UTC)
    except (ValueError, OverflowError):
        raise Refused(f"“{typed[:30]}” is no day and time.", "began") from None


@bp.post("/runs/<int:run_id>/<any(start,close,reopen,delete):action>")
@may(HELPERS, words={"delete": DESKS})
def act(run_id: int, action: str) -> ResponseReturnValue:
    with write_session() as session:
        item, brief = run_to_change(session, run_id)
        challenge_id, rehearsal = item.challenge_id, item.rehearsal
        if action == "start":
            runs.start_phase(session, item, brief, request.form.get("phase", ""))
        elif action == "close":
            runs.close_run(item)
        elif action == "reopen":
            runs.reopen_run(item)
        else:
            flash_undo(runs.delete_run(session, item))
        if action in ("close", "reopen") and not rehearsal:
            session.flush()
            relearn(session, challenge_id)
    if action in ("start", "reopen"):
        return redirect(url_for(".run", run_id=run_id), 303)
    if action == "close":
        apart = 1 if rehearsal else None
        return redirect(url_for("findings.index", challenge_id=challenge_id, rehearsal=apart), 303)
    return redirect(url_for(".index", challenge_id=challenge_id), 303)
