"""`make truth`: simulate classes, print what was found, and write docs/truth.md. Takes some minutes."""

from __future__ import annotations

import sys
from datetime import UTC, datetime
from pathlib import Path

from bench.truth import claims, figures
from bench.truth.classes import CLASSES

TARGET = Path(__file__).parents[2] / "docs" / "truth.md"
HEAD = """# Is it true at the rate it says?

Made by `make truth` on {day}: classes simulated through the families' own simulators and through the
functions that the pages call (`analyse`, `standing`, `compare`, `settle`, each family's `fit`), seeded.
A small version runs with the tests (tests/core/test_truth.py, tests/core/test_claims.py).

Conditions: readings uncertain by 0.2 K beside rounding to half a degree, up to 30 s late; thermometers
off by 0.5 K (one standard deviation), 0.25 K after a check in one glass; a stopwatch in the hand 0.2 s;
jugs and scales read to half a step; wind ±0.15 m/s; sun measured to 5 % or estimated to 10 %; a shower
poured by hand ±3 %; one try differs from the next by 2 % of the light.
"""


def percent(share: float) -> str:
    return f"{100 * share:.1f}"


def equals(scale: int) -> list[str]:
    lines = [
        "\n## Builds that are equal\n",
        "Eight identical builds. Aims: `clear` in at most 5 % of comparisons, `leaning` or `clear` in at "
        "most 32 %, a sole certain first in at most 5 % of classes.\n",
        "| class | classes | clear, % | leaning or clear, % | sole first, % |",
        "| --- | --: | --: | --: | --: |",
    ]
    for repeated in (1, 2, 4, 8):
        found = claims.equal_ovens(repeated, scale, repeated)
        lines.append(_equal(f"ovens, {repeated} of 8 tried again", scale, found))
    for tries in (2, 3, 5):
        found = claims.equal_sails(tries, 4 * scale, tries)
        lines.append(_equal(f"sails, {tries} attempts each", 4 * scale, found))
    return lines


def _equal(name: str, classes: int, found: claims.Rates) -> str:
    rates = [percent(found.rate(key)) for key in ("clear", "leaning or clear", "sole first")]
    return f"| {name} | {classes} | {' | '.join(rates)} |"


def leads(scale: int) -> list[str]:
    lines = [
        "\n## A build that is ahead\n",
        "Six builds, one ahead by so many spreads of a try. Aim: told at least 0.9 times as often as by a "
        "pooled t test of the first two; the wrong one in at most 1 %.\n",
        "| lead | tries each | told, % | pooled t test, % | who knows the spread, % | wrong one, % |",
        "| --: | --: | --: | --: | --: | --: |",
    ]
    for gap, tries in ((1, 3), (2, 2), (2, 3), (3, 2), (4, 3)):
        found = claims.power(gap, tries, 10 * scale, gap)
        rates = [percent(found.rate(k)) for k in ("told", "pooled t test", "knows the spread", "wrong one")]
        lines.append(f"| {gap} | {tries} | {' | '.join(rates)} |")
    return lines


def days(scale: int) -> list[str]:
    lines = [
        "\n## Second versions that are no better, on another day\n",
        "Eight teams, ovens. Aims: a wrong `clear` in at most 5 % of gains, two or more in at most 10 % of "
        "classes, whatever the sun did.\n",
        "| yardsticks | sun, W/m² more | sun known to | clear gains, % | two or more, % of classes |",
        "| --: | --: | --: | --: | --: |",
    ]
    for sticks, shift, share in (
        (0, 0, 0.05),
        (0, 70, 0.10),
        (0, 200, 0.10),
        (0, 200, 0.05),
        (1, 70, 0.10),
        (2, 70, 0.10),
        (2, 200, 0.10),
        (3, 200, 0.10),
    ):
        found = claims.unchanged(sticks, shift, scale, sticks + shift, share=share)
        rates = [percent(found.rate(k)) for k in ("clear gain", "two or more in a class")]
        lines.append(f"| {sticks} | {shift} | {share:.0%} | {' | '.join(rates)} |")
    return lines


def settling(scale: int) -> list[str]:
    lines = [
        "\n## What would settle it\n",
        "More tries of each of two builds tried once, until a true gap of so many spreads is `clear`.\n",
        "| gap | degrees of freedom so far | more tries | promised, % | found, % |",
        "| --: | --: | --: | --: | --: |",
    ]
    for gap, dof in ((1, 3), (1, 8), (1.5, 2), (2, 3), (3, 1)):
        more, promised, found = claims.settled(gap, dof, 40 * scale, int(10 * gap))
        lines.append(f"| {gap} | {dof} | {more} | {percent(promised)} | {percent(found)} |")
    return lines


def chances(scale: int) -> list[str]:
    lines = [
        "\n## The chance of being best\n",
        "True spread between builds of 0.3, 1 and 3 times that of a try, together; in each tenth what was "
        "said, and how often it was so. Aim: within 0.1.\n",
        "| class | " + " | ".join(f"{k / 10:.1f}–{(k + 1) / 10:.1f}" for k in range(10)) + " |",
        "| --- |" + " --: |" * 10,
    ]
    for builds, tries in ((3, 2), (8, 2), (5, 3)):
        rows = claims.calibration(builds, tries, 15 * scale, builds)
        cells = [f"{said:.2f}: {true:.2f}" for said, true, _ in rows]
        lines.append(f"| {builds} builds, {tries} tries | {' | '.join(cells)} |")
    return lines


def coverage(scale: int) -> list[str]:
    lines = [
        "\n## The interval of every figure\n",
        "How often the 95 % interval holds the simulator's true value (aim: 92 to 99 of 100), or, where a "
        "figure is only a bound, how often the bound is true.\n",
        "| family | figure | intervals | hold, % | bounds | true, % |",
        "| --- | --- | --: | --: | --: | --: |",
    ]
    for family in CLASSES:
        for key, found in figures.coverage(family, 5 * scale, 3).items():
            held = "" if found.coverage is None else percent(found.coverage)
            true = percent(found.true_bounds / found.bounds) if found.bounds else ""
            lines.append(f"| {family} | {key} | {found.intervals} | {held} | {found.bounds} | {true} |")
    lines.append(
        "\nMelting by eye: a stage is what was seen, and the eye errs by 2 % of the melted share, so that the "
        "true moment lies in the check before or after in about one of six. Places therefore leave intervals "
        "that only touch undecided."
    )
    return lines


def main() -> None:
    scale = int(sys.argv[1]) if len(sys.argv) > 1 else 200
    lines = [HEAD.format(day=datetime.now(UTC).date().isoformat())]
    for part in (equals, leads, days, settling, chances, coverage):
        made = part(scale)
        print("\n".join(made), flush=True)
        lines += made
    TARGET.write_text("\n".join(lines) + "\n")


if __name__ == "__main__":
    main()
