"""The solar oven cut open from the side, and from above."""

from __future__ import annotations

from collections.abc import Mapping
from math import cos, radians, sin, sqrt

from thermion.core.kinds.building import Drawing, Handle, Point, Shape, View
from thermion.core.kinds.shapes import arc, box, disc, layers, line, measure, polygon, tone_at, view
from thermion.core.physics.materials import MATERIALS
from thermion.core.plans import Plan

SHELL_MM = 5.0  # corrugated cardboard of the box, as drawn
LID_MM = 14.0  # of the frame that holds the window


class _Box:
    """Lengths of an oven [mm]; origin at the inner floor's left corner."""

    def __init__(self, plan: Plan, rig: Mapping[str, float]) -> None:
        f = plan.factors
        self.plan, self.rig = plan, rig
        self.area = rig.get("aperture_m2", 0.09)
        self.side = sqrt(self.area) * 1000
        self.high = f.get("height_m", 0.12) * 1000
        self.gap = f.get("gap_m", 0.04) * 1000
        self.edge = self.gap + 2 * SHELL_MM
        self.mirror = f.get("reflector_m", 0.3) * 1000
        self.lean = 180.0 - f.get("reflector_deg", 110.0)  # of the reflector above level, outwards

    @property
    def hinge(self) -> Point:
        return self.side + self.edge, self.high + LID_MM

    def on_mirror(self, share: float, off: float = 0.0) -> Point:
        """A point of the reflector, from hinge to tip, `off` its face towards the box."""
        c, s = cos(radians(self.lean)), sin(radians(self.lean))
        x, y = self.hinge
        return x + self.mirror * share * c - off * s, y + self.mirror * share * s + off * c


def draw_oven(plan: Plan, conditions: Mapping[str, float]) -> Drawing:
    """The oven to scale [mm]; each place is drawn even when empty, so that it can be pointed at."""
    oven = _Box(plan, conditions)
    return Drawing("Oven cut open, and from above", (_cut(oven), _above(oven)))


def _cut(o: _Box) -> View:
    shapes = [
        box(-o.edge, -o.edge, o.side + o.edge, -o.edge + SHELL_MM, "shell"),
        box(-o.edge, -o.edge, -o.edge + SHELL_MM, o.high, "shell"),
        box(o.side + o.edge - SHELL_MM, -o.edge, o.side + o.edge, o.high, "shell"),
        box(-SHELL_MM - o.gap, -SHELL_MM - o.gap, o.side + SHELL_MM + o.gap, -SHELL_MM, "gap", "floor"),
        box(-SHELL_MM - o.gap, -SHELL_MM, -SHELL_MM, o.high, "gap", "wall"),
        box(o.side + SHELL_MM, -SHELL_MM, o.side + SHELL_MM + o.gap, o.high, "gap", "wall"),
        box(0, 0, o.side, o.high, "air", "absorber"),
        *_packed(o),
        box(-SHELL_MM, -SHELL_MM, o.side + SHELL_MM, 0, "shell"),
        box(-SHELL_MM, 0, 0, o.high, "shell"),
        box(o.side, 0, o.side + SHELL_MM, o.high, "shell"),
        *_lining(o),
        *_mug(o),
        *_window(o),
        *_reflector(o),
        *[_joint(o, x) for x in (-o.edge - 8, o.side + o.edge - 10)],
        *_light(o),
    ]
    across = o.side * 0.13
    shapes += measure((across, 4), (across, o.high - 2))
    right = o.side + SHELL_MM
    shapes += measure((right, o.high * 0.25), (right + o.gap, o.high * 0.25))
    arm = min(o.mirror * 0.35, 60.0)
    shapes.append(arc("dim", o.hinge, arm, o.lean, 180))
    half = radians((o.lean + 180) / 2)
    seen = {
        "window": (-o.edge * 0.4, o.high + 5),
        "wall": (-SHELL_MM - o.gap / 2, o.high * 0.65),
        "floor": (o.side * 0.3, -SHELL_MM - o.gap / 2),
        "height_m": (across, o.high * 0.5),
        "gap_m": (right + o.gap / 2, o.high * 0.25),
        "reflector_m": o.on_mirror(0.85),
        "reflector": o.on_mirror(0.55),
        "reflector_deg": (o.hinge[0] + arm * cos(half), o.hinge[1] + arm * sin(half)),
    }
    along = radians(o.lean)
    handles = [
        Handle(factor="height_m", at=(-o.edge, o.high), step=(0.0, 10.0)),
        Handle(factor="gap_m", at=(o.side + o.edge, o.high * 0.6), step=(10.0, 0.0)),
        Handle(factor="reflector_m", at=o.on_mirror(0.7), step=(7 * cos(along), 7 * sin(along))),
        Handle(factor="reflector_deg", at=o.on_mirror(1.0), about=o.hinge, turn=-1.0),
    ]
    return view("cut open, from the side", shapes, handles, seen)


