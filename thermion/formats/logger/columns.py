"""Which columns, or which rows of a long table, are one channel."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from itertools import pairwise

from thermion.formats.asking import Answers, Question
from thermion.formats.logger.cells import MISSING, Decimals, is_clock, is_date, is_other, unit_word, value
from thermion.formats.logger.order import rising
from thermion.formats.logger.sheet import Sheet
from thermion.formats.logger.stamps import names_index, words_of
from thermion.formats.logger.times import Chosen

MOST_NAMES = 64
_NAMING = {
    *(
        "channel",
        "chan",
        "ch",
        "sensor",
        "sensors",
        "probe",
        "name",
        "kanal",
        "fühler",
        "sonde",
        "capteur",
        "canal",
    ),
    *(
        "series",
        "variable",
        "location",
        "device",
        "node",
        "address",
        "source",
        "label",
        "serie",
        "measurement",
    ),
    *(
        "quantity",
        "parameter",
        "type",
        "ort",
        "messstelle",
        "place",
        "box",
        "team",
        "build",
        "id",
        "kind",
        "what",
    ),
}
_INDEX_LIKE = 0.98  # of rows that count up by one


@dataclass(frozen=True, kw_only=True)
class ColumnGroup:
    """A channel: its column, name, unit if a column tells it, and its rows where the table is long."""

    column: int
    name: str
    unit: str = ""
    rows: tuple[int, ...] = ()
    split: bool = False


def groups_of(
    sheet: Sheet, chosen: Chosen, decimals: Decimals, said: Answers
) -> tuple[list[ColumnGroup], list[Question], list[tuple[str, str]]]:
    """The channels, questions about them, and columns that are none, with why."""
    free = [i for i in range(len(sheet.headings)) if i not in chosen.columns]
    numeric = [i for i in free if _is_numeric(sheet.column(i), decimals)]
    naming, asked = _naming(sheet, chosen, free, numeric, said)
    if naming:
        values = [i for i in numeric if i not in naming and not _counts(sheet, i, decimals)]
        return _long(sheet, naming, values), asked, []
    out, left = [], []
    for i in free:
        heading = sheet.headings[i]
        if i not in numeric:
            if any(sheet.column(i)):
                left.append((heading, "holds words"))
        elif _counts(sheet, i, decimals):
            left.append((heading, "counts the rows"))
        elif is_other(heading) or (i < len(sheet.units) and is_other(sheet.units[i]) and sheet.units[i]):
            left.append((heading, "is no temperature"))
        else:
            out.append(ColumnGroup(column=i, name=heading))
    return out, asked, left


def _is_numeric(cells: Sequence[str], decimals: Decimals) -> bool:
    filled = [c for c in cells if c and c.lower() not in MISSING]
    step = max(1, len(filled) // 400)
    sample = filled[::step]
    read = sum(value(c, decimals)[0] is not None for c in sample)
    return bool(sample) and read * 2 > len(sample) and not any(is_date(c) or is_clock(c) for c in sample[:5])


def _counts(sheet: Sheet, index: int, decimals: Decimals) -> bool:
    """Whether a column only numbers the rows."""
    heading = sheet.headings[index]
    if sheet.plain and not names_index(heading) and not heading.startswith("column "):
        return False
    known = [n for c in sheet.column(index) if (n := value(c, decimals)[0]) is not None]
    if names_index(heading) and all(n.is_integer() for n in known):  # also where a row was lost or doubled
        return len(known) > 2 and rising(known) >= _INDEX_LIKE
    steps = sum(b - a == 1 for a, b in pairwise(known))
    return len(known) > 2 and steps >= _INDEX_LIKE * (len(known) - 1)


def _naming(
    sheet: Sheet, chosen: Chosen, free: Sequence[int], numeric: Sequence[int], said: Answers
) -> tuple[list[int], list[Question]]:
    """The columns of a long table that say which channel a row belongs to; a column of states is none."""
    found: list[int] = []
    asked: list[Question] = []
    for i in free:
        cells = sheet.column(i)
        names = Counter(c for c in cells if c)
        named = bool(set(words_of(sheet.headings[i])) & _NAMING)
        if chosen.own or not _can_name(cells, names, named, i in numeric):
            continue
        meant = _means_channels(cells, names, named, chosen.main.ways[0].seconds)
        if meant is None:
            question = Question(
                key=f"long-{i}",
                text=f"“{sheet.headings[i]}” says {', '.join(list(names)[:4])} in turn. Is each a probe of its own?",
                options=(("yes", "yes, each is a probe"), ("no", "no, it is only a remark")),
                likely=said.get(f"long-{i}", "yes"),
                columns=(i,),
            )
            asked.append(question)
            meant = question.answer(said) != "no"
        if meant:
            found.append(i)
    return found, asked


def _can_name(cells: Sequence[str], names: Counter[str], named: bool, numeric: bool) -> bool:
    """Whether a column can name channels: few names, each in many rows, and no units."""
    filled = names.total()
    if not 2 <= len(names) <= MOST_NAMES or filled < 0.9 * len(cells) or min(names.values()) < 2:
        return False
    if numeric and not (named and len(names) * 2 < filled):
        return False
    return not all(unit_word(c) or is_other(c) for c in names)


def _means_channels(
    cells: Sequence[str], names: Counter[str], named: bool, seconds: Sequence[float | None]
) -> bool | None:
    """Whether each name is a channel: times repeat for each, or begin again; None where it is to be asked."""
    groups: dict[str, list[float | None]] = {}
    for cell, s in zip(cells, seconds, strict=True):
        groups.setdefault(cell, []).append(s)
    if not named and not all(rising(g) > 0.9 for g in groups.values()):
        return False
    known = [s for s in seconds if s is not None]
    repeats = 1 - len(set(known)) / len(known) if known else 0.0
    if named or repeats > 0.3 or rising(seconds) < 1 - 0.5 / len(seconds):
        return True
    turns = sum(a != b for a, b in pairwise(cells)) / max(len(cells) - 1, 1)
    even = max(names.values()) - min(names.values()) <= max(2, 0.2 * max(names.values()))
    return None if even and turns > 0.8 else False


def _long(sheet: Sheet, naming: Sequence[int], values: Sequence[int]) -> list[ColumnGroup]:
    """The channels of a long table: one for each name and column of values."""
    units = _columns_of_units(sheet, [i for i in range(len(sheet.headings)) if i not in (*naming, *values)])
    rows: dict[tuple[str, ...], list[int]] = {}
    for k, (_, row) in enumerate(sheet.body):
        name = tuple(row[i] if i < len(row) else "" for i in naming)
        rows.setdefault(name, []).append(k)
    readable = [column for column in values if not is_other(sheet.headings[column])]
    out = []
    for name, mine in rows.items():
        said = {u for column in units for u in _filled(sheet, column, mine)}
        other = any(is_other(u) and not unit_word(u) for u in said) or any(is_other(n) for n in name)
        if not any(name) or other:
            continue
        written = {unit_word(u) for u in said}
        unit = written.pop() if len(written) == 1 else ""
        for column in readable:
            heading = sheet.headings[column] if len(values) > 1 else ""
            label = " ".join(n for n in (*dict.fromkeys(name), heading) if n)
            out.append(ColumnGroup(column=column, name=label, unit=unit, rows=tuple(mine), split=True))
    return out


def _filled(sheet: Sheet, column: int, rows: Iterable[int]) -> set[str]:
    """What is written in a column, in these rows."""
    cells = (sheet.body[k][1] for k in rows)
    return {row[column] for row in cells if column < len(row) and row[column]}


def _columns_of_units(sheet: Sheet, among: Sequence[int]) -> list[int]:
    """Columns that say in what unit, or what else, their row was measured."""
    out = []
    for i in among:
        said = {c for c in sheet.column(i) if c}
        if said and all(unit_word(c) or is_other(c) for c in said):
            out.append(i)
    return out
