"""A table of a test at marks: teams by minutes, either way round, or one line for each reading."""

from __future__ import annotations

from collections.abc import Mapping
from itertools import pairwise

from thermion.formats.spreadsheet.cells import SheetCell
from thermion.formats.spreadsheet.grids import (
    CellGrid,
    PhaseTable,
    carried,
    is_nothing,
    is_value,
    sections_of,
    words_above,
)
from thermion.formats.spreadsheet.headings import (
    About,
    Marked,
    about,
    bare,
    later_named,
    marked,
    placed_marks,
    stretch_named,
    sure_unit,
    unit_for,
    unit_in,
)
from thermion.formats.spreadsheet.placing import LEAVE, TableRead
from thermion.formats.spreadsheet.wanted import BuildLine, Stretch, lines_named
from thermion.formats.spreadsheet.writing import as_typed, plain_units
from thermion.records.running.table_in import PlacedValue

NO = frozenset({"no", "false", "0"})


def read_marks(reading: TableRead, grid: CellGrid) -> None:
    """Add what a tab holds of a test at marks."""
    sections, below = sections_of(grid, reading.wanted)
    for words in below:
        reading.leave(f"“{words[:60]}”")
    for number, section in enumerate(sections):
        columns = _columns(grid, section)
        if "value" in columns and ("mark" in columns or "phase" in columns):
            _by_lines(reading, grid, section, columns)
        else:
            _by_columns(reading, grid, section, (number, len(sections)))


def _columns(grid: CellGrid, section: PhaseTable) -> dict[About, int]:
    if section.heading is None:
        return {}
    out: dict[About, int] = {}
    for column, cell in enumerate(grid.rows[section.heading]):
        out.setdefault(about(cell.text), column)
    if "value" in out and bare(grid.cell(section.heading, out["value"]).text) != "value":  # ours has both
        exact = [k for k, c in enumerate(grid.rows[section.heading]) if bare(c.text) == "value"]
        out["value"] = exact[0] if exact else out["value"]
    out.pop("", None)
    if "mark" not in out and "taken" in out:
        out["mark"] = out["taken"]
    return out


def _by_columns(reading: TableRead, grid: CellGrid, section: PhaseTable, place: tuple[int, int]) -> None:
    """A column for each mark."""
    wanted = reading.wanted
    values = [k for k in range(len(grid.rows[0])) if k != grid.names]
    spots, unit = _spots(reading, grid, section, values, place)
    later = reading.later_columns(grid, section)
    if grid.names >= 0:
        rows = carried(grid, section, wanted)
    else:
        rows = _lines_in_order(reading, grid, section)
    if wanted.read is not None and wanted.read.unit == "degC":
        cells = [grid.cell(row, k) for row in section.rows for k in spots]
        unit = plain_units(reading, cells, unit)
    taken = {may[0].key for may in rows.values() if len(may) == 1}  # nobody else is asked whether it is these
    for row in section.rows:
        filled = [k for k in (*spots, *later) if not is_nothing(grid.cell(row, k))]
        if not filled or (grid.names < 0 and not rows[row]):
            continue
        line = reading.whose(grid, row, rows[row], taken)
        if line is None:
            continue
        taken.add(line.key)
        _row(reading, grid, row, line, spots={k: spots[k] for k in filled if k in spots}, unit=unit)
        _later_row(reading, grid, section, row, line, {k: at_s for k, at_s in later.items() if k in filled})


def _later_row(
    reading: TableRead,
    grid: CellGrid,
    section: PhaseTable,
    row: int,
    line: BuildLine,
    later: Mapping[int, float],
) -> None:
    """What a line holds of readings that are taken after the test."""
    if reading.wanted.later is None:
        return
    for column, at_s in later.items():
        unit = unit_in(grid.cell(section.heading or 0, column).text)
        _add(reading, grid, (row, column), line, (reading.wanted.later.key, None), unit, at_s)


