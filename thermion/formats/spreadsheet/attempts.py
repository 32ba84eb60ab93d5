"""A table of attempts: a line for each, or teams by tries, or teams by what was counted out with ticks."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from thermion.core.kinds.testing import Reads
from thermion.formats.spreadsheet.cells import SheetCell
from thermion.formats.spreadsheet.grids import (
    CellGrid,
    PhaseTable,
    carried,
    is_nothing,
    is_value,
    sections_of,
)
from thermion.formats.spreadsheet.headings import about, bare, later_named, marked, read_named, unit_for
from thermion.formats.spreadsheet.placing import LEAVE, TableRead
from thermion.formats.spreadsheet.wanted import BuildLine, Wanted, words_of
from thermion.formats.spreadsheet.writing import as_typed
from thermion.records.running.table_in import Attempted, PlacedValue

TICKS = frozenset({"✓", "✔", "☑", "yes", "y", "ok", "lifted"})
CROSSES = frozenset({"✗", "✘", "☒", "no", "n", "failed"})


def read_attempts(reading: TableRead, grid: CellGrid) -> None:
    """Add what a tab holds of a test in turns or races."""
    sections, below = sections_of(grid, reading.wanted)
    for words in below:
        reading.leave(f"“{words[:60]}”")
    for section in sections:
        if section.heading is None:
            if any(any(is_value(grid.cell(r, k)) for k in range(len(grid.rows[r]))) for r in section.rows):
                reading.leave(f"lines without headings from {grid.where(section.rows[0], 0)} on")
            continue
        columns = _read_columns(reading, grid, section)
        if columns:
            _by_lines(reading, grid, section, columns)
        else:
            _by_columns(reading, grid, section)


def _read_columns(reading: TableRead, grid: CellGrid, section: PhaseTable) -> dict[int, Reads]:
    """What is read in each column. Numbers under a heading that names nothing known are asked about."""
    wanted, heading = reading.wanted, section.heading or 0
    out: dict[int, Reads] = {}
    unknown: list[int] = []
    for column, cell in enumerate(grid.rows[heading]):
        named = read_named(cell.text, wanted.reads) if column != grid.names else None
        if named is not None and named.key not in {r.key for r in out.values()}:
            out[column] = named
            continue
        if later_named(cell.text, wanted):
            continue
        numbers = grid.any_value(section.rows, column)
        if numbers and column != grid.names and not about(cell.text) and not marked(cell):
            unknown.append(column)
    rest = [r for r in wanted.reads if r.key not in {o.key for o in out.values()}]
    for column in unknown:
        found = _asked_column(reading, grid, (heading, column), rest)
        if found is not None:
            out[column] = found
    return out


def _asked_column(
    reading: TableRead, grid: CellGrid, at: tuple[int, int], rest: Sequence[Reads]
) -> Reads | None:
    text = grid.cell(*at).text
    if not rest:
        reading.leave(f"“{text}”, which is not read in this test")
        return None
    needed = [r for r in rest if not r.optional]
    given = reading.ask(
        f"column-{grid.tab.name}-{at[1]}",
        f"What is “{text}”?" if text else f"What is in the column of {grid.where(*at)}?",
        [*((r.key, r.label) for r in rest), (LEAVE, "Leave it out")],
        needed[0].key if len(needed) == 1 else LEAVE,
    )
    if given == LEAVE:
        reading.leave(f"“{text}”")
    return next((r for r in rest if r.key == given), None)


def _by_lines(reading: TableRead, grid: CellGrid, section: PhaseTable, columns: Mapping[int, Reads]) -> None:
    """A line for each attempt, in the order in which they stand."""
    wanted, heading = reading.wanted, section.heading or 0
    others = {about(cell.text): k for k, cell in enumerate(grid.rows[heading]) if about(cell.text)}
    units = {k: unit_for([grid.cell(heading, k).text], read, wanted.setting) for k, read in columns.items()}
    later = reading.later_columns(grid, section)
    rows = carried(grid, section, wanted)
    for row in reading.of_one_run(grid, section.rows, others.get("run")):
        filled = {k: grid.cell(row, k) for k in columns if not is_nothing(grid.cell(row, k))}
        after = [k for k in later if not is_nothing(grid.cell(row, k))]
        line = (
            reading.whose(grid, row, rows[row], name=grid.cell(row, grid.names).text)
            if filled or after
            else None
        )
        if line is None:
            continue
        reading.placed += [_later(reading, grid, (row, k), line, later[k]) for k in after]
        if not filled:
            continue
        typed = {columns[k].key: as_typed(reading, cell, units[k]) for k, cell in filled.items()}
        said = {key: grid.cell(row, k).text for key, k in others.items()}
        first = grid.where(row, min(filled))
        _add(reading, first, line, typed, said.get("seen", ""), said.get("note", ""))


def _later(
    reading: TableRead, grid: CellGrid, at: tuple[int, int], line: BuildLine, at_s: float
) -> PlacedValue:
    """What was read once more of a build after its attempts."""
    key = reading.wanted.later.key if reading.wanted.later is not None else ""
    typed = as_typed(reading, grid.cell(*at))
    return PlacedValue(where=grid.where(*at), line=line.key, phase=key, mark_s=None, typed=typed, at_s=at_s)


def _add(
    reading: TableRead, where: str, line: BuildLine, typed: Mapping[str, str], seen: str = "", note: str = ""
) -> None:
    """An attempt, with what is not written filled in where every attempt has the same."""
    full = dict(typed)
    for read in reading.wanted.reads:
        if read.key not in full and not read.optional and (usual := _usual(reading, read)):
            full[read.key] = usual
    known, rest = _seen(seen, reading.wanted)
    words = " ".join(part for part in (note, rest) if part)
    reading.attempted.append(Attempted(where=where, line=line.key, typed=full, seen=known, note=words))


def _usual(reading: TableRead, read: Reads) -> str:
    """What a read is where the table says nothing of it, once somebody said that it was so."""
    usual = reading.wanted.usual.get(read.key, "")
    if not usual:
        return ""
    unit = reading.wanted.setting.label(read.unit)
    given = reading.ask(
        f"usual-{read.key}",
        f"The table does not say “{read.label}”. Was it {usual} {unit}".rstrip() + " each time?",
        [("yes", "Yes"), (LEAVE, "No")],
        "yes",
    )
    return usual if given == "yes" else ""


def _seen(text: str, wanted: Wanted) -> tuple[tuple[str, ...], str]:
    """The observations that a text names, and what is left of it."""
    keys: list[str] = []
    rest: list[str] = []
    for part in (p.strip() for p in text.replace(";", ",").split(",")):
        words = words_of(part)
        found = next(
            (o.key for o in wanted.seen if words and words in (words_of(o.seen), words_of(o.key))), ""
        )
        if not found and part in {o.key for o in wanted.seen}:
            found = part
        (keys if found else rest).append(found or part)
    spaced = [o.key for o in wanted.seen if o.key in text.split()]
    return (tuple(spaced), "") if spaced and not keys else (tuple(keys), ", ".join(p for p in rest if p))


def _by_columns(reading: TableRead, grid: CellGrid, section: PhaseTable) -> None:
    """A column for each try, or for each load with a tick where it was lifted."""
    wanted, heading = reading.wanted, section.heading or 0
    columns = {
        k: m[0].number
        for k, c in enumerate(grid.rows[heading])
        if k != grid.names and (m := marked(c)) and c.text
    }
    if not columns:
        return
    result = _result(wanted)
    counted = wanted.counted if _are_loads(reading, grid, section, columns) else None
    unit = unit_for(
        [grid.cell(heading, grid.names).text, *section.above, grid.tab.name], result, wanted.setting
    )
    ones = counted is not None and _ones_are_ticks(reading, grid, section, columns)
    rows = carried(grid, section, wanted)
    for row in section.rows:
        filled = [k for k in columns if not is_nothing(grid.cell(row, k))]
        line = reading.whose(grid, row, rows[row]) if filled else None
        if line is None:
            continue
        for k in filled:
            cell = grid.cell(row, k)
            cell = SheetCell("yes" if cell.text == "1" else "no") if ones else cell
            typed = {result.key: _ticked(reading, cell, result) or as_typed(reading, cell, unit)}
            if counted is not None:
                typed[counted.key] = f"{columns[k]:g}"
            _add(reading, grid.where(row, k), line, typed)


def _ones_are_ticks(
    reading: TableRead, grid: CellGrid, section: PhaseTable, columns: Mapping[int, float]
) -> bool:
    """Whether a table of nothing but 1 and 0 means lifted and not lifted, and no centimetre; asked."""
    cells = [grid.cell(row, k) for row in section.rows for k in columns]
    if not {c.text for c in cells if not is_nothing(c)} <= {"0", "1"}:
        return False
    given = reading.ask(
        f"ones-{grid.tab.name}-{section.heading}",
        "What do 1 and 0 mean in this table?",
        [("yes", "Lifted all the way, or not"), (LEAVE, "What was read")],
        "yes",
    )
    return given != LEAVE


def _result(wanted: Wanted) -> Reads:
    """What a try gave: what may be zero, else what is noted last."""
    return next((r for r in wanted.reads if r.zero), wanted.reads[-1])


def _are_loads(reading: TableRead, grid: CellGrid, section: PhaseTable, columns: Mapping[int, float]) -> bool:
    """Whether columns are of what was counted out, and not simply tries."""
    counted = reading.wanted.counted
    if counted is None:
        return False
    heading = section.heading or 0
    texts = [grid.cell(heading, k).text for k in (grid.names, *columns)] + list(section.above)
    if any(about(text) == "try" or {"try", "attempt"} & set(words_of(text)) for text in texts):
        return False
    if any(read_named(bare(text).strip("0123456789 "), [counted]) for text in texts if text):
        return True
    if list(columns.values()) != [float(i + 1) for i in range(len(columns))]:
        return True
    given = reading.ask(
        f"loads-{grid.tab.name}-{heading}",
        f"Are {', '.join(f'{v:g}' for v in columns.values())} tries, or “{counted.label}”?",
        [("tries", "Tries, one after the other"), ("loads", counted.label)],
        "loads",
    )
    return given != "tries"


def _ticked(reading: TableRead, cell: SheetCell, result: Reads) -> str:
    """A tick is all the way, a cross nothing at all; empty for anything else."""
    text = cell.text.casefold()
    if text in TICKS:
        return reading.wanted.usual.get(f"{result.key}-full", "")
    return "0" if text in CROSSES else ""
