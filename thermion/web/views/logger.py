"""A logger's file into a run: upload, preview and match, then all of it or nothing."""

from __future__ import annotations

import hashlib
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import Any
from zoneinfo import ZoneInfo

from flask import Blueprint, redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue

from thermion.core.physics.units import NotANumber, Setting, parse_minutes
from thermion.formats.logger import LoggerFile, UnreadableFile, read_logger
from thermion.records.errors import Refused
from thermion.records.planning.briefs import Brief
from thermion.records.running import runs
from thermion.records.running.logged import LoggedChannel, add_logged
from thermion.records.tables import Run
from thermion.web.page import database, frame, open_challenge, writing
from thermion.web.views.runs import open_run

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
        shift = _shift(brief)
        channels = _channels(file, matched, shift)
        zone = ZoneInfo(open_challenge(item.challenge_id)[0].school_class.zone)
        latest = datetime.now(UTC) - timedelta(seconds=file.rows[-1][0])
        started = latest
        if file.starts_at:  # a logger's clock may be wrong, but not in the future
            started = min(file.starts_at.replace(tzinfo=zone).astimezone(UTC), latest)
        add_logged(
            session, item, brief, phase, started + timedelta(seconds=shift), channels, f"{run_id}-{file_id}"
        )
    path.unlink(missing_ok=True)
    return redirect(url_for("runs.run", run_id=run_id), 303)


def _shift(brief: Brief) -> float:
    """Where in the file the phase begins [s]."""
    try:
        return parse_minutes(request.form.get("shift", "") or "0", brief.setting.decimal)
    except NotANumber as error:
        raise Refused(str(error), "shift") from None


def _channels(file: LoggerFile, matched: dict[int, tuple[int, str]], shift_s: float) -> list[LoggedChannel]:
    """The matched columns from the start mark on."""
    at = {channel.index: k for k, channel in enumerate(file.channels)}
    out = []
    for index, (entry, unit) in matched.items():
        rows = [(t - shift_s, values[at[index]]) for t, values in file.rows if t >= shift_s]
        known = [(t, v) for t, v in rows if v is not None]
        out.append(LoggedChannel(entry, tuple(t for t, _ in known), tuple(v for _, v in known), unit))
    return out
