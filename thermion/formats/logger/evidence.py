"""Which columns are times by what all their rows say, not by their names alone.

A name is weak evidence: D, S, Min, T1 and “time capsule” are what classes call their builds. What a time does in
every row is strong: a date or clock is one by itself, and a counter goes on, by equal steps.
"""

from __future__ import annotations

from collections.abc import Sequence

from thermion.formats.logger.order import rising, steady
from thermion.formats.logger.sheet import Sheet
from thermion.formats.logger.stamps import says_time
from thermion.formats.logger.times import agrees
from thermion.formats.logger.ways import Meaning, Stamp

GOES_ON = 0.98  # of the steps
PLAIN = (2, 2)  # a counter of equal steps that is called a time and nothing else
STEADY = 0.5  # of the steps near the usual one: a recording that was stopped and begun has others


def weighed(sheet: Sheet, stamps: Sequence[Stamp]) -> list[Stamp]:
    """The stamps that are times: those with the best evidence, and what tells the same time once more."""
    if len(stamps) < 2:
        return list(stamps)
    found = [(_evidence(stamp, sheet), stamp) for stamp in stamps]
    best = max(evidence for evidence, _ in found)
    leading = [stamp for evidence, stamp in found if evidence == best]
    return [
        stamp
        for evidence, stamp in found
        if evidence == best
        or evidence >= PLAIN  # two that differ: a person says which
        or any(agrees(way, stamp) for lead in leading for way in lead.ways)
    ]


def _evidence(stamp: Stamp, sheet: Sheet) -> tuple[int, int]:
    """How surely a stamp is a time: by what its rows do, then by how plainly its heading says so."""
    named = max(says_time(sheet.headings[column]) for column in stamp.columns)
    return max(_behaves(way) for way in stamp.ways), named


def _behaves(way: Meaning) -> int:
    """3: a date or a clock. 2: a counter of equal steps. 1: one that goes on. 0: what goes up and down."""
    if way.axis in ("local", "fixed", "clock") and way.key != "day":
        return 3
    known = [s for s in way.seconds if s is not None]
    back = [-s for s in known]
    onward = max(known, back, key=rising)  # the newest row may stand first
    if rising(onward) < GOES_ON and steady(onward) < STEADY:
        return 0
    return 2 if steady(onward) >= STEADY else 1
