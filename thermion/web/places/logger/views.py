"""A logger's file into a run: upload, preview and match, then all of it or nothing."""

from __future__ import annotations

import hashlib
from dataclasses import dataclass
from datetime import UTC, timedelta
from pathlib import Path
from time import time
from zoneinfo import ZoneInfo

from flask import Blueprint, redirect, request, url_for
from flask.typing import ResponseReturnValue

from thermion.core.physics.units import TEMP_UNITS, NotANumber, Setting, parse_minutes, unit_label
from thermion.formats.logger import LoggerFile, UnreadableFile, read_logger
from thermion.records import moments
from thermion.records.errors import Refused
from thermion.records.planning.briefs import Brief
from thermion.records.running import runs
from thermion.records.running.logged import LoggedChannel, add_logged, logs_temperature
from thermion.records.tables import Entry, Run
from thermion.web.components.frame import frame, page
from thermion.web.payloads import row_id
from thermion.web.places.logger import words
from thermion.web.sessions import database, open_challenge, open_run, write_session

bp = Blueprint("logger", __name__)
WAITS_S = 7 * 86400.0  # a file that was shown may be taken in so long after
SHOWN = 8  # rows of the preview


@dataclass(frozen=True)
class Matched:
    """A column of the file: which row of the run it belongs to (0: none) and its unit."""

    index: int
    heading: str
    entry: int
    unit: str


@bp.route("/runs/<int:run_id>/file", methods=["GET", "POST"])
def file(run_id: int) -> ResponseReturnValue:
    """A logger's file: upload, preview and match, then all of it or nothing."""
    item, challenge, brief = open_run(run_id)
    values: dict[str, object] = {"file": None}
    problem = ""
    if request.method == "POST":
        file_id = request.form.get("file_id", "")
        try:
            if file_id:
                return _confirm(run_id, brief, file_id)
            values |= _preview(_uploaded(), item, brief)
        except (UnreadableFile, Refused) as error:
            problem = error.message if isinstance(error, Refused) else str(error)
            if file_id and _inbox(file_id).exists():
                values |= _preview(_inbox(file_id).read_bytes(), item, brief)
    if not logs_temperature(brief):
        problem = problem or "This run does not read temperatures, so a logger's file has no place in it."
    return page(
        "logger/index.html",
        frame(challenge, "runs", run=item, problem=problem, **values),
        refused=bool(problem),
    )


def _uploaded() -> bytes:
    upload = request.files.get("file")
    if upload is None or not upload.filename:
        raise UnreadableFile("Choose a file first.")
    return bytes(upload.read())


def _inbox(file_id: str) -> Path:
    folder = database().folder / "inbox"
    folder.mkdir(mode=0o700, exist_ok=True)
    return folder / f"{hashlib.sha256(file_id.encode()).hexdigest()[:32]}.csv"


def _clear_inbox() -> None:
    """Let go of files that nobody took in after they were shown."""
    for path in _inbox("").parent.glob("*.csv"):
        if time() - path.stat().st_mtime > WAITS_S:
            path.unlink(missing_ok=True)


def _preview(data: bytes, item: Run, brief: Brief) -> dict[str, object]:
    found = read_logger(data)
    file_id = hashlib.sha256(data).hexdigest()[:24]
    _clear_inbox()
    _inbox(file_id).write_bytes(data)
    rows = found.rows[:SHOWN]
    return {
        "file": found,
        "file_id": file_id,
        "matched": _match(found, item, brief.setting),
        "temp_units": [(unit, unit_label(unit)) for unit in TEMP_UNITS],
        "rows": [_row(time, values, brief.setting) for time, values in rows],
        "last": _row(*found.rows[-1], brief.setting) if len(found.rows) > SHOWN else (),
        "usable": words.usable(found),
        "how_read": words.how_read(found),
        "more_skipped": words.more_skipped(found),
        "store_all": words.store_all(found),
    }


def _row(time_s: float, values: tuple[float | None, ...], setting: Setting) -> tuple[str, ...]:
    """Minutes and values of a row as the class writes them."""
    return (setting.write(time_s / 60, 2), *("–" if v is None else setting.write(v, 2) for v in values))


def _match(found: LoggerFile, item: Run, setting: Setting) -> list[Matched]:
    """What was chosen for each column, else the team named in its heading."""
    out = []
    for channel in found.channels:
        chosen = request.form.get(f"entry-{channel.index}")
        named = next((e.id for e in item.entries if _is_named(e, channel.heading)), 0)
        unit = request.form.get(f"unit-{channel.index}") or channel.unit or setting.temp_unit
        entry = named if chosen is None else row_id(chosen)
        out.append(Matched(channel.index, channel.heading, entry, unit if unit in TEMP_UNITS else "degC"))
    return out


def _is_named(entry: Entry, heading: str) -> bool:
    words_of = set(heading.casefold().replace("_", " ").split())
    if entry.version is None:
        return bool({"air", "outside"} & words_of) if entry.is_air else "control" in words_of
    team = entry.version.build.team
    return team.letter.casefold() in words_of or team.name.casefold() in heading.casefold()


def _confirm(run_id: int, brief: Brief, file_id: str) -> ResponseReturnValue:
    path = _inbox(file_id)
    if not path.exists():
        return redirect(url_for("runs.run", run_id=run_id), 303)  # this file is in already
    found = read_logger(path.read_bytes())
    phase = request.form.get("phase", "")
    with write_session() as session:
        item = runs.get_run(session, run_id)
        if phase not in {p.key for p in brief.kind.test.phases}:
            raise Refused("Choose the phase that this file belongs to.", "phase")
        matched = [m for m in _match(found, item, brief.setting) if m.entry]
        if not matched:
            raise Refused("Match at least one column to a build.", "match")
        if len({m.entry for m in matched}) != len(matched):
            raise Refused("Two columns are matched to the same build.", "match")
        shift = _shift(brief)
        zone = ZoneInfo(open_challenge(item.challenge_id)[0].school_class.zone)
        started = moments.now() - timedelta(seconds=found.rows[-1][0])
        if found.starts_at:  # a logger's clock may be wrong, but not in the future
            started = min(found.starts_at.replace(tzinfo=zone).astimezone(UTC), started)
        begins, channels = started + timedelta(seconds=shift), _channels(found, matched, shift)
        add_logged(session, item, brief, phase, begins, channels, f"{run_id}-{file_id}")
    path.unlink(missing_ok=True)
    return redirect(url_for("runs.run", run_id=run_id), 303)


def _shift(brief: Brief) -> float:
    """Where in the file the phase begins [s]."""
    try:
        return parse_minutes(request.form.get("shift", "") or "0", brief.setting.decimal)
    except NotANumber as error:
        raise Refused(str(error), "shift") from None


def _channels(found: LoggerFile, matched: list[Matched], shift_s: float) -> list[LoggedChannel]:
    """The matched columns from the start mark on."""
    at = {channel.index: k for k, channel in enumerate(found.channels)}
    out = []
    for m in matched:
        rows = [(t - shift_s, values[at[m.index]]) for t, values in found.rows if t >= shift_s]
        known = [(t, v) for t, v in rows if v is not None]
        out.append(LoggedChannel(m.entry, tuple(t for t, _ in known), tuple(v for _, v in known), m.unit))
    return out
