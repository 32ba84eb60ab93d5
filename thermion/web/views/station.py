"""A station: whose turn is it, what came of it, what next?"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from flask import Blueprint, flash, jsonify, redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue

from thermion.core.judging.observed import quantity_of
from thermion.core.kinds.testing import Reads
from thermion.core.physics.units import convert, stored_unit
from thermion.core.planning.week import still_fits
from thermion.records.building import builds
from thermion.records.errors import Refused
from thermion.records.planning.briefs import Brief, brief_of, get_challenge
from thermion.records.planning.week import bell_of, timing_of
from thermion.records.running import attempts, runs
from thermion.records.running.attempts import AttemptInput, Queue
from thermion.records.tables import AttemptRow, Challenge, Entry, Run
from thermion.web.charts import nice_ticks
from thermion.web.page import data_page, frame, open_challenge, reading, writing
from thermion.web.pictures import drawing_svg, plan_drawing
from thermion.web.run_tables import attempts_table
from thermion.web.views.later import later_panel

bp = Blueprint("station", __name__)


@dataclass(frozen=True)
class Field:
    """What is typed or pointed at for one attempt: `most` in the shown unit."""

    read: Reads
    unit: str
    most: float
    typed: str

    @property
    def ticks(self) -> list[float]:
        """Round numbers on the scale it is pointed at on, up to what can be."""
        steps = 12 if self.read.scale == "track" else 6
        return [t for t in nice_ticks(0.0, self.most, steps) if t <= self.most * (1 + 1e-9)]


@dataclass(frozen=True)
class Line:
    """One attempt in words."""

    row: AttemptRow
    entry: Entry
    label: str
    numbers: tuple[str, ...]
    seen: tuple[str, ...]
    before: tuple[str, ...] = ()  # what stood there before it was corrected


def station_page(
    item: Run,
    challenge: Challenge,
    brief: Brief,
    ending: str | None = None,
    problem: Refused | None = None,
    typed: Any = None,
) -> ResponseReturnValue:
    """The desk's page of a test by turns."""
    if ending is not None:
        return data_page(
            ending,
            "",
            lambda: attempts_table([item], brief),
            f"run-{item.number}-attempts",
            {"setting": brief.setting},
        )
    values = station_values(item, challenge, brief)
    chosen = values["chosen"]
    correct = request.args.get("correct", type=int)
    old = next((r for r in values["rows"] if r.id == correct), None)
    if old is not None:
        chosen = next(e for e in item.entries if e.id == old.entry_id)
    mine = [attempts.as_core(r) for r in values["rows"] if chosen and r.entry_id == chosen.id]
    rig = {**brief.values, **{c.key: c.value for c in item.conditions}}
    fill, words = brief.kind.test.suggest(mine, rig, brief.choices)
    values |= {
        "chosen": chosen,
        "old": old,
        "problem": problem,
        "suggestion": words,
        "fields": _fields(brief, old.values if old else fill, typed),
        "typed": typed or {},
        "observations": brief.kind.test.observations,
        "picture": drawing_svg(plan_drawing(builds.plan_of(chosen.version), brief))
        if chosen is not None and chosen.version is not None
        else "",
        "later": later_panel(item, brief, challenge.school_class.zone, chosen.id)
        if chosen is not None
        else None,
    }
    page = render_template("runs/station.html", **frame(challenge, "runs", run=item, **values))
    return page, 422 if problem else 200


def station_board(item: Run, challenge: Challenge, brief: Brief) -> ResponseReturnValue:
    """The projector's window: who is on, who is next, what came out."""
    values = station_values(item, challenge, brief)
    return render_template("runs/station_board.html", **frame(challenge, "runs", run=item, **values))


def station_values(item: Run, challenge: Challenge, brief: Brief) -> dict[str, Any]:
    """Queue, waits, attempts and whose turn is noted: what every page of a queue shows."""
    rows = attempts.current_attempts(reading(), [item.id])
    was = attempts.replaced(reading(), item.id, rows)
    timing = timing_of(reading(), challenge, brief)
    queue = attempts.queue_of(item, rows, timing)
    turn = timing.fit_s + timing.run_s + timing.reset_s
    by_id = {e.id: e for e in item.entries}
    waits = {e.id: queue.wait_s(e.id, turn) for e in item.entries}
    fits = ""
    bell = bell_of(reading(), challenge.class_id, runs.now())
    if bell is not None:
        fits = still_fits(brief.kind, timing, len(item.entries), brief.marks, bell[0].until_pack_up_s)
    return {
        "rows": rows,
        "queue": queue,
        "on": [by_id[i] for i in queue.on],
        "after": [by_id[i] for i in queue.after[:2]],
        "waits": waits,
        "fits": fits,
        "lines": [_line(r, by_id[r.entry_id], brief, was.get(r.id, ())) for r in rows],
        "chosen": _chosen(queue, item),
        "pulse": attempts.pulse(reading(), item),
    }


