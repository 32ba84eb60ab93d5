"""Both melting devices and the bare control, cut open; and what a sample looks like at a stage."""

from __future__ import annotations

from math import cos, pi, radians, sin

from thermion.core.kinds.building import Drawing, Handle, Shape, View
from thermion.core.kinds.shapes import box, layers, line, measure, note, polygon, tone_at, view
from thermion.core.plans import Plan


def draw_melt(plan: Plan, edge_m: float, open_sides: float = 0, shared_walls: float = 0) -> Drawing:
    """The devices side by side with the control between them, to scale [mm]."""
    edge = edge_m * 1000
    control = view("control", [_table(-28, 28), *_sample(0, 0, edge), *_rays(edge + 16, (-10, 10))])
    title = "Fast device, control and slow device, cut open"
    return Drawing(title, (_fast(plan, edge), control, _slow(plan, edge, open_sides, shared_walls)))


def draw_stage(stage: int) -> View:
    """A cube of the sample as it looks at a stage, 0 firm to 4 liquid, in a window of 40 by 30."""
    tone = "sample" if stage == 0 else "melting"
    if stage <= 1:
        shapes = [
            polygon([(7, 3), (27, 3), (27, 21), (7, 21)], tone),
            polygon([(7, 21), (13, 27), (33, 27), (27, 21)], tone),
            polygon([(27, 3), (33, 9), (33, 27), (27, 21)], tone),
        ]
        if stage == 1:
            shapes += [line("gloss", (10, 12), (16, 18)), line("gloss", (11, 6), (22, 17))]
    elif stage == 2:
        shapes = [polygon(_rounded(5, 3, 35, 25, 8), tone)]
    elif stage == 3:
        dome = [(20 - 18 * cos(pi * i / 24), 3 + 13 * sin(pi * i / 24)) for i in range(25)]
        shapes = [polygon(dome, tone)]
    else:
        pool = [(20 - 19 * cos(pi * i / 12), 6 + 4 * sin(pi * i / 12)) for i in range(24)]
        shapes = [polygon(pool, tone), line("gloss", (10, 7), (19, 8))]
    return View(name=f"Stage {stage}", window=(0.0, 0.0, 40.0, 30.0), shapes=tuple(shapes))


def _rounded(x0: float, y0: float, x1: float, y1: float, r: float) -> list[tuple[float, float]]:
    """A rectangle with rounded corners."""
    centres = ((x1 - r, y1 - r, 0), (x0 + r, y1 - r, 90), (x0 + r, y0 + r, 180), (x1 - r, y0 + r, 270))
    return [
        (x + r * cos(radians(a + s)), y + r * sin(radians(a + s)))
        for x, y, a in centres
        for s in range(0, 91, 15)
    ]


def _table(left: float, right: float) -> Shape:
    return box(left, -18, right, -10, "shell")


def _sample(x: float, y: float, edge: float) -> list[Shape]:
    """The cube, with a shine on its top so that it is seen as one."""
    half, back = edge / 2, edge * 0.22
    top = [(x - half, y + edge), (x - half + back, y + edge + back), (x + half + back, y + edge + back)]
    return [
        box(x - half, y, x + half, y + edge, "sample"),
        polygon([*top, (x + half, y + edge)], "sample"),
        polygon([(x + half, y), (x + half + back, y + back), top[2], (x + half, y + edge)], "sample"),
    ]


def _rays(high: float, across: tuple[float, ...]) -> list[Shape]:
    return [line("ray", (x - 22, high + 52), (x, high)) for x in across]


def _fast(plan: Plan, edge: float) -> View:
    wide = plan.factors.get("fast_m", 0.1) * 1000
    tone, part = tone_at(plan, "fast_base")
    cover, film = tone_at(plan, "fast_cover")
    mirror, sheet = tone_at(plan, "fast_mirror")
    half, high = wide / 2, edge + 26
    out = half + wide * 0.18
    shapes: list[Shape] = [
        _table(-out, out),
        box(-half, -10, half, -5, "shell"),
        box(-half, -5, half, 0, tone=tone, place="fast_base", part=part),
        *_sample(0, 0, edge),
        box(-half * 0.92, high, half * 0.92, high + 5, tone=cover, place="fast_cover", part=film),
    ]
    for s in (-1, 1):
        flap = [(s * half, -5), (s * (half + 5), -5), (s * (out + 5), high), (s * out, high)]
        shapes.append(polygon(flap, mirror, "fast_mirror", sheet))
    shapes += _rays(high + 12, (-half * 0.5, 0.0, half * 0.5))
    shapes += measure((-half, -26), (half, -26))
    seen = {
        "fast_base": (-half * 0.6, -2.5),
        "fast_cover": (half * 0.5, high + 2.5),
        "fast_mirror": (-(half + out) / 2 - 2, high / 2),
        "fast_m": (half * 0.6, -26.0),
    }
    return view("fast: melts first", shapes, [Handle(factor="fast_m", at=(half, -26), step=(5.0, 0.0))], seen)


def _slow(plan: Plan, edge: float, open_sides: float, shared_walls: float) -> View:
    side = plan.factors.get("slow_m", 0.1) * 1000
    half = side / 2
    room = max((side - edge) / 2, 2.0)
    shapes: list[Shape] = [
        _table(-half - 16, half + 16),
        box(-half, -10, half, side - 10, "slot", "slow_wrap"),
    ]
    low, at = half - 10, half
    for part, tone, mm in layers(plan, "slow_wrap", 6 * (side / 1000) ** 2, room / 1000):
        for a, b in ((-at, -at + mm), (at - mm, at)):
            shapes.append(box(a, low - at, b, low + at, tone=tone, place="slow_wrap", part=part))
            shapes.append(box(-at, low + a, at, low + b, tone=tone, place="slow_wrap", part=part))
        at -= mm
    if open_sides:
        shapes += [box(half - 9, -8, half + 2, side - 12, "air"), note(half - 42, low + 2, "open")]
    if shared_walls:
        shapes += [box(-half - 7, -10, -half, side - 10, "shell"), note(-half + 8, 0, "shared wall")]
    shade, sheet = tone_at(plan, "slow_shade")
    over = side + 4
    shapes.append(box(-half - 10, over, half + 10, over + 6, tone=shade, place="slow_shade", part=sheet))
    shapes += [line("dim", (x, side - 10), (x, over)) for x in (-half, half)]
    shapes += _sample(0, low - edge / 2, edge)
    shapes += _rays(over + 14, (-half * 0.4, half * 0.4))
    shapes += measure((-half, -26), (half, -26))
    seen = {
        "slow_wrap": (half - 3, low + half * 0.4),
        "slow_shade": (half * 0.7, over + 3),
        "slow_m": (half * 0.6, -26.0),
    }
    return view("slow: stays solid", shapes, [Handle(factor="slow_m", at=(half, -26), step=(5.0, 0.0))], seen)
