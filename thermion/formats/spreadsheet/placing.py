"""A table's values at their places in a run; what it leaves open is asked, what is not taken is said."""

from __future__ import annotations

from collections.abc import Sequence, Set
from dataclasses import dataclass, field

from thermion.formats.asking import Answers, Question
from thermion.formats.spreadsheet.cells import NoTable, Tab
from thermion.formats.spreadsheet.grids import CellGrid, PhaseTable, grid_of
from thermion.formats.spreadsheet.headings import later_named, marked
from thermion.formats.spreadsheet.wanted import BuildLine, Wanted, likest
from thermion.records.running.table_in import Attempted, PlacedValue

LEAVE = "leave"
MOST_ASKED = 25


@dataclass(kw_only=True)
class TableRead:
    """What is made of a table so far: values, questions, and what was left out, in words."""

    wanted: Wanted
    answers: Answers
    placed: list[PlacedValue] = field(default_factory=list)
    attempted: list[Attempted] = field(default_factory=list)
    questions: list[Question] = field(default_factory=list)
    left: list[str] = field(default_factory=list)
    comma: bool = False  # whether decimals of a text are written with a comma

    @property
    def settled(self) -> bool:
        """Whether everything that is asked was answered."""
        return all(q.answer(self.answers) is not None for q in self.questions)

    def ask(self, key: str, text: str, options: Sequence[tuple[str, str]], likely: str) -> str | None:
        """The answer to a question; None as long as there is none. Asked once, whoever wants to know."""
        known = next((q for q in self.questions if q.key == key), None)
        if known is not None:
            return known.answer(self.answers)
        question = Question(key=key, text=text, options=tuple(options), likely=likely)
        self.questions.append(question)
        return question.answer(self.answers)

    def leave(self, what: str) -> None:
        if what not in self.left:
            self.left.append(what)

    def of_one_run(self, grid: CellGrid, rows: Sequence[int], column: int | None) -> Sequence[int]:
        """The lines of the run that is meant, where a table holds several."""
        runs = [] if column is None else list(dict.fromkeys(grid.cell(row, column).text for row in rows))
        if column is None or len(runs) < 2:
            return rows
        own = str(self.wanted.run)
        given = self.ask(
            f"run-{grid.tab.name}",
            "This table holds several tests. Which one goes in here?",
            [(run, f"Test {run}") for run in runs],
            own if own in runs else runs[0],
        )
        return [row for row in rows if grid.cell(row, column).text == given]

    def later_columns(self, grid: CellGrid, section: PhaseTable) -> dict[int, float]:
        """When [s] the later reading in each column of them was taken."""
        heading = section.heading
        if heading is None:
            return {}
        named = [k for k, c in enumerate(grid.rows[heading]) if c.text and later_named(c.text, self.wanted)]
        times = {k: self._later_at(grid, heading, k) for k in named if grid.any_value(section.rows, k)}
        return {k: at_s for k, at_s in times.items() if at_s is not None}

    def _later_at(self, grid: CellGrid, heading: int, column: int) -> float | None:
        """When a later reading was taken [s from the start]: as its heading says, else asked; None: left out."""
        text = grid.cell(heading, column).text
        said = [m for m in marked(grid.cell(heading, column)) if m.time_s is not None]
        if said:
            return said[0].time_s
        last = max((mark for stretch in self.wanted.stretches for mark in stretch.marks_s), default=0.0)
        times = sorted({last, *(60.0 * m for m in (10, 20, 30, 45, 60, 90, 120, 1440))} - {0.0})
        given = self.ask(
            f"later-{grid.tab.name}-{column}",
            f"How long after the start of the test was “{text}” read?",
            [*((f"{t:g}", f"{t / 60:g} min") for t in times), (LEAVE, "Not known: leave it out")],
            f"{last:g}" if last else LEAVE,
        )
        if given is None or given == LEAVE:
            self.leave(f"“{text}”")
            return None
        return float(given)

    def whose(
        self,
        grid: CellGrid,
        row: int,
        may: Sequence[BuildLine],
        taken: Set[int] = frozenset(),
        name: str | None = None,
    ) -> BuildLine | None:
        """The row of the run that a line of a table is of: asked where it names none, or may mean several;
        once for all lines of the same `name`, where a table has several of each."""
        if len(may) == 1:
            return may[0]
        text = grid.cell(row, grid.names).text if name is None else name
        rest = [line for line in (may or self.wanted.lines) if line.key not in taken]
        like = (rest[0] if len(rest) == 1 else None) if may else likest(text, rest)
        options = [(str(line.key), line.said) for line in rest]
        given = self.ask(
            f"line-{grid.tab.name}-{row}-{int(grid.turned)}" if name is None else f"name-{name}",
            f"Whose is {grid.line(row)}, “{text[:40]}”?" if text else f"Whose is {grid.line(row)}?",
            [*options, (LEAVE, "Leave it out")],
            str(like.key) if like else LEAVE,
        )
        if given == LEAVE:
            self.leave(f"{grid.line(row)} {f'“{text[:40]}”' if text else ''}".strip())
        return next((line for line in self.wanted.lines if str(line.key) == given), None)