def _chosen(queue: Queue, item: Run) -> Entry | None:
    """Whose attempt is being noted: the one asked for, or the first on a station."""
    wanted = request.args.get("entry", type=int) or request.form.get("entry", type=int)
    found = next((e for e in item.entries if e.id == wanted), None)
    if found is None and queue.on:
        found = next(e for e in item.entries if e.id == queue.on[0])
    return found


def _fields(brief: Brief, fill: Any, typed: Any) -> list[Field]:
    out = []
    for read in brief.kind.test.attempt_reads(brief.choices):
        most = convert(quantity_of(read, brief.values, fill).high, stored_unit(read.unit), read.unit)
        shown = brief.setting.typed(fill.get(read.key), read.unit, 2)
        text = typed.get(read.key, "") if typed is not None else shown
        out.append(Field(read, brief.setting.label(read.unit), most, text))
    return out


def _numbers(row: AttemptRow, brief: Brief) -> tuple[str, ...]:
    """What was read of an attempt, in words."""
    numbers = []
    for read in brief.kind.test.attempt_reads(brief.choices):
        value = row.values.get(read.key)
        if value is None:
            continue
        if read.words:
            numbers.append(read.words[min(round(value), len(read.words) - 1)])
        else:
            digits = 0 if read.resolution >= 1 else 1
            things = read.things[0 if value == 1 else 1]
            numbers.append(f"{brief.setting.show(value, read.unit, digits)} {things}".strip())
    return tuple(numbers)


def _line(row: AttemptRow, entry: Entry, brief: Brief, was: Sequence[AttemptRow] = ()) -> Line:
    before = tuple(", ".join(_numbers(r, brief)) for r in was)
    seen = tuple(o.seen for o in brief.kind.test.observations if o.key in row.seen.split())
    version = f"v{entry.version.number}{row.adjusted}" if entry.version else ""
    return Line(row, entry, version, _numbers(row, brief), seen, before)


@bp.get("/runs/<int:run_id>/pulse.json")
def pulse(run_id: int) -> ResponseReturnValue:
    """Has another screen noted something meanwhile?"""
    item = runs.get_run(reading(), run_id)
    return jsonify(pulse=attempts.pulse(reading(), item))


@bp.post("/runs/<int:run_id>/attempts")
def save(run_id: int) -> ResponseReturnValue:
    """Keep one attempt; "nothing moved" is one button."""
    sent = request.form
    try:
        with writing() as session:
            item = runs.get_run(session, run_id)
            brief = brief_of(get_challenge(session, item.challenge_id))
            reads = brief.kind.test.attempt_reads(brief.choices)
            typed = {r.key: sent.get(r.key, "") for r in reads}
            if sent.get("zero"):
                typed |= {r.key: "0" for r in reads if r.zero}
                typed |= {r.key: "" for r in reads if r.optional}
            noted = attempts.note_attempt(
                session,
                item,
                brief,
                AttemptInput(
                    sent.get("entry", 0, type=int),
                    typed,
                    sent.get("once", "")[:64],
                    tuple(sent.getlist("seen")),
                    "free" in sent,
                    "adjusted" in sent,
                    sent.get("note", ""),
                    sent.get("supersedes", type=int),
                ),
            )
        for question in noted.questions:
            flash(f"{question} It was kept.")
    except Refused as refused:
        item = runs.get_run(reading(), run_id)
        challenge, brief = open_challenge(item.challenge_id)
        return station_page(item, challenge, brief, problem=refused, typed=sent)
    return redirect(url_for("runs.run", run_id=run_id), 303)


@bp.post("/runs/<int:run_id>/attempts/<int:attempt_id>/back")
def back(run_id: int, attempt_id: int) -> ResponseReturnValue:
    with writing() as session:
        item = runs.get_run(session, run_id)
        attempts.take_back(session, item, attempt_id, request.form.get("once", "")[:64])
    return redirect(url_for("runs.run", run_id=run_id), 303)


@bp.post("/runs/<int:run_id>/entries/<int:entry_id>/left")
def left(run_id: int, entry_id: int) -> ResponseReturnValue:
    with writing() as session:
        item = runs.get_run(session, run_id)
        attempts.leave(session, item, entry_id, request.form.get("state", ""))
    return redirect(url_for("runs.run", run_id=run_id), 303)
