"""A table to be filled in on paper's evening: it goes back in as itself."""

from __future__ import annotations

from io import BytesIO

from thermion.core.kinds.testing import Reads
from thermion.formats.spreadsheet.wanted import Wanted
from thermion.formats.tables import Column, Table

SHEET = "Results"


def to_fill_in(wanted: Wanted) -> Table:
    """A line for each row of the test and a column for each mark, or a line for each attempt."""
    return _attempts(wanted) if wanted.read is None else _marks(wanted)


def _marks(wanted: Wanted) -> Table:
    unit = "" if wanted.read is None or wanted.read.words else wanted.setting.label(wanted.read.unit)
    several = len(wanted.stretches) > 1
    marks = [
        f"{stretch.label} {mark / 60:g} min" if several else f"{mark / 60:g} min"
        for stretch in wanted.stretches
        for mark in stretch.marks_s
    ]
    columns = [Column("Team", "Team", unit), *(Column(mark, mark) for mark in marks)]
    if wanted.later is not None:
        columns.append(_later(wanted, wanted.later))
    rows = [[line.said, *[None] * (len(columns) - 1)] for line in wanted.lines]
    return Table(SHEET, tuple(columns), rows)


def _later(wanted: Wanted, read: Reads) -> Column:
    return Column(read.label, read.label, wanted.setting.label(read.unit))


def _attempts(wanted: Wanted) -> Table:
    reads = [Column(r.label, r.label, wanted.setting.label(r.unit)) for r in wanted.reads]
    columns = (
        Column("Team", "Team"),
        Column("Try", "Try"),
        *reads,
        Column("Seen", "Seen"),
        Column("Note", "Note"),
    )
    empty = [None] * (len(reads) + 2)
    rows = [[line.said, number + 1, *empty] for line in wanted.lines for number in range(wanted.attempts)]
    return Table(SHEET, columns, rows)


def workbook(table: Table) -> bytes:
    """A table as an .xlsx file; words in it are words, whatever they begin with."""
    from xlsxwriter import Workbook

    out = BytesIO()
    book = Workbook(out, {"in_memory": True})
    sheet = book.add_worksheet(table.title)
    heading = book.add_format({"bold": True, "text_wrap": True, "valign": "top"})
    for column, each in enumerate(table.columns):
        sheet.write_string(0, column, f"{each.key} [{each.unit}]" if each.unit else each.key, heading)
        sheet.set_column(column, column, 18 if column == 0 else 11)
    for line, row in enumerate(table.rows, 1):
        for column, value in enumerate(row):
            if isinstance(value, str):
                sheet.write_string(line, column, value)
            elif value is not None:
                sheet.write_number(line, column, value)
    sheet.freeze_panes(1, 1)
    sheet.set_landscape()
    sheet.fit_to_pages(1, 0)
    book.close()
    return out.getvalue()
