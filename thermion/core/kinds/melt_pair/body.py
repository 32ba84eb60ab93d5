"""Two devices from one stock: one to melt a sample fast, one to keep it solid."""

from __future__ import annotations

from collections.abc import Mapping
from math import cos, pi, radians, sin

from thermion.core.kinds.building import Building, Drawing, Factor, Handle, Place, Shape
from thermion.core.kinds.layers import fill, packed_resistance
from thermion.core.kinds.shapes import box, framed, line, note, polygon, tone_at
from thermion.core.physics.materials import MATERIALS
from thermion.core.plans import Plan
from thermion.core.sim import MeltModel

FAT_KG_M3 = 920.0  # coconut oil, solid
AIR_FILM_W_M2K = 10.0  # a small thing in still air, radiation included
GAP_M2K_W = 0.12
CUBE_ABSORBS = 0.35  # share of light a pale fat takes up, an estimate
DISH_W_K = 0.02  # what the plain dish adds from the bench, an estimate


def cube_edge(conditions: Mapping[str, float]) -> float:
    """Edge of a cubic sample [m]."""
    return float((conditions.get("sample_kg", 0.005) / FAT_KG_M3) ** (1 / 3))


def _cover(plan: Plan, place: str, area_m2: float) -> tuple[float, float]:
    """Share of light that passes the covers of a place, and how much of it is closed (0 to 1)."""
    passes, closed = 1.0, 0.0
    for part in plan.at(place):
        material = MATERIALS[part.material]
        share = min(part.units * material.area_m2 / area_m2, 1.0)
        passes *= 1 - share * (1 - material.transmittance)
        closed = max(closed, share)
    return passes, closed


def melt_model(plan: Plan | None, device: str, conditions: Mapping[str, float]) -> MeltModel:
    """Physics of the `fast` or the `slow` device; without a plan that of the bare control."""
    air, light = conditions.get("air_c", 28.0), conditions.get("irradiance_w_m2", 600.0)
    mass, edge = conditions.get("sample_kg", 0.005), cube_edge(conditions)
    faces = 5 * edge**2
    ua, gain = AIR_FILM_W_M2K * faces + DISH_W_K, CUBE_ABSORBS * edge**2
    if plan is not None and device == "fast":
        side = plan.factors.get("fast_m", 0.1)
        tray = side**2
        passes, closed = _cover(plan, "fast_cover", tray)
        dark = CUBE_ABSORBS
        for part in plan.at("fast_base"):
            share = min(part.units * MATERIALS[part.material].area_m2 / tray, 1.0)
            dark = share * MATERIALS[part.material].absorptance + (1 - share) * dark
        based = bool(plan.at("fast_base"))
        bright = sum(
            p.units * MATERIALS[p.material].area_m2 * MATERIALS[p.material].reflectance
            for p in plan.at("fast_mirror")
        )
        # what a dark tray gathers reaches the sample only in part: 30 % of the tray beyond it
        gathers = edge**2 * CUBE_ABSORBS + 0.3 * based * (tray - edge**2) * dark
        gain = passes * (gathers + 0.25 * min(bright, tray) * dark)
        ua = (AIR_FILM_W_M2K * (faces + 0.3 * based * tray)) * (1 - 0.45 * closed)
    elif plan is not None:
        side = plan.factors.get("slow_m", 0.1)
        outside = 6 * side**2
        room = max((side - edge) / 2, 0.002)
        wrap = packed_resistance(plan, "slow_wrap", outside, room, GAP_M2K_W)
        passes, closed = _cover(plan, "slow_wrap", outside)
        shade, covered = _cover(plan, "slow_shade", side**2)
        closed = max(closed, 0.3 * covered)
        held = faces / (1 / AIR_FILM_W_M2K + wrap)
        ua = closed * held + (1 - closed) * ua
        gain *= passes * shade
    return MeltModel(
        mass,
        max(ua, 1e-4),
        air,
        gain * light,
        conditions.get("solidus_c", 22.0),
        conditions.get("liquidus_c", 26.0),
    )


def melt_hints(plan: Plan) -> list[str]:
    """Questions that point to what the two devices leave open."""
    hints = []
    if not plan.at("fast_base"):
        hints.append("What would gather more heat than the sample alone?")
    if not plan.at("fast_cover"):
        hints.append("Once it is warm under the fast sample, what carries the warmth away?")
    if not plan.at("slow_wrap"):
        hints.append("What stands between the slow sample and the warm air?")
    if any(MATERIALS[p.material].absorptance > 0.8 for p in plan.at("slow_shade")):
        hints.append("What does a dark cover do in the light?")
    if not plan.at("slow_shade"):
        hints.append("Where does the light land on the slow device?")
    return hints


