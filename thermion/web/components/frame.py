"""What every page shares: the path, what else is going on, the bell, and helpers of templates."""

from __future__ import annotations

import posixpath
import re
import secrets
from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime, timedelta
from functools import cache
from math import ceil
from zoneinfo import ZoneInfo

from flask import Flask, redirect, render_template, request, url_for
from jinja2.utils import htmlsafe_json_dumps
from markupsafe import Markup
from pydantic import BaseModel
from werkzeug.wrappers import Response

from thermion.core.physics.materials import FORMS, MATERIALS, unit_beside
from thermion.core.physics.units import unit_label
from thermion.core.planning.path import PLACES
from thermion.core.planning.week import still_fits
from thermion.records import moments
from thermion.records.judging.how_far import paths
from thermion.records.planning.briefs import brief_of
from thermion.records.planning.week import bell_of, class_in_lesson, timing_of
from thermion.records.running import clock_set
from thermion.records.running.runs import Going, going_runs
from thermion.records.tables import Challenge, SchoolClass
from thermion.web.access import ANYBODY, at_the_desk, may
from thermion.web.components import words
from thermion.web.components.helps import help_of
from thermion.web.components.shapes import OUTLINES
from thermion.web.payloads import row_id
from thermion.web.sessions import house, read_session
from thermion.web.static_files import FOLDER


def frame(challenge: Challenge, place: str, **values: object) -> dict[str, object]:
    """Template values of every page of a challenge: path, next step, what is going on, setting."""
    brief = brief_of(challenge)
    session = read_session()
    return {
        "challenge": challenge,
        "school_class": challenge.school_class,
        "brief": brief,
        "kind": brief.kind,
        "setting": brief.setting,
        "place": place,
        "path": paths(session, [challenge])[challenge.id],
        "going": going_runs(session, challenge.class_id, moments.now()),
        **values,
    }


def page(template: str, values: Mapping[str, object], *, refused: bool = False) -> tuple[str, int]:
    """A page, and 422 when it shows what was refused."""
    return render_template(template, **values), 422 if refused else 200


def clock_time(moment: datetime | None, zone: str) -> str:
    """Hours and minutes in the class's zone."""
    return "" if moment is None else moment.astimezone(ZoneInfo(zone)).strftime("%H:%M")


def day(moment: datetime | None, zone: str) -> str:
    """Weekday, date and time in the class's zone, the month in letters."""
    if moment is None:
        return ""
    local = moment.astimezone(ZoneInfo(zone))
    return f"{local:%a} {local.day} {local:%b}, {local:%H:%M}"


@dataclass(frozen=True, kw_only=True)
class BellShown:
    """The lesson that is on: the moment, when it ends and packs up (for the script), and that in words."""

    now: str
    ends_at: str
    packs_at: str
    left: str
    ends: str
    to_pack_up: str
    fits: str


def current_bell(
    challenge: Challenge | None = None, school_class: SchoolClass | None = None
) -> BellShown | None:
    """The lesson that is on, for every page of the desk; on a page of no class, that of any class."""
    now = moments.now()
    session = read_session()
    named = school_class is None
    if school_class is None:
        school_class = class_on()
    found = bell_of(session, school_class.id, now) if school_class is not None else None
    if found is None or school_class is None:
        return None
    at, lesson = found
    fits = ""
    if challenge is not None:
        brief = brief_of(challenge)
        timing = timing_of(session, challenge, brief)
        teams = max(len(school_class.present), 1)
        fits = still_fits(brief.kind, timing, teams, brief.marks, at.until_pack_up_s)
    ends = lesson.start + timedelta(seconds=lesson.length_s)
    return BellShown(
        now=now.isoformat(),
        ends_at=ends.isoformat(),
        packs_at=(lesson.start + timedelta(seconds=lesson.room_s)).isoformat(),
        left=words.minutes(ceil(at.until_bell_s / 60)),
        ends=words.bell_ends(clock_time(ends, school_class.zone), school_class.name if named else ""),
        to_pack_up=words.minutes(ceil(at.until_pack_up_s / 60)),
        fits=words.still_fits(fits),
    )


def class_on() -> SchoolClass | None:
    """The class that has a lesson on, for a page of no class."""
    return class_in_lesson(read_session(), moments.now())


def followed_class() -> int:
    """The class whose board a board follows, as its address says; 0 where it follows none."""
    return row_id(request.args.get("follow"))


def clock_words() -> str:
    """What to know when somebody set this computer's clock while a run is on; "" otherwise."""
    return words.clock_off(moments.clock_off(read_session()))


def clock_asked() -> words.ClockAsked | None:
    """What is asked then: by which of two answers the run's clock follows; None on another device."""
    if not at_the_desk():
        return None
    found = clock_set.asked(read_session())
    return None if found is None else words.clock_asked(found)


def until_pack_up(challenge: Challenge) -> float | None:
    """Seconds until packing up in the class's lesson that is on, if one is."""
    found = bell_of(read_session(), challenge.class_id, moments.now())
    return None if found is None else found[0].until_pack_up_s


def others_going(going: list[Going], run_id: int) -> list[tuple[int, str]]:
    """Runs that go on elsewhere, with their words."""
    return [(g.run_id, words.going(g)) for g in going if g.run_id != run_id]


def page_data(content: BaseModel) -> Markup:
    """A model as the content of a JSON script element of the page."""
    return htmlsafe_json_dumps(content.model_dump(mode="json"))


_IMPORT = re.compile(r'from "(\.[^"]+)"')


@cache
def modules_of(name: str) -> tuple[str, ...]:
    """The modules that a script of ours loads, and those that they load: names of static files."""
    found: dict[str, None] = {}
    waiting = [f"js/{name}.js"]
    while waiting:
        at = waiting.pop()
        for path in _IMPORT.findall((FOLDER / at).read_text(encoding="utf-8")):
            module = posixpath.normpath(posixpath.join(posixpath.dirname(at), path))
            if module not in found:
                found[module] = None
                waiting.append(module)
    return tuple(found)


def page_script(name: str) -> Markup:
    """A page's script, with all it loads fetched at once instead of one round after the other."""
    script = Markup('<script src="{}" type="module"></script>')
    ahead = Markup('<link rel="modulepreload" href="{}">')
    files = [ahead.format(url_for("static", filename=module)) for module in modules_of(name)]
    return Markup("").join([*files, script.format(url_for("static", filename=f"js/{name}.js"))])


def init(app: Flask) -> None:
    """Register template helpers."""

    @app.context_processor
    def shared() -> dict[str, object]:
        return {"once_token": secrets.token_urlsafe(18), "demo": app.config["DEMO"]}

    app.jinja_env.globals.update(
        MATERIALS=MATERIALS,
        FORMS=FORMS,
        PLACES=PLACES,
        OUTLINES=OUTLINES,
        STATES=words.STATES,
        unit_label=unit_label,
        unit_beside=unit_beside,
        current_bell=current_bell,
        class_on=class_on,
        followed_class=followed_class,
        clock_words=clock_words,
        clock_asked=clock_asked,
        help_of=help_of,
        others_going=others_going,
        page_script=page_script,
        not_stored=words.not_stored,
        house=house,
        tray_words=words.TRAY,
    )
    app.jinja_env.filters.update(clock=clock_time, day=day, count=words.count, page_data=page_data)

    @app.get("/favicon.ico")
    @may(ANYBODY)
    def favicon() -> Response:
        return redirect(url_for("static", filename="mark.svg"))
