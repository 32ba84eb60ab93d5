"""The rotor from the front, the crane it drives, and one blade from its tip."""

from __future__ import annotations

from collections.abc import Mapping
from math import cos, radians, sin

from thermion.core.kinds.building import Drawing, Handle, Point, Shape, View
from thermion.core.kinds.shapes import arc, box, disc, line, note, polygon, tone_at, turned, view
from thermion.core.kinds.shapes import wind as arrows
from thermion.core.plans import Plan

HUB_MM = 20.0
SECTION_MM = 46.0  # half of a blade's width in the enlarged section


def draw_rotor(plan: Plan, conditions: Mapping[str, float]) -> Drawing:
    """The rotor to scale [mm]; origin of the front at the axis. The section is enlarged."""
    views = (_front(plan), _crane(plan, conditions), _section(plan))
    return Drawing("Rotor from the front, its crane, and a blade from its tip", views)


def _folded(blades: int, opposed: int) -> list[bool]:
    """Which blades are folded the other way: every second first."""
    order = [*range(1, blades, 2), *range(0, blades, 2)]
    return [i in order[:opposed] for i in range(blades)]


def _front(plan: Plan) -> View:
    f = plan.factors
    blades = max(round(f.get("blades", 4)), 1)
    radius = HUB_MM + f.get("length_m", 0.12) * 1000
    chord = f.get("chord_m", 0.04) * 1000
    tip = chord * f.get("tip_share", 1.0)
    tone, part = tone_at(plan, "blade")
    stick_tone, stick = tone_at(plan, "spar", "")
    hub, round_hub = tone_at(plan, "hub", "shell")
    fix, fixing = tone_at(plan, "fix")
    folded = _folded(blades, min(round(f.get("opposed", 0)), blades))
    shapes: list[Shape] = [disc(0, 0, radius, "swept")]
    for i, other in enumerate(folded):
        side = -1.0 if other else 1.0
        bend = min(6.0, tip / 3)
        outline = [
            (0, HUB_MM * 0.6),
            (side * chord, HUB_MM * 0.9),
            (side * tip, radius - bend),
            (side * (tip - bend), radius),
            (0, radius),
        ]
        angle = 360.0 * i / blades
        shapes.append(polygon(turned(outline, angle), tone, "blade", part))
        if stick_tone:
            strip = [(-4, HUB_MM * 0.6), (4, HUB_MM * 0.6), (4, radius * 0.92), (-4, radius * 0.92)]
            shapes.append(polygon(turned(strip, angle), stick_tone, "spar", stick))
    shapes.append(disc(0, 0, HUB_MM, hub, "hub", round_hub))
    shapes.append(disc(0, 0, HUB_MM * 0.5, fix, "fix", fixing))
    shapes.append(disc(0, 0, 3, "axle"))
    shapes.append(arc("turns", (0, 0), radius + 14, 62, 28))
    tip_at = [cos(radians(28)) * (radius + 14), sin(radians(28)) * (radius + 14)]
    shapes.append(
        line(
            "turns", (tip_at[0] - 2, tip_at[1] + 13), (tip_at[0], tip_at[1]), (tip_at[0] - 12, tip_at[1] + 4)
        )
    )
    quarter = 360.0 / blades * max(1, blades // 4)

    def on(index: float, along: float, across: float) -> Point:
        return turned([(across, HUB_MM + (radius - HUB_MM) * along)], 360.0 * index / blades)[0]

    left = next((i for i in range(blades) if 60 < 360.0 * i / blades < 200), blades // 2)
    side = -1.0 if folded[left] else 1.0
    head = -1.0 if folded[0] else 1.0
    seen = {
        "blade": on(left, 0.55, side * (chord + tip) / 4),
        "hub": (-HUB_MM * 0.7, -HUB_MM * 0.35),
        "fix": (HUB_MM * 0.3, -HUB_MM * 0.25),
        "spar": on(left, 0.8, 0.0),
        "length_m": (0.0, HUB_MM + (radius - HUB_MM) * 0.75),
        "chord_m": (head * chord, HUB_MM * 0.9),
        "tip_share": (head * tip * 0.6, radius),
        "blades": turned([(0.0, radius * 0.5)], -quarter / 2)[0],
        "opposed": on(1 % blades, 0.5, (-1.0 if folded[1 % blades] else 1.0) * chord * 0.5),
    }
    handles = [
        Handle(factor="length_m", at=(head * tip / 2, radius), step=(0.0, 10.0)),
        Handle(factor="chord_m", at=(head * chord, HUB_MM * 0.9), step=(head * 10.0, 0.0)),
        Handle(factor="tip_share", at=(head * tip, radius * 0.93), step=(head * chord / 100, 0.0)),
    ]
    return view("from the front", shapes, handles, seen)


def _crane(plan: Plan, rig: Mapping[str, float]) -> View:
    """Stand, shaft, spool, string and cup, with the rotor edge on and the wind from the left."""
    f = plan.factors
    radius = HUB_MM + f.get("length_m", 0.12) * 1000
    deep = max(f.get("chord_m", 0.04) * 1000 * sin(radians(f.get("pitch_deg", 30.0))), 5.0)
    tone, part = tone_at(plan, "blade")
    hub, round_hub = tone_at(plan, "hub", "shell")
    spool = max(rig.get("spool_m", 0.01) * 1000, 8)
    low = -max(radius * 1.15, 120.0)
    post, winch = 62.0, 96.0
    drop = low * 0.62
    cup = [(winch - 18, drop), (winch + 18, drop), (winch + 13, drop - 36), (winch - 13, drop - 36)]
    shapes: list[Shape] = [
        box(post - 30, low - 8, winch + 40, low, "shell"),
        box(post - 6, low, post + 6, 6, "shell"),
        box(-10, -3, winch + 18, 3, "axle"),
        box(winch - 12, -spool, winch + 12, spool, "gap"),
        line("string", (winch, -spool), (winch, drop + 16), (winch - 18, drop)),
        line("string", (winch, drop + 16), (winch + 18, drop)),
        polygon(cup, "mug"),
        *(box(winch - 9, drop - 34 + 7 * i, winch + 9, drop - 29 + 7 * i, "axle") for i in range(3)),
    ]
    for up in (1, -1):
        ends = [(-deep / 2, up * HUB_MM * 0.5), (deep / 2, up * HUB_MM * 0.5)]
        blade = [*ends, (deep * 0.4, up * radius), (-deep * 0.4, up * radius)]
        shapes.append(polygon(blade, tone if tone != "slot" else "slot", "blade", part))
    shapes.append(box(-12, -HUB_MM, 12, HUB_MM, tone=hub, place="hub", part=round_hub))
    shapes += arrows(-100, radius * 0.55, 0.0, -radius * 0.55, length=56)
    return view("the crane, from the side", shapes)


def _section(plan: Plan) -> View:
    """One blade from its tip, enlarged: how far it is turned out of the rotor's plane."""
    pitch = plan.factors.get("pitch_deg", 30.0)
    tone, part = tone_at(plan, "blade")
    half = SECTION_MM
    strip = [(-4.0, -half), (4.0, -half), (4.0, half), (-4.0, half)]
    shapes: list[Shape] = [
        line("level", (0, -half - 18), (0, half + 18)),
        polygon(turned(strip, -pitch), tone if tone != "slot" else "plain", "blade", part),
        *arrows(-92, half * 0.6, 0.0, -half * 0.6, length=52),
        note(-92, half + 6, "wind"),
    ]
    if pitch >= 3:
        shapes.append(arc("dim", (0, 0), half * 0.8, 90, 90 - pitch))
    across = radians(90 - pitch / 2)
    seen = {"pitch_deg": (half * 0.8 * cos(across), half * 0.8 * sin(across))}
    end = turned([(0.0, half)], -pitch)[0]
    handles = [Handle(factor="pitch_deg", at=end, about=(0.0, 0.0), turn=-1.0)]
    return view("one blade from its tip", shapes, handles, seen)
