"""Writing a package as a stream: table by table, challenge by challenge, whatever its size."""

from __future__ import annotations

import csv
import io
import json
import zipfile
from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from contextlib import ExitStack
from dataclasses import dataclass
from datetime import UTC, datetime
from hashlib import sha256
from shutil import copyfileobj
from tempfile import TemporaryFile
from typing import IO, Any

from sqlalchemy.orm import Session

from thermion.formats.exchange import challenge_file
from thermion.formats.package.spec import One, SchemaField, TableSpec
from thermion.formats.package.tables import GROUPS, TABLES
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


class _Written:
    """A table as it is written, with what it will be known again by."""

    def __init__(self, file: IO[bytes]) -> None:
        self._file, self.bytes, self._hash = file, 0, sha256()

    def write(self, piece: bytes) -> None:
        self._file.write(piece)
        self._hash.update(piece)
        self.bytes += len(piece)

    @property
    def hash(self) -> str:
        return f"sha256:{self._hash.hexdigest()}"


class _Made:
    """The zip that is being written, and the names of what is in it."""

    def __init__(self) -> None:
        self._sink, self.names = _Sink(), list[str]()
        self._zip = zipfile.ZipFile(self._sink, "w", zipfile.ZIP_DEFLATED)

    def put(self, name: str, content: bytes) -> bytes:
        """A file whole; what of the zip can go out by now."""
        self._zip.writestr(name, content)
        self.names.append(name)
        return self.taken()

    def file(self, name: str) -> IO[bytes]:
        """A file that is written piece by piece."""
        self.names.append(name)
        return self._zip.open(name, "w")

    def taken(self) -> bytes:
        return self._sink.taken()

    def end(self) -> bytes:
        self._zip.close()
        return self.taken()


def write_package(
    session: Session,
    challenge_ids: Sequence[int],
    name: str,
    *,
    words: bool = True,
    extras: Callable[[int, Callable[[str], str]], Iterable[Extra]] = lambda *_: (),
    page: Callable[[Sequence[str]], Iterable[Extra]] = lambda _: (),
    now: datetime | None = None,
) -> Iterator[bytes]:
    """The bytes of a zip, piece by piece.

    Parameters
    ----------
    challenge_ids : which challenges; they keep their numbers.
    name : what the package is called, in its description.
    words : whether what people typed freely goes with it.
    extras : pictures of a challenge, by its number and by what its materials' keys are called here.
    page : makes the readable page and its styles, from the names of the other files.
    """
    made, nameless = _Made(), None if words else Nameless()
    written: dict[str, _Written] = {}
    for group in GROUPS:
        yield from _tables(made, session, challenge_ids, group, nameless, written)
    described = _described(name, words, now, written)
    yield made.put("datapackage.json", json.dumps(described, indent=1).encode())
    for challenge_id in challenge_ids:
        file = challenge_file(session, challenge_id)
        text = file.model_dump_json(indent=1) if nameless is None else without_words(file, nameless)
        yield made.put(f"challenges/{challenge_id}.thermion.json", text.encode())
        for extra in extras(challenge_id, str if nameless is None else nameless.key):
            content = extra.content
            if nameless is not None:
                challenge = get_challenge(session, challenge_id)
                content = nameless.picture(content.decode(), challenge).encode()
            yield made.put(extra.name, content)
    for extra in page(list(made.names)):
        yield made.put(extra.name, extra.content)
    yield made.end()


def _tables(
    made: _Made,
    session: Session,
    challenge_ids: Sequence[int],
    group: Sequence[TableSpec],
    nameless: Nameless | None,
    written: dict[str, _Written],
) -> Iterator[bytes]:
    """The tables of a group, asked of each challenge once: the first goes out as it comes, the others wait."""
    with ExitStack() as open_files:
        first = open_files.enter_context(made.file(_name(group[0])))
        waiting = [open_files.enter_context(TemporaryFile()) for _ in group[1:]]
        for table, file in zip(group, (first, *waiting), strict=True):
            written[table.name] = _Written(file)
            written[table.name].write(_line([f.name for f in _fields(table, nameless)]))
        for challenge_id in challenge_ids:
            one = One.of(session, challenge_id)
            for table in group:
                for row in _rows(one, table, nameless):
                    written[table.name].write(row)
            yield made.taken()
        first.close()
        for table, held in zip(group[1:], waiting, strict=True):
            held.seek(0)
            with made.file(_name(table)) as file:
                copyfileobj(held, file)
            yield made.taken()


def _name(table: TableSpec) -> str:
    return f"data/{table.name}.csv"


def _fields(table: TableSpec, nameless: Nameless | None) -> list[SchemaField]:
    """The columns that go out: without words, those that hold none."""
    return [f for f in table.fields if nameless is None or not f.words]


def _rows(one: One, table: TableSpec, nameless: Nameless | None) -> Iterator[bytes]:
    kept = [f.name for f in _fields(table, nameless)]
    for row in table.rows(one):
        cells = [_cell(row[name]) for name in kept]
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


def _described(
    name: str, words: bool, now: datetime | None, written: Mapping[str, _Written]
) -> dict[str, Any]:
    """`datapackage.json`: what each table holds, in which types and units, and how they hang together; its
    length and hash tell whether somebody changed it since."""
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
        "resources": [_resource(table, words, written[table.name]) for table in TABLES],
    }


def _resource(table: TableSpec, words: bool, written: _Written) -> dict[str, Any]:
    schema: dict[str, Any] = {
        "fields": [_field(f) for f in table.fields if words or not f.words],
        "missingValues": [""],
    }
    if table.key:
        schema["primaryKey"] = list(table.key)
    if table.refers:
        schema["foreignKeys"] = [
            {"fields": list(r.fields), "reference": {"resource": r.table, "fields": list(r.by)}}
            for r in table.refers
        ]
    return {
        "profile": "tabular-data-resource",
        "name": table.name,
        "path": f"data/{table.name}.csv",
        "description": table.means,
        "format": "csv",
        "mediatype": "text/csv",
        "encoding": "utf-8",
        "bytes": written.bytes,
        "hash": written.hash,
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
