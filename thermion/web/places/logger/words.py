"""What was found in a logger's file."""

from __future__ import annotations

from thermion.formats.logger import LoggerFile
from thermion.web.components.words import count


def usable(file: LoggerFile) -> str:
    found = f"{count(len(file.rows), 'row')} can be used"
    return f"{found}, {file.skipped_count} cannot" if file.skipped_count else found


def how_read(file: LoggerFile) -> str:
    """How the file was understood."""
    parted = "tab" if file.delimiter == "\t" else file.delimiter
    first = f", first row {file.starts_at:%Y-%m-%d %H:%M:%S}" if file.starts_at else ""
    return f"Columns parted by “{parted}”, decimal {file.decimal}, time from “{file.time_heading}”{first}."


def more_skipped(file: LoggerFile) -> str:
    rest = file.skipped_count - len(file.skipped)
    return f"and {rest} more" if rest > 0 else ""


def store_all(file: LoggerFile) -> str:
    return f"Store all {count(len(file.rows), 'row')}"
