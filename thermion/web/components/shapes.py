"""The outlines of the teams' shapes: one source for badges, charts, grids and scripts."""

from __future__ import annotations

import re

# Relative paths from the middle of a box of 20 by 20; no arcs, so that they can be scaled.
OUTLINES = {
    "circle": "m-9.5,0c0,-5.25 4.25,-9.5 9.5,-9.5c5.25,0 9.5,4.25 9.5,9.5c0,5.25 -4.25,9.5 -9.5,9.5"
    "c-5.25,0 -9.5,-4.25 -9.5,-9.5z",
    "square": "m-8.5,-8.5h17v17h-17z",
    "triangle": "m0,-10l10,19h-20z",
    "diamond": "m0,-10l10,10l-10,10l-10,-10z",
    "drop": "m0,-10q14,14 0,19.5q-14,-5.5 0,-19.5z",
    "hexagon": "m-5,-9h10l5,9l-5,9h-10l-5,-9z",
    "cross": "m-5.5,-10h11v4.5h4.5v11h-4.5v4.5h-11v-4.5h-4.5v-11h4.5z",
    "star": "m0,-10l3,5l6,-1l-2,6l3,5l-6,1l-4,4l-4,-4l-6,-1l3,-5l-2,-6l6,1z",
}
MARKER = 0.42  # of a marker on a chart, against a badge


def _scaled(outline: str, share: float) -> str:
    return re.sub(r"-?\d+(?:\.\d+)?", lambda number: f"{float(number[0]) * share:.1f}", outline)


MARKERS = {shape: _scaled(outline, MARKER) for shape, outline in OUTLINES.items()}


def marker_at(x: float, y: float, shape: str) -> str:
    """A team's marker on a chart, as path data around (x, y)."""
    return f"M{x:.1f},{y:.1f}{MARKERS[shape]}"