def _lines_in_order(reading: TableRead, grid: CellGrid, section: PhaseTable) -> dict[int, list[BuildLine]]:
    """Lines without names: those of the room in their order, if somebody says so."""
    builds = [line for line in reading.wanted.lines if not line.also]
    like = next((n for n in (builds, list(reading.wanted.lines)) if len(n) == len(section.rows)), None)
    if like is None:
        reading.leave(f"{len(section.rows)} lines without names")
        return {row: [] for row in section.rows}
    given = reading.ask(
        f"lines-{grid.tab.name}-{section.since}",
        f"The lines have no names. Are they {', '.join(line.said for line in like)}, in this order?",
        [("yes", "Yes"), (LEAVE, "No, leave them out")],
        "yes",
    )
    if given != "yes":
        return {row: [] for row in section.rows}
    return {row: [line] for row, line in zip(section.rows, like, strict=True)}


def _row(
    reading: TableRead,
    grid: CellGrid,
    row: int,
    line: BuildLine,
    *,
    spots: Mapping[int, tuple[str, float]],
    unit: str,
) -> None:
    for column, spot in spots.items():
        _add(reading, grid, (row, column), line, spot, "" if line.also and "air" in line.also else unit)


def _add(
    reading: TableRead,
    grid: CellGrid,
    at: tuple[int, int],
    line: BuildLine,
    spot: tuple[str, float | None],
    unit: str,
    at_s: float | None = None,
) -> None:
    typed = as_typed(reading, grid.cell(*at), unit)
    phase, mark_s = spot
    one = PlacedValue(
        where=grid.where(*at),
        row=grid.line(at[0]),
        line=line.key,
        phase=phase,
        mark_s=mark_s,
        typed=typed,
        at_s=at_s,
    )
    reading.placed.append(one)


def _spots(
    reading: TableRead, grid: CellGrid, section: PhaseTable, values: list[int], place: tuple[int, int]
) -> tuple[dict[int, tuple[str, float]], str]:
    """Phase and mark [s] of each column that is one, and the unit that the table says for all."""
    wanted = reading.wanted
    said = [sure_unit(text) for text in (*section.above, grid.tab.name)]
    if section.heading is not None:
        corner = grid.cell(section.heading, grid.names).text
        said = [corner, *(c.text for c in grid.rows[section.heading] if not marked(c)), *said]
    unit = unit_for(said, wanted.read, wanted.setting) if wanted.read is not None else ""
    times = _times(reading, grid, section, values)
    if not times:
        return {}, unit
    phases = _phases(reading, grid, section, times, place)
    out: dict[int, tuple[str, float]] = {}
    for stretch in wanted.stretches:
        mine = {k: times[k] for k in times if phases.get(k) == stretch.key}
        found = placed_marks(mine, stretch.marks_s)
        out |= {k: (stretch.key, mark) for k, mark in found.items()}
        out |= _strangers(reading, grid, section, [k for k in mine if k not in found], stretch)
    return dict(sorted(out.items())), unit


def _times(
    reading: TableRead, grid: CellGrid, section: PhaseTable, values: list[int]
) -> dict[int, list[Marked]]:
    """What each column's heading may mean as a time; without headings, the marks in order, if that is said."""
    if section.heading is not None:
        corner = grid.cell(section.heading, grid.names).text
        unit = next((w for w in (unit_in(corner), bare(corner)) if w[:1] in ("m", "s", "h") and w), "")
        unit = unit if unit.split()[:1] and unit.split()[0] in _TIME_WORDS else ""
        found = {k: marked(grid.cell(section.heading, k), unit) for k in values}
        return {k: may for k, may in found.items() if may}
    full = [k for k in values if any(is_value(grid.cell(row, k)) for row in section.rows)]
    return _in_order(reading, grid, full)


_TIME_WORDS = frozenset(
    {"min", "minute", "minutes", "m", "s", "sec", "second", "seconds", "h", "hour", "hours"}
)


