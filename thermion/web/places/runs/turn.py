"""A team's turn at the station on its own device: how many are before it, and its attempt or its race."""

from __future__ import annotations

from dataclasses import dataclass

from flask import redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue

from thermion.records.building import builds
from thermion.records.planning.briefs import Brief
from thermion.records.running import pads, races
from thermion.records.tables import AttemptRow, Challenge, Entry, Run
from thermion.web.payloads import row_id
from thermion.web.pictures.drawings import PHONE, plan_svg
from thermion.web.places.runs import words
from thermion.web.places.runs.race import race_values
from thermion.web.places.runs.station import QueueShown, attempt_fields, observations, queue_shown, suggested
from thermion.web.sessions import read_session


@dataclass(frozen=True, kw_only=True)
class TeamsTurn:
    """Where a team stands in the queue. `row`: its own that is to be tried, None while another's is on."""

    row: Entry | None
    before: int | None
    done: int
    each: int
    old: AttemptRow | None = None


def turn_page(run: Run, challenge: Challenge, brief: Brief, team_id: int) -> ResponseReturnValue:
    """The page of a test in turns on a team's device; one at marks has another page."""
    if brief.kind.test.shape == "marks":
        return redirect(url_for("pad_read.index"), 303)
    mine = pads.rows_of(run, team_id)
    if not mine:
        return redirect(url_for("pad.index"), 303)
    shown = queue_shown(run, challenge, brief)
    races_run = brief.kind.test.shape == "races"
    race = races.race_on(read_session(), run) if races_run else None
    turn = _turn(run, shown, mine, race.entry if race else None)
    ids = {e.id for e in mine}
    values: dict[str, object] = {
        "run": run,
        "challenge": challenge,
        "team": next(t for t in challenge.school_class.teams if t.id == team_id),
        "school_class": challenge.school_class,
        "setting": brief.setting,
        "where": words.where(run),
        "pulse": shown.pulse,
        "says": words.own_turn(turn.row is not None, turn.before, turn.done, turn.each, challenge.age_band),
        "lines": [line for line in shown.lines if line.entry.id in ids],
        "waiting": words.meanwhile(brief, len(shown.rows)) if turn.row is None and turn.before else "",
        "picture": "",
        "chosen": None,
    }
    version = mine[0].version
    if turn.row is None and version is not None:
        values["picture"] = plan_svg(builds.plan_of(version), brief, PHONE)
    if turn.row is not None and run.pads and run.closed_at is None:
        own = race if race and race.entry.id == turn.row.id else None
        if races_run:
            values |= _to_race(run, brief, own, turn.row)
        else:
            values |= _to_try(run, brief, shown, turn)
    return render_template("runs/turn.html", **values, races=races_run)


def race_shaped(brief: Brief) -> bool:
    return brief.kind.test.shape == "races"


def _turn(run: Run, shown: QueueShown, mine: list[Entry], racing: Entry | None) -> TeamsTurn:
    """Which of the team's rows is to be tried now: the one that it corrects, that races, or that is on."""
    queue, ids = shown.queue, {e.id for e in mine}
    correct = row_id(request.args.get("correct"))
    old = next((r for r in shown.rows if r.id == correct and r.entry_id in ids), None)
    on = {racing.id} if racing else set(queue.on)
    row = next((e for e in mine if e.id == (old.entry_id if old else None)), None)
    row = row or next((e for e in mine if e.id in on), None)
    order = [*queue.on, *queue.after]
    before = next((at for at, entry_id in enumerate(order) if entry_id in ids), None)
    first = row or mine[0]
    return TeamsTurn(row=row, before=before, done=queue.done.get(first.id, 0), each=queue.each, old=old)


def _to_race(run: Run, brief: Brief, race: races.Race | None, row: Entry) -> dict[str, object]:
    return race_values(run, brief, race, row, probed=False)  # the probe is the station's


def _to_try(run: Run, brief: Brief, shown: QueueShown, turn: TeamsTurn) -> dict[str, object]:
    """The fields of one attempt, filled in with what it begins with, or with what is corrected."""
    assert turn.row is not None
    fill, suggestion = suggested(run, brief, shown.rows, turn.row)
    return {
        "chosen": turn.row,
        "old": turn.old,
        "suggestion": "" if turn.old else suggestion,
        "fields": attempt_fields(brief, turn.old.values if turn.old else fill, None),
        "observations": observations(brief, turn.old),
        "machines": set(),  # they are the station's
    }
