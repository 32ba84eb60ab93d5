"""Writing a package as a stream: table by table, challenge by challenge, whatever its size."""

from __future__ import annotations

import csv
import io
import json
import zipfile
from collections.abc import Callable, Iterable, Iterator, Sequence
from dataclasses import dataclass
from datetime import UTC, datetime
from typing import Any

from sqlalchemy.orm import Session

from thermion.formats.exchange import export_challenge
from thermion.formats.package.rows import One
from thermion.formats.package.tables import TABLES, SchemaField, TableSpec
from thermion.formats.package.wordless import Nameless, without_words
from thermion.formats.tables import safe
from thermion.records.planning.briefs import get_challenge

DIALECT = {"delimiter": ",", "lineTerminator": "\r\n", "quoteChar": '"', "doubleQuote": True, "header": True}


@dataclass(frozen=True)
class Extra:
    """A file that others bring into the package: a picture, a page."""

    name: str
    content: bytes


class _Sink(io.RawIOBase):
    """Takes what a zip writes and gives it away in pieces; it cannot be wound back."""

    def __init__(self) -> None:
        self.pieces: list[bytes] = []
        self.at = 0

    def writable(self) -> bool:
        return True

    def write(self, data: Any) -> int:
        piece = bytes(data)
        self.pieces.append(piece)
        self.at += len(piece)
        return len(piece)

    def tell(self) -> int:
        return self.at

    def taken(self) -> bytes:
        found = b"".join(self.pieces)
        self.pieces.clear()
        return found


def write_package(
    session: Session,
    challenge_ids: Sequence[int],
    name: str,
    *,
    words: bool = True,
    extras: Callable[[int, Callable[[str], str]], Iterable[Extra]] = lambda *_: (),
    page: Callable[[Sequence[str]], bytes] | None = None,
    now: datetime | None = None,
) -> Iterator[bytes]:
    """The bytes of a zip, piece by piece.

    Parameters
    ----------
    challenge_ids : which challenges; they keep their numbers.
    name : what the package is called, in its description.
    words : whether what people typed freely goes with it.
    extras : pictures of a challenge, by its number and by what its materials' keys are called here.
    page : makes the readable page, from the names of the other files.
    """
    sink, nameless = _Sink(), None if words else Nameless()
    names: list[str] = []
    with zipfile.ZipFile(sink, "w", zipfile.ZIP_DEFLATED) as made:

        def put(file: str, content: bytes) -> bytes:
            made.writestr(file, content)
            names.append(file)
            return sink.taken()

        yield put("datapackage.json", json.dumps(_described(name, words, now), indent=1).encode())
        for table in TABLES:
            fields = [f for f in table.fields if words or not f.words]
            with made.open(f"data/{table.name}.csv", "w") as out:
                out.write(_line([f.name for f in fields]))
                for challenge_id in challenge_ids:
                    for piece in _rows(session, challenge_id, table, nameless):
                        out.write(piece)
                        if sink.at:
                            yield sink.taken()
            names.append(f"data/{table.name}.csv")
            yield sink.taken()
        for challenge_id in challenge_ids:
            text = export_challenge(session, challenge_id)
            text = text if nameless is None else without_words(text, nameless)
            yield put(f"challenges/{challenge_id}.thermion.json", text.encode())
            for extra in extras(challenge_id, str if nameless is None else nameless.key):
                content = extra.content
                if nameless is not None:
                    content = nameless.picture(
                        content.decode(), get_challenge(session, challenge_id)
                    ).encode()
                yield put(extra.name, content)
        if page is not None:
            yield put("index.html", page(names))
    yield sink.taken()


def _rows(
    session: Session, challenge_id: int, table: TableSpec, nameless: Nameless | None
) -> Iterator[bytes]:
    kept = [i for i, f in enumerate(table.fields) if nameless is None or not f.words]
    for row in table.rows(One.of(session, challenge_id)):
        cells = [_cell(row[i]) for i in kept]
        yield _line(cells if nameless is None else nameless.row(cells))


def _line(cells: Sequence[str]) -> bytes:
    out = io.StringIO()
    csv.writer(out, lineterminator="\r\n").writerow(cells)
    return out.getvalue().encode()


def _cell(value: Any) -> str:
    if value is None:
        return ""
    if isinstance(value, bool):
        return "true" if value else "false"
    if isinstance(value, float):
        return f"{value:.17g}" if not value.is_integer() or abs(value) > 1e15 else f"{value:.0f}"
    return safe(str(value))


def _described(name: str, words: bool, now: datetime | None) -> dict[str, Any]:
    """`datapackage.json`: what each table holds, in which types and units, and how they hang together."""
    return {
        "profile": "tabular-data-package",
        "name": "".join(ch if ch.isalnum() and ch.isascii() else "-" for ch in name.lower()).strip("-")
        or "thermion",
        "title": name,
        "created": (now or datetime.now(UTC)).isoformat(timespec="seconds").replace("+00:00", "Z"),
        "description": (
            "Design challenges of a class: builds, tests and what follows. Temperatures in °C, other quantities SI. "
            "An apostrophe stands before text that a spreadsheet would run as a formula. "
            + ("" if words else "Without what was typed freely. ")
            + "No licence is given: the school says what others may do with it."
        ),
        "resources": [_resource(table, words) for table in TABLES],
    }


def _resource(table: TableSpec, words: bool) -> dict[str, Any]:
    schema: dict[str, Any] = {
        "fields": [_field(f) for f in table.fields if words or not f.words],
        "missingValues": [""],
    }
    if table.key:
        schema["primaryKey"] = list(table.key)
    if table.of:
        schema["foreignKeys"] = [
            {"fields": list(mine), "reference": {"resource": other, "fields": list(theirs)}}
            for mine, other, theirs in table.of
        ]
    return {
        "profile": "tabular-data-resource",
        "name": table.name,
        "path": f"data/{table.name}.csv",
        "description": table.means,
        "format": "csv",
        "mediatype": "text/csv",
        "encoding": "utf-8",
        "dialect": DIALECT,
        "schema": schema,
    }


def _field(field: SchemaField) -> dict[str, Any]:
    out: dict[str, Any] = {"name": field.name, "type": field.type, "description": field.means}
    if field.type == "datetime":
        out["format"] = "any"
    if field.unit:
        out["unit"] = field.unit
    if field.needed:
        out["constraints"] = {"required": True}
    return out
