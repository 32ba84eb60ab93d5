"""A table into a run: brought or pasted, asked about, seen, then all of it or nothing."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from io import BytesIO

from flask import Blueprint, Response, flash, redirect, request, send_file, url_for
from flask.typing import ResponseReturnValue
from sqlalchemy.orm import Session

from thermion.formats.asking import Question
from thermion.formats.spreadsheet.cells import NoTable, tabs_of
from thermion.formats.spreadsheet.filling import to_fill_in, workbook
from thermion.formats.spreadsheet.of_run import wanted_of, wanted_of_challenge
from thermion.formats.spreadsheet.placing import TableRead, read_table
from thermion.formats.tables import Table, to_csv
from thermion.records.errors import Gone, Refused
from thermion.records.judging.earlier import relearn_from
from thermion.records.planning.briefs import Brief
from thermion.records.running.table_in import (
    Attempted,
    Outcome,
    Over,
    PlacedValue,
    is_in,
    put_in,
    take_table_back,
)
from thermion.records.tables import Run
from thermion.web import inbox
from thermion.web.access import DESKS, may
from thermion.web.answers import named
from thermion.web.components.frame import frame, page
from thermion.web.places.spreadsheet import tables, words
from thermion.web.sessions import open_challenge, open_run, read_session, run_to_change, write_session

bp = Blueprint("spreadsheet", __name__)
XLSX = "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"


class _Tried(Exception):  # noqa: N818 - not a fault: what was tried is not to be kept
    """Ends a turn of writing without anything being stored."""


@bp.route("/runs/<int:run_id>/table", methods=["GET", "POST"])
@may(DESKS)
def bring(run_id: int) -> ResponseReturnValue:
    """Bring a file, or paste what was copied."""
    item, challenge, brief = open_run(run_id)
    problem = ""
    if request.method == "POST":
        try:
            kept = _brought(item, brief)
            return redirect(url_for(".shown", run_id=run_id, file_id=kept.file_id), 303)
        except NoTable as error:
            problem = str(error)
    text = request.form.get("text", "")[:20_000]
    empty = to_fill_in(wanted_of(read_session(), item, brief))
    values = frame(challenge, "runs", run=item, problem=problem, text=text, empty=empty)
    return page("spreadsheet/bring.html", values, refused=bool(problem))


def _brought(item: Run, brief: Brief) -> inbox.InboxFile:
    """A table that can be read, kept; NoTable for any other."""
    upload = request.files.get("file")
    if upload is not None and upload.filename:
        data, name = bytes(upload.read()), upload.filename
    else:
        data, name = request.form.get("text", "").encode(), "A pasted table"
    if not data.strip():
        raise NoTable("Paste a table, or choose a file first.")
    read_table(tabs_of(data), wanted_of(read_session(), item, brief), {})
    return inbox.put(data, name, "table")


@dataclass(frozen=True, kw_only=True)
class _OpenTable:
    """A table as it is read with what was answered, and what storing it would do."""

    kept: inbox.InboxFile
    found: TableRead
    values: list[PlacedValue | Attempted]  # all that is to be taken
    refused: list[PlacedValue | Attempted]  # what cannot be
    questions: list[Question]
    outcome: Outcome

    @property
    def answers(self) -> dict[str, str]:
        return self.kept.note.answers

    @property
    def settled(self) -> bool:
        return all(q.answer(self.answers) is not None for q in self.questions)

    @property
    def attempts(self) -> bool:
        return bool(self.found.attempted)


def _kept(file_id: str) -> inbox.InboxFile:
    kept = inbox.find(file_id)
    if kept is None:
        raise Gone("This table is no longer kept here. Bring it again.")
    return kept


def _open(session: Session, item: Run, brief: Brief, file_id: str) -> _OpenTable:
    """Read a table, and try to put it into the run; nothing may be kept of that session."""
    kept = _kept(file_id)
    answers = kept.note.answers
    try:
        found = read_table(tabs_of(kept.data()), wanted_of(session, item, brief), answers)
    except NoTable as error:
        raise Gone(str(error)) from None
    values: list[PlacedValue | Attempted] = [*found.placed, *found.attempted]
    questions = list(found.questions)
    outcome = put_in(session, item, brief, values, file_id, _over(answers)) if found.settled else Outcome()
    cells = {where for where, _ in outcome.wrong}
    refused = [v for v in values if v.where in cells]
    values = [v for v in values if v.where not in cells]
    if outcome.clash:
        questions.append(words.over(outcome.clash))
    if outcome.wrong:
        questions.append(words.wrong(outcome.wrong))
    return _OpenTable(
        kept=kept, found=found, values=values, refused=refused, questions=questions, outcome=outcome
    )


def _over(answers: Mapping[str, str]) -> Over:
    """What was answered about values where others stand."""
    given = answers.get(words.OVER)
    return "keep" if given == "keep" else "replace" if given == "replace" else "ask"


def _tried(run_id: int, file_id: str) -> _OpenTable:
    """The same, in a turn of which nothing is kept."""
    out: list[_OpenTable] = []
    try:
        with write_session() as session:
            item, brief = run_to_change(session, run_id)
            out.append(_open(session, item, brief, file_id))
            raise _Tried
    except _Tried:
        return out[0]


@bp.get("/runs/<int:run_id>/table/<file_id>")
@may(DESKS)
def shown(run_id: int, file_id: str) -> ResponseReturnValue:
    return _page(run_id, file_id)


def _page(run_id: int, file_id: str, problem: str = "") -> ResponseReturnValue:
    item, challenge, brief = open_run(run_id)
    if is_in(read_session(), item, file_id):
        kept = _kept(file_id)
        values = frame(challenge, "runs", run=item, file_id=file_id, name=kept.note.name)
        return page("spreadsheet/stored.html", values)
    try:
        opened = _tried(run_id, file_id)
    except Refused as refused:
        if isinstance(refused, Gone):
            raise
        values = frame(challenge, "runs", run=item, problem=refused.message, name=_kept(file_id).note.name)
        return page("spreadsheet/refused.html", values, refused=True)
    wanted = wanted_of(read_session(), item, brief)
    marks = tables.marked([w for w, _ in opened.outcome.wrong], [w for w, _ in opened.outcome.asked])
    values = frame(
        challenge,
        "runs",
        run=item,
        file_id=file_id,
        name=opened.kept.note.name,
        questions=opened.questions,
        answers=opened.answers,
        settled=opened.settled,
        asking=not opened.settled or request.args.get("again") == "1",
        table=tables.shown([*opened.values, *opened.refused], wanted, marks),
        outcome=opened.outcome,
        wrong=tables.by_reason(opened.outcome.wrong),
        asked=tables.by_reason(opened.outcome.asked),
        left=opened.found.left,
        computed=any(tab.computed for tab in tabs_of(opened.kept.data())),
        same=words.same(opened.outcome),
        paper=words.paper(brief.kind.test.shape == "marks" and not item.phases),
        store=words.store(opened.outcome, opened.attempts),
        problem=problem,
    )
    return page("spreadsheet/table.html", values, refused=bool(problem))


@bp.post("/runs/<int:run_id>/table/<file_id>/answers")
@may(DESKS)
def confirm(run_id: int, file_id: str) -> ResponseReturnValue:
    """Keep what was answered about this table."""
    opened = _tried(run_id, file_id)
    given = inbox.given(opened.questions)
    opened.kept.note.answers = {**opened.answers, **given}
    opened.kept.save()
    return redirect(url_for(".shown", run_id=run_id, file_id=file_id), 303)


@bp.post("/runs/<int:run_id>/table/<file_id>/store")
@may(DESKS)
def store(run_id: int, file_id: str) -> ResponseReturnValue:
    """All of it or nothing."""
    opened = _tried(run_id, file_id)
    if not opened.settled:
        return _page(run_id, file_id, "Answer first what the table leaves open.")
    try:
        with write_session() as session:
            item, brief = run_to_change(session, run_id)
            done = put_in(session, item, brief, opened.values, file_id, _over(opened.answers))
            if not done.whole:
                raise Refused("The test has changed meanwhile. Look at the table again.")
            relearn_from(session, item)
    except Refused as refused:
        if isinstance(refused, Gone):
            raise
        return _page(run_id, file_id, refused.message)
    flash(words.stored(done.stored, opened.attempts))
    return redirect(url_for(".shown", run_id=run_id, file_id=file_id), 303)


@bp.post("/runs/<int:run_id>/table/<file_id>/back")
@may(DESKS)
def back(run_id: int, file_id: str) -> ResponseReturnValue:
    """Take what came with a table out of the run again."""
    with write_session() as session:
        item, brief = run_to_change(session, run_id)
        number = take_table_back(session, item, file_id)
        relearn_from(session, item)
    flash(words.taken_back(number, brief.kind.test.shape != "marks"))
    return redirect(url_for("runs.run", run_id=run_id), 303)


@bp.get("/runs/<int:run_id>/table.<any(csv,xlsx):ending>")
@may(DESKS)
def of_run(run_id: int, ending: str) -> Response:
    """This run's table to fill in."""
    item, _, brief = open_run(run_id)
    return _file(ending, to_fill_in(wanted_of(read_session(), item, brief)), brief, f"table-run-{run_id}")


@bp.get("/challenges/<int:challenge_id>/table.<any(csv,xlsx):ending>")
@may(DESKS)
def of_challenge(challenge_id: int, ending: str) -> Response:
    """A table to fill in for all teams of a challenge."""
    challenge, brief = open_challenge(challenge_id)
    found = wanted_of_challenge(read_session(), challenge, brief)
    return _file(ending, to_fill_in(found), brief, f"table-{challenge_id}")


def _file(ending: str, table: Table, brief: Brief, name: str) -> Response:
    if ending == "xlsx":
        return send_file(
            BytesIO(workbook(table)), mimetype=XLSX, as_attachment=True, download_name=f"{name}.xlsx"
        )
    return named("\ufeff" + to_csv(table, brief.setting.decimal), "text/csv", f"{name}.csv")
