"""Planning: lessons, kit, sun, rig checks, and whether the brief tells designs apart."""

from __future__ import annotations

from dataclasses import replace
from datetime import UTC, datetime, timedelta
from itertools import pairwise
from typing import Any
from zoneinfo import ZoneInfo

from flask import Blueprint, Response, jsonify, redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue
from wtforms import Field

from thermion.core.physics.sun import Place, best_window
from thermion.core.physics.units import NotANumber, parse_plain
from thermion.core.planning.week import PHASES, in_turns, round_of
from thermion.core.planning.week import test_length as length_of_test
from thermion.formats.calendar import week_calendar
from thermion.formats.tables import Column, Table
from thermion.records.building import kit as kits
from thermion.records.errors import Refused
from thermion.records.planning import week
from thermion.records.planning.briefs import Brief, brief_of, get_challenge
from thermion.records.planning.classes import get_class, setting_of
from thermion.records.running import rig
from thermion.records.tables import Challenge, SchoolClass
from thermion.web.forms import QuantityField, form_of
from thermion.web.page import data_page, frame, named, open_challenge, reading, writing
from thermion.web.pictures import drawing_svg
from thermion.web.sections import sections_of
from thermion.web.strip import strip_of

bp = Blueprint("planning", __name__)
AT = "/challenges/<int:challenge_id>/brief"
SECONDS = ("read_s", "set_up_s", "fit_s", "run_s", "reset_s")


def _side(challenge: Challenge, brief: Brief, section: str, **values: Any) -> dict[str, Any]:
    return frame(challenge, "brief", section=section, sections=sections_of(brief), **values)


# lessons


def _lessons_values(challenge: Challenge, brief: Brief) -> dict[str, Any]:
    plan = week.week_of(reading(), challenge.class_id)
    at = plan.index(challenge.id)
    task = plan.tasks[at]
    length = length_of_test(brief.kind, task.timing, task.teams, brief.marks) / 60
    return {
        "plan": plan,
        "task": task,
        "turns": in_turns(brief.kind),
        "test_min": length,
        "strip": strip_of(plan, challenge.id, challenge.school_class.zone),
        "remedies": week.remedies_of(plan, challenge.id),
        "round": round_of(task.timing, task.teams, brief.marks) if not in_turns(brief.kind) else None,
        "interval_min": min((b - a for m in brief.marks.values() for a, b in pairwise(m)), default=0) / 60,
        "longest_min": max((x.room_s for x in plan.lessons), default=0) / 60,
        "left_out": [p for p in PHASES if p.key not in task.lengths_s],
    }


@bp.get(f"{AT}/lessons")
def lessons(challenge_id: int) -> ResponseReturnValue:
    return _lessons_page(challenge_id)


def _lessons_page(
    challenge_id: int, problem: Refused | None = None, typed: Any = None
) -> ResponseReturnValue:
    challenge, brief = open_challenge(challenge_id)
    values = _lessons_values(challenge, brief)
    if typed is None:
        typed = {}
    values |= {
        "problem": problem,
        "typed": typed,
        "suggested": _suggested(values["plan"], challenge.school_class),
    }
    page = render_template("planning/lessons.html", **_side(challenge, brief, "lessons", **values))
    return page, 422 if problem else 200


def _suggested(plan: week.WeekPlan, school_class: SchoolClass) -> dict[str, str]:
    """The next lesson's fields, filled in: the day after the last one, same time and length."""
    zone = ZoneInfo(school_class.zone)
    if plan.lessons:
        last = plan.lessons[-1]
        start = last.start.astimezone(zone) + timedelta(days=1)
        while start.weekday() > 4:
            start += timedelta(days=1)
        length, pack = last.length_s, last.pack_up_s
    else:
        tomorrow = datetime.now(zone) + timedelta(days=1)
        start, length, pack = tomorrow.replace(hour=9, minute=0), 3600.0, 300.0
    return {
        "date": f"{start:%Y-%m-%d}",
        "time": f"{start:%H:%M}",
        "length": f"{length / 60:g}",
        "pack_up": f"{pack / 60:g}",
    }


