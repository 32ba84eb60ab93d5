"""Reading a package back: the challenge files in it; whatever else is in a zip is not looked at."""

from __future__ import annotations

import io
import json
import zipfile
from hashlib import sha256

from thermion.formats.intake import read_file
from thermion.formats.schema import ChallengeFile
from thermion.records.errors import Refused

MOST_BYTES = 48 * 1024 * 1024  # of all challenge files, unpacked
MOST_OF_ONE = 24 * 1024 * 1024
MOST_FILES = 500
MOST_RATIO, SMALL = 60, 256 * 1024  # a file of readings shrinks to a fifteenth; small ones may to less
PLACE, ENDING = "challenges/", ".thermion.json"


def is_package(data: bytes) -> bool:
    return data[:4] == b"PK\x03\x04"


def read_package(data: bytes) -> list[ChallengeFile]:
    """Every challenge of a package, checked whole before anything is stored. Refused in words otherwise."""
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as zipped:
            found = [
                i for i in zipped.infolist() if i.filename.startswith(PLACE) and i.filename.endswith(ENDING)
            ]
            if not found:
                raise Refused("This zip holds no challenges of Thermion.", "file")
            if len(found) > MOST_FILES or sum(i.file_size for i in found) > MOST_BYTES:
                raise Refused("This package is too large to be read at once.", "file")
            for i in found:  # said by the zip itself, before a byte is unpacked
                swollen = i.file_size > SMALL and i.file_size > MOST_RATIO * max(i.compress_size, 1)
                if i.file_size > MOST_OF_ONE or swollen:
                    raise Refused(f"{i.filename} in this package is too large to be read.", "file")
            contents = [
                _read(zipped, info) for info in sorted(found, key=lambda i: (len(i.filename), i.filename))
            ]
    except (zipfile.BadZipFile, EOFError, NotImplementedError, RuntimeError, OSError, ValueError):
        raise Refused("This package is damaged: it cannot be unpacked.", "file") from None
    return [read_file(content) for content in contents]


def _read(zipped: zipfile.ZipFile, info: zipfile.ZipInfo) -> bytes:
    """A file of the zip, and not a byte more than it says it has."""
    with zipped.open(info) as file:
        data = file.read(info.file_size + 1)
    if len(data) > info.file_size:
        raise ValueError("larger than it says")
    return data


def changed_tables(data: bytes) -> list[str]:
    """Tables of a package that somebody changed or took away since it was written, by their file names.

    They are not read, since the challenge files hold all of it; but whoever changed one should know that.
    """
    with zipfile.ZipFile(io.BytesIO(data)) as zipped:
        names = {i.filename: i for i in zipped.infolist()}
        described = names.get("datapackage.json")
        if described is None or described.file_size > SMALL:
            return []
        try:
            known = {
                r["path"]: (r["bytes"], r["hash"]) for r in json.loads(_read(zipped, described))["resources"]
            }
        except (ValueError, KeyError, TypeError):
            return ["datapackage.json"]
        return [path for path, (size, mark) in known.items() if not _is_as_written(zipped, path, size, mark)]


def _is_as_written(zipped: zipfile.ZipFile, path: str, size: int, mark: str) -> bool:
    try:
        info = zipped.getinfo(path)
    except KeyError:
        return False
    if info.file_size != size:  # said by the zip itself, before a byte is unpacked
        return False
    made = sha256()
    with zipped.open(info) as file:
        for piece in iter(lambda: file.read(1 << 16), b""):
            made.update(piece)
    return mark == f"sha256:{made.hexdigest()}"
