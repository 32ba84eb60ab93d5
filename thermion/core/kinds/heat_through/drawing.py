"""Heat pad, sample and probe, cut open; thickness enlarged."""

from __future__ import annotations

from collections.abc import Sequence

from thermion.core.kinds.building import Drawing, Handle, Shape
from thermion.core.kinds.shapes import box, disc, line, measure, note, view
from thermion.core.physics.materials import MATERIALS
from thermion.core.plans import Part

WIDE_MM = 70.0  # half of the sample's width, as drawn
ENLARGED = 5000.0  # mm drawn for one metre of thickness


def draw_stack(layers: Sequence[tuple[Part, float]], clamp_m: float) -> Drawing:
    """The stack [mm] for each part and its thickness as clamped [m]."""
    wide, clamp = WIDE_MM, clamp_m * ENLARGED
    shapes: list[Shape] = [
        box(-wide - 34, -44, wide + 34, -34, "shell"),
        box(-wide - 20, -34, wide + 20, 0, "pad"),
        line("cord", (wide + 20, -20), (wide + 52, -20), (wide + 60, -44), (wide + 84, -44)),
        *(line("glow", (x, -26), (x + 5, -20), (x, -14), (x + 5, -8)) for x in range(-60, 61, 24)),
        note(-wide - 14, -14, "warm"),
    ]
    at = 0.0
    for part, thick in layers:
        mm = min(max(thick * ENLARGED, 6.0), 80.0)
        shapes.append(
            box(-wide, at, wide, at + mm, tone=MATERIALS[part.material].swatch, place="sample", part=part)
        )
        at += mm
    if at == 0:
        at = 24.0
        shapes.append(box(-wide, 0, wide, at, "slot", "sample"))
    middle = at / 2
    above = max(at + 16, clamp) + 14
    shapes += [
        box(-wide * 0.9, at, wide * 0.9, at + 8, "axle"),
        box(-8, at + 8, 8, at + 16, "axle"),
        line("cord", (0, at + 16), (0, above), (-46, above + 12)),
        box(-96, above, -46, above + 30, "mug"),
        note(-88, above + 9, "20.0"),
        *(box(x - 4, -34, x + 4, max(clamp, at) + 10, "gap") for x in (wide + 12,)),
        disc(wide + 12, max(clamp, at) + 12, 7, "axle"),
        line("level", (-wide - 20, clamp), (wide + 24, clamp)),
        *measure((wide + 26, 0), (wide + 26, clamp)),
    ]
    seen = {"sample": (-wide * 0.7, middle), "clamp_m": (wide + 26, clamp / 2)}
    handle = Handle(factor="clamp_m", at=(wide + 12, clamp), step=(0.0, ENLARGED / 1000))
    shown = view("cut open, thickness enlarged", shapes, [handle], seen)
    return Drawing("Heat pad, sample and probe, cut open", (shown,), to_scale=False)
