"""A challenge file is checked whole before anything of it is stored."""

from __future__ import annotations

import json

from pydantic import ValidationError

from thermion.core.judging.observed import observe_many, quantity_of
from thermion.core.kinds import all_kinds
from thermion.core.kinds.testing import AIR
from thermion.core.physics.units import Setting
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
    if not isinstance(raw.get("version"), int) or raw["version"] > VERSION:
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
    _check_values(file)
    return file


def _check_values(file: ChallengeFile) -> None:
    """Every value that was observed comes through the door, as one from a file."""
    c = file.challenge
    kind = all_kinds()[c.kind]
    choices = kind.brief.chosen({x.key: x.value for x in c.choices})
    setting = Setting(file.school_class.temp_unit, file.school_class.decimal)
    later = {kind.test.later.read.key: kind.test.later.read} if kind.test.later else {}
    grid = kind.test.grid_read(choices) or kind.test.reads[0]
    noted = {r.key: r for r in (*kind.test.reads, *kind.test.attempt_reads(choices))}
    for number, run in enumerate(c.runs):
        found: dict[str, list[tuple[str, float]]] = {}
        reads = {AIR.key: AIR}
        for i, r in enumerate(run.readings):
            entry = run.entries[r.entry]
            read = AIR if entry.team is None and not entry.device else later.get(r.phase, grid)
            reads[read.key] = read
            if r.value is not None:
                found.setdefault(read.key, []).append((f"readings[{i}].value", r.value))
        for i, a in enumerate(run.attempts):
            for key, value in a.values.items():
                if key in noted:
                    reads[key] = noted[key]
                    found.setdefault(key, []).append((f"attempts[{i}].values.{key}", value))
        for key, items in found.items():
            _, wrong, check = observe_many([v for _, v in items], quantity_of(reads[key]), setting)
            if wrong is not None:
                raise Refused(f"runs[{number}].{items[wrong][0]}: {check.message}", "file")
