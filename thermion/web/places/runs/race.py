"""A race with one probe: cool it, start it, stop it; what came out stands beside it."""

from __future__ import annotations

from flask import render_template, request, url_for
from flask.typing import ResponseReturnValue
from sqlalchemy.orm import Session

from thermion.records import moments
from thermion.records.building import builds
from thermion.records.planning.briefs import Brief
from thermion.records.running import races
from thermion.records.running.placed_probes import read_by_machine
from thermion.records.running.races import Race
from thermion.records.tables import Challenge, Entry, Run
from thermion.web.components.frame import frame
from thermion.web.pictures.bars import run_bars
from thermion.web.pictures.curves import CurveLine, chart_svg, curves
from thermion.web.places.runs import words
from thermion.web.places.runs.again import again
from thermion.web.places.runs.payloads import ProbeShown, RaceAnswer, RacePage, RaceState
from thermion.web.places.runs.station import observations, queue_shown, station_page
from thermion.web.sessions import read_session


def race_page(run: Run, challenge: Challenge, brief: Brief) -> ResponseReturnValue:
    """The desk's page of a test with one probe; corrections and times on paper use the form."""
    if request.args.get("correct") or request.args.get("paper"):
        return station_page(run, challenge, brief)
    shown = queue_shown(run, challenge, brief)
    probed = bool(read_by_machine(read_session(), run))
    race = races.race_on(read_session(), run)
    chosen = race.entry if race else shown.chosen
    values = frame(challenge, "runs", run=run, where=words.where(run), **shown.values())
    values |= race_values(run, brief, race, chosen, probed=probed)
    values |= {
        "no_turn": words.no_turn(run, "race"),
        "again": again(run, challenge, brief, all_had=not shown.queue.on),
        "aparts": words.apart_line(run, brief),
        "bars": run_bars(read_session(), run, brief),
    }
    if chosen is not None:
        values["heading"] = words.turn_heading(shown.queue, chosen, "Race", False)
        values["sample"] = words.race_sample(chosen, brief, _caption(chosen, brief))
        values["still_warm"] = words.still_warm(shown.lines[-1].entry if shown.lines else None)
    return render_template("runs/race.html", **values)


def race_values(
    run: Run, brief: Brief, race: Race | None, chosen: Entry | None, *, probed: bool
) -> dict[str, object]:
    """What a race needs wherever it is run: ready to start, or going with its curve."""
    show = brief.setting.show
    return {
        "chosen": chosen,
        "race": race,
        "probed": probed,
        "chart": race_curve(race, brief),
        "target": show(brief.values[brief.kind.views.level], "degC"),
        "common": show(brief.values[races.START.key], "degC"),
        "lay": words.lay(chosen) if chosen else "",
        "observations": observations(brief),
        "data": _data(run, race, chosen, brief, probed),
    }


def race_board(run: Run, challenge: Challenge, brief: Brief, light: str) -> ResponseReturnValue:
    """The projector's window: who races, the clock, times so far."""
    shown = queue_shown(run, challenge, brief)
    values = frame(challenge, "runs", run=run, light=light, **shown.values())
    values["waiting"] = words.meanwhile(brief, len(shown.rows)) if shown.after else ""
    going = races.race_on(read_session(), run)
    bars = run_bars(read_session(), run, brief)
    values |= {"race": going, "bars": bars, "on_now": "Racing" if going else "On now"}
    return render_template("runs/race_board.html", **values)


def race_state(race: Race | None, brief: Brief) -> RaceState | None:
    if race is None:
        return None
    read, show = races.probe_read(brief), brief.setting.show
    shown = [
        ProbeShown(time=f"{r.time_s:.0f} s", text=show(r.value, read.unit, read.digits))
        for r in race.readings
    ]
    return RaceState(key=race.key, started=race.started_at, readings=shown)


def race_answer(session: Session, run: Run, brief: Brief, note: str = "") -> RaceAnswer:
    """The race that is on with its curve, and what is to be said of it."""
    race = races.race_on(session, run)
    if race is None:
        return RaceAnswer(note=note)
    level = brief.values[brief.kind.views.level]
    return RaceAnswer(
        race=race_state(race, brief),
        chart=race_curve(race, brief),
        note=note or words.reached(race, level, brief.setting),
    )


def race_curve(race: Race | None, brief: Brief) -> str:
    """What the probe showed so far in this race, in seconds, with the target."""
    if race is None:
        return ""
    read, setting = races.probe_read(brief), brief.setting
    points = tuple((r.time_s, setting.from_si(r.value or 0.0, read.unit)) for r in race.readings)
    team = race.entry.version.build.team if race.entry.version else None
    colour, shape = (team.colour, team.shape) if team else ("air", "circle")
    line = CurveLine(
        label="", name=words.row_name(race.entry), colour=colour, shape=shape, stretches=(points,)
    )
    return chart_svg(
        curves(
            [line],
            title="The probe in this race",
            y_label=setting.label(read.unit),
            x_label="seconds",
            x_end=max(60.0, race.readings[-1].time_s * 1.15),
            height=190.0,
            level=setting.from_si(brief.values[brief.kind.views.level], "degC"),
            level_text="target",
        )
    )


def _data(run: Run, race: Race | None, chosen: Entry | None, brief: Brief, probed: bool) -> RacePage:
    urls = {
        key: url_for(f"race.{key}", run_id=run.id) for key in ("start", "probe", "stop", "false_start", "now")
    }
    return RacePage(
        now=moments.now(),
        where=words.where(run),
        who=words.row_name(chosen) if chosen else "",
        race=race_state(race, brief),
        probed=probed,
        urls=urls,
        words=dict(words.RACE),
    )


def _caption(entry: Entry, brief: Brief) -> str:
    return brief.kind.build.caption(builds.plan_of(entry.version)) if entry.version is not None else ""
