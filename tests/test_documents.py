"""Documents that can be read: they render, they are short where they say so, and what they name is there."""

from __future__ import annotations

import re
from pathlib import Path

import pytest

ROOT = Path(__file__).resolve().parent.parent
READ = [ROOT / "README.md", ROOT / "CONTRIBUTING.md", *sorted((ROOT / "docs").glob("*.md"))]
OTHERS = {
    "addresses.md",
    "methods.md",
    "truth.md",
    "bench.md",
    "formats.md",
}  # generated, or of files made elsewhere
ROOMS = (
    "",
    "docs",
    "thermion",
    "thermion/core",
    "thermion/core/judging",
    "thermion/web",
    "thermion/web/static/js",
)
PLAIN = re.compile(r"[\w.{},/-]+")


def named(text: str) -> set[str]:
    """Paths in backticks; `a/{b,c}.py` names two."""
    found = set()
    for code in re.findall(r"`([^`\n]+)`", text):
        if (
            not PLAIN.fullmatch(code)
            or code[0] in "./"
            or not re.search(r"\.(py|js|md|html|css|json|toml|in)$", code)
        ):
            continue
        several = re.search(r"\{([^}]*)\}", code)
        parts = several[1].split(",") if several else [""]
        found |= {code.replace(several[0], part) if several else code for part in parts}
    return found


def is_there(path: str, every: set[str]) -> bool:
    if "/" not in path:
        return path in every or any((ROOT / room / path).exists() for room in ROOMS)
    return any((ROOT / room / path).exists() for room in ROOMS)


@pytest.mark.parametrize("path", [p for p in READ if p.name not in OTHERS], ids=lambda p: p.name)
def test_every_file_that_a_document_names_is_there(path):
    kept = [
        p
        for d in ("thermion", "tests", "docs", "bench", "assets")
        for p in (ROOT / d).rglob("*")
        if p.is_file()
    ]
    every = {p.name for p in kept}
    missing = [name for name in sorted(named(path.read_text())) if not is_there(name, every)]
    assert missing == []
    links = re.findall(r"\]\(([^)#:]+)\)", path.read_text())
    assert [link for link in links if not (path.parent / link).exists()] == []


def test_no_table_is_broken_and_decisions_stay_short():
    for path in READ:
        lines = [*path.read_text().split("\n"), ""]
        for i, line in enumerate(lines[1:-2], 1):
            row_after = lines[i + 1].startswith("| ") and not lines[i + 2].startswith("| --")
            assert line or not (lines[i - 1].startswith("|") and row_after), f"{path.name}: {lines[i + 1]}"
    decisions = (ROOT / "docs/decisions.md").read_text()
    assert len(decisions.split()) <= 2500
    words = decisions[decisions.index("## Words") : decisions.index("## Known limits")]
    assert 20 <= len(re.findall(r"\*[^*]+\*", words)) <= 40
