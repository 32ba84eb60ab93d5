"""A clocked run as the grid shows it: rows, clocks with their marks, cells, curves."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from flask import render_template, url_for
from flask.typing import ResponseReturnValue

from thermion.core.judging.observed import Quantity, quantity_of
from thermion.core.physics.units import Setting, clock_text
from thermion.records import moments
from thermion.records.planning.briefs import Brief
from thermion.records.running import runs
from thermion.records.running.placed_probes import is_probed
from thermion.records.running.series import NOTHING, Loose, series_of
from thermion.records.tables import Challenge, Entry, Reading, Run
from thermion.web.components.frame import frame
from thermion.web.components.shapes import OUTLINES
from thermion.web.pictures.bars import run_bars
from thermion.web.pictures.curves import BOARD, TALL, chart_svg
from thermion.web.pictures.readings import run_chart
from thermion.web.places.runs import words
from thermion.web.places.runs.again import again
from thermion.web.places.runs.later_readings import later_panel
from thermion.web.places.runs.payloads import CellShown, GridPage, MarkShown, PhaseShown, RowShown, RunState
from thermion.web.sessions import read_session


def grid_page(run: Run, challenge: Challenge, brief: Brief) -> ResponseReturnValue:
    """The desk's page of a clocked test."""
    names = ("save", "state", "start", "probe", "curves")
    urls = {name: url_for(f"grid.{name}", run_id=run.id) for name in names}
    urls["history"] = url_for("grid.history", run_id=run.id, reading_id=0)
    read = brief.read_at(air=False)
    values = frame(
        challenge,
        "runs",
        run=run,
        where=words.where(run),
        data=_data(run, brief, urls, board=False),
        chart=chart_of(run, brief),
        words=word_pictures(brief),
        read=read,
        unit=brief.setting.label(read.unit),
        many=len(run.entries),
        later=later_panel(run, brief, challenge.school_class.zone),
        again=again(run, challenge, brief, all_had=run.closed_at is not None),
        aparts=words.apart_line(run, brief),
        probed=is_probed(read_session(), run),
        pads_words=words.PADS,
    )
    return render_template("runs/grid.html", **values)


def grid_board(run: Run, challenge: Challenge, brief: Brief, light: str) -> ResponseReturnValue:
    """The projector's window: clock, next mark, curves; no controls."""
    urls = {
        "state": url_for("grid.state", run_id=run.id),
        "curves": url_for("grid.curves", run_id=run.id, board=1),
    }
    data = _data(run, brief, urls, board=True)
    values = frame(challenge, "runs", run=run, light=light, data=data, chart=chart_of(run, brief, BOARD))
    return render_template("runs/board.html", **values)


def _data(run: Run, brief: Brief, urls: dict[str, str], *, board: bool) -> GridPage:
    state = state_of(run, brief)
    return GridPage(
        state=state,
        where=words.where(run),
        board=board,
        urls=urls,
        words=words.of_grid(brief.setting.decimal),
    )


def chart_of(run: Run, brief: Brief, height: float = TALL) -> str:
    """Curves of the run so far; of a scale in words, when each row got where it counts."""
    if brief.read_at(air=False).words:
        return run_bars(read_session(), run, brief)
    found = series_of(read_session(), [run])
    return chart_svg(run_chart(run.entries, found, brief, height))


@dataclass(frozen=True)
class WordPicture:
    """A value of a scale in words with its drawing, to be pointed at."""

    key: str
    word: str
    picture: str


def word_pictures(brief: Brief) -> list[WordPicture]:
    draw = brief.kind.views.draw_word
    if draw is None:
        return []
    return [
        WordPicture(str(i), word, render_template("pictures/word.svg", drawing=draw(i), id=f"word-{i}"))
        for i, word in enumerate(brief.read_at(air=False).words)
    ]


def cell_of(item: Reading, earlier: int, setting: Setting, quantity: Quantity) -> CellShown:
    """A reading as the grid shows it."""
    shown = "" if item.value is None else setting.show(item.value, quantity.unit, quantity.digits, unit=False)
    return CellShown(
        entry=item.entry_id,
        phase=item.phase,
        mark=f"{item.mark_s:g}",
        id=item.id,
        text=shown,
        time=clock_text(item.time_s),
        timed=item.timed,
        question=item.question,
        suggestion=setting.typed(item.suggestion, quantity.unit, 1),
        earlier=earlier,
        source=item.source,
    )