def _packed(o: _Box) -> list[Shape]:
    """What fills walls and floor, from the inside outwards."""
    shapes, at = [], 0.0
    for part, tone, mm in layers(o.plan, "wall", 4 * o.side * o.high * 1e-6, o.gap / 1000):
        left, right = -SHELL_MM - at, o.side + SHELL_MM + at
        shapes.append(box(left - mm, -SHELL_MM, left, o.high, tone=tone, place="wall", part=part))
        shapes.append(box(right, -SHELL_MM, right + mm, o.high, tone=tone, place="wall", part=part))
        at += mm
    at = 0.0
    ends = SHELL_MM + o.gap
    for part, tone, mm in layers(o.plan, "floor", o.area, o.gap / 1000):
        low = -SHELL_MM - at
        shapes.append(box(-ends, low - mm, o.side + ends, low, tone=tone, place="floor", part=part))
        at += mm
    return shapes


def _lining(o: _Box) -> list[Shape]:
    """The dark lining on the floor; what does not fit there climbs the sides."""
    shapes, at = [], 0.0
    for part in o.plan.at("absorber"):
        material = MATERIALS[part.material]
        cover = part.units * material.area_m2 / o.area
        half = o.side * min(1.0, cover) / 2
        middle, tone = o.side / 2, material.swatch
        shapes.append(box(middle - half, at, middle + half, at + 5, tone=tone, place="absorber", part=part))
        if cover > 1.2:
            climb = min(o.high - 6, (cover - 1) * o.side / 4)
            shapes.append(box(0, at, 5, at + climb, tone=tone, place="absorber", part=part))
            shapes.append(box(o.side - 5, at, o.side, at + climb, tone=tone, place="absorber", part=part))
        at += 5
    return shapes


def _mug(o: _Box) -> list[Shape]:
    """A mug of 7 cm inside, with as much water as the brief says."""
    load = o.rig.get("load_kg", 0.15)
    if load <= 0:
        return []
    level = min(load / 1000 / 0.0038 * 1000, o.high - 30)
    x, rim = o.side * 0.46, min(level + 16, o.high - 12)
    handle = line("cup", (x + 38, rim - 2), (x + 60, rim - 6), (x + 60, 20), (x + 38, 16))
    return [handle, box(x - 38, 8, x + 38, 8 + rim, "mug"), box(x - 35, 11, x + 35, 11 + level, "water")]


def _window(o: _Box) -> list[Shape]:
    ends = (-o.edge, o.side + o.edge)
    shapes = [box(ends[0], o.high, ends[1], o.high + LID_MM, "slot", "window")]
    at = o.high + 1
    for part in o.plan.at("window"):
        material = MATERIALS[part.material]
        cover = part.units * material.area_m2 / o.area
        for _ in range(max(1, min(3, int(cover + 1e-6)))):
            end = ends[0] + (ends[1] - ends[0]) * min(1.0, cover)
            if at + 4 <= o.high + LID_MM:
                shapes.append(
                    box(ends[0], at, end, at + 3.2, tone=material.swatch, place="window", part=part)
                )
            at += 5
    return shapes


def _reflector(o: _Box) -> list[Shape]:
    parts = o.plan.at("reflector")
    back = [o.hinge, o.on_mirror(1), o.on_mirror(1, -6), o.on_mirror(0, -6)]
    shapes = [polygon(back, "shell" if parts else "slot", "reflector")]
    for part in parts:
        face = [o.hinge, o.on_mirror(1), o.on_mirror(1, 5), o.on_mirror(0, 5)]
        shapes.append(polygon(face, MATERIALS[part.material].swatch, "reflector", part))
    return shapes