@bp.post(f"{AT}/lessons")
def save_lesson(challenge_id: int) -> ResponseReturnValue:
    """Add a lesson, change one, or drop one."""
    sent = request.form
    try:
        with writing() as session:
            challenge = get_challenge(session, challenge_id)
            lesson_id = sent.get("lesson", type=int)
            if sent.get("drop"):
                week.delete_lesson(session, challenge.class_id, lesson_id or 0)
            else:
                start = _moment(sent.get("date", ""), sent.get("time", ""), challenge.school_class.zone)
                length, pack = (_minutes(sent.get(k, ""), k) for k in ("length", "pack_up"))
                week.save_lesson(session, challenge.class_id, start, length, pack, lesson_id)
    except Refused as refused:
        return _lessons_page(challenge_id, refused, sent)
    return redirect(url_for(".lessons", challenge_id=challenge_id), 303)


def _moment(date: str, time: str, zone: str) -> datetime:
    try:
        return datetime.fromisoformat(f"{date}T{time}").replace(tzinfo=ZoneInfo(zone))
    except ValueError:
        raise Refused("A lesson needs a date and a time, e.g. 2026-06-01 and 09:00.", "start") from None


def _minutes(typed: str, name: str) -> float:
    try:
        return parse_plain(typed) * 60
    except NotANumber as error:
        raise Refused(str(error), name) from None


@bp.post(f"{AT}/lessons/step")
def move_step(challenge_id: int) -> ResponseReturnValue:
    """A step dragged or keyed to another lesson, stretched, left out or put back."""
    sent = request.get_json(silent=True) or request.form
    try:
        minutes = None if sent.get("minutes") in (None, "") else float(sent["minutes"])
        lesson = None if sent.get("lesson") in (None, "") else int(sent["lesson"])
    except (TypeError, ValueError):
        raise Refused("That is no length in minutes.", "minutes") from None
    with writing() as session:
        get_challenge(session, challenge_id)
        seconds = None if minutes is None else minutes * 60
        week.save_step(session, challenge_id, str(sent.get("phase", "")), length_s=seconds, not_before=lesson)
    return _after_change(challenge_id)


@bp.post(f"{AT}/lessons/remedy")
def remedy(challenge_id: int) -> ResponseReturnValue:
    with writing() as session:
        challenge = get_challenge(session, challenge_id)
        plan = week.week_of(session, challenge.class_id)
        try:
            week.apply_remedy(session, plan, challenge_id, request.form.get("key", ""))
        except Refused as refused:
            return _lessons_page(challenge_id, refused)
    return redirect(url_for(".lessons", challenge_id=challenge_id), 303)


@bp.post(f"{AT}/lessons/timing")
def save_timing(challenge_id: int) -> ResponseReturnValue:
    """How the test is held: attempts, stations, readers, seconds, staggered starts."""
    sent = request.form
    try:
        with writing() as session:
            challenge = get_challenge(session, challenge_id)
            timing = week.timing_of(session, challenge, brief_of(challenge))
            changes: dict[str, Any] = {}
            for key in ("attempts", "stations", "readers", *SECONDS):
                if key in sent:
                    changes[key] = _number(sent[key], key, whole=key not in SECONDS)
            if "test_form" in sent:
                changes["stagger"] = "stagger" in sent
            week.save_timing(session, challenge_id, replace(timing, **changes))
    except Refused as refused:
        return _lessons_page(challenge_id, refused, sent)
    return redirect(url_for(".lessons", challenge_id=challenge_id), 303)


def _number(typed: str, key: str, *, whole: bool) -> float:
    try:
        value = parse_plain(typed)
    except NotANumber as error:
        raise Refused(str(error), key) from None
    return int(value) if whole and value == int(value) else value


def _after_change(challenge_id: int) -> ResponseReturnValue:
    """The strip alone for the page's script, the whole page for a plain form."""
    if not request.is_json:
        return redirect(url_for(".lessons", challenge_id=challenge_id), 303)
    challenge, brief = open_challenge(challenge_id)
    values = _lessons_values(challenge, brief)
    html = render_template(
        "planning/strip.html", challenge=challenge, school_class=challenge.school_class, **values
    )
    return jsonify(html=html)