def _in_order(reading: TableRead, grid: CellGrid, full: list[int]) -> dict[int, list[Marked]]:
    wanted = reading.wanted
    for stretch in wanted.stretches:
        if len(stretch.marks_s) != len(full):
            continue
        minutes = ", ".join(f"{mark / 60:g}" for mark in stretch.marks_s)
        given = reading.ask(
            f"order-{grid.tab.name}-{stretch.key}",
            f"The columns have no minutes. Are they {stretch.label} {minutes}, in this order?",
            [("yes", "Yes"), (LEAVE, "No, leave them out")],
            "yes",
        )
        if given == "yes":
            return {k: [Marked(number=m / 60, time_s=m)] for k, m in zip(full, stretch.marks_s, strict=True)}
        return {}
    reading.leave(f"{len(full)} columns without minutes")
    return {}


def _phases(
    reading: TableRead,
    grid: CellGrid,
    section: PhaseTable,
    times: dict[int, list[Marked]],
    place: tuple[int, int],
) -> dict[int, str]:
    """Of which phase each column is: by a word in or above its heading, else by the minutes beginning anew."""
    stretches, columns = reading.wanted.stretches, list(times)
    if len(stretches) == 1:
        return dict.fromkeys(columns, stretches[0].key)
    out: dict[int, str] = {}
    for k in columns:
        heading = grid.cell(section.heading, k).text if section.heading is not None else ""
        corner = grid.cell(section.heading, grid.names).text if section.heading is not None else ""
        texts = [heading, corner, *words_above(section, grid, k), *reversed(section.above), grid.tab.name]
        named = next((s for s in (stretch_named(text, stretches) for text in texts) if s), None)
        if named is not None:
            out[k] = named.key
    open_ = [k for k in columns if k not in out]
    only = _only_phase(reading, times, open_)
    if open_ and only is not None:
        out |= dict.fromkeys(open_, only.key)
    elif open_:
        out |= _asked_phase(reading, grid, section, open_, place)
    return out


def _only_phase(reading: TableRead, times: dict[int, list[Marked]], columns: list[int]) -> Stretch | None:
    """The one phase that has all of these marks, each once; None where several have, or none."""
    mine = {k: times[k] for k in columns}
    found = [(s, placed_marks(mine, s.marks_s)) for s in reading.wanted.stretches]
    whole = [s for s, marks in found if len(set(marks.values())) == len(mine)]
    return whole[0] if len(whole) == 1 and mine else None


def _asked_phase(
    reading: TableRead, grid: CellGrid, section: PhaseTable, columns: list[int], place: tuple[int, int]
) -> dict[int, str]:
    stretches = reading.wanted.stretches
    number, of = place
    likely = stretches[number].key if of == len(stretches) else stretches[0].key
    options: list[tuple[str, str]] = [(s.key, s.label) for s in stretches]
    again = _begins_again(grid, section, columns)
    if again is not None and of == 1:
        options.insert(0, ("both", f"{stretches[0].label}, then {stretches[1].label}"))
        likely = "both"
    given = reading.ask(
        f"phase-{grid.tab.name}-{number}",
        f"Which part of the test is this, from {grid.where(section.rows[0], grid.names)} on?",
        options,
        likely,
    )
    if given == "both" and again is not None:
        return {k: stretches[0 if k < again else 1].key for k in columns}
    return dict.fromkeys(columns, given or likely)


def _begins_again(grid: CellGrid, section: PhaseTable, columns: list[int]) -> int | None:
    """The column at which the minutes begin anew."""
    if section.heading is None:
        return None
    numbers = [(k, marked(grid.cell(section.heading, k))[0].number) for k in columns]
    return next((k for (_, a), (k, b) in pairwise(numbers) if b <= a), None)


def _strangers(
    reading: TableRead, grid: CellGrid, section: PhaseTable, columns: list[int], stretch: Stretch
) -> dict[int, tuple[str, float]]:
    """Columns at no mark of the test: each is asked about, or all together where they are many."""
    filled = [k for k in columns if grid.any_value(section.rows, k)]
    if len(filled) > 3:
        headings = ", ".join(grid.cell(section.heading or 0, k).text for k in filled)
        marks = ", ".join(f"{mark / 60:g}" for mark in stretch.marks_s)
        reading.ask(
            f"marks-{grid.tab.name}-{section.heading}",
            f"{headings}: these are no marks of this test, which has {marks} min. Leave them out?",
            [(LEAVE, "Leave them out")],
            LEAVE,
        )
        reading.leave(f"columns {headings}")
        return {}
    asked = {k: _asked_mark(reading, grid, section, k, stretch) for k in filled}
    return {k: (stretch.key, mark) for k, mark in asked.items() if mark is not None}