def state_of(run: Run, brief: Brief) -> RunState:
    """The whole run for the grid: rows, clocks with their marks, cells."""
    read = brief.read_at(air=False)
    clocks = runs.clocks(run, brief)
    return RunState(
        now=moments.now(),
        speed=run.speed,
        rehearsal=run.rehearsal,
        paper=run.paper,
        closed=run.closed_at is not None,
        closed_at=run.closed_at,
        before=words.before_start(brief.setting.label(read.unit)),
        words=list(read.words),
        rows=[_row(entry, brief) for entry in run.entries],
        phases=[_phase(clock, brief) for clock in clocks],
        cells=_cells(run, brief, clocks),
    )


def _phase(clock: runs.Clock, brief: Brief) -> PhaseShown:
    phase = brief.kind.test.phase(clock.phase)
    marks = [
        MarkShown(mark=s.mark_s, key=f"{s.mark_s:g}", until=s.due_until_s, label=f"{s.mark_s / 60:g}")
        for s in clock.slots
    ]
    return PhaseShown(
        key=clock.phase, label=phase.label, begin=phase.begin, started=clock.started_at, slots=marks
    )


def _row(entry: Entry, brief: Brief) -> RowShown:
    version = entry.version
    team = version.build.team if version is not None else None
    name = words.row_name(entry)
    if version is not None and version.number > 1:
        name += f" {version.number}"
    if entry.offset_s:
        name += f" +{clock_text(entry.offset_s)}"
    return RowShown(
        id=entry.id,
        name=name,
        letter=team.letter if team else "",
        colour=team.colour if team else "air",
        outline=f"M0,0{OUTLINES[team.shape]}" if team else "",
        device=dict(brief.kind.test.devices).get(entry.device, ""),
        scaled=bool(brief.read_at(entry.is_air).words),
        control=entry.is_control,
    )


def _cells(run: Run, brief: Brief, clocks: list[runs.Clock]) -> list[CellShown]:
    quantities = {e.id: quantity_of(brief.read_at(e.is_air)) for e in run.entries}
    found = {
        key: cell_of(cell.reading, cell.earlier, brief.setting, quantities[key[0]])
        for key, cell in runs.cells(read_session(), run).items()
    }
    logged = _logged(run, brief, clocks, quantities)
    return [*found.values(), *(cell for key, cell in logged.items() if key not in found)]


_Spot = tuple[int, str, float]


def _logged(
    run: Run, brief: Brief, clocks: list[runs.Clock], quantities: Mapping[int, Quantity]
) -> dict[_Spot, CellShown]:
    """The logger's value nearest in time to each mark, shown but not stored there."""
    out: dict[_Spot, CellShown] = {}
    if not runs.has_loose(read_session(), run):
        return out
    series = series_of(read_session(), [run])
    for clock in clocks:
        for entry in run.entries:
            loose = series.get((entry.id, clock.phase), NOTHING).loose
            for slot in clock.slots if loose.time_s else ():
                best = loose.nearest(slot.mark_s)
                if abs(loose.time_s[best] - slot.mark_s) <= (slot.due_until_s - slot.due_from_s) / 4:
                    key = (entry.id, clock.phase, slot.mark_s)
                    out[key] = _logged_cell(loose, best, key, brief.setting, quantities[entry.id])
    return out


def _logged_cell(loose: Loose, at: int, spot: _Spot, setting: Setting, quantity: Quantity) -> CellShown:
    """A logger's value as the grid shows it at a mark."""
    entry_id, phase, mark_s = spot
    return CellShown(
        entry=entry_id,
        phase=phase,
        mark=f"{mark_s:g}",
        id=loose.id[at],
        text=setting.show(loose.value[at], quantity.unit, quantity.digits, unit=False),
        time=clock_text(loose.time_s[at]),
        timed=True,
        question="",
        suggestion=setting.typed(None, quantity.unit, 1),
        earlier=0,
        source=loose.source[at],
    )
