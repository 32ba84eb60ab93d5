"""Shapes that drawings of builds are made of; mm, y upward."""

from __future__ import annotations

from collections.abc import Sequence
from math import cos, pi, radians, sin

from thermion.core.kinds.building import Drawing, Handle, Shape
from thermion.core.physics.materials import FORMS, MATERIALS
from thermion.core.plans import Part, Plan

Point = tuple[float, float]


def part_label(part: Part | None) -> str:
    """A part in words, for reading aloud."""
    if part is None:
        return ""
    material = MATERIALS[part.material]
    return f"{material.name}, {FORMS[part.form].label}, {part.units:g} {material.unit}"


def polygon(points: Sequence[Point], tone: str, place: str = "", part: Part | None = None) -> Shape:
    return Shape("polygon", tuple(points), tone, place, part_label(part))


def box(
    x0: float, y0: float, x1: float, y1: float, tone: str, place: str = "", part: Part | None = None
) -> Shape:
    """A rectangle between two corners."""
    return polygon(((x0, y0), (x1, y0), (x1, y1), (x0, y1)), tone, place, part)


def disc(x: float, y: float, radius: float, tone: str, place: str = "") -> Shape:
    """A circle, as a polygon of 36 sides."""
    points = [(x + radius * cos(2 * pi * i / 36), y + radius * sin(2 * pi * i / 36)) for i in range(36)]
    return polygon(points, tone, place)


def line(tone: str, *points: Point) -> Shape:
    return Shape("line", points, tone)


def note(x: float, y: float, words: str) -> Shape:
    """Words at a point of the drawing."""
    return Shape("text", ((x, y),), "note", label=words)


def turned(points: Sequence[Point], degrees: float, about: Point = (0.0, 0.0)) -> list[Point]:
    """Points turned counter-clockwise about a point."""
    c, s = cos(radians(degrees)), sin(radians(degrees))
    ox, oy = about
    return [(ox + (x - ox) * c - (y - oy) * s, oy + (x - ox) * s + (y - oy) * c) for x, y in points]


def tone_at(plan: Plan, place: str, empty: str = "slot") -> tuple[str, Part | None]:
    """The look of the last part at a place, or that of an empty place."""
    parts = plan.at(place)
    if not parts:
        return empty, None
    return MATERIALS[parts[-1].material].swatch, parts[-1]


def framed(
    title: str, shapes: Sequence[Shape], handles: Sequence[Handle] = (), *, margin: float = 15.0
) -> Drawing:
    """The drawing with the window its shapes need, and room for the scale below."""
    points = [p for shape in shapes for p in shape.points] + [h.at for h in handles]
    xs, ys = [x for x, _ in points], [y for _, y in points]
    left, low = min(xs) - margin, min(ys) - margin - 30
    return Drawing(
        title, (left, low, max(xs) - left + margin, max(ys) - low + margin), tuple(shapes), tuple(handles)
    )
