"""A station: whose turn is it, what came of it, what next?"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from flask import render_template, request
from flask.typing import ResponseReturnValue
from werkzeug.datastructures import MultiDict

from thermion.core.judging.observed import quantity_of
from thermion.core.kinds import get_kind
from thermion.core.kinds.testing import Reads
from thermion.core.kinds.when import holds
from thermion.core.physics.units import convert, stored_unit
from thermion.core.planning.pads import Pads
from thermion.core.planning.week import still_fits
from thermion.records import moments
from thermion.records.acting import is_team
from thermion.records.building import builds
from thermion.records.errors import Refused
from thermion.records.judging.evidence import run_figures
from thermion.records.planning.briefs import Brief
from thermion.records.planning.week import bell_of, timing_of
from thermion.records.running import attempts
from thermion.records.running.attempts import Queue
from thermion.records.running.placed_probes import read_by_machine
from thermion.records.tables import AttemptRow, Challenge, Entry, Run
from thermion.web.components.frame import frame, page
from thermion.web.payloads import row_id
from thermion.web.pictures.attempt_rows import BOARD, attempt_chart
from thermion.web.pictures.curves import nice_ticks
from thermion.web.pictures.drawings import SMALL, board_svg, plan_svg
from thermion.web.places.runs import words
from thermion.web.places.runs.again import again
from thermion.web.places.runs.later_readings import later_panel
from thermion.web.sessions import read_session

Typed = MultiDict[str, str]


@dataclass(frozen=True)
class AttemptField:
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


@dataclass(frozen=True, kw_only=True)
class NotedLine:
    """One attempt in words."""

    row: AttemptRow
    entry: Entry
    numbers: str
    label: str
    remark: str
    by_team: bool  # noted by the team itself
    before: tuple[str, ...] = ()  # what stood there before it was corrected


@dataclass(frozen=True, kw_only=True)
class Seen:
    """Something that can be seen at the test, with its question; `on` when it was."""

    key: str
    seen: str
    ask: str
    on: bool
    own: bool = False


@dataclass(frozen=True)
class QueueRow:
    """A row in the queue: how far it is and how long it waits."""

    entry: Entry
    state: str
    wait: str


@dataclass(frozen=True, kw_only=True)
class StationQueue:
    """One of several stations: its number, who is on, and the turns in its queue."""

    number: int
    on: Entry | None
    turns: list[QueueRow]


@dataclass(frozen=True, kw_only=True)
class QueueShown:
    """What every page of a queue shows."""

    rows: Sequence[AttemptRow]
    queue: Queue
    on: list[Entry]
    after: list[QueueRow]
    turns: list[QueueRow]
    lines: list[NotedLine]
    stations: list[StationQueue]  # where there are several
    station: int  # at which this screen stands; 0: at none
    chosen: Entry | None
    left: str
    all_had: str
    fits: str
    close: str
    in_row: bool
    may_split: bool  # into the queues of two stations
    several: bool  # attempts of each, so that there are two orders
    order: str  # whose turns come, by the numbers of their rows: for a screen without a connection
    pulse: str
    pads_words: Mapping[Pads, str]  # whether the teams note on their own devices

    def values(self) -> dict[str, object]:
        return dict(vars(self))


def queue_shown(run: Run, challenge: Challenge, brief: Brief) -> QueueShown:
    """Queue, waits, attempts and whose turn is noted."""
    session = read_session()
    rows = attempts.current_attempts(session, [run.id])
    was = attempts.replaced(session, run.id, rows)
    timing = timing_of(session, challenge, brief)
    queue = attempts.queue_of(run, rows, timing)
    by_id = {e.id: e for e in run.entries}
    again_s = timing.run_s + timing.reset_s
    waits = {e.id: queue.wait_s(e.id, timing.fit_s + again_s, again_s) for e in run.entries}
    turns = {
        e.id: QueueRow(e, words.turn_state(e, queue, waits[e.id]), words.minutes(waits[e.id]))
        for e in run.entries
        if e.id in queue.done
    }
    fits = ""
    bell = bell_of(session, challenge.class_id, moments.now())
    if bell is not None:
        fits = still_fits(brief.kind, timing, len(run.entries), brief.marks, bell[0].until_pack_up_s)
    on = [by_id[i] for i in queue.on]
    split = len(queue.stations) > 1 and brief.kind.test.shape == "turns"
    station = row_id(request.values.get("station")) or 0
    return QueueShown(
        rows=rows,
        queue=queue,
        on=on,
        after=[turns[i] for i in queue.after[:2]],
        turns=list(turns.values()),
        lines=[_line(r, by_id[r.entry_id], brief, was.get(r.id, ())) for r in rows],
        chosen=_chosen(queue, run),
        left=words.turns_left(queue),
        all_had=words.all_had(queue),
        fits=words.fits_before(fits),
        close=words.close_question(on),
        in_row=timing.in_row,
        may_split=brief.kind.test.shape == "turns" and len(queue.done) > 1,
        several=timing.attempts > 1 and brief.kind.test.shape == "turns",
        stations=_stations(queue, turns) if split else [],
        station=station if station <= len(queue.stations) else 0,
        order=" ".join(str(i) for i in queue.of_station(station)),
        pulse=attempts.pulse(session, run),
        pads_words=words.PADS,
    )


def _stations(queue: Queue, turns: Mapping[int, QueueRow]) -> list[StationQueue]:
    return [
        StationQueue(
            number=number,
            on=turns[mine[0]].entry if mine else None,
            turns=[turns[i] for i in dict.fromkeys(mine[1:]) if i != mine[0]],
        )
        for number, mine in enumerate(queue.stations, 1)
    ]


def station_page(
    run: Run, challenge: Challenge, brief: Brief, problem: Refused | None = None, typed: Typed | None = None
) -> ResponseReturnValue:
    """The desk's page of a test by turns."""
    shown = queue_shown(run, challenge, brief)
    correct = row_id(request.args.get("correct"))
    old = next((r for r in shown.rows if r.id == correct), None)
    chosen = shown.chosen if old is None else next(e for e in run.entries if e.id == old.entry_id)
    values = frame(challenge, "runs", run=run, where=words.where(run), **shown.values())
    values |= {"chosen": chosen, "old": old, "problem": problem, "typed": typed or MultiDict()}
    values["no_turn"] = words.no_turn(run, "turn")
    values["again"] = again(run, challenge, brief, all_had=not shown.queue.on)
    values["aparts"] = words.apart_line(run, brief)
    if chosen is not None:
        fill, suggestion = suggested(run, brief, shown.rows, chosen)
        waiting = [e for e in run.entries if e.version is not None]
        version = chosen.version
        values |= {
            "heading": words.turn_heading(shown.queue, chosen, "Attempt", old is not None),
            "suggestion": suggestion,
            "fields": attempt_fields(brief, old.values if old else fill, typed),
            "fills": {e.id: _filled(run, brief, shown.rows, e) for e in waiting},
            "observations": observations(brief, old, typed),
            "picture": plan_svg(builds.plan_of(version), brief, SMALL) if version else "",
            "later": later_panel(run, brief, challenge.school_class.zone, chosen.id),
            "machines": set() if old or run.closed_at else read_by_machine(read_session(), run),
        }
    return page("runs/station.html", values, refused=problem is not None)


