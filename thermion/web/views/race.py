"""A race with one probe: cool it, start it, stop it; what came out stands beside it."""

from __future__ import annotations

from datetime import UTC, datetime
from typing import Any

from flask import Blueprint, jsonify, render_template, request, url_for
from flask.typing import ResponseReturnValue

from thermion.core.kinds.trials import Trace
from thermion.records.building import builds
from thermion.records.errors import Refused
from thermion.records.planning.briefs import Brief, brief_of, get_challenge
from thermion.records.running import races, runs
from thermion.records.running.races import Race
from thermion.records.tables import Challenge, Run
from thermion.web.bars import run_bars
from thermion.web.charts import Line, curves
from thermion.web.page import frame, reading, sent_json, sent_number, writing
from thermion.web.pictures import chart_svg
from thermion.web.views.station import station_page, station_values

bp = Blueprint("race", __name__)


def race_page(item: Run, challenge: Challenge, brief: Brief) -> ResponseReturnValue:
    """The desk's page of a test with one probe; corrections and times on paper use the form."""
    if request.args.get("correct") or request.args.get("paper"):
        return station_page(item, challenge, brief)
    values = station_values(item, challenge, brief)
    race = races.race_on(reading(), item)
    chosen = race.entry if race else values["chosen"]
    page = {
        **values,
        "chosen": chosen,
        "race": _state(race, brief),
        "probe": races.probe_read(brief),
        "chart": _curve(race, brief),
        "bars": run_bars(reading(), item, brief),
        "target": brief.setting.show(brief.values[brief.kind.views.level], "degC"),
        "common": brief.setting.show(brief.values[races.START.key], "degC"),
        "observations": brief.kind.test.observations,
        "captions": {
            e.id: brief.kind.build.caption(builds.plan_of(e.version))
            for e in item.entries
            if e.version is not None
        },
        "data": {
            "now": datetime.now(UTC).isoformat(),
            "run": item.id,
            "race": _state(race, brief),
            "urls": {
                key: url_for(f"race.{key}", run_id=item.id)
                for key in ("start", "probe", "stop", "false_start")
            },
        },
    }
    return render_template("runs/race.html", **frame(challenge, "runs", run=item, **page))


def race_board(item: Run, challenge: Challenge, brief: Brief) -> ResponseReturnValue:
    """The projector's window: who races, the clock, times so far."""
    values = station_values(item, challenge, brief)
    race = races.race_on(reading(), item)
    page = {**values, "race": race, "bars": run_bars(reading(), item, brief)}
    return render_template("runs/race_board.html", **frame(challenge, "runs", run=item, **page))


def _state(race: Race | None, brief: Brief) -> dict[str, Any] | None:
    if race is None:
        return None
    read = races.probe_read(brief)
    return {
        "key": race.key,
        "started": race.started_at.isoformat(),
        "readings": [
            {"time": f"{r.time_s:.0f} s", "text": brief.setting.show(r.value, read.unit, read.digits)}
            for r in race.readings
        ],
    }


def _curve(race: Race | None, brief: Brief) -> str:
    """What the probe showed so far in this race, in seconds, with the target."""
    if race is None:
        return ""
    read, setting = races.probe_read(brief), brief.setting
    trace = Trace(tuple(r.time_s for r in race.readings), tuple(r.value or 0.0 for r in race.readings))
    points = tuple((t, setting.from_si(v, read.unit)) for t, v in zip(trace.time_s, trace.value, strict=True))
    team = race.entry.version.build.team if race.entry.version else None
    line = Line(
        "",
        team.name if team else "Control",
        team.colour if team else "air",
        team.shape if team else "circle",
        (points,),
    )
    level = brief.values[brief.kind.views.level]
    return chart_svg(
        curves(
            [line],
            title="The probe in this race",
            y_label=setting.label(read.unit),
            x_label="seconds",
            x_end=max(60.0, trace.time_s[-1] * 1.15),
            height=190.0,
            level=setting.from_si(level, "degC"),
            level_text="target",
        )
    )


def _sent_moment(sent: dict[str, Any]) -> datetime:
    try:
        moment = datetime.fromisoformat(str(sent["pressed_at"]))
    except (KeyError, ValueError) as error:
        raise Refused(f"This could not be understood ({error}).") from None
    return moment if moment.tzinfo else moment.replace(tzinfo=UTC)


def _seen(sent: dict[str, Any]) -> list[str]:
    seen = sent.get("seen")
    return [str(s)[:16] for s in seen] if isinstance(seen, list) else []


def _open(session: Any, run_id: int) -> tuple[Run, Brief]:
    item = runs.get_run(session, run_id)
    return item, brief_of(get_challenge(session, item.challenge_id))


@bp.post("/runs/<int:run_id>/races/start")
def start(run_id: int) -> ResponseReturnValue:
    """Start a race. 409 with `ask` when it is asked first; sent again with `sure` it starts."""
    sent = sent_json()
    try:
        with writing() as session:
            item, brief = _open(session, run_id)
            race = races.start_race(
                session,
                item,
                brief,
                entry_id=sent_number(sent, "entry"),
                typed=str(sent.get("typed", ""))[:40],
                pressed_at=_sent_moment(sent),
                client_id=str(sent.get("client_id"))[:64],
                sure=bool(sent.get("sure")),
            )
            state = _state(race, brief)
    except races.Unsure as asked:
        return jsonify(ask=asked.message, field=asked.field), 409
    return jsonify(race=state)


@bp.post("/runs/<int:run_id>/races/probe")
def probe(run_id: int) -> ResponseReturnValue:
    """Keep what the probe shows now; answers with the curve so far."""
    sent = sent_json()
    with writing() as session:
        item, brief = _open(session, run_id)
        races.read_probe(
            session,
            item,
            brief,
            typed=str(sent.get("typed", ""))[:40],
            pressed_at=_sent_moment(sent),
            client_id=str(sent.get("client_id"))[:64],
        )
        race = races.race_on(session, item)
        state, chart = _state(race, brief), _curve(race, brief)
        reached = race is not None and race.readings[-1].value >= brief.values[brief.kind.views.level]
    return jsonify(race=state, chart=chart, reached=reached)


@bp.post("/runs/<int:run_id>/races/stop")
def stop(run_id: int) -> ResponseReturnValue:
    sent = sent_json()
    with writing() as session:
        item, brief = _open(session, run_id)
        races.stop_race(
            session,
            item,
            brief,
            key=str(sent.get("key", "")),
            pressed_at=_sent_moment(sent),
            client_id=str(sent.get("client_id"))[:64],
            at_target=bool(sent.get("at_target")),
            seen=_seen(sent),
            note=str(sent.get("note", ""))[:200],
        )
    return jsonify(done=True)


@bp.post("/runs/<int:run_id>/races/false_start")
def false_start(run_id: int) -> ResponseReturnValue:
    sent = sent_json()
    with writing() as session:
        item, _ = _open(session, run_id)
        races.false_start(session, item, str(sent.get("key", "")), str(sent.get("client_id"))[:64])
    return jsonify(done=True)
