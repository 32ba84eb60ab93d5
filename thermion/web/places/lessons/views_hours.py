"""A class's hours in the week and its holidays: entered once, offered for every lesson."""

from __future__ import annotations

from dataclasses import dataclass

from flask import Blueprint, flash, redirect, request, url_for
from flask.typing import ResponseReturnValue

from thermion.core.planning.timetable import WEEKDAYS
from thermion.records.errors import Refused
from thermion.records.planning.classes import get_class
from thermion.records.planning.timetable import HourTyped, holidays_of, hours_of, save_timetable
from thermion.records.tables import SchoolClass
from thermion.web.access import DESKS, may
from thermion.web.components.frame import page
from thermion.web.payloads import own_address
from thermion.web.sessions import read_session, write_session

bp = Blueprint("hours", __name__)
SCHOOL_DAYS, FREE_ROWS = WEEKDAYS[:5], 3


@dataclass(frozen=True)
class HolidayTyped:
    """A holiday's first and last day as typed."""

    first: str
    last: str


@bp.route("/classes/<int:class_id>/hours", methods=["GET", "POST"])
@may(DESKS)
def timetable(class_id: int) -> ResponseReturnValue:
    school_class = get_class(read_session(), class_id)
    problem: Refused | None = None
    rows, free = _kept(school_class)
    if request.method == "POST":
        rows, free = _typed()
        try:
            with write_session() as session:
                save_timetable(get_class(session, class_id), rows, [(h.first, h.last) for h in free])
            flash("Hours kept. They are offered for every lesson.")
            return redirect(own_address(request.form.get("back", ""), url_for("home.index")), 303)
        except Refused as refused:
            problem = refused
    values = {
        "school_class": school_class,
        "rows": rows,
        "free": free,
        "weekdays": WEEKDAYS,
        "problem": problem,
        "back": own_address(request.values.get("back", ""), url_for("home.index")),
    }
    return page("lessons/hours.html", values, refused=problem is not None)


def _kept(school_class: SchoolClass) -> tuple[list[HourTyped], list[HolidayTyped]]:
    """What is kept, and empty rows for more: a day of school each, a few holidays."""
    found = [
        HourTyped(
            weekday=WEEKDAYS[h.weekday],
            start=f"{h.start:%H:%M}",
            length=f"{h.length_s / 60:g}",
            pack_up=f"{h.pack_up_s / 60:g}",
        )
        for h in hours_of(school_class)
    ]
    used = {h.weekday for h in found}
    length, pack_up = (found[0].length, found[0].pack_up) if found else ("60", "5")
    more = [
        HourTyped(weekday=day, start="", length=length, pack_up=pack_up)
        for day in SCHOOL_DAYS
        if day not in used
    ]
    if not more:
        more = [HourTyped(weekday=SCHOOL_DAYS[0], start="", length=length, pack_up=pack_up)]
    free = [HolidayTyped(h.first.isoformat(), h.last.isoformat()) for h in holidays_of(school_class)]
    return found + more, free + [HolidayTyped("", "")] * FREE_ROWS


def _typed() -> tuple[list[HourTyped], list[HolidayTyped]]:
    form = request.form
    hours = [form.getlist(key) for key in ("weekday", "start", "length", "pack_up")]
    rows = [
        HourTyped(weekday=day, start=start, length=length, pack_up=pack_up)
        for day, start, length, pack_up in zip(*hours, strict=False)
    ]
    days = zip(form.getlist("first"), form.getlist("last"), strict=False)
    return rows, [HolidayTyped(first, last) for first, last in days]
