"""Where in a tab a table stands: which way it lies, which lines are whose, and what each column is."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from thermion.formats.spreadsheet.cells import EMPTY, SheetCell, Tab
from thermion.formats.spreadsheet.headings import about, later_named, marked, read_named, stretch_named
from thermion.formats.spreadsheet.wanted import BuildLine, Wanted, lines_named, words_of

MISSING = frozenset(
    {"", "-", "–", "—", ".", "…", "...", "n/a", "na", "n.a.", "none", "missed", "absent", "broken", "?"}
)


@dataclass(frozen=True, kw_only=True)
class CellGrid:
    """A tab as it is read: as it stands, or `turned` so that its columns are lines here."""

    tab: Tab
    rows: tuple[tuple[SheetCell, ...], ...]
    turned: bool
    names: int  # the column in which most rows are named; -1 where none is

    def where(self, row: int, column: int) -> str:
        """A cell as the spreadsheet calls it, with the tab's name if it has one."""
        down, across = (column, row) if self.turned else (row, column)
        letters = ""
        left = across + 1
        while left:
            left, digit = divmod(left - 1, 26)
            letters = chr(65 + digit) + letters
        return f"{self.tab.name} {letters}{down + 1}".strip()

    def line(self, row: int) -> str:
        """A line of the table in words."""
        place = self.where(row, max(self.names, 0))
        return f"column {place.rstrip('0123456789')}" if self.turned else f"line {row + 1}"

    def cell(self, row: int, column: int) -> SheetCell:
        inside = 0 <= row < len(self.rows) and 0 <= column < len(self.rows[row])
        return self.rows[row][column] if inside else EMPTY

    def any_value(self, rows: Sequence[int], column: int) -> bool:
        """Whether a column holds a value in any of these rows."""
        return any(is_value(self.cell(row, column)) for row in rows)

    def label(self, row: int, columns: Sequence[int]) -> str:
        """All words of a row that stand in none of these columns."""
        cells = enumerate(self.rows[row])
        return " ".join(c.text for k, c in cells if k not in columns and c.text and not is_value(c))


def is_value(cell: SheetCell) -> bool:
    """Whether a cell can only be a number: not a name, not a word."""
    return cell.sort != "text" or cell.text[:1].isdigit() or cell.text[:2].strip("-−+.,").isdigit()


def is_nothing(cell: SheetCell) -> bool:
    """Whether a cell says that nothing was read."""
    return cell.text.casefold() in MISSING


def grid_of(tab: Tab, wanted: Wanted) -> CellGrid:
    """A tab the way round in which more of its lines are of this run."""
    turned = tuple(zip(*tab.rows, strict=True))
    ways = [_named(tab, tab.rows, wanted, turned=False), _named(tab, turned, wanted, turned=True)]
    return max(ways, key=lambda way: way[0])[1]


def _named(
    tab: Tab, rows: tuple[tuple[SheetCell, ...], ...], wanted: Wanted, *, turned: bool
) -> tuple[tuple[int, int], CellGrid]:
    wide = len(rows[0]) if rows else 0
    known: dict[str, int] = {}

    def named(cell: SheetCell) -> int:
        """The row that a cell names, by its key; 0 for none."""
        if cell.text not in known:
            found = [] if is_value(cell) else lines_named(cell.text, wanted)
            known[cell.text] = found[0].key if found else 0
        return known[cell.text]

    def sure(column: int) -> tuple[int, int]:
        """How many rows of the run a column names, and how few numbers it holds."""
        filled = [row[column] for row in rows if row[column].text]
        return len({named(cell) for cell in filled} - {0}), -sum(is_value(cell) for cell in filled)

    best = max(range(wide), key=lambda c: (sure(c), -c), default=0)
    most = sure(best) if wide else (0, 0)
    names = best if most[0] else _worded(rows)
    return most if most[0] else (0, 0), CellGrid(tab=tab, rows=rows, turned=turned, names=names)


def _worded(rows: tuple[tuple[SheetCell, ...], ...]) -> int:
    """The first column that has a word beside the values of a row, where no row of the run is named; or -1."""
    for row in rows:
        words = [k for k, cell in enumerate(row) if cell.text and not is_value(cell)]
        if words and any(is_value(cell) for cell in row) and not about(row[words[0]].text):
            return words[0]
    return -1


@dataclass(frozen=True, kw_only=True)
class PhaseTable:
    """A stretch of rows below one row of headings (None: there is none); `above` are the words over it."""

    heading: int | None
    rows: tuple[int, ...]
    above: tuple[str, ...]
    since: int  # the first row after the table before


