"""One table, three ways out: on the page, as CSV, as JSON."""

from __future__ import annotations

import csv
import io
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from pydantic import BaseModel, ConfigDict

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


_UNIT_ENDINGS = ("_w_m2", "_m_s", "_m2", "_m3", "_kg", "_deg", "_c", "_k", "_m", "_s")
RISKY = ("=", "+", "-", "@", "\t", "\r", "\n", "＝", "＋", "－", "＠")  # a spreadsheet runs what follows


def plain_key(key: str) -> str:
    """The key of a quantity without the stored unit: a file names the unit in which it writes."""
    ending = next((e for e in _UNIT_ENDINGS if key.endswith(e)), "")
    return key.removesuffix(ending)


def _rounded(value: Any, digits: int | None) -> Any:
    """To so many decimals; to nine significant digits where a column does not say."""
    if isinstance(value, float):
        return float(f"{value:.9g}") if digits is None else round(value, digits)
    return value


def safe(text: str) -> str:
    """Text that no spreadsheet takes for a formula, whatever blanks stand before it."""
    return "'" + text if text.lstrip(" \u00a0\u3000")[:1] in RISKY and text.strip() else text


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
                item = f"{item:.9g}" if column.digits is None else f"{item:.{column.digits}f}"
                item = item.replace(".", ",") if decimal == "comma" else item
            elif isinstance(item, str):
                item = safe(item)
            line.append("" if item is None else item)
        writer.writerow(line)
    return out.getvalue()


class ColumnSent(BaseModel):
    model_config = ConfigDict(defer_build=True)
    key: str
    label: str
    unit: str


class TableSent(BaseModel):
    """A table as JSON: numbers stay numbers, what is unknown is null."""

    model_config = ConfigDict(defer_build=True)

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