@bp.get("/classes/<int:class_id>/week.ics")
def calendar(class_id: int) -> Response:
    school_class = get_class(reading(), class_id)
    plan = week.week_of(reading(), class_id)
    content = week_calendar(plan, class_id, school_class.name, datetime.now(UTC))
    return named(content.decode(), "text/calendar", f"week-{class_id}.ics")


# kit


@bp.get(f"{AT}/kit")
@bp.get(f"{AT}/kit.<any(csv,json):ending>")
def kit(challenge_id: int, ending: str | None = None) -> ResponseReturnValue:
    challenge, brief = open_challenge(challenge_id)
    found = kits.kit_of(reading(), challenge.school_class, [challenge])
    values = _side(
        challenge, brief, "kit", kit=found, merged=url_for(".week_kit", class_id=challenge.class_id)
    )
    return data_page(ending, "planning/kit.html", lambda: _kit_table(found), f"kit-{challenge_id}", values)


@bp.get("/classes/<int:class_id>/kit")
@bp.get("/classes/<int:class_id>/kit.<any(csv,json):ending>")
def week_kit(class_id: int, ending: str | None = None) -> ResponseReturnValue:
    """The merged list of all challenges of the week, or of those chosen."""
    school_class = get_class(reading(), class_id)
    plan = week.week_of(reading(), class_id)
    chosen = set(request.args.getlist("challenge", type=int)) or {c.id for c in plan.challenges}
    found = kits.kit_of(reading(), school_class, [c for c in plan.challenges if c.id in chosen])
    values = {
        "school_class": school_class,
        "setting": setting_of(school_class),
        "kit": found,
        "challenges": plan.challenges,
        "chosen": chosen,
    }
    return data_page(
        ending, "planning/week_kit.html", lambda: _kit_table(found), f"kit-week-{class_id}", values
    )


def _kit_table(found: kits.Kit) -> Table:
    rows: list[tuple[Any, ...]] = [
        (
            x.line.item,
            x.line.needed,
            x.line.unit,
            x.pack,
            x.line.packs,
            x.line.total,
            x.line.cost,
            x.have,
            ", ".join(x.wanted_by),
        )
        for x in found.lines
    ]
    keys = ("item", "needed", "unit", "pack", "packs", "total", "cost", "have", "for")
    return Table("Kit", tuple(Column(k, k.capitalize()) for k in keys), rows)


@bp.post("/classes/<int:class_id>/kit")
def save_kit(class_id: int) -> ResponseReturnValue:
    """Tick one thing off, or keep its pack and cost; JSON from the page, or a plain form."""
    sent = request.get_json(silent=True) or request.form
    numbers: dict[str, float | None] = {}
    for key in ("pack", "pack_cost"):
        if key in sent:
            numbers[key] = _number(str(sent[key]), key, whole=False)
    with writing() as session:
        get_class(session, class_id)
        have = sent.get("have")
        kits.save_item(
            session,
            class_id,
            str(sent.get("item", "")),
            have=None if have is None else have in (True, "1", "true", "on"),
            **numbers,
        )
    if request.is_json:
        return jsonify(saved=True)
    return redirect(request.form.get("back") or url_for(".week_kit", class_id=class_id), 303)


# rig checks


@bp.get("/challenges/<int:challenge_id>/rig-check")
def rig_check(challenge_id: int) -> ResponseReturnValue:
    return _rig_page(challenge_id)


def _rig_page(challenge_id: int, problem: Refused | None = None, typed: Any = None) -> ResponseReturnValue:
    challenge, brief = open_challenge(challenge_id)
    found = rig.checks_of(reading(), challenge, brief)
    done = sum(c.state == "done" for c in found)
    page = render_template(
        "planning/rig_check.html",
        **frame(
            challenge,
            "runs",
            checks=found,
            offsets=rig.offsets(found),
            done=done,
            problem=problem,
            typed=typed or {},
        ),
    )
    return page, 422 if problem else 200


@bp.post("/challenges/<int:challenge_id>/rig-check/<key>")
def save_rig(challenge_id: int, key: str) -> ResponseReturnValue:
    try:
        with writing() as session:
            challenge = get_challenge(session, challenge_id)
            brief = brief_of(challenge)
            if request.form.get("clear"):
                rig.clear_check(session, challenge, key)
            else:
                rig.save_check(session, challenge, brief, key, _noted(challenge, brief, key))
    except Refused as refused:
        return _rig_page(challenge_id, refused, request.form)
    return redirect(url_for(".rig_check", challenge_id=challenge_id) + f"#{key}", 303)