def sections_of(grid: CellGrid, wanted: Wanted) -> tuple[list[PhaseTable], list[str]]:
    """The tables of a tab, one below the other, each with its headings; and words that stand below them."""
    out: list[PhaseTable] = []
    heading: int | None = None
    body: list[int] = []
    above: list[str] = []
    over: list[str] = []
    since = 0
    for row in range(len(grid.rows)):
        filled = [c for c in grid.rows[row] if c.text]
        if filled and _is_heading(grid, row, wanted, begins=not body or row != body[-1] + 1):
            if body:
                out.append(PhaseTable(heading=heading, rows=tuple(body), above=tuple(over), since=since))
                since = body[-1] + 1
            heading, body, over, above = row, [], above, []
        elif filled and _holds(grid, row, wanted):
            body.append(row)
        else:
            above += [c.text for c in filled]
    if body:
        out.append(PhaseTable(heading=heading, rows=tuple(body), above=tuple(over), since=since))
    return out, above if out else []


def _holds(grid: CellGrid, row: int, wanted: Wanted) -> bool:
    """Whether anything stands in a row beside its name that may be a value, a tick or a word of a scale."""
    scales = {word.casefold() for r in (wanted.read, *wanted.reads) if r is not None for word in r.words}
    named = bool(lines_named(grid.cell(row, grid.names).text, wanted))
    others = [c for k, c in enumerate(grid.rows[row]) if k != grid.names and c.text]
    return any(is_value(c) or c.text.casefold() in scales for c in others) or (named and bool(others))


def _is_heading(grid: CellGrid, row: int, wanted: Wanted, *, begins: bool) -> bool:
    """Whether a row names columns: no row of the run is named in it, and what stands there are headings.

    Minutes beside an empty corner are headings only where a table `begins`: else they are a line's values.
    """
    corner = grid.cell(row, grid.names)
    others = [c for k, c in enumerate(grid.rows[row]) if k != grid.names and c.text]
    named = [c for c in others if _names_a_column(c.text, wanted)]
    times = [c for c in others if marked(c)]
    # Before any team is looked for: "Team (C)" is a unit, not team C.
    if about(corner.text) == "team" and (named or times or not any(is_value(c) for c in others)):
        return True
    if not is_value(corner) and lines_named(corner.text, wanted):
        return False
    if len(named) >= max(2, (len(others) + 1) // 2):
        return True
    if not times or (grid.names >= 0 and corner.text and is_value(corner)):
        return False
    return 2 * len(times) >= len(others) and _tells_times(grid, row, times, wanted, begins=begins)


def _names_a_column(text: str, wanted: Wanted) -> bool:
    return bool(about(text) or read_named(text, wanted.reads) or later_named(text, wanted))


def _tells_times(
    grid: CellGrid, row: int, times: Sequence[SheetCell], wanted: Wanted, *, begins: bool
) -> bool:
    """Whether something besides the numbers themselves says that these are times and not values."""
    corner = grid.cell(row, grid.names).text
    if corner and (about(corner) or stretch_named(corner, wanted.stretches) is not None):
        return True
    if not corner and begins and grid.names >= 0:
        return True
    if any(not is_value(c) for c in times):  # "5 min"
        return True
    first = not any(_holds(grid, before, wanted) for before in range(row))
    return first and len(times) > 1 and _rising(times)


def _rising(times: Sequence[SheetCell]) -> bool:
    numbers = [marked(c)[0].number for c in times]
    return numbers == sorted(set(numbers)) and (numbers[0] == 0 or len(numbers) > 1)


def carried(grid: CellGrid, section: PhaseTable, wanted: Wanted) -> dict[int, list[BuildLine]]:
    """The rows of the run that each line of a section may be; a blank name goes on with the one above where
    a team has several lines."""
    several = bool(wanted.reads) or any(line.device for line in wanted.lines)
    values = [
        k
        for k in range(len(grid.rows[0]))
        if k != grid.names and any(is_value(grid.cell(r, k)) for r in section.rows)
    ]
    out: dict[int, list[BuildLine]] = {}
    last = ""
    for row in section.rows:
        name = grid.cell(row, grid.names).text
        last = name if name or not several else last
        rest = grid.label(row, [*values, grid.names])
        short = lines_named(last, wanted)
        out[row] = short if len(short) == 1 else lines_named(f"{last} {rest}".strip(), wanted) or short
    return out


def words_above(section: PhaseTable, grid: CellGrid, column: int) -> list[str]:
    """What is said of a column above its heading: the nearest words at or left of it in each row there."""
    out = []
    first = section.heading if section.heading is not None else min(section.rows, default=0)
    for row in range(first - 1, max(first - 4, section.since - 1), -1):
        left = [grid.cell(row, k).text for k in range(column, -1, -1)]
        out += [text for text in left if words_of(text)][:1]
    return out
