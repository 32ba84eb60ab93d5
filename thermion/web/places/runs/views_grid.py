"""The grid's addresses: its state, its curves, readings from a screen or a stand-in probe."""

from __future__ import annotations

from itertools import pairwise
from typing import TYPE_CHECKING
from zoneinfo import ZoneInfo

from flask import Blueprint, Response, request

from thermion.core.judging.observed import quantity_of
from thermion.core.physics.units import NotANumber, clock_text, parse_minutes
from thermion.records import moments
from thermion.records.building.builds import plan_of
from thermion.records.errors import Refused
from thermion.records.judging.earlier import relearn
from thermion.records.planning.briefs import Brief
from thermion.records.running import runs
from thermion.records.running.readings import ReadingInput, Saved, save_reading
from thermion.records.tables import Entry, Run
from thermion.web.access import BOARDS, DESKS, HELPERS, STATIONS, may
from thermion.web.answers import svg_file, unless_same
from thermion.web.described import speaks
from thermion.web.payloads import answer, sent
from thermion.web.pictures.curves import BOARD, TALL, WIDE
from thermion.web.places.runs.grid import cell_of, chart_of, state_of
from thermion.web.places.runs.payloads import (
    Earlier,
    History,
    ProbeSent,
    ReadingSaved,
    ReadingSent,
    RunState,
    StartSent,
)
from thermion.web.sessions import (
    database,
    followed_run,
    made_of_run,
    open_run,
    read_session,
    run_to_change,
    shown_of_run,
    write_session,
)

if TYPE_CHECKING:
    from thermion.probes.simulated import SimulatedProbe

YOUNG_S = 1.5  # curves are drawn no more often, however many screens look and type
bp = Blueprint("grid", __name__, url_prefix="/runs/<int:run_id>")


@bp.get("/state.json")
@may(BOARDS)
@speaks(RunState)
def state(run_id: int) -> Response:
    """The whole run as its grid shows it: rows, clocks with their marks, cells."""
    return unless_same(lambda: _state(run_id), of=shown_of_run(run_id))


def _state(run_id: int) -> Response:
    item, _, brief = followed_run(run_id)
    return answer(state_of(item, brief))


@bp.get("/curves.svg")
@may(BOARDS)
def curves(run_id: int) -> Response:
    item, _, brief = followed_run(run_id)
    if request.headers.get("X-Inline"):
        height = BOARD if request.args.get("board") else TALL
        drawn, fresh = database().recent(
            ("curves", run_id, height),
            lambda: chart_of(item, brief, height),
            of=shown_of_run(run_id),
            young_s=YOUNG_S,
        )
        inline = Response(drawn, mimetype="text/html")
        if not fresh:
            inline.headers["X-Again"] = "1"  # ask again soon: there is more already
        return inline
    return svg_file(chart_of(item, brief, WIDE), f"run-{item.number}-curves")


@bp.post("/start.json")
@may(HELPERS)
@speaks(RunState, StartSent)
def start(run_id: int) -> Response:
    """Start a phase without leaving the page; a second click changes nothing."""
    phase = sent(StartSent).phase
    with write_session() as session:
        item, brief = run_to_change(session, run_id)
        runs.start_phase(session, item, brief, phase)
    return _state(run_id)


@bp.post("/readings")
@may(HELPERS)
@speaks(ReadingSaved, ReadingSent)
def save(run_id: int) -> Response:
    """One reading from a screen. Answered only after it is on the disk."""
    given = sent(ReadingSent)
    item = ReadingInput(
        entry_id=given.entry,
        phase=given.phase,
        mark_s=given.mark,
        given=given.typed,
        client_id=given.client_id,
        entered_at=given.entered_at,
        supersedes_id=given.supersedes,
        at_s=_by_hand(given.at),
        keep=given.keep,
        after=given.after,
        way=given.way,
    )
    with write_session(("run", run_id)) as session:
        saved = save_reading(session, run_id, item, made=made_of_run())
        if saved.learn_again is not None:
            relearn(session, saved.learn_again)
    return _saved(saved)


def _saved(saved: Saved) -> Response:
    earlier = 1 if saved.reading.supersedes_id else 0
    cell = cell_of(saved.reading, earlier, saved.setting, saved.quantity)
    return answer(ReadingSaved(cell=cell, note=saved.check.message, repeated=saved.repeated))


def _by_hand(time: str | None) -> float | None:
    """A time given by hand [s]."""
    if not time:
        return None
    try:
        return parse_minutes(time)
    except NotANumber as error:
        raise Refused(str(error), "time") from None


@bp.get("/readings/<int:reading_id>/history.json")
@may(STATIONS)
@speaks(History)
def history(run_id: int, reading_id: int) -> Response:
    """A value and what stood there before, newest first."""
    item, challenge, brief = open_run(run_id)
    zone = ZoneInfo(challenge.school_class.zone)
    air = {e.id for e in item.entries if e.is_air}
    rows = []
    for r in runs.history(read_session(), item, reading_id):
        quantity = quantity_of(brief.read_at(r.entry_id in air))
        rows.append(
            Earlier(
                text=brief.setting.show(r.value, quantity.unit, quantity.digits),
                time=clock_text(r.time_s),
                entered=r.entered_at.astimezone(zone).strftime("%H:%M:%S"),
                source=r.source,
                by=r.by,
            )
        )
    return answer(History(rows=rows))


@bp.post("/probe")
@may(DESKS)
@speaks(ReadingSaved, ProbeSent)
def probe(run_id: int) -> Response:
    """In a rehearsal: ask the row's stand-in probe now and store what it says."""
    given = sent(ProbeSent)
    item, _, brief = open_run(run_id)
    if not item.rehearsal:
        raise Refused("Simulated probes read only in a rehearsal.")
    entry = next((e for e in item.entries if e.id == given.entry), None)
    clock = next((c for c in runs.clocks(item, brief) if c.phase == given.phase), None)
    if entry is None or clock is None or clock.started_at is None:
        raise Refused("There is nothing to read there.")
    now = moments.now()
    elapsed = max(clock.elapsed_s(now), 0.0)
    slot = next((s for s in clock.slots if s.mark_s == given.mark), None)
    late = slot is not None and elapsed > slot.due_until_s  # read afterwards: what it showed at its mark
    value = _probe_of(item, entry, brief).read(clock.phase, given.mark if late else elapsed)
    reading = ReadingInput(
        entry_id=entry.id,
        phase=clock.phase,
        mark_s=given.mark,
        given=value,
        client_id=given.client_id,
        entered_at=now,
        source="probe",
        keep=True,
    )
    with write_session(("run", run_id)) as session:
        saved = save_reading(session, run_id, reading)
    return _saved(saved)


def _probe_of(item: Run, entry: Entry, brief: Brief) -> SimulatedProbe:
    from thermion.probes.simulated import SimulatedProbe  # with all that rehearsals need

    started = {p.phase: p.started_at for p in item.phases}
    order = [p.key for p in brief.kind.test.phases]
    lengths = {
        a: (started[b] - started[a]).total_seconds() * item.speed
        for a, b in pairwise(order)
        if a in started and b in started
    }
    plan = plan_of(entry.version) if entry.version else None
    conditions = {**brief.values, **{c.key: c.value for c in item.conditions}}
    return SimulatedProbe(
        kind=brief.kind,
        conditions=conditions,
        plan=plan,
        seed=item.seed * 100 + entry.position,
        lengths_s=lengths,
    )
