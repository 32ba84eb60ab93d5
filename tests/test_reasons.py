"""Reasons are values: nothing asks what a sentence says, and every reason has its sentence."""

from __future__ import annotations

import ast
from collections.abc import Iterator
from pathlib import Path
from string import Formatter

import pytest

from thermion.core.physics.units import Setting
from thermion.core.reasons import Why, because
from thermion.web.components.reasons import WORDS, said

ROOT = Path(__file__).resolve().parent.parent / "thermion"
TEXT_METHODS = ("startswith", "endswith", "find", "index", "partition", "removeprefix", "removesuffix")
CLASS = Setting("degF", "point")


def trees() -> Iterator[tuple[Path, ast.Module]]:
    for path in sorted(ROOT.rglob("*.py")):
        if not {"migrations", "demo"} & set(path.parts):  # the demo knows its challenges by their titles
            yield path, ast.parse(path.read_text())


def named_values() -> set[str]:
    """Words that are values: what a `Literal` lists."""
    return {
        value.value
        for _, tree in trees()
        for node in ast.walk(tree)
        if isinstance(node, ast.Subscript) and ast.unparse(node.value).endswith("Literal")
        for value in ast.walk(node.slice)
        if isinstance(value, ast.Constant) and isinstance(value.value, str)
    }


def is_sentence(node: ast.expr, values: set[str]) -> bool:
    text = node.value if isinstance(node, ast.Constant) and isinstance(node.value, str) else ""
    return (
        text.strip().count(" ") >= 1
        and text.strip()[:1].isalpha()
        and not text.isupper()
        and text not in values
    )


def asked(node: ast.AST) -> list[ast.expr]:
    """Texts that a value is compared with, looked for in, or cut by."""
    if isinstance(node, ast.Compare):
        sides = [node.left, *node.comparators]
        return [
            x for side in sides for x in (side.elts if isinstance(side, (ast.Tuple, ast.Set)) else [side])
        ]
    if isinstance(node, ast.Call) and isinstance(node.func, ast.Attribute) and node.func.attr in TEXT_METHODS:
        return list(node.args)
    return []


def test_no_code_asks_what_a_sentence_says():
    values = named_values()
    found = [
        f"{path.relative_to(ROOT)}:{node.lineno} {ast.unparse(text)}"
        for path, tree in trees()
        for node in ast.walk(tree)
        for text in asked(node)
        if is_sentence(text, values)
    ]
    assert found == []


@pytest.mark.parametrize("why", [w for w in Why if w.value])
def test_every_reason_is_a_sentence_with_its_numbers(why):
    names = {name for _, name, _, _ in Formatter().parse(why.value) if name}
    if not names:
        assert said(why, CLASS) == why.value
        return
    reason = because(why, **dict.fromkeys(names, 4.0))
    assert (reason.why, reason.numbers) == (why, dict.fromkeys(names, 4.0))
    assert "{" not in reason
    assert "{" not in said(reason, CLASS)


def test_a_class_reads_a_reason_in_its_own_units():
    assert Why.OTHER_START in WORDS
    reason = because(Why.OTHER_START, start=24.0, common=20.0)
    assert "24 °C" in reason
    assert said(reason, CLASS) == "started at 75.2 °F, not at 68.0 °F: not comparable"
