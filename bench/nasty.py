"""The nasty logger files scored: right, right after a question, refused with a fair reason, silently wrong …

`python -m bench.nasty` prints a table and every file that was not read right, then what came of so many
mutations of each (`--mutations 40`); `--write` puts the tables in docs/nasty-files.md.
"""

from __future__ import annotations

import argparse
import random
from collections import Counter
from pathlib import Path

from tests.formats.nasty import every
from tests.formats.nasty_scored import WORDS, mutated, score, wrong_in


def main() -> None:
    asked = argparse.ArgumentParser()
    asked.add_argument("--mutations", type=int, default=20)
    asked.add_argument("--write", action="store_true")
    given = asked.parse_args()
    cases = every()
    found = [(case, *score(case)) for case in cases]
    counts = Counter(verdict for _, verdict, _ in found)
    lines = [f"| {words} | {counts.get(key, 0)} |" for key, words in WORDS.items()]
    print(f"{len(cases)} files", *lines, sep="\n")
    for case, verdict, why in found:
        if verdict not in ("right", "refused", "asked"):
            print(f"{verdict}: {case.name}: {why[:140]}")
    draw = random.Random(7)
    tried = [m for case in cases for _ in range(given.mutations) if (m := mutated(case, draw)) is not None]
    wrong = [(m.name, why) for m in tried if (why := wrong_in(m))]
    print(f"{len(tried)} mutations, {len(wrong)} silently wrong")
    for name, why in wrong[:40]:
        print(f"  {name}: {why}")
    if given.write:
        head = (
            "# Logger files that nobody made for a reader\n\n"
            f"`python -m bench.nasty --mutations {given.mutations} --write`: {len(cases)} made-up files "
            "(tests/formats/nasty.py), written before the reader was changed.\n\n| came out | files |\n|---|---|\n"
        )
        tail = f"\nOf {len(tried):,} mutations of them {len(wrong)} were read wrong without a word or question.\n"
        Path("docs/nasty-files.md").write_text(head + "\n".join(lines) + "\n" + tail)


if __name__ == "__main__":
    main()
