"""`make truth`: simulate classes, print what was found, and write docs/truth.md. Takes some minutes."""

from __future__ import annotations

import sys
from collections.abc import Callable
from concurrent.futures import ProcessPoolExecutor
from datetime import UTC, datetime
from pathlib import Path

from bench.truth import claims, figures, unlike
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


def more_tries(scale: int) -> list[str]:
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


def unlikes(scale: int) -> list[str]:
    lines = [
        "\n## Builds that are unlike\n",
        "Races by stopwatch of 17 to 278 s, a try differing by 6 % above a floor of 0.3 s (or so many times "
        "that: the floor that the program believes is then wrong by as much), eight builds of which two are "
        "equal, at the bottom, in the middle or on top. Aims: `clear` in at most 5.5 % of equal pairs on "
        "average and 8 % anywhere; a sole first where the two best are equal in at most 5 %.\n",
        UNLIKE_HEAD,
        "| --- | --: | --: | --: | --: | --: | --: |",
    ]
    for name, design in unlike.DESIGNS.items():
        for wrong in (1 / 3, 1 / 2, 1, 2, 3):
            noise = unlike.Noise(unlike.SHARE, unlike.FLOOR_S * wrong)
            found = unlike.equal_pairs(design, noise, 3 * scale, len(lines))
            lines.append(_unlike(f"{name}, floor × {wrong:.2g}", found))
    usual, twice = unlike.Noise(unlike.SHARE, unlike.FLOOR_S), (2,) * 8
    for name, spoil in (
        ("one team three times as variable", unlike.three_times_as_variable),
        ("the second round takes 5 % longer", unlike.drift),
        ("one race stopped a fifth too late", unlike.one_wild_value),
    ):
        lines.append(
            _unlike(f"all twice, {name}", unlike.equal_pairs(twice, usual, 3 * scale, 7, spoil=spoil))
        )
    for tries in (2, 3):
        found = unlike.equal_pairs(
            (tries,) * 8,
            unlike.Noise(0.08, 0.01),
            3 * scale,
            tries,
            team_of=unlike.sail_team,
            rule=unlike.FARTHEST,
            ends=(0.3, 3.6),
        )
        lines.append(_unlike(f"sails of 0.3 to 3.6 m on a track of 2.4 m, {tries} attempts", found))
    for differ in (0.0, 0.35, 0.5):
        found = unlike.equal_pairs((1,) * 8, usual, 3 * scale, 9, prior=unlike.lending(differ))
        lines.append(_unlike(f"single tries, a lent spread that differs by a lognormal of {differ:g}", found))
    return lines


UNLIKE_HEAD = "| class | bottom, % | middle, % | top, % | all equals, % | sole first, % | wrong way, % |"


def _unlike(name: str, found: claims.Rates) -> str:
    keys = ("low", "middle", "high", "equal", "sole first", "wrong way")
    return f"| {name} | {' | '.join(percent(found.rate(key)) for key in keys)} |"


def unlike_powers(scale: int) -> list[str]:
    lines = [
        "\n## A build that is ahead of unlike ones\n",
        "The best of eight races ahead of the second by so many of its own spreads. Aim: told at least 0.9 "
        "times as often as by a pooled t test that knows how a try varies with its size.\n",
        "| lead | tries each | told, % | t test, % |",
        "| --: | --: | --: | --: |",
    ]
    for gap, tries in ((2, 3), (3, 2), (3, 3), (4, 2)):
        found = unlike.power(gap, tries, 2 * scale, gap)
        lines.append(f"| {gap} | {tries} | {percent(found.rate('told'))} | {percent(found.rate('t test'))} |")
    return lines


def unlike_days(scale: int) -> list[str]:
    lines = [
        "\n## Unlike builds on another day\n",
        "Second versions that are no better. Ovens with 0.25 to 1.5 times the usual excess; races with the "
        "bare probe (17 s) as the only yardstick and a pad that is off; melting pairs checked every two "
        "minutes. Aims: `clear` in at most 5.5 % of gains, two or more in at most 10 % of classes, a cause "
        "named in at most 5 %.\n",
        "| class | clear, % | two or more, % of classes | a cause, % of classes |",
        "| --- | --: | --: | --: |",
    ]
    for sticks, day, again in (
        (1, 1.25, 2),
        (2, 1.0, 0),
        (2, 1.25, 0),
        (2, 1.25, 2),
        (3, 1.0, 0),
        (3, 1.25, 0),
    ):
        found = unlike.another_day(sticks, day, 2 * scale, 10 * sticks + again, again=again)
        name = f"ovens, {sticks} yardsticks, all × {day:g}" + (", a third run" if again else "")
        lines.append(f"| {name} | {_days(found)} |")
    for off in (0.0, 1.0, -1.0):
        lines.append(f"| races, pad {off:+g} K | {_days(unlike.bare_control(off, scale, 7))} |")
    for share in (0.03, 0.06, 0.12):
        for day in (1.0, 1.1):
            found = unlike.melting(share, day, scale, 9)
            lines.append(
                f"| melting, try {share:.0%}, all × {day:g} | {percent(found.rate('clear gain'))} |  |  |"
            )
            wrong = percent(found.rate("beats its equal"))
            lines.append(f"| the same, a device said to beat a control that is its equal | {wrong} |  |  |")
    return lines


def _days(found: claims.Rates) -> str:
    return " | ".join(percent(found.rate(key)) for key in ("clear", "two or more", "a cause"))


def advice(scale: int) -> list[str]:
    lines = [
        "\n## What more tries would tell\n",
        "After looking at the winner of eight races, true spread between builds 0, 1, 2 and 4 times that of a "
        "try: the chance that was said of telling the first from the second by one to three more tries of each, "
        "and how often it then was so (of how many). Aim: within 0.1.\n",
        "| tried twice before | " + " | ".join(f"{k / 10:.1f}–{(k + 1) / 10:.1f}" for k in range(10)) + " |",
        "| --- |" + " --: |" * 10,
    ]
    for again in (1, 3, 8):
        rows = unlike.advised(again, 8 * scale, 20 + again)
        cells = [f"{said:.2f}: {true:.2f} ({count})" for said, true, count in rows]
        lines.append(f"| {again} of 8 | {' | '.join(cells)} |")
    return lines


PARTS = (equals, leads, unlikes, unlike_powers, days, unlike_days, more_tries, advice, chances, coverage)


def main() -> None:
    scale = int(sys.argv[1]) if len(sys.argv) > 1 else 200
    lines = [HEAD.format(day=datetime.now(UTC).date().isoformat())]
    with ProcessPoolExecutor() as processes:
        for made in processes.map(_made, PARTS, [scale] * len(PARTS)):
            print("\n".join(made), flush=True)
            lines += made
    TARGET.write_text("\n".join(lines) + "\n")


def _made(part: Callable[[int], list[str]], scale: int) -> list[str]:
    return part(scale)


if __name__ == "__main__":
    main()
