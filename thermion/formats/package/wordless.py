"""What goes out without what people typed freely: notes, reasons, names, photographs."""

from __future__ import annotations

import json
import re
from collections.abc import Mapping
from html import escape, unescape
from typing import Any

from pydantic import BaseModel, TypeAdapter

from thermion.core.kinds.criteria import criterion_of, is_own
from thermion.core.physics.materials import MATERIALS, OWN, own_key
from thermion.formats.schema import ChallengeFile, Typed
from thermion.records.tables import Challenge


class Nameless:
    """Gives the class's own materials and criteria, whose keys hold their names, a number instead.

    One for a whole package, so that its tables and files call the same thing the same.
    """

    def __init__(self) -> None:
        self._keys: dict[str, str] = {}
        self._names: dict[str, str] = {}

    def key(self, key: str) -> str:
        """The same key, without what was typed in it; any other text as it is."""
        if OWN not in key:
            return key
        if key not in self._keys:
            self._keys[key] = self._plain(key)
        return self._keys[key]

    def _plain(self, key: str) -> str:
        number = len(self._keys) + 1
        if is_own(key):
            try:
                criterion = criterion_of(key)
            except ValueError:
                return key
            self._names[criterion.name] = name = f"Criterion {number}"
            return OWN.join((*key.split(OWN, 4)[:4], name))
        if key not in MATERIALS:
            return key
        made = MATERIALS[key]
        self._names[made.name] = name = f"Material {number}"
        if made.unit not in {known.unit for known in MATERIALS.shipped.values()}:
            self._names[made.unit] = "piece"
        return own_key(name, "piece", key.partition(OWN)[0])

    def row(self, cells: list[str]) -> list[str]:
        """A row of a table: its keys, and the names in what is said of them."""
        plain = [self.key(cell) for cell in cells]
        return [_called(cell, self._names) for cell in plain]

    def picture(self, svg: str, challenge: Challenge) -> str:
        """A drawing or chart whose writing calls nothing by a name that was typed."""
        crew = challenge.school_class
        said = {crew.name: "A class", challenge.title: "A challenge", **self._names}
        said |= {team.name: f"Team {team.letter}" for team in crew.teams}

        def plain(written: re.Match[str]) -> str:
            return escape(_called(unescape(written[0]), said))

        return re.sub(r"(?<=>)[^<>]+(?=<)|(?<=aria-label=\")[^\"]+", plain, svg)


def _called(text: str, said: Mapping[str, str]) -> str:
    for name in sorted(said, key=len, reverse=True):
        text = re.sub(rf"(?<!\w){re.escape(name)}", said[name], text)
    return text


def without_words(file: ChallengeFile, nameless: Nameless) -> str:
    """The same challenge file, which can still be read again, without what its schema says was typed."""
    out = _emptied(file, nameless)
    out["school_class"]["name"] = "A class"
    for team in out["school_class"]["teams"]:
        team["name"] = f"Team {team['letter']}"
    out["challenge"]["title"] = "A challenge"
    for word in out["challenge"]["own_words"]:
        word["seen"] = word["word"]
    return json.dumps(out, indent=1, ensure_ascii=False)


def _emptied(part: Any, nameless: Nameless) -> Any:
    if isinstance(part, BaseModel):
        out = {}
        for name, field in type(part).model_fields.items():
            value = getattr(part, name)
            typed = next((m for m in field.metadata if isinstance(m, Typed)), None)
            if typed is not None and value is not None:
                value = typed.instead if isinstance(value, str) else []
            out[name] = _emptied(value, nameless)
        return out
    if isinstance(part, list):
        return [_emptied(each, nameless) for each in part]
    if isinstance(part, dict):
        return {nameless.key(key): _emptied(value, nameless) for key, value in part.items()}
    if isinstance(part, str):
        return nameless.key(part)
    return TypeAdapter(Any).dump_python(part, mode="json")
