"""A table as it was understood, as a picture of itself: rows of the run, values at their places."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass

from thermion.core.kinds.testing import Reads
from thermion.formats.spreadsheet.wanted import Wanted
from thermion.records.running.table_in import Attempted, PlacedValue


@dataclass(frozen=True, kw_only=True)
class ShownCell:
    """A value as it is written, where it stands in the table, and whether it is wrong or asked about."""

    text: str
    where: str = ""
    mark: str = ""


@dataclass(frozen=True, kw_only=True)
class ShownTable:
    """Headings in one or two rows (of the phases and how many columns each has, and of the columns), and lines."""

    over: Sequence[tuple[str, int]]
    headings: Sequence[str]
    lines: Sequence[tuple[str, Sequence[ShownCell]]]


Marked = Mapping[str, str]


def marked(wrong: Collection[str], asked: Collection[str]) -> Marked:
    """How cells are marked: those that cannot be taken, and those in question."""
    return dict.fromkeys(asked, "asked") | dict.fromkeys(wrong, "wrong")


def shown(values: Sequence[PlacedValue | Attempted], wanted: Wanted, marks: Marked) -> ShownTable:
    """Values at their places."""
    tried = [v for v in values if isinstance(v, Attempted)]
    if tried:
        return _attempts(tried, wanted, marks)
    return _grid([v for v in values if isinstance(v, PlacedValue)], wanted, marks)


def _grid(values: Sequence[PlacedValue], wanted: Wanted, marks: Marked) -> ShownTable:
    labels = {s.key: s.label for s in wanted.stretches}
    if wanted.later is not None:
        labels[wanted.later.key] = wanted.later.label
    order, read = list(labels), wanted.read
    columns = sorted({(v.phase, v.mark_s or 0.0) for v in values}, key=lambda c: (order.index(c[0]), c[1]))
    by = {(v.line, v.phase, v.mark_s or 0.0): v for v in values}
    lines = []
    for line in wanted.lines:
        found = [by.get((line.key, *column)) for column in columns]
        if any(found):
            cells = [
                ShownCell(text="")
                if v is None
                else ShownCell(text=_bare(v.typed, read, wanted), where=v.where, mark=marks.get(v.where, ""))
                for v in found
            ]
            lines.append((line.said, cells))
    over = [
        (labels[key], sum(c[0] == key for c in columns)) for key in order if any(c[0] == key for c in columns)
    ]
    later = wanted.later.key if wanted.later is not None else ""
    headings = ["" if phase == later else f"{mark / 60:g}" for phase, mark in columns]
    return ShownTable(over=over, headings=headings, lines=lines)


def _bare(typed: str, read: Reads | None, wanted: Wanted) -> str:
    """Without the unit in which everything here is."""
    label = wanted.setting.label(read.unit) if read is not None else ""
    return typed.removesuffix(f" {label}") if label else typed


def by_reason(found: Sequence[tuple[str, str]]) -> list[tuple[str, str]]:
    """Cells by what is said of them, the first eight of each by name."""
    cells: dict[str, list[str]] = {}
    for where, why in found:
        cells.setdefault(why, []).append(where)
    return [
        (", ".join(each[:8]) + (f" and {len(each) - 8} more" if len(each) > 8 else ""), why)
        for why, each in cells.items()
    ]


def _attempts(values: Sequence[Attempted], wanted: Wanted, marks: Marked) -> ShownTable:
    names = {line.key: line.said for line in wanted.lines}
    reads = [r for r in wanted.reads if any(r.key in v.typed for v in values)]
    seen = {o.key: o.seen for o in wanted.seen}
    lines = []
    for v in values:
        cells = [
            ShownCell(
                text=_bare(v.typed.get(r.key, ""), r, wanted), where=v.where, mark=marks.get(v.where, "")
            )
            for r in reads
        ]
        words = ", ".join([*(seen[key] for key in v.seen), *([v.note] if v.note else [])])
        lines.append((names[v.line], [*cells, ShownCell(text=words)]))
    return ShownTable(over=[], headings=[*(r.label for r in reads), "Seen"], lines=lines)