def read_table(tabs: Sequence[Tab], wanted: Wanted, answers: Answers) -> TableRead:
    """The values of a table for a run. NoTable where nothing in it belongs to the run's kind of test."""
    from thermion.formats.spreadsheet.attempts import read_attempts
    from thermion.formats.spreadsheet.marks import read_marks
    from thermion.formats.spreadsheet.writing import decimals

    reading = TableRead(wanted=wanted, answers=answers)
    decimals(reading, tabs)
    for tab in tabs:
        grid = grid_of(tab, wanted)
        if wanted.read is not None:
            read_marks(reading, grid)
        else:
            read_attempts(reading, grid)
    if not (reading.placed or reading.attempted or reading.questions):
        raise NoTable(_nothing(reading))
    if len(reading.questions) > MOST_ASKED:
        raise NoTable(
            f"{len(reading.questions)} things in this table would have to be asked about: it seems to be of "
            "another class or another test."
        )
    _once_each(reading)
    return reading


def _nothing(reading: TableRead) -> str:
    names = ", ".join(line.said for line in reading.wanted.lines[:3])
    what = "minutes of this test" if reading.wanted.read is not None else "attempts"
    left = f" Not taken: {'; '.join(reading.left[:3])}." if reading.left else ""
    return (
        f"No table of teams and {what} was found. A line for each team ({names} …), a column for each is what "
        f"is looked for.{left}"
    )


def _once_each(reading: TableRead) -> None:
    """Two values for one cell: the same is one; of two lines with different ones a person says which."""
    by: dict[tuple[int, str, float | None], list[PlacedValue]] = {}
    for one in reading.placed:
        by.setdefault((one.line, one.phase, one.mark_s), []).append(one)
    apart = [several for several in by.values() if len({one.typed for one in several}) > 1]
    across = [several for several in apart if len({one.row for one in several}) > 1]
    chosen = {line: _which(reading, line, across) for line in {several[0].line for several in across}}
    out = []
    for several in by.values():
        if several not in apart:
            out.append(several[0])
        elif several in across:
            out += [one for one in several if one.row == chosen[one.line]][:1]
        else:
            given = _which_cell(reading, several)
            out += [one for one in several if one.where == given]
    reading.placed = out


def _which_cell(reading: TableRead, several: Sequence[PlacedValue]) -> str | None:
    """Which of two cells of one line counts, as of two columns for one minute; asked."""
    first = several[0]
    name = next((line.said for line in reading.wanted.lines if line.key == first.line), "")
    return reading.ask(
        f"cell-{first.line}-{first.phase}-{first.mark_s}",
        f"{name} has two values for minute {(first.mark_s or 0.0) / 60:g}. Which counts?",
        [*((one.where, f"{one.typed} ({one.where})") for one in several), (LEAVE, "Neither")],
        first.where,
    )


def _which(reading: TableRead, key: int, apart: Sequence[Sequence[PlacedValue]]) -> str | None:
    """Which of several lines about one row of the run counts; asked."""
    name = next((line.said for line in reading.wanted.lines if line.key == key), "")
    mine = [one for several in apart for one in several if one.line == key]
    rows = {one.row: [o.typed for o in mine if o.row == one.row] for one in mine}
    options = [(row, f"{row}: {', '.join(typed[:5])}") for row, typed in rows.items()]
    return reading.ask(
        f"twice-{key}",
        f"{name} stands there twice. Which counts?",
        [*options, (LEAVE, "Neither")],
        options[0][0],
    )
