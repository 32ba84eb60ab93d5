"""A challenge file is checked whole before anything of it is stored."""

from __future__ import annotations

import json

from pydantic import ValidationError

from thermion.formats.checking import check_file
from thermion.formats.schema import FORMAT, VERSION, ChallengeFile
from thermion.records.errors import Refused


def read_file(data: bytes) -> ChallengeFile:
    """Check a file before anything is stored. Raises Refused saying what is wrong with it."""
    if not data.strip():
        raise Refused("This file is empty.", "file")
    try:
        raw = json.loads(data.decode("utf-8-sig"))
    except (UnicodeDecodeError, ValueError, RecursionError):
        raise Refused("This is not a JSON file that Thermion wrote.", "file") from None
    if not isinstance(raw, dict) or raw.get("format") != FORMAT:
        raise Refused("This JSON file does not hold a Thermion challenge.", "file")
    if not isinstance(raw.get("version"), int) or not 1 <= raw["version"] <= VERSION:
        raise Refused(
            f"This file is of format version {raw.get('version')}; this Thermion reads up to "
            f"version {VERSION}. Update Thermion, then import it again.",
            "file",
        )
    try:
        file = ChallengeFile.model_validate(raw)
    except ValidationError as error:
        first = error.errors()[0]
        where = " → ".join(str(p) for p in first["loc"])
        more = f" (and {error.error_count() - 1} more)" if error.error_count() > 1 else ""
        raise Refused(f"Damaged at {where}: {first['msg']}{more}.", "file") from None
    check_file(file)
    return file
