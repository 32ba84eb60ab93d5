"""When is the sun high enough, and where to aim?"""

from __future__ import annotations

import datetime as dt
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from zoneinfo import ZoneInfo

from flask import Blueprint, redirect, request, url_for
from flask.typing import ResponseReturnValue
from wtforms import Field

from thermion.core.physics.sun import Place, Window, best_window
from thermion.records.planning import week
from thermion.records.planning.briefs import Brief, get_challenge
from thermion.records.planning.classes import setting_of
from thermion.records.tables import Challenge, SchoolClass
from thermion.web.access import DESKS, may
from thermion.web.components.forms import QuantityField, form_of
from thermion.web.components.frame import page
from thermion.web.components.sections import section_frame
from thermion.web.pictures.drawings import drawing_svg
from thermion.web.sessions import open_challenge, read_session, write_session

bp = Blueprint("sun", __name__)
PLACE = ("latitude_deg", "longitude_deg", "altitude_m")


@dataclass(frozen=True)
class SunnyDay:
    """A day with lessons: the best window within them and the best of the day."""

    date: dt.date
    lesson: Window | None
    whole: Window

    @property
    def named(self) -> str:
        return f"{self.date:%a} {self.date.day} {self.date:%b}"


@bp.route("/challenges/<int:challenge_id>/brief/sun", methods=["GET", "POST"])
@may(DESKS)
def index(challenge_id: int) -> ResponseReturnValue:
    challenge, brief = open_challenge(challenge_id)
    if not brief.kind.brief.under_the_sun(brief.choices):
        return redirect(url_for("brief.section", challenge_id=challenge_id, section="task"))
    form = form_of(_place_fields(challenge.school_class))
    if request.method == "POST" and form.validate():
        with write_session() as session:
            mine = get_challenge(session, challenge_id).school_class
            for key in PLACE:
                setattr(mine, key, form[key].data)
        return redirect(url_for(".index", challenge_id=challenge_id), 303)
    values = section_frame(challenge, brief, "sun", form=form, names=PLACE, **_shown(challenge, brief))
    return page("sun/index.html", values, refused=bool(form.errors))


def _place_fields(school_class: SchoolClass) -> dict[str, Field]:
    setting = setting_of(school_class)
    ends = (
        ("Latitude, south is negative", "degree", -90, 90, school_class.latitude_deg),
        ("Longitude, west is negative", "degree", -180, 180, school_class.longitude_deg),
        ("Height above the sea", "meter", -450, 9000, school_class.altitude_m),
    )
    return {
        key: QuantityField(label, unit=unit, low=low, high=high, setting=setting, default=default)
        for key, (label, unit, low, high, default) in zip(PLACE, ends, strict=True)
    }


def _shown(challenge: Challenge, brief: Brief) -> dict[str, object]:
    """Windows of each day with lessons; aim and light at the first that has sun."""
    mine = challenge.school_class
    if mine.latitude_deg is None or mine.longitude_deg is None:
        return {"days": [], "place_known": False}
    place = Place(mine.latitude_deg, mine.longitude_deg, mine.altitude_m, mine.zone)
    need = sum(m[-1] for m in brief.marks.values() if m) or 1800.0
    days = [_day(date, within, place, need) for date, within in _spans(mine).items()]
    windows = (w for d in days for w in (d.lesson, d.whole))
    sunniest = next((w for w in windows if w is not None and w.start), None)
    aim = brief.kind.build.aim
    height = sunniest.elevation_deg if sunniest is not None else None
    aimed = aim(brief.rig(), height) if height is not None and aim is not None else None
    return {
        "days": days,
        "place_known": True,
        "sunniest": sunniest,
        "aim": aimed,
        "picture": drawing_svg(aimed.drawing) if aimed else "",
    }


Spans = Sequence[tuple[datetime, datetime]]


def _spans(mine: SchoolClass) -> dict[dt.date, Spans]:
    """What of each day the lessons leave for testing; today when there are none."""
    zone = ZoneInfo(mine.zone)
    spans: dict[dt.date, list[tuple[datetime, datetime]]] = {}
    for row in week.lessons_of(read_session(), mine.id):
        end = row.starts_at + timedelta(seconds=row.length_s - row.pack_up_s)
        spans.setdefault(row.starts_at.astimezone(zone).date(), []).append((row.starts_at, end))
    return dict(spans) or {datetime.now(zone).date(): []}


def _day(date: dt.date, within: Spans, place: Place, need_s: float) -> SunnyDay:
    shortest = min(need_s, max(((b - a).total_seconds() for a, b in within), default=need_s))
    lesson = best_window(date, place, shortest, within=within) if within else None
    return SunnyDay(date, lesson, best_window(date, place, need_s))