def _noted(challenge: Challenge, brief: Brief, key: str) -> dict[str, float | None]:
    """The numbers typed for a check, in the stored unit."""
    check = next((c for c in brief.kind.test.bench.checks if c.key == key), None)
    if check is None:
        raise Refused("There is no such check.", key)
    spots = rig.spots_of(check, challenge)
    out: dict[str, float | None] = {}
    for i, (spot, label) in enumerate(spots):
        typed = request.form.get(f"spot{i}", "").strip()
        if not typed:
            out[spot] = None
            continue
        try:
            number = parse_plain(typed, brief.setting.decimal)
        except NotANumber as error:
            raise Refused(f"{label}: {error}", f"{key}-{i}") from None
        out[spot] = brief.setting.to_si(number, check.unit)
    return out


# sun


@bp.route(f"{AT}/sun", methods=["GET", "POST"])
def sun(challenge_id: int) -> ResponseReturnValue:
    challenge, brief = open_challenge(challenge_id)
    if "sun" not in {key for key, _, _ in sections_of(brief)}:
        return redirect(url_for("brief.section", challenge_id=challenge_id, section="task"))
    form = form_of(_place_fields(challenge.school_class))
    if request.method == "POST" and form.validate():
        with writing() as session:
            mine = get_challenge(session, challenge_id).school_class
            for key in ("latitude_deg", "longitude_deg", "altitude_m"):
                setattr(mine, key, form[key].data)
        return redirect(url_for(".sun", challenge_id=challenge_id), 303)
    values = _side(challenge, brief, "sun", form=form, **_sun_values(challenge, brief))
    return render_template("planning/sun.html", **values), 422 if form.errors else 200


def _place_fields(school_class: SchoolClass) -> dict[str, Field]:
    setting = setting_of(school_class)
    return {
        "latitude_deg": QuantityField(
            "Latitude, south is negative",
            unit="degree",
            low=-90,
            high=90,
            setting=setting,
            default=school_class.latitude_deg,
        ),
        "longitude_deg": QuantityField(
            "Longitude, west is negative",
            unit="degree",
            low=-180,
            high=180,
            setting=setting,
            default=school_class.longitude_deg,
        ),
        "altitude_m": QuantityField(
            "Height above the sea",
            unit="meter",
            low=-450,
            high=9000,
            setting=setting,
            default=school_class.altitude_m,
        ),
    }


def _sun_values(challenge: Challenge, brief: Brief) -> dict[str, Any]:
    """For each day with lessons: the best window within them and in the day, aim and light."""
    mine = challenge.school_class
    if mine.latitude_deg is None or mine.longitude_deg is None:
        return {"days": [], "place_known": False}
    place = Place(mine.latitude_deg, mine.longitude_deg, mine.altitude_m, mine.zone)
    zone = ZoneInfo(mine.zone)
    rows = week.lessons_of(reading(), mine.id)
    spans: dict[Any, list[tuple[datetime, datetime]]] = {}
    for row in rows:
        day = row.starts_at.astimezone(zone).date()
        end = row.starts_at + timedelta(seconds=row.length_s - row.pack_up_s)
        spans.setdefault(day, []).append((row.starts_at, end))
    if not spans:
        spans = {datetime.now(zone).date(): []}
    need = sum(m[-1] for m in brief.marks.values() if m) or 1800.0
    days = []
    for day, within in spans.items():
        shortest = min(need, max(((b - a).total_seconds() for a, b in within), default=need))
        days.append(
            {
                "date": day,
                "minutes": shortest / 60,
                "lesson": best_window(day, place, shortest, within=within) if within else None,
                "whole": best_window(day, place, need),
            }
        )
    first = next((w for d in days for w in (d["lesson"], d["whole"]) if w and w.start), None)
    aim = brief.kind.build.aim
    aimed = aim(brief.rig(), first.elevation_deg) if first is not None and aim is not None else None
    return {
        "days": days,
        "place_known": True,
        "sunniest": first,
        "aim": aimed,
        "picture": drawing_svg(aimed.drawing) if aimed else "",
    }