def draw_melt(plan: Plan, conditions: Mapping[str, float]) -> Drawing:
    """Both devices in section side by side, with the bare control between, to scale [mm]."""
    edge = cube_edge(conditions) * 1000
    wide, side = (plan.factors.get(k, 0.1) * 1000 for k in ("fast_m", "slow_m"))
    handles = [
        Handle("fast_m", (wide / 2, -3), (5.0, 0.0)),
        Handle("slow_m", (210 + 1.5 * side, side / 2 - 6), (15.0, 5.0)),
    ]
    return framed(
        "Fast device, control and slow device in section, to scale",
        [
            *_fast(plan, edge),
            *_sample(150, 0, edge),
            box(120, -5, 180, 0, "mug"),
            note(122, -26, "control"),
            *_slow(plan, edge),
        ],
        handles,
    )


def draw_stage(stage: int) -> Drawing:
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
    return Drawing(f"Stage {stage}", (0.0, 0.0, 40.0, 30.0), tuple(shapes))


def _rounded(x0: float, y0: float, x1: float, y1: float, r: float) -> list[tuple[float, float]]:
    """A rectangle with rounded corners."""
    centres = ((x1 - r, y1 - r, 0), (x0 + r, y1 - r, 90), (x0 + r, y0 + r, 180), (x1 - r, y0 + r, 270))
    return [
        (x + r * cos(radians(a + s)), y + r * sin(radians(a + s)))
        for x, y, a in centres
        for s in range(0, 91, 15)
    ]


def _sample(x: float, y: float, edge: float) -> list[Shape]:
    return [box(x - edge / 2, y, x + edge / 2, y + edge, "sample")]


def _fast(plan: Plan, edge: float) -> list[Shape]:
    wide = plan.factors.get("fast_m", 0.1) * 1000
    tone, part = tone_at(plan, "fast_base")
    cover, cover_part = tone_at(plan, "fast_cover")
    mirror, mirror_part = tone_at(plan, "fast_mirror")
    left, right, high = -wide / 2, wide / 2, edge + 26
    return [
        box(left, -6, right, 0, tone, "fast_base", part),
        box(left, high, right, high + 5, cover, "fast_cover", cover_part),
        polygon(
            [(left - 6, 0), (left - 1, 0), (left - wide * 0.3, high), (left - wide * 0.36, high)],
            mirror,
            "fast_mirror",
            mirror_part,
        ),
        polygon(
            [(right + 6, 0), (right + 1, 0), (right + wide * 0.3, high), (right + wide * 0.36, high)],
            mirror,
            "fast_mirror",
            mirror_part,
        ),
        *_sample(0, 0, edge),
        *[line("ray", (x - 20, high + 60), (x, high + 14)) for x in (-30.0, 0.0, 30.0)],
        note(left, -28, "fast"),
    ]


def _slow(plan: Plan, edge: float) -> list[Shape]:
    side = plan.factors.get("slow_m", 0.1) * 1000
    x, half = 210 + side, side / 2
    room = (side - edge) / 2
    shapes = [box(x - half, -6, x + half, side - 6, "slot", "slow_wrap")]
    at = half
    for part, thickness in fill(plan, "slow_wrap", 6 * (side / 1000) ** 2, room / 1000)[0]:
        mm, tone = max(thickness * 1000, 1.0), MATERIALS[part.material].swatch
        for a, b in ((x - at, x - at + mm), (x + at - mm, x + at)):
            shapes.append(box(a, -6, b, side - 6, tone, "slow_wrap", part))
        for a, b in ((-6 + half - at, -6 + half - at + mm), (-6 + half + at - mm, -6 + half + at)):
            shapes.append(box(x - at, a, x + at, b, tone, "slow_wrap", part))
        at -= mm
    tone, part_of = tone_at(plan, "slow_shade")
    shapes.append(box(x - half - 8, side + 10, x + half + 8, side + 15, tone, "slow_shade", part_of))
    shapes += _sample(x, half - 6 - edge / 2, edge)
    shapes.append(note(x - half, -28, "slow"))
    return shapes


BUILD = Building(
    places=(
        Place("fast_base", "Fast: under the sample", "gathers heat", ("black_paper", "foil", "copy_paper")),
        Place(
            "fast_cover", "Fast: cover", "lets light in, keeps warm air in", ("cling_film", "acetate", "foil")
        ),
        Place("fast_mirror", "Fast: sides", "throw light on the sample", ("foil", "copy_paper")),
        Place(
            "slow_wrap",
            "Slow: wrap",
            "slows heat from the air",
            ("felt", "newspaper", "cotton_wool", "black_paper"),
        ),
        Place("slow_shade", "Slow: shade", "keeps the light off", ("foil", "copy_paper", "cardboard")),
    ),
    factors=(
        Factor("fast_m", "Fast tray, across", "centimeter", 10, 4, 25, 1),
        Factor("slow_m", "Slow box, across", "centimeter", 10, 4, 25, 1),
    ),
    materials=(
        ("black_paper", 2),
        ("copy_paper", 2),
        ("foil", 3),
        ("cling_film", 2),
        ("acetate", 1),
        ("newspaper", 4),
        ("felt", 2),
        ("cotton_wool", 3),
        ("sand", 3),
        ("straw", 4),
        ("cardboard", 2),
        ("tape", 4),
    ),
    hints=melt_hints,
    draw=draw_melt,
)
