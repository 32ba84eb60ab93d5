"""Following a run from outside: its readings with units, those since the last look, as JSON and CSV."""

from __future__ import annotations

from collections.abc import Sequence
from zlib import crc32

from flask import Blueprint, Response, request
from sqlalchemy import func, select
from sqlalchemy.orm import Session

from thermion.core.judging.observed import quantity_of
from thermion.formats.tables import Column, Table, to_csv
from thermion.records.planning.briefs import Brief, get_challenge
from thermion.records.running.logged import row_name
from thermion.records.running.probes import probe_of_key
from thermion.records.running.runs import get_run
from thermion.records.tables import Entry, Reading, Run
from thermion.web.access import PROBES, asking, may
from thermion.web.answers import named
from thermion.web.described import Asks, asks, speaks
from thermion.web.payloads import Trouble, answer
from thermion.web.places.probes.entering import key_sent, may_enter
from thermion.web.places.probes.payloads import Followed, RunFollowed
from thermion.web.sessions import open_run, read_session

bp = Blueprint("follow", __name__, url_prefix="/follow")
MOST = 20_000  # readings in one answer; the rest is asked for with `since`


@bp.get("/runs/<int:run_id>.<any(json,csv):ending>")
@may(PROBES)
@asks(Asks("since", "only what came after this: the `last` of the answer before", "integer"))
@speaks(RunFollowed)
def run(run_id: int, ending: str) -> Response:
    """Readings of a run in the class's units, in the order in which they came."""
    session = read_session()
    turned_away = _turned_away(session, run_id)
    if turned_away is not None:
        return turned_away
    given = request.args.get("since", "0")
    since = int(given) if given.isdecimal() and len(given) < 18 else 0
    item, challenge, brief = open_run(run_id)
    newest = session.scalar(
        select(func.max(Reading.id)).join(Entry, Entry.id == Reading.entry_id).where(Entry.run_id == run_id)
    )
    mark = f"{run_id}-{newest or 0}-{since}-{item.closed_at is not None:d}-{len(item.phases)}-{crc32(ending.encode())}"
    if request.if_none_match.contains(mark):
        return Response(status=304, headers={"ETag": f'"{mark}"'})
    rows = session.scalars(
        select(Reading)
        .join(Entry, Entry.id == Reading.entry_id)
        .where(Entry.run_id == run_id, Reading.id > since)
        .order_by(Reading.id)
        .limit(MOST)
    ).all()
    readings = _followed(rows, item, brief)
    if ending == "csv":
        table = _as_table(f"Run {item.number}", readings)
        out = named(to_csv(table, brief.setting.decimal), "text/csv", f"run-{item.number}.csv", save=False)
    else:
        out = answer(
            RunFollowed(
                run=item.number,
                challenge=challenge.title,
                started={p.phase: p.started_at for p in item.phases},
                closed=item.closed_at is not None,
                last=rows[-1].id if rows else since,
                readings=readings,
            )
        )
    out.set_etag(mark)
    out.headers["Cache-Control"] = "no-cache"
    return out


def _turned_away(session: Session, run_id: int) -> Response | None:
    """What someone is told who may not follow this run; None for whoever may."""
    if asking().role != "probe":
        return None
    probe = probe_of_key(session, key_sent()) if may_enter() else None
    if probe is None:
        said = answer(Trouble(error="The key of a probe is needed, and probes have to be let in."), 401)
        said.headers["WWW-Authenticate"] = "Bearer"
        return said
    if probe.class_id != get_challenge(session, get_run(session, run_id).challenge_id).class_id:
        return answer(Trouble(error="This key is of another class, or of none yet."), 403)
    return None


def _followed(rows: Sequence[Reading], run: Run, brief: Brief) -> list[Followed]:
    """Readings as they are sent, in the class's units."""
    entries = {e.id: e for e in run.entries}
    quantities = {e.id: quantity_of(brief.read_at(e.is_air)) for e in run.entries}
    setting = brief.setting
    out = []
    for r in rows:
        unit = quantities[r.entry_id].unit
        out.append(
            Followed(
                id=r.id,
                row=row_name(entries[r.entry_id]),
                phase=r.phase,
                mark_s=r.mark_s,
                taken_s=round(r.time_s, 3),
                value=None if r.value is None else round(setting.from_si(r.value, unit), 6),
                unit=setting.label(unit),
                source=r.source,
                replaces=r.supersedes_id,
            )
        )
    return out


def _as_table(title: str, readings: Sequence[Followed]) -> Table:
    names = list(Followed.model_fields)
    columns = tuple(Column(name, name) for name in names)
    return Table(title, columns, [tuple(getattr(r, name) for name in names) for r in readings])
