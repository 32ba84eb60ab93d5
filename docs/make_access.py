"""Writes docs/access.md, who may what at each address, from what is declared there; run with `make docs`."""

from __future__ import annotations

import itertools
import re
import tempfile
from collections.abc import Iterator
from pathlib import Path

from flask import Flask
from werkzeug.routing import Rule

from thermion.core.door import ROLES
from thermion.web import create_app
from thermion.web.access import NAMES, SAFE, allowed_at

OUT = Path(__file__).parent / "access.md"
HEAD = """# Who may what

Made by `make docs` from what is declared beside each address (do not edit here); `tests/web/test_access.py` tries
every cell, at one's own and at another class, challenge and team. *yes*: anywhere. *own*: a helper and a board in
the class that they were let in for, a station in its challenge, a pad what is of its team. An empty cell: refused.

"""
SCOPED = frozenset({"helper", "station", "board", "team"})
ANY = re.compile(r"<any\(([^)]*)\):(\w+)>")
Row = tuple[str, str, dict[str, str]]  # method, address, what each role may


def spelled(rule: Rule) -> Iterator[tuple[str, dict[str, str]]]:
    """An address once for each word that may stand in it."""
    found = [(m.group(2), re.findall(r"[\w ]+", m.group(1)), m.group(0)) for m in ANY.finditer(rule.rule)]
    for words in itertools.product(*(words for _, words, _ in found)):
        text = rule.rule
        for (_, _, pattern), word in zip(found, words, strict=True):
            text = text.replace(pattern, word)
        yield text, {name: word for (name, _, _), word in zip(found, words, strict=True)}


def rows(app: Flask) -> list[Row]:
    """What each role may do with each method at each address."""
    out = []
    for rule in sorted(app.url_map.iter_rules(), key=lambda r: r.rule):
        declared = allowed_at(app, rule.endpoint)
        for text, words in spelled(rule):
            for method in sorted(
                (rule.methods or set()) - {"HEAD", "OPTIONS"}, key=lambda m: (m not in SAFE, m)
            ):
                may = declared.roles(method, words.values())
                named = not NAMES.isdisjoint(rule.arguments)
                cells = {r: ("own" if r in SCOPED and named else "yes") if r in may else "" for r in ROLES}
                out.append((method, text, cells))
    return out


def page() -> str:
    with tempfile.TemporaryDirectory() as folder:
        app = create_app({"DATA": Path(folder)})
        found = rows(app)
        app.extensions["thermion"].close()
    lines = [f"| | address | {' | '.join(ROLES)} |", f"| --- | --- |{' --- |' * len(ROLES)}"]
    for method, address, cells in found:
        shown = address.replace("|", "\\|")
        lines.append(f"| {method} | `{shown}` | {' | '.join(cells[r] for r in ROLES)} |")
    return HEAD + "\n".join(lines) + "\n"


if __name__ == "__main__":
    OUT.write_text(page(), encoding="utf-8")