def suggested(
    run: Run, brief: Brief, rows: Sequence[AttemptRow], entry: Entry
) -> tuple[Mapping[str, float], str]:
    """What a build's next attempt begins with [stored units], and that in words."""
    test = brief.kind.test
    mine = [attempts.as_core(r) for r in rows if r.entry_id == entry.id]
    rig = {**brief.values, **{c.key: c.value for c in run.conditions}}
    if not mine and holds(test.goes_on, brief.choices):
        before = attempts.earlier_attempts(read_session(), run, entry)
        if before:
            fill, words_of_it = test.suggest([attempts.as_core(r) for r in before], rig, brief.choices)
            return fill, words.as_before(words_of_it)
    return test.suggest(mine, rig, brief.choices)


def _filled(run: Run, brief: Brief, rows: Sequence[AttemptRow], entry: Entry) -> dict[str, str]:
    """The same as it is filled in, for a page that chooses the next build without a connection."""
    fill, _ = suggested(run, brief, rows, entry)
    return {f.read.key: f.typed for f in attempt_fields(brief, fill, None) if f.typed}


def station_board(run: Run, challenge: Challenge, brief: Brief, light: str) -> ResponseReturnValue:
    """The projector's window: who is on, who is next, what came out."""
    shown = queue_shown(run, challenge, brief)
    values = frame(challenge, "runs", run=run, light=light, **shown.values())
    on = next((e.version for e in shown.on if e.version), None)
    values["attempts"] = _all_on_one_scale(run, brief)
    values["picture"] = ""
    if on is not None:  # beside the attempts it is small, and small words are not read at the back
        plan = builds.plan_of(on)
        values["picture"] = plan_svg(plan, brief, SMALL) if values["attempts"] else board_svg(plan, brief)
    values["waiting"] = words.meanwhile(brief, len(shown.rows)) if shown.after else ""
    return render_template("runs/station_board.html", **values)


