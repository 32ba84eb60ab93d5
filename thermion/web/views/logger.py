"""A logger's file into a run: upload, preview and match, then all of it or nothing."""

from __future__ import annotations

import hashlib
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import Any
from zoneinfo import ZoneInfo

from flask import Blueprint, redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue

from thermion.core.physics.units import Setting
from thermion.formats.logger import LoggerFile, UnreadableFile, in_celsius, read_logger
from thermion.records.errors import Refused
from thermion.records.planning.briefs import Brief
from thermion.records.running import runs
from thermion.records.running.readings import LoggedValue, add_logged
from thermion.records.tables import Run
from thermion.web.page import database, frame, open_challenge, writing
from thermion.web.views.runs import clock_seconds, minutes_text, open_run

bp = Blueprint("logger", __name__)


@bp.route("/runs/<int:run_id>/file", methods=["GET", "POST"])
def file(run_id: int) -> ResponseReturnValue:
    """A logger's file: upload, preview and match, then all of it or nothing."""
    item, challenge, brief = open_run(run_id)
    values: dict[str, Any] = {"file": None, "problem": None, "matched": {}}
    status = 200
    if request.method == "POST":
        try:
            if request.form.get("file_id"):
                return _confirm(run_id, brief, request.form["file_id"])
            upload = request.files.get("file")
            data = upload.read() if upload else b""
            if upload is None or not upload.filename:
                raise UnreadableFile("Choose a file first.")
            values |= _preview(data, item, brief)
        except (UnreadableFile, Refused) as problem:
            values["problem"], status = str(getattr(problem, "message", problem)), 422
            if request.form.get("file_id"):
                values |= _preview(_inbox(request.form["file_id"]).read_bytes(), item, brief)
    return render_template("runs/logger.html", **frame(challenge, "runs", run=item, **values)), status


def _inbox(file_id: str) -> Path:
    folder = database().folder / "inbox"
    folder.mkdir(exist_ok=True)
    path = folder / f"{hashlib.sha256(file_id.encode()).hexdigest()[:32]}.csv"
    return path


def _preview(data: bytes, item: Run, brief: Brief) -> dict[str, Any]:
    file = read_logger(data)
    file_id = hashlib.sha256(data).hexdigest()[:24]
    _inbox(file_id).write_bytes(data)
    return {"file": file, "file_id": file_id, "matched": _match(file, item, brief.setting)}


def _match(file: LoggerFile, item: Run, setting: Setting) -> dict[int, tuple[int, str]]:
    """Column index -> (entry, unit): what was chosen, else the team named in the heading."""
    out: dict[int, tuple[int, str]] = {}
    for channel in file.channels:
        chosen = request.form.get(f"entry-{channel.index}", type=int)
        words = channel.heading.casefold().replace("_", " ").split()
        found = 0
        for entry in item.entries:
            team = entry.version.build.team if entry.version else None
            names = {team.name.casefold(), team.letter.casefold()} if team else {"air", "outside"}
            if names & set(words) or (team and team.name.casefold() in channel.heading.casefold()):
                found = entry.id
                break
        unit = request.form.get(f"unit-{channel.index}") or channel.unit or setting.temp_unit
        out[channel.index] = (found if chosen is None else chosen, unit)
    return out


def _confirm(run_id: int, brief: Brief, file_id: str) -> ResponseReturnValue:
    path = _inbox(file_id)
    if not path.exists():
        return redirect(url_for("runs.run", run_id=run_id), 303)  # this file is in already
    file = read_logger(path.read_bytes())
    phase = request.form.get("phase", "")
    with writing() as session:
        item = runs.get_run(session, run_id)
        if phase not in {p.key for p in brief.kind.test.phases}:
            raise Refused("Choose the phase that this file belongs to.", "phase")
        matched = {i: m for i, m in _match(file, item, brief.setting).items() if m[0]}
        entries = [entry for entry, _ in matched.values()]
        if not matched:
            raise Refused("Match at least one column to a build.", "match")
        if len(set(entries)) != len(entries):
            raise Refused("Two columns are matched to the same build.", "match")
        shift = clock_seconds(request.form.get("shift", "0") or "0")
        values = _logged(file, matched, brief, shift)
        zone = ZoneInfo(open_challenge(item.challenge_id)[0].school_class.zone)
        latest = datetime.now(UTC) - timedelta(seconds=file.rows[-1][0])
        started = latest
        if file.starts_at:  # a logger's clock may be wrong, but not in the future
            started = min(file.starts_at.replace(tzinfo=zone).astimezone(UTC), latest)
        add_logged(session, item, phase, started + timedelta(seconds=shift), values, f"{run_id}-{file_id}")
    path.unlink(missing_ok=True)
    return redirect(url_for("runs.run", run_id=run_id), 303)


def _logged(
    file: LoggerFile, matched: dict[int, tuple[int, str]], brief: Brief, shift_s: float
) -> list[LoggedValue]:
    """All values of the matched columns from the start mark on; Refused if one cannot be."""
    at = {channel.index: k for k, channel in enumerate(file.channels)}
    low, high = brief.kind.test.reads[0].low, brief.kind.test.reads[0].high
    out = []
    for time, values in file.rows:
        if time < shift_s:
            continue
        for index, (entry, unit) in matched.items():
            value = values[at[index]]
            if value is None:
                continue
            celsius = in_celsius(value, unit)
            if not low <= celsius <= high:
                raise Refused(
                    f"{value:g} {unit.replace('deg', '°')} at {minutes_text(time)} cannot be in an "
                    "oven. Is the column's unit right?",
                    "match",
                )
            out.append(LoggedValue(entry, time - shift_s, celsius))
    return out
