"""One table, three ways out: on the page, as CSV, as JSON."""

from __future__ import annotations

import csv
import io
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from pydantic import BaseModel

from thermion.core.physics.units import Decimal


@dataclass(frozen=True)
class Column:
    """Key for files, label for people, unit for both; digits for numbers."""

    key: str
    label: str
    unit: str = ""
    digits: int | None = None

    @property
    def heading(self) -> str:
        return f"{self.label} ({self.unit})" if self.unit else self.label


@dataclass(frozen=True)
class Table:
    title: str
    columns: tuple[Column, ...]
    rows: Sequence[Sequence[Any]]


def _rounded(value: Any, digits: int | None) -> Any:
    if isinstance(value, float):
        return round(value, 6 if digits is None else digits)
    return value


def to_csv(table: Table, decimal: Decimal = "point") -> str:
    """RFC 4180 text with a heading row; a decimal-comma class gets semicolons between columns.

    Text that a spreadsheet would run as a formula is preceded by an apostrophe.
    """
    out = io.StringIO()
    writer = csv.writer(out, delimiter=";" if decimal == "comma" else ",", lineterminator="\r\n")
    writer.writerow([f"{c.key} [{c.unit}]" if c.unit else c.key for c in table.columns])
    for row in table.rows:
        line = []
        for column, value in zip(table.columns, row, strict=True):
            item = _rounded(value, column.digits)
            if isinstance(item, float):
                item = f"{item:g}" if column.digits is None else f"{item:.{column.digits}f}"
                item = item.replace(".", ",") if decimal == "comma" else item
            elif isinstance(item, str) and item[:1] in ("=", "+", "-", "@", "\t"):
                item = "'" + item
            line.append("" if item is None else item)
        writer.writerow(line)
    return out.getvalue()


class ColumnSent(BaseModel):
    key: str
    label: str
    unit: str


class TableSent(BaseModel):
    """A table as JSON: numbers stay numbers, what is unknown is null."""

    title: str
    columns: list[ColumnSent]
    rows: list[dict[str, Any]]


def to_json(table: Table) -> str:
    """Title, columns with units, and rows as objects: `TableSent`."""
    columns = [ColumnSent(key=c.key, label=c.label, unit=c.unit) for c in table.columns]
    rows = [
        {c.key: _rounded(v, c.digits) for c, v in zip(table.columns, row, strict=True)} for row in table.rows
    ]
    return TableSent(title=table.title, columns=columns, rows=rows).model_dump_json(indent=1)
