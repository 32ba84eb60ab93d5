"""Shapes that drawings of builds are made of; mm, y upward."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from math import cos, pi, radians, sin

from thermion.core.kinds.building import Handle, Point, Shape, View
from thermion.core.kinds.layers import fill
from thermion.core.physics.materials import FORMS, MATERIALS
from thermion.core.plans import Part, Plan

THIN_MM = 4.0  # what is thinner is drawn this thick, so that its pattern can be seen


def part_label(part: Part | None) -> str:
    """A part in words, for reading aloud."""
    if part is None:
        return ""
    material = MATERIALS[part.material]
    return f"{material.name}, {FORMS[part.form].label}, {part.units:g} {material.unit}"


def polygon(points: Sequence[Point], tone: str, place: str = "", part: Part | None = None) -> Shape:
    return Shape(
        kind="polygon",
        points=tuple(points),
        tone=tone,
        place=place,
        label=part_label(part),
        form=part.form if part else "",
    )


def box(
    x0: float, y0: float, x1: float, y1: float, tone: str, place: str = "", part: Part | None = None
) -> Shape:
    """A rectangle between two corners."""
    return polygon(((x0, y0), (x1, y0), (x1, y1), (x0, y1)), tone, place, part)


def oval(
    x: float, y: float, wide: float, high: float, tone: str, place: str = "", part: Part | None = None
) -> Shape:
    """An ellipse by its half-axes, as a polygon of 24 sides."""
    points = [(x + wide * cos(pi * i / 12), y + high * sin(pi * i / 12)) for i in range(24)]
    return polygon(points, tone, place, part)


def disc(x: float, y: float, radius: float, tone: str, place: str = "", part: Part | None = None) -> Shape:
    """A circle."""
    return oval(x, y, radius, radius, tone=tone, place=place, part=part)


def line(tone: str, *points: Point) -> Shape:
    return Shape(kind="line", points=points, tone=tone)


def arc(tone: str, about: Point, radius: float, from_deg: float, to_deg: float) -> Shape:
    """Part of a circle's line, counter-clockwise from the right."""
    turns = [radians(from_deg + (to_deg - from_deg) * i / 12) for i in range(13)]
    return line(tone, *((about[0] + radius * cos(t), about[1] + radius * sin(t)) for t in turns))


def measure(a: Point, b: Point) -> list[Shape]:
    """A dimension line between two points, with a stroke across each end."""
    dx, dy = b[0] - a[0], b[1] - a[1]
    long = max((dx * dx + dy * dy) ** 0.5, 1e-6)
    x, y = -dy / long * 5, dx / long * 5
    ends = [line("dim", (px - x, py - y), (px + x, py + y)) for px, py in (a, b)]
    return [line("dim", a, b), *ends]


def wind(x: float, *heights: float, length: float = 60.0) -> list[Shape]:
    """Arrows of wind from the left, from `x` on."""
    tip = x + length
    return [line("wind", (x, y), (tip, y), (tip - 9, y + 6), (tip, y), (tip - 9, y - 6)) for y in heights]


def note(x: float, y: float, words: str) -> Shape:
    """Words at a point of the drawing."""
    return Shape(kind="text", points=((x, y),), tone="note", label=words)


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


def layers(plan: Plan, place: str, area_m2: float, room_m: float) -> list[tuple[Part, str, float]]:
    """The parts at a place as layers: part, look and thickness as drawn [mm].

    Thin ones are drawn `THIN_MM` thick, all together no thicker than the room.
    """
    found = fill(plan, place, area_m2, room_m)[0]
    drawn = [max(thickness * 1000, THIN_MM) for _, thickness in found]
    squeeze = min(1.0, room_m * 1000 / sum(drawn)) if drawn else 1.0
    return [
        (part, MATERIALS[part.material].swatch, mm * squeeze)
        for (part, _), mm in zip(found, drawn, strict=True)
    ]


def view(
    name: str,
    shapes: Sequence[Shape],
    handles: Sequence[Handle] = (),
    seen: Mapping[str, Point] | None = None,
    *,
    margin: float = 8.0,
) -> View:
    """Shapes with the window that they and their handles need."""
    points = [p for shape in shapes for p in shape.points] + [h.at for h in handles]
    xs, ys = [x for x, _ in points], [y for _, y in points]
    left, low = min(xs) - margin, min(ys) - margin
    window = (left, low, max(xs) - left + margin, max(ys) - low + margin)
    return View(name=name, window=window, shapes=tuple(shapes), handles=tuple(handles), seen=seen or {})
