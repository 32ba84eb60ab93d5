"""What holds for every text and moment of a challenge file, wherever it stands."""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping
from datetime import UTC, datetime
from functools import cache

from pydantic import BaseModel

from thermion.formats.checking.said import no
from thermion.formats.schema import ChallengeFile

FIRST, LAST = (datetime(year, 1, 1, tzinfo=UTC) for year in (2000, 2100))  # a clock may be off by years
CONTROL = re.compile(r"[\x00-\x08\x0b\x0c\x0e-\x1f]")  # no page can show it
Path = tuple[str | int, ...]
Leaf = tuple[Path, str | datetime, int | None]  # where, what, and the letters that its column holds


def check_shape(file: ChallengeFile) -> None:
    """Every text can be shown and fits into its column; every moment is of this century."""
    for path, value, letters in (*leaves(file.school_class, ("school_class",)), *leaves(file.challenge)):
        if isinstance(value, datetime):
            if not FIRST <= value < LAST:
                raise no(place(path), f"{value.date()} is no day of this record")
        elif CONTROL.search(value):
            raise no(place(path), "holds a control character")
        elif letters is not None and len(value) > letters:
            raise no(place(path), f"{len(value)} letters, at most {letters}")


def place(path: Path) -> str:
    """A place of a file as it is said: `runs[2].note`."""
    return "".join(f"[{k}]" if isinstance(k, int) else f".{k}" for k in path).removeprefix(".")


@cache
def _letters(model: type[BaseModel]) -> tuple[tuple[str, int | None], ...]:
    """The fields of an item, with the letters that the column of each holds."""
    table = getattr(model, "table", None)
    columns = {} if table is None else table.__table__.columns
    return tuple(
        (name, getattr(columns[name].type, "length", None) if name in columns else None)
        for name in model.model_fields
    )


def leaves(part: object, path: Path = (), letters: int | None = None) -> Iterator[Leaf]:
    """Every text and moment of a part of a file, with its place; the keys of what is named too."""
    if isinstance(part, str | datetime):
        yield path, part, letters
    elif isinstance(part, BaseModel):
        for name, fits in _letters(type(part)):
            value = getattr(part, name)
            if isinstance(value, str | datetime):
                yield (*path, name), value, fits
            elif isinstance(value, list | Mapping | BaseModel):
                yield from leaves(value, (*path, name), fits)
    elif isinstance(part, list):
        for i, each in enumerate(part):
            yield from leaves(each, (*path, i), letters)
    elif isinstance(part, Mapping):
        for key, value in part.items():
            yield (*path, key), key, None
            yield from leaves(value, (*path, key))
