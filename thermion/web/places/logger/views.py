"""A logger's file into a run: brought, asked about, laid along the test, then all of it or nothing."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import UTC, date, datetime, timedelta
from functools import lru_cache
from zoneinfo import ZoneInfo

from flask import Blueprint, flash, redirect, request, url_for
from flask.typing import ResponseReturnValue
from sqlalchemy import select

from thermion.core.physics.units import NotANumber, convert, parse_minutes, unit_label
from thermion.formats.logger import Channel, LoggerFile, UnreadableFile, read_logger, settled
from thermion.records import moments
from thermion.records.errors import Gone, Refused
from thermion.records.judging.earlier import relearn_from
from thermion.records.planning.briefs import Brief
from thermion.records.running import runs
from thermion.records.running.logged import (
    FARTHEST_S,
    LoggedChannel,
    Overlap,
    add_logged,
    begins_at,
    is_in,
    lay,
    likely_rows,
    logs_temperature,
    row_name,
    take_back,
)
from thermion.records.running.logger_answers import (
    forget_layout,
    known_layout,
    known_layouts,
    remember_layout,
)
from thermion.records.running.series import series_of
from thermion.records.tables import Challenge, Entry, LoggerLayout, Run
from thermion.web import inbox
from thermion.web.access import DESKS, may
from thermion.web.components.frame import frame, page
from thermion.web.described import speaks
from thermion.web.payloads import answer, row_id, sent
from thermion.web.pictures.lineup import laid_along, small_curve
from thermion.web.places.logger import words
from thermion.web.places.logger.payloads import Laying, Lying
from thermion.web.sessions import open_run, read_session, write_session

bp = Blueprint("logger", __name__)
NO_TEMPERATURES = "This run does not read temperatures, so a logger's file has no place in it."


@dataclass(frozen=True, kw_only=True)
class FileColumn:
    """A channel of the file as the page shows it, and the row of the run that it is likely of (0: none)."""

    channel: Channel
    unit: str
    range: str
    lost: str
    curve: str
    entry: int


@bp.route("/runs/<int:run_id>/file", methods=["GET", "POST"])
@may(DESKS)
def file(run_id: int) -> ResponseReturnValue:
    """Bring one or several files."""
    _, challenge, brief = open_run(run_id)
    problem = "" if logs_temperature(brief) else NO_TEMPERATURES
    if request.method == "POST" and not problem:
        try:
            brought = [_brought(name, data, challenge) for name, data in _uploaded()]
            return redirect(url_for(".shown", run_id=run_id, file_id=brought[0].file_id), 303)
        except UnreadableFile as error:
            problem = str(error)
    return _bring(run_id, problem)


def _bring(run_id: int, problem: str = "") -> ResponseReturnValue:
    item, challenge, _ = open_run(run_id)
    session = read_session()
    numbers = {r.id: r.number for r in session.scalars(select(Run).where(Run.challenge_id == challenge.id))}
    kept = [(k, words.where_used(k.note.used, numbers)) for k in inbox.all_kept("logger")[:12]]
    values = frame(challenge, "runs", run=item, problem=problem, kept=kept, layouts=known_layouts(session))
    return page("logger/index.html", values, refused=bool(problem))


def _uploaded() -> list[tuple[str, bytes]]:
    uploads = [u for u in request.files.getlist("file") if u.filename]
    if not uploads:
        raise UnreadableFile("Choose a file first.")
    return [(u.filename or "", bytes(u.read())) for u in uploads[:12]]


def _brought(name: str, data: bytes, challenge: Challenge) -> inbox.InboxFile:
    """A file that can be read, kept; UnreadableFile for any other."""
    kept = inbox.put(data, name, "logger")
    try:
        _as_answered(kept, kept.note.answers, challenge)
    except UnreadableFile as error:
        kept.path.unlink(missing_ok=True)
        raise UnreadableFile(f"{name[:60]}: {error}" if name else str(error)) from None
    return kept


@dataclass(frozen=True, kw_only=True)
class _Open:
    """A file as it is read now: with what was answered about it, or about files like it."""

    kept: inbox.InboxFile
    file: LoggerFile
    answers: dict[str, str]
    layout: LoggerLayout | None
    as_before: bool


@lru_cache(maxsize=6)
def _read(
    kept: inbox.InboxFile, answers: tuple[tuple[str, str], ...], zone: str, unit: str, today: date
) -> LoggerFile:
    """A kept file as it is read with these answers; sliding it along the test asks for it again and again."""
    noon = datetime(today.year, today.month, today.day, 12, tzinfo=UTC)
    return read_logger(kept.data(), dict(answers), zone=zone, usual_unit=unit, now=noon)


def _as_answered(kept: inbox.InboxFile, answers: dict[str, str], challenge: Challenge) -> LoggerFile:
    crew, today = challenge.school_class, moments.now().date()
    return _read(kept, tuple(sorted(answers.items())), crew.zone, crew.temp_unit, today)


def _open(file_id: str, challenge: Challenge) -> _Open:
    kept = inbox.find(file_id)
    if kept is None:
        raise Gone("This file is no longer kept here. Bring it again.")
    answers = dict(kept.note.answers)
    found = _as_answered(kept, answers, challenge)
    layout = known_layout(read_session(), found.layout)
    as_before = False
    if layout is not None and not settled(found, answers):
        both = {**layout.answers, **answers}
        again = _as_answered(kept, both, challenge)
        as_before = any(q.key in layout.answers and q.key not in answers for q in again.questions)
        found, answers = again, both
    return _Open(kept=kept, file=found, answers=answers, layout=layout, as_before=as_before)


@bp.get("/runs/<int:run_id>/file/<file_id>")
@may(DESKS)
def shown(run_id: int, file_id: str) -> ResponseReturnValue:
    return _page(run_id, file_id)


def _page(run_id: int, file_id: str, problem: Refused | None = None) -> ResponseReturnValue:
    """What was read; what is asked; and, once nothing is open, the line-up."""
    item, challenge, brief = open_run(run_id)
    opened = _open(file_id, challenge)
    found, zone = opened.file, challenge.school_class.zone
    done = settled(found, opened.answers)
    phase = _phase(request.values.get("phase", ""), item, brief)
    likely = likely_rows(item.entries, [c.heading for c in found.channels])
    columns = [
        _column(c, brief, str(k), row) for k, (c, row) in enumerate(zip(found.channels, likely, strict=True))
    ]
    begin, how = begins_at(item, phase, found.starts_at, found.of_day_s, found.length_s, zone)
    values: dict[str, object] = {
        "file": found,
        "name": opened.kept.note.name,
        "file_id": file_id,
        "columns": columns,
        "time_read": words.time_read(found, zone),
        "how_read": words.how_read(found),
        "left": words.columns_left(found),
        "skipped": words.skipped(found),
        "answers": opened.answers,
        "asking": not done or request.args.get("again") == "1",
        "remembered": words.remembered(opened.layout, opened.as_before),
        "layout_name": opened.layout.name if opened.layout else "",
        "rows": [(e.id, row_name(e), _colour(e)) for e in item.entries],
        "phases": brief.kind.test.phases,
        "phase": phase,
        "how": words.HOW["far" if abs(begin) > FARTHEST_S else how],
        "far": abs(begin) > FARTHEST_S,
        "already": words.already(item, phase, brief)
        if is_in(read_session(), f"{run_id}-{file_id}", phase)
        else "",
        "problem": problem,
    }
    if done and not values["asking"]:
        at = begin if abs(begin) <= FARTHEST_S else 0.0
        typed = request.form.get("begin")
        if problem is not None and typed:
            at = _begin(brief)
        ends = {p: marks[-1] for p, marks in brief.marks.items() if marks}
        values |= {
            "begin_s": round(at),
            "begin": words.begin(at),
            "laid": laid_along(
                [(k, c.time_s, _celsius(c)) for k, c in enumerate(found.channels)],
                {e.id: e for e in item.entries},
                series_of(read_session(), [item]),
                phase,
                end_s=ends.get(phase, 1800.0),
                begin_s=at,
                setting=brief.setting,
            ),
        }
    return page("logger/file.html", frame(challenge, "runs", run=item, **values), refused=problem is not None)


def _phase(asked: str, item: Run, brief: Brief) -> str:
    """The phase that is asked for, else the one that runs, else the first."""
    keys = [p.key for p in brief.kind.test.phases]
    going = [p.phase for p in item.phases if p.phase in keys]
    return asked if asked in keys else (going[-1] if going else keys[0])


def _column(channel: Channel, brief: Brief, at: str, likely: int) -> FileColumn:
    chosen = request.form.get(f"row-{at}")
    return FileColumn(
        channel=channel,
        unit=unit_label(channel.unit),
        range=words.range_read(channel, brief.setting),
        lost=words.lost(channel),
        curve=small_curve(channel.time_s, channel.value),
        entry=likely if chosen is None else row_id(chosen),
    )


def _colour(entry: Entry) -> str:
    return "air" if entry.version is None else entry.version.build.team.colour


def _celsius(channel: Channel) -> tuple[float, ...]:
    zero, one = (convert(x, channel.unit, "degC") for x in (0.0, 1.0))
    return tuple(zero + v * (one - zero) for v in channel.value)


@bp.post("/runs/<int:run_id>/file/<file_id>/answers")
@may(DESKS)
def confirm(run_id: int, file_id: str) -> ResponseReturnValue:
    """Keep what was answered, for this file and for others with its headings."""
    _, challenge, _ = open_run(run_id)
    opened = _open(file_id, challenge)
    given = inbox.given(opened.file.questions)
    kept = {**opened.answers, **given}
    opened.kept.note.answers = kept
    opened.kept.save()
    with write_session() as session:
        remember_layout(session, opened.file.layout, request.form.get("logger", ""), given)
    return redirect(url_for(".shown", run_id=run_id, file_id=file_id), 303)


@bp.post("/runs/<int:run_id>/file/<file_id>/forget")
@may(DESKS)
def forget(run_id: int, file_id: str) -> ResponseReturnValue:
    """Ask everything anew, of this file and of others like it."""
    _, challenge, _ = open_run(run_id)
    opened = _open(file_id, challenge)
    opened.kept.note.answers = {}
    opened.kept.save()
    with write_session() as session:
        forget_layout(session, opened.file.layout)
    return redirect(url_for(".shown", run_id=run_id, file_id=file_id), 303)


@bp.post("/runs/<int:run_id>/file/<file_id>/where")
@may(DESKS)
@speaks(Lying, Laying)
def where(run_id: int, file_id: str) -> ResponseReturnValue:
    """What storing the file as it is laid now would do."""
    item, challenge, brief = open_run(run_id)
    given = sent(Laying)
    begin = words.begin(given.begin_s)
    try:
        channels = _channels(_open(file_id, challenge).file, given.rows, given.begin_s)
        overlap: Overlap = "gaps" if given.overlap == "gaps" else "both"
        found = lay(read_session(), item, brief, given.phase, channels, overlap)
    except Refused as refused:
        return answer(Lying(said=[], begin=begin, store="", error=refused.message))
    return answer(
        Lying(
            said=words.laid(found, brief),
            begin=begin,
            store=words.store(found),
            over=found.over > 0,
            before=found.before > 0,
        )
    )


def _channels(file: LoggerFile, rows: dict[int, int], begin_s: float) -> list[LoggedChannel]:
    """The matched channels on the clock of the test."""
    taken = [row for row in rows.values() if row]
    if not taken:
        raise Refused("Match at least one column to a build.", "match")
    if len(set(taken)) != len(taken):
        raise Refused("Two columns are matched to the same build.", "match")
    return [
        LoggedChannel(rows[k], tuple(t + begin_s for t in c.time_s), c.value, c.unit)
        for k, c in enumerate(file.channels)
        if rows.get(k)
    ]


@bp.post("/runs/<int:run_id>/file/<file_id>/store")
@may(DESKS)
def store(run_id: int, file_id: str) -> ResponseReturnValue:
    """All of it or nothing."""
    try:
        _, challenge, brief = open_run(run_id)
        opened = _open(file_id, challenge)
        if not settled(opened.file, opened.answers):
            raise Refused("Answer first what the file leaves open.", "match")
        rows = {k: row_id(request.form.get(f"row-{k}", "0")) for k in range(len(opened.file.channels))}
        begin, phase = _begin(brief), request.form.get("phase", "")
        if phase not in {p.key for p in brief.kind.test.phases}:
            raise Refused("Choose the phase that this file belongs to.", "phase")
        channels = _channels(opened.file, rows, begin)
        overlap: Overlap = "gaps" if request.form.get("overlap") == "gaps" else "both"
        with write_session() as session:
            item = runs.get_run(session, run_id)
            started = _started(opened.file, begin, challenge.school_class.zone)
            number = add_logged(
                session,
                item,
                brief,
                phase,
                started_at=started,
                channels=channels,
                file_id=f"{run_id}-{file_id}",
                overlap=overlap,
            )
            relearn_from(session, item)
            said = words.stored(number, item) if number else words.already(item, phase, brief)
        flash(said)
    except Refused as refused:
        if isinstance(refused, Gone):
            raise
        return _page(run_id, file_id, refused)
    opened.kept.note.used = sorted({*opened.kept.note.used, (run_id, phase)})
    opened.kept.save()
    return redirect(url_for("runs.run", run_id=run_id), 303)


def _started(file: LoggerFile, begin_s: float, zone: str) -> datetime:
    """When a phase began that had no clock before the file came."""
    latest = moments.now() - timedelta(seconds=file.length_s)
    first = latest
    if file.starts_at is not None:
        local = file.starts_at if file.starts_at.tzinfo else file.starts_at.replace(tzinfo=ZoneInfo(zone))
        first = min(local.astimezone(UTC), latest)  # a logger's clock may be wrong, but not in the future
    return first - timedelta(seconds=begin_s)


def _begin(brief: Brief) -> float:
    """Where the file's first reading falls on the clock of the test [s]; before it with a minus sign."""
    typed = request.form.get("begin", "").strip() or "0"
    before = typed[:1] in "-−"
    try:
        seconds = parse_minutes(typed.lstrip("-−+ "), brief.setting.decimal)
    except NotANumber as error:
        raise Refused(str(error), "begin") from None
    return -seconds if before else seconds


@bp.post("/runs/<int:run_id>/file/<file_id>/back")
@may(DESKS)
def back(run_id: int, file_id: str) -> ResponseReturnValue:
    """Take a file's readings out of the run again."""
    phase = request.form.get("phase", "")
    with write_session() as session:
        item = runs.get_run(session, run_id)
        number = take_back(session, f"{run_id}-{file_id}", phase)
        relearn_from(session, item)
    flash(words.taken_back(number))
    return redirect(url_for(".shown", run_id=run_id, file_id=file_id, phase=phase), 303)


@bp.post("/runs/<int:run_id>/file/layouts/forget")
@may(DESKS)
def forget_known(run_id: int) -> ResponseReturnValue:
    with write_session() as session:
        forget_layout(session, request.form.get("layout", ""))
    return redirect(url_for(".file", run_id=run_id), 303)
