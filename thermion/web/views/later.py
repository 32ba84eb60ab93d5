"""What is read once more after a test: ice weighed at the end, leaks of a store."""

from __future__ import annotations

from typing import Any

from flask import Blueprint, flash, redirect, request, url_for
from flask.typing import ResponseReturnValue

from thermion.records.errors import Gone, Refused
from thermion.records.planning.briefs import Brief, brief_of, get_challenge
from thermion.records.running import later_readings, runs
from thermion.records.tables import Run
from thermion.web.page import clock_time, reading, writing

bp = Blueprint("later", __name__)


def later_panel(item: Run, brief: Brief, zone: str, only: int | None = None) -> dict[str, Any] | None:
    """What is asked later of each row (or of one), and what was read so far; None if nothing."""
    later = brief.kind.test.later_for(brief.choices)
    if later is None or not item.phases:
        return None
    read = later.read
    found = later_readings.current_later(reading(), item, brief)
    rows = [
        {
            "entry": e,
            "readings": [
                {
                    "id": r.id,
                    "text": brief.setting.show(r.value, read.unit, read.digits),
                    "at": clock_time(r.entered_at, zone),
                    "question": r.question,
                }
                for r in found.get(e.id, [])
            ],
        }
        for e in item.entries
        if not e.is_air and only in (None, e.id)
    ]
    return {"read": read, "unit": brief.setting.label(read.unit), "rows": rows}


@bp.post("/runs/<int:run_id>/later")
def save(run_id: int) -> ResponseReturnValue:
    """Keep one later reading; what cannot be is said on the page, with what was typed."""
    entry = request.form.get("entry", 0, type=int)
    typed = request.form.get("typed", "")[:40]
    try:
        with writing() as session:
            item = runs.get_run(session, run_id)
            brief = brief_of(get_challenge(session, item.challenge_id))
            check = later_readings.save_later(
                session, item, brief, entry_id=entry, typed=typed, client_id=request.form.get("once", "")[:64]
            )
            if check.message:
                flash(f"{check.message} It was kept.")
    except Gone:
        raise
    except Refused as refused:
        flash(f"{refused.message} “{typed}” was not stored.", "wrong")
    return redirect(url_for("runs.run", run_id=run_id, entry=entry), 303)


@bp.post("/runs/<int:run_id>/later/<int:reading_id>/back")
def back(run_id: int, reading_id: int) -> ResponseReturnValue:
    with writing() as session:
        item = runs.get_run(session, run_id)
        brief = brief_of(get_challenge(session, item.challenge_id))
        later_readings.take_later_back(session, item, brief, reading_id)
    return redirect(url_for("runs.run", run_id=run_id), 303)
