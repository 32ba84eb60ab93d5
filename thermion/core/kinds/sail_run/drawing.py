"""The sail on its trolley from the side and from above, wind from the left."""

from __future__ import annotations

from collections.abc import Mapping
from math import cos, pi, radians, sin

from thermion.core.kinds.building import Drawing, Handle, Shape, View
from thermion.core.kinds.shapes import (
    arc,
    box,
    disc,
    line,
    measure,
    note,
    oval,
    polygon,
    tone_at,
    turned,
    view,
)
from thermion.core.kinds.shapes import wind as arrows
from thermion.core.plans import Plan

DECK_MM = 26.0  # height of the deck above the track
CLOTH_MM = 5.0  # of the sail, as drawn


def draw_sail(plan: Plan, conditions: Mapping[str, float]) -> Drawing:
    """Trolley and sail to scale [mm]; origin on the track below the mast."""
    return Drawing("Sail from the side, and from above", (_side(plan, conditions), _above(plan)))


def _side(plan: Plan, rig: Mapping[str, float]) -> View:
    f = plan.factors
    low, height = f.get("low_m", 0.04) * 1000, f.get("height_m", 0.18) * 1000
    belly = f.get("belly", 0.1) * f.get("width_m", 0.18) * 1000
    lean = f.get("rake_deg", 0.0)
    tone, part = tone_at(plan, "sail")
    mast_tone, mast = tone_at(plan, "mast")
    stay_tone, stay = tone_at(plan, "stay")
    foot = (0.0, DECK_MM)
    top, edge = DECK_MM + low + height, DECK_MM + low
    bulge = [(4 + belly * sin(pi * i / 12), edge + height * i / 12) for i in range(13)]
    back = [(x - CLOTH_MM, y) for x, y in reversed(bulge)]
    sheet = turned([*bulge, *back], -lean, foot)
    tip = turned([(0, top)], -lean, foot)[0]
    hub = rig.get("hub_m", 0.15) * 1000
    shapes: list[Shape] = [
        box(-240, -10, 160, -3, "shell"),
        *(line("dim", (x, -10), (x, -3)) for x in range(-200, 161, 40)),
        line("level", (-196, hub), (150, hub)),
        note(100, hub + 6, "fan"),
        *_fan(hub),
        *arrows(-188, hub + 44, hub, hub - 44, length=58),
        polygon([(-80, 12), (80, 12), (88, DECK_MM), (-88, DECK_MM)], "shell"),
        *(disc(x, 8, 11, "wheel") for x in (-52, 52)),
        *(disc(x, 8, 3, "mug") for x in (-52, 52)),
        polygon(
            turned([(-4, DECK_MM), (4, DECK_MM), (4, top), (-4, top)], -lean, foot), mast_tone, "mast", mast
        ),
        polygon(sheet, tone, "sail", part),
        polygon([tip, (tip[0], tip[1] - 6), (-80, DECK_MM), (-86, DECK_MM)], stay_tone, "stay", stay),
    ]
    at = -112.0
    shapes += measure((at, edge), (at, top)) + measure((at, DECK_MM), (at, edge))
    shapes.append(line("hair", (at, edge), (0, edge)))
    if abs(lean) >= 3:
        shapes += [line("level", foot, (0, DECK_MM + min(top, 110))), arc("dim", foot, 80, 90, 90 - lean)]

    def on(x: float, y: float) -> tuple[float, float]:
        return turned([(x, y)], -lean, foot)[0]

    half = radians(90 - lean / 2)
    seen = {
        "sail": on(belly * 0.9, edge + height * 0.68),
        "mast": on(0, DECK_MM + max(low * 0.5, 8)),
        "stay": ((tip[0] - 83) / 2, (tip[1] + DECK_MM) / 2),
        "height_m": (at, edge + height * 0.7),
        "low_m": (at, (DECK_MM + edge) / 2),
        "rake_deg": (80 * cos(half), DECK_MM + 80 * sin(half)),
    }
    up = on(0, DECK_MM + 1)
    along = (up[0], up[1] - DECK_MM)
    handles = [
        Handle(factor="height_m", at=on(-6, top), step=(10 * along[0], 10 * along[1])),
        Handle(factor="low_m", at=on(-6, edge), step=(10 * along[0], 10 * along[1])),
        Handle(factor="rake_deg", at=on(0, top + 18), about=foot, turn=-1.0),
    ]
    return view("from the side", shapes, handles, seen)


def _fan(hub: float) -> list[Shape]:
    return [
        box(-232, -3, -204, 4, "axle"),
        box(-220, 4, -215, hub, "axle"),
        oval(-216, hub, 12, 62, "swept"),
        oval(-216, hub, 5, 52, "gap"),
        disc(-216, hub, 6, "axle"),
    ]


def _above(plan: Plan) -> View:
    f = plan.factors
    wide = f.get("width_m", 0.18) * 1000
    belly = f.get("belly", 0.1) * wide
    off = f.get("turned_deg", 0.0)
    tone, part = tone_at(plan, "sail")
    mast_tone, mast = tone_at(plan, "mast")
    bow = [(4 + belly * sin(pi * i / 12), wide * (i / 12 - 0.5)) for i in range(13)]
    cloth = turned([*bow, *((x - CLOTH_MM, y) for x, y in reversed(bow))], off)
    shapes: list[Shape] = [
        *(line("string", (-130, y), (150, y)) for y in (-26, 26)),
        polygon([(-86, -34), (74, -34), (90, 0), (74, 34), (-86, 34)], "shell"),
        *arrows(-128, 56, 0, -56, length=38),
        polygon(cloth, tone, "sail", part),
        disc(0, 0, 6, mast_tone, "mast", mast),
    ]
    ends = turned([(-22, -wide / 2), (-22, wide / 2)], off)
    shapes += measure(ends[0], ends[1])
    if abs(off) >= 3:
        shapes += [
            line("level", (0, -wide / 2 - 6), (0, wide / 2 + 6)),
            arc("dim", (0, 0), wide * 0.42, 90, 90 + off),
        ]
    half = radians(90 + off / 2)
    seen = {
        "width_m": ((ends[1][0] * 3 + ends[0][0]) / 4, (ends[1][1] * 3 + ends[0][1]) / 4),
        "belly": turned([(4 + belly, 0)], off)[0],
        "turned_deg": (wide * 0.42 * cos(half), wide * 0.42 * sin(half)),
    }
    out = turned([(1.0, 0.0)], off)[0]
    up = turned([(0.0, 1.0)], off)[0]
    each = wide / 100
    handles = [
        Handle(factor="belly", at=turned([(6 + belly, 0)], off)[0], step=(each * out[0], each * out[1])),
        Handle(factor="width_m", at=turned([(0, wide / 2)], off)[0], step=(5 * up[0], 5 * up[1])),
        Handle(factor="turned_deg", at=turned([(0, -wide / 2)], off)[0], about=(0.0, 0.0), turn=1.0),
    ]
    return view("from above", shapes, handles, seen)