def _asked_mark(
    reading: TableRead, grid: CellGrid, section: PhaseTable, column: int, stretch: Stretch
) -> float | None:
    heading = grid.cell(section.heading or 0, column).text
    options = [(f"{mark:g}", f"Minute {mark / 60:g}") for mark in stretch.marks_s]
    given = reading.ask(
        f"mark-{grid.tab.name}-{section.heading}-{column}",
        f"“{heading}” is no mark of this test. Which minute is {grid.where(section.heading or 0, column)}?",
        [*options, (LEAVE, "Leave it out")],
        LEAVE,
    )
    if given is None or given == LEAVE:
        reading.leave(f"“{heading}”, which is no mark of this test")
        return None
    return float(given)


def _by_lines(reading: TableRead, grid: CellGrid, section: PhaseTable, columns: dict[About, int]) -> None:
    """A line for each reading, as in Thermion's own tables."""
    rows = reading.of_one_run(grid, section.rows, columns.get("run"))
    heading = section.heading or 0
    head = grid.cell(heading, columns["mark"]).text if "mark" in columns else ""
    marks_in = unit_in(head) or ("s" if bare(head).endswith(" s") else "min")
    units = unit_in(grid.cell(heading, columns["value"]).text)
    replaced = between = 0
    for row in rows:
        at = {key: grid.cell(row, column) for key, column in columns.items()}
        if is_nothing(at["value"]):
            continue
        if "current" in at and at["current"].text.casefold() in NO:
            replaced += 1
            continue
        line = _line_of(reading, grid, row, at)
        if line is None:
            continue
        spot = _spot_of(reading, at, marks_in)
        if spot is None:
            between += 1
            continue
        unit = at["unit"].text if "unit" in at else units
        _add(reading, grid, (row, columns["value"]), line, spot, unit, _measured_at(at))
    if replaced:
        reading.leave(f"{replaced} × a value that was replaced by another")
    if between:
        reading.leave(f"{between} × a value at no mark of this test")


def _measured_at(at: Mapping[About, SheetCell]) -> float | None:
    """When a reading was taken [s], from Thermion's own columns; None where it was not measured."""
    if "taken" not in at or "time measured" not in at:
        return None
    if at["time measured"].text.casefold() not in ("true", "yes"):
        return None
    try:
        return float(at["taken"].text.replace(",", "."))
    except ValueError:
        return None


def _line_of(reading: TableRead, grid: CellGrid, row: int, at: Mapping[About, SheetCell]) -> BuildLine | None:
    wanted = reading.wanted
    names = at["team"].text if "team" in at else grid.cell(row, grid.names).text
    devices = at["device"].text if "device" in at else ""
    may = lines_named(names, wanted)
    if len(may) > 1:
        may = lines_named(f"{names} {devices}", wanted)
    return reading.whose(grid, row, may, name=f"{names} {devices}".strip())


def _spot_of(
    reading: TableRead, at: Mapping[About, SheetCell], marks_in: str
) -> tuple[str, float | None] | None:
    """Phase and mark [s] of a line; None where it is at no mark."""
    wanted = reading.wanted
    phase = at["phase"].text if "phase" in at else ""
    if wanted.later is not None and phase and later_named(phase, wanted):
        return wanted.later.key, None
    stretch = stretch_named(phase, wanted.stretches) if phase else None
    if stretch is None and (phase or len(wanted.stretches) > 1):
        return None
    stretch = stretch or wanted.stretches[0]
    if "mark" not in at or not at["mark"].text:
        return None
    found = placed_marks({0: marked(at["mark"], marks_in)}, stretch.marks_s)
    return (stretch.key, found[0]) if found else None
