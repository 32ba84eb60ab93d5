"""Layers of material around something: how thick they get, and how well they hold heat back."""

from __future__ import annotations

from thermion.core.physics.materials import AIR_W_MK, FORMS, MATERIALS, blend_conductivity, layer_thickness
from thermion.core.plans import Part, Plan


def fill(plan: Plan, place: str, area_m2: float, room_m: float) -> tuple[list[tuple[Part, float]], float]:
    """Each part's thickness [m] at a place after packing into `room_m` [m], and the packing (≤ 1).

    `area_m2` [m²] is what the parts are spread over.
    """
    loose = [(p, layer_thickness(MATERIALS[p.material], p.form, p.units, area_m2)) for p in plan.at(place)]
    total = sum(t for _, t in loose)
    squeeze = min(1.0, room_m / total) if total else 1.0
    return [(p, t * squeeze) for p, t in loose], squeeze


def packed_resistance(plan: Plan, place: str, area_m2: float, room_m: float, still_air_m2k_w: float) -> float:
    """Resistance of what fills a room beside a surface [m²·K/W].

    Loose forms hold air (`blend_conductivity`); pressing presses the air out. What room is left
    counts as air, up to the `still_air_m2k_w` [m²·K/W] of a closed gap.
    """
    layers, squeeze = fill(plan, place, area_m2, room_m)
    r = 0.0
    for part, thickness in layers:
        share = min(1.0, 1.0 / FORMS[part.form].bulk / squeeze)
        r += thickness / blend_conductivity(MATERIALS[part.material].conductivity, share)
    rest = room_m - sum(t for _, t in layers)
    return r + min(still_air_m2k_w, max(rest, 0.0) / AIR_W_MK)
