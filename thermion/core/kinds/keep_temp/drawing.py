"""The jar in its jacket, cut open."""

from __future__ import annotations

from math import pi

from thermion.core.kinds.building import Drawing, Handle, Shape
from thermion.core.kinds.shapes import box, layers, line, measure, polygon, tone_at, view
from thermion.core.plans import Plan

GLASS_MM = 3.0


def draw_jar(plan: Plan, room_m: float, radius_m: float, height_m: float, ice: bool) -> Drawing:
    """The jar to scale [mm]; origin at the middle of the jar's floor."""
    r, top, wide = radius_m * 1000, height_m * 1000, room_m * 1000
    side, floor = 2 * pi * radius_m * height_m, pi * radius_m**2
    out = r + wide
    shapes: list[Shape] = [
        box(-out - 24, -wide - 9, out + 24, -wide, "shell"),
        box(-out, 0, -r, top, "slot", "wall"),
        box(r, 0, out, top, "slot", "wall"),
        box(-out, -wide, out, 0, "slot", "floor"),
        box(-out, top, out, top + wide, "slot", "lid"),
    ]
    at = 0.0
    for part, tone, mm in layers(plan, "wall", side, room_m):
        shapes.append(box(-r - at - mm, 0, -r - at, top, tone=tone, place="wall", part=part))
        shapes.append(box(r + at, 0, r + at + mm, top, tone=tone, place="wall", part=part))
        at += mm
    at = 0.0
    for part, tone, mm in layers(plan, "floor", floor, room_m):
        shapes.append(box(-out, -at - mm, out, -at, tone=tone, place="floor", part=part))
        at += mm
    at = 0.0
    for part, tone, mm in layers(plan, "lid", floor, room_m):
        shapes.append(box(-out, top + at, out, top + at + mm, tone=tone, place="lid", part=part))
        at += mm
    tape, strip = tone_at(plan, "seal")
    for x in (-out - 4, out - 4):
        shapes.append(box(x, top - 10, x + 8, top + 10, tone=tape, place="seal", part=strip))
    shapes += [*_jar(r, top), *(_ice(r) if ice else _drink(r, top))]
    shapes += measure((r, top * 0.3), (out, top * 0.3))
    seen = {
        "wall": (-r - wide * 0.5, top * 0.6),
        "floor": (-r * 0.6, -wide * 0.5),
        "lid": (r * 0.3, top + wide * 0.5),
        "seal": (out, top + 4),
        "jacket_m": (r + wide * 0.5, top * 0.3),
    }
    handle = Handle(factor="jacket_m", at=(out, top * 0.5), step=(10.0, 0.0))
    return Drawing("Jar in its jacket, cut open", (view("cut open, from the side", shapes, [handle], seen),))


def _jar(r: float, top: float) -> list[Shape]:
    """Glass with a shoulder, and its screw lid."""
    neck = r * 0.78
    outline = [(-r, 0), (r, 0), (r, top - 22), (neck, top - 12), (-neck, top - 12), (-r, top - 22)]
    return [
        polygon(outline, "mug"),
        box(-neck - 2, top - 12, neck + 2, top, "axle"),
        *(line("thread", (x, top - 11), (x, top - 1)) for x in range(int(-neck) + 4, int(neck), 7)),
    ]


def _ice(r: float) -> list[Shape]:
    g = GLASS_MM
    blocks = [(-24, 9, -2), (2, 6, 8), (-14, 30, 6)]
    return [
        box(-r + g, g, r - g, 22, "water"),
        *(
            polygon([(x, y), (x + 22, y + tilt), (x + 20, y + 20 + tilt), (x - 2, y + 19)], "ice")
            for x, y, tilt in blocks
        ),
    ]


def _drink(r: float, top: float) -> list[Shape]:
    g = GLASS_MM
    steam = [
        line("steam", (x, top * 0.72), (x + 4, top * 0.76), (x, top * 0.8), (x + 4, top * 0.84))
        for x in (-14, 2)
    ]
    return [box(-r + g, g, r - g, top * 0.68, "water"), *steam]