def _joint(o: _Box, x: float) -> Shape:
    tone, part = tone_at(o.plan, "seal")
    return box(x, o.high - 8, x + 18, o.high + 10, tone=tone, place="seal", part=part)


def _light(o: _Box) -> list[Shape]:
    """A lamp above the window, or the sun where it stands, with rays to the window."""
    if "lamp_m" in o.rig:
        x, y = o.side * 0.4, o.high + LID_MM + min(o.rig["lamp_m"] * 1000, 400)
        shade = [(x - 55, y), (x + 55, y), (x + 24, y + 42), (x - 24, y + 42)]
        rays = [line("ray", (x + d, y - 22), (x + d * 1.8, y - 90)) for d in (-40, 0, 40)]
        bulb = disc(x, y - 2, 16, "sun")
        return [*rays, bulb, polygon(shade, "lamp"), line("cup", (x, y + 42), (x, y + 66))]
    lean = radians(o.rig.get("sun_deg", 50.0))
    c, s = cos(lean), sin(lean)
    ends = [(o.side * share, o.high + 24) for share in (0.12, 0.38, 0.64)]
    rays = [line("ray", (x - c * 105, y + s * 105), (x, y)) for x, y in ends]
    x, y = ends[1][0] - c * 146, ends[1][1] + s * 146
    beams = [
        line("beam", *((x + r * cos(radians(t)), y + r * sin(radians(t))) for r in (28, 38)))
        for t in range(0, 360, 45)
    ]
    return [*rays, *beams, disc(x, y, 21, "sun")]


def _above(o: _Box) -> View:
    e, side = o.edge, o.side
    wall, packed = tone_at(o.plan, "wall", "gap")
    lining, dark = tone_at(o.plan, "absorber", "air")
    clear, film = tone_at(o.plan, "window", "")
    tape, strip = tone_at(o.plan, "seal")
    foil, sheet = tone_at(o.plan, "reflector", "outline")
    out = o.mirror * cos(radians(o.lean))
    far = side + e + (out if abs(out) > 8 else 8)
    shapes = [
        box(-e, -e, side + e, side + e, "shell"),
        box(
            SHELL_MM - e,
            SHELL_MM - e,
            side + e - SHELL_MM,
            side + e - SHELL_MM,
            tone=wall,
            place="wall",
            part=packed,
        ),
        box(-SHELL_MM, -SHELL_MM, side + SHELL_MM, side + SHELL_MM, "shell"),
        box(0, 0, side, side, tone=lining, place="absorber", part=dark),
    ]
    if o.rig.get("load_kg", 0.15) > 0:
        middle = side / 2
        shapes += [disc(middle, middle, 38, "mug"), disc(middle, middle, 34, "water")]
        shapes.append(line("cup", (middle + 38, middle + 5), (middle + 58, middle + 5)))
    if clear:
        shapes.append(
            box(
                -e * 0.5,
                -e * 0.5,
                side + e * 0.5,
                side + e * 0.5,
                tone=clear + "-over",
                place="window",
                part=film,
            )
        )
    t = 9.0
    edge = (-e * 0.5, side + e * 0.5)
    for x0, y0, x1, y1 in (
        (edge[0] - t, edge[0] - t, edge[1] + t, edge[0] + t),
        (edge[0] - t, edge[1] - t, edge[1] + t, edge[1] + t),
        (edge[0] - t, edge[0] + t, edge[0] + t, edge[1] - t),
        (edge[1] - t, edge[0] + t, edge[1] + t, edge[1] - t),
    ):
        shapes.append(box(x0, y0, x1, y1, tone=tape, place="seal", part=strip))
    shapes.append(
        box(min(side + e, far), 0, max(side + e, far), side, tone=foil, place="reflector", part=sheet)
    )
    seen = {"seal": (edge[1], side * 0.85), "absorber": (side * 0.8, side * 0.2)}
    return view("from above", shapes, (), seen)