def _all_on_one_scale(run: Run, brief: Brief) -> str:
    """Every attempt of this run, a row for each build; nothing before the first."""
    picture = next((p for p in brief.kind.views.pictures_for(brief.choices) if p.form == "attempts"), None)
    if picture is None:
        return ""
    teams = {e.version.build.team_id: e.version.build.team for e in run.entries if e.version is not None}
    tried = [t for t, _ in run_figures(read_session(), run, brief)]
    laid = attempt_chart(tried, picture, teams, brief, BOARD)
    return render_template("pictures/attempt_rows.svg", chart=laid) if laid else ""


def observations(brief: Brief, old: AttemptRow | None = None, typed: Typed | None = None) -> list[Seen]:
    """What can be seen; ticked as typed, else as it was noted."""
    on = typed.getlist("seen") if typed is not None else (old.seen.split() if old is not None else [])
    shipped = {o.key for o in get_kind(brief.kind.key).test.observations}
    return [
        Seen(key=o.key, seen=o.seen, ask=o.ask, on=o.key in on, own=o.key not in shipped)
        for o in brief.kind.test.observations
        if o.offered or o.key in on
    ]


def _chosen(queue: Queue, run: Run) -> Entry | None:
    """Whose attempt is being noted: the one asked for, or who is on at this screen's station."""
    wanted = row_id(request.args.get("entry")) or row_id(request.form.get("entry"))
    found = next((e for e in run.entries if e.id == wanted), None)
    station = row_id(request.values.get("station")) or 0
    if found is None and queue.on:
        found = next(e for e in run.entries if e.id == queue.of_station(station)[0])
    return found


def attempt_fields(brief: Brief, fill: Mapping[str, float], typed: Typed | None) -> list[AttemptField]:
    out = []
    for read in brief.kind.test.attempt_reads(brief.choices):
        most = convert(quantity_of(read, brief.values, fill).high, stored_unit(read.unit), read.unit)
        shown = brief.setting.typed(fill.get(read.key), read.unit, 2)
        text = typed.get(read.key, "") if typed is not None else shown
        out.append(AttemptField(read, brief.setting.label(read.unit), most, text))
    return out


def _line(row: AttemptRow, entry: Entry, brief: Brief, was: Sequence[AttemptRow] = ()) -> NotedLine:
    return NotedLine(
        row=row,
        entry=entry,
        numbers=", ".join(words.numbers(row, brief)),
        label=words.attempt_label(row, entry),
        remark=words.attempt_remark(row, brief),
        by_team=is_team(row.by),
        before=tuple(", ".join(words.numbers(r, brief)) for r in was),
    )
