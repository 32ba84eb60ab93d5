"""How dense the code is: sizes, branches, comprehensions, unnamed values, names that stand twice.

`python -m bench.density [FOLDER]` prints a table; migrations are left out. Branches are counted as McCabe does,
with every comprehension, condition of one and part of an `and` or `or` as one more.
"""

from __future__ import annotations

import ast
import statistics
import sys
from collections import Counter
from collections.abc import Iterator
from dataclasses import dataclass, field
from pathlib import Path

MANY = 7  # positional arguments of a call
COMPLEX = 10
BRANCHES = (
    ast.If,
    ast.For,
    ast.While,
    ast.IfExp,
    ast.ExceptHandler,
    ast.Assert,
    ast.comprehension,
    ast.match_case,
)
COMPREHENSIONS = (ast.ListComp, ast.SetComp, ast.DictComp, ast.GeneratorExp)


@dataclass
class Density:
    """What was counted, over all files."""

    files: list[int] = field(default_factory=list)
    functions: list[int] = field(default_factory=list)  # lines, without the docstring
    complexity: list[tuple[int, str]] = field(default_factory=list)
    comments: int = 0
    ternaries: int = 0
    comprehensions: int = 0
    many: int = 0
    classes: Counter[str] = field(default_factory=Counter)

    def rows(self) -> Iterator[tuple[str, str]]:
        lines = sum(self.files)
        above = [name for size, name in self.complexity if size > COMPLEX]
        twice = sorted(name for name, times in self.classes.items() if times > 1)
        yield "lines, files", f"{lines}, {len(self.files)}"
        yield "file: median / longest", f"{statistics.median(self.files):.0f}/{max(self.files)}"
        by_size = sorted(self.functions)
        p95 = by_size[int(0.95 * len(by_size))]
        yield "function: median / p95 / longest", f"{statistics.median(by_size):.0f}/{p95}/{by_size[-1]}"
        yield "comments in 100 lines", f"{100 * self.comments / lines:.1f}"
        yield "ternaries in 1,000 lines", f"{1000 * self.ternaries / lines:.1f}"
        yield "comprehensions in 1,000 lines", f"{1000 * self.comprehensions / lines:.1f}"
        yield (
            f"calls with {MANY} or more positional arguments in 10,000 lines",
            f"{1e4 * self.many / lines:.1f}",
        )
        share = 100 * len(above) / len(self.complexity)
        most = max(self.complexity)
        yield f"functions of complexity above {COMPLEX}", f"{share:.1f} %, at most {most[0]} ({most[1]})"
        yield "class names that stand twice", ", ".join(twice) or "none"


def complexity(function: ast.AST) -> int:
    found = 1
    for node in ast.walk(function):
        found += isinstance(node, BRANCHES)
        if isinstance(node, ast.comprehension):
            found += len(node.ifs)
        elif isinstance(node, ast.BoolOp):
            found += len(node.values) - 1
    return found


def _body(function: ast.FunctionDef | ast.AsyncFunctionDef) -> int:
    """Lines of a function without its docstring."""
    lines = (function.end_lineno or function.lineno) - function.lineno + 1
    first = function.body[0]
    if ast.get_docstring(function) is not None:
        lines -= (first.end_lineno or first.lineno) - first.lineno + 1
    return lines


def measure(folder: Path) -> Density:
    out = Density()
    for path in sorted(folder.rglob("*.py")):
        if "migrations" in path.parts:
            continue
        text = path.read_text()
        out.files.append(len(text.splitlines()))
        out.comments += sum("#" in line and "noqa" not in line for line in text.splitlines())
        for node in ast.walk(ast.parse(text)):
            out.ternaries += isinstance(node, ast.IfExp)
            out.comprehensions += isinstance(node, COMPREHENSIONS)
            out.many += isinstance(node, ast.Call) and len(node.args) >= MANY
            if isinstance(node, ast.ClassDef):
                out.classes[node.name] += 1
            elif isinstance(node, (ast.FunctionDef, ast.AsyncFunctionDef)):
                out.functions.append(_body(node))
                out.complexity.append((complexity(node), f"{path.relative_to(folder)}:{node.name}"))
    return out


def main() -> None:
    folder = Path(sys.argv[1] if len(sys.argv) > 1 else "thermion")
    for name, value in measure(folder).rows():
        print(f"| {name} | {value} |")


if __name__ == "__main__":
    main()
