"""A logger that writes JSON, an object for each moment, as the table that it is."""

from __future__ import annotations

import csv
import io
import json
from collections.abc import Iterator
from contextlib import suppress
from itertools import islice

MOST_OBJECTS, MOST_KEYS = 70_001, 400


def of_json(text: str) -> str:
    """The objects of a text (one on each line, or one list of them) as CSV; "" where it is neither."""
    stripped = text.lstrip("\ufeff \n\r\t")
    if stripped[:1] not in ("{", "["):
        return ""
    found = list(islice(_objects(stripped), MOST_OBJECTS))
    keys = list(dict.fromkeys(key for each in found for key in each))
    if not 2 <= len(keys) <= MOST_KEYS:
        return ""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow(keys)
    writer.writerows([_cell(each.get(key)) for key in keys] for each in found)
    return out.getvalue()


def _objects(text: str) -> Iterator[dict[str, object]]:
    """Every object; a line that is none stands where its time would, so that it is named as lost."""
    if text.startswith("["):
        with suppress(ValueError, RecursionError):
            yield from (each for each in json.loads(text) if isinstance(each, dict))
        return
    first = ""
    for line in text.splitlines():
        if not line.strip():
            continue
        try:
            each = json.loads(line.strip().rstrip(","))
        except (ValueError, RecursionError):
            each = None
        if isinstance(each, dict) and each:
            first = first or next(iter(each))
            yield each
        elif first:
            yield {first: line.strip()[:40]}
        else:
            return  # what does not begin with an object is no such file


def _cell(value: object) -> str:
    """What stands in a table for a value; lists and objects within are none."""
    if value is None or isinstance(value, (bool, dict, list)):
        return ""
    return repr(value) if isinstance(value, float) else str(value)
