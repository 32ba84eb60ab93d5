"""What holds for every text and moment of a challenge file, wherever it stands."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from datetime import UTC, datetime

from pydantic import BaseModel

from thermion.formats.checking.said import no
from thermion.formats.schema import ChallengeFile

FIRST, LAST = (datetime(year, 1, 1, tzinfo=UTC) for year in (2000, 2100))  # a clock may be off by years
Leaf = tuple[str, object, int | None]  # place, value, and the letters that its column holds


def check_shape(file: ChallengeFile) -> None:
    """Every text can be shown and fits into its column; every moment is of this century."""
    for where, value, letters in (*leaves(file.school_class, "school_class"), *leaves(file.challenge)):
        if isinstance(value, str):
            if any(ord(ch) < 32 and ch not in "\n\r\t" for ch in value):
                raise no(where, "holds a control character")
            if letters is not None and len(value) > letters:
                raise no(where, f"{len(value)} letters, at most {letters}")
        if isinstance(value, datetime) and not FIRST <= value < LAST:
            raise no(where, f"{value.date()} is no day of this record")


def leaves(part: object, where: str = "", letters: int | None = None) -> Iterator[Leaf]:
    """Every value of a file that holds no other, with its place as `runs[2].note`."""
    if isinstance(part, BaseModel):
        table = getattr(part, "table", None)
        columns = {} if table is None else table.__table__.columns
        for name, value in part:
            fits = getattr(columns[name].type, "length", None) if name in columns else None
            yield from leaves(value, f"{where}.{name}" if where else name, fits)
    elif isinstance(part, list):
        for i, each in enumerate(part):
            yield from leaves(each, f"{where}[{i}]", letters)
    elif isinstance(part, Mapping):
        for key, value in part.items():
            yield f"{where}.{key}", key, None
            yield from leaves(value, f"{where}.{key}", None)
    else:
        yield where, part, letters
