"""The collector on its tray: from parts and factors to where the water goes, and to a drawing."""

from __future__ import annotations

from collections.abc import Mapping
from math import exp

from thermion.core.kinds.building import Building, Drawing, Factor, Handle, Place, Shape
from thermion.core.kinds.shapes import box, framed, line, polygon, tone_at
from thermion.core.physics.materials import FORMS, MATERIALS
from thermion.core.plans import Plan
from thermion.core.sim import CollectorModel

SPLASH = 0.35  # share of drops that jump out of a flat, rimless mouth; an estimate
RIM_M = 0.03  # rim height that keeps two thirds of these in; an estimate
SOAKING = 4.0  # mL a unit drinks, from which a material lets water through
LEAK_PER_S = 0.0012  # share lost each second through a soaked store or open joints; an estimate
DRY_LEAK_PER_S = 2e-5


def tray_share(plan: Plan, tray_m2: float) -> tuple[float, float]:
    """Area of the mouth and of the apron beside it [m²], as far as the tray is wide enough."""
    mouth = plan.factors.get("mouth_m", 0.12)
    apron = plan.factors.get("apron_m", 0.0) if plan.at("apron") else 0.0
    mouth = min(mouth**2, tray_m2)
    whole = min((mouth**0.5 + 2 * apron) ** 2, tray_m2)
    return mouth, whole - mouth


def _drinks(plan: Plan, *places: str) -> float:
    """Water that the materials at these places soak up [m³]."""
    return sum(MATERIALS[p.material].drinks_ml * p.units * 1e-6 for place in places for p in plan.at(place))


def covers(plan: Plan, place: str, area_m2: float) -> float:
    """Share of an area for which there is material at a place (0 to 1)."""
    have = sum(MATERIALS[p.material].area_m2 * p.units / FORMS[p.form].bulk for p in plan.at(place))
    return min(1.0, have / area_m2)


def watertight(plan: Plan) -> bool:
    """True when the store, or its lining, does not let water through."""
    walls = plan.at("lining") or plan.at("store")
    return bool(walls) and all(MATERIALS[p.material].drinks_ml < SOAKING for p in walls)


def collector_model(plan: Plan, conditions: Mapping[str, float]) -> CollectorModel | None:
    """Physics of a plan; None while there is nothing that stores water."""
    if not plan.at("store"):
        return None
    f = plan.factors
    mouth, apron = tray_share(plan, conditions.get("tray_m2", 0.12))
    funnel = covers(plan, "funnel", mouth)
    store = f.get("store_m", 0.08)
    opening = min(store**2, mouth)
    gathers = opening + funnel * (mouth - opening)
    slope = min(f.get("slope_deg", 30.0) / 45.0, 1.0)
    splash = SPLASH * exp(-f.get("rim_m", 0.02) / RIM_M) * (1 - 0.4 * slope)
    lined = bool(plan.at("lining"))
    drinks = _drinks(plan, "funnel", "apron") + (0.0 if lined else _drinks(plan, "store"))
    tight = min(1.0, sum(MATERIALS[p.material].tight * p.units for p in plan.at("seal")) * 2)
    leak = DRY_LEAK_PER_S if watertight(plan) else LEAK_PER_S
    leak += 0.25 * LEAK_PER_S * (1 - tight) * (not lined)
    return CollectorModel(
        mouth_m2=max(gathers, 1e-6),
        apron_m2=apron,
        apron_share=0.45 + 0.4 * slope,
        splash=splash,
        drinks_m3=drinks,
        store_m3=store**2 * f.get("deep_m", 0.06),
        leak_per_s=leak,
    )


def rain_hints(plan: Plan) -> list[str]:
    """Questions that point to what a plan leaves open."""
    hints = []
    if not plan.at("store"):
        hints.append("Where does the water stay once it is in?")
    elif not watertight(plan):
        hints.append("What does that material do when it is wet for ten minutes?")
    if not plan.at("funnel") and plan.factors.get("mouth_m", 0.12) > plan.factors.get("store_m", 0.08):
        hints.append("What leads the drops from the mouth into the store?")
    if plan.factors.get("rim_m", 0.02) < 0.01:
        hints.append("What do drops do when they hit something flat?")
    if not plan.at("apron"):
        hints.append("Can water that falls beside it be led in?")
    if not plan.at("seal"):
        hints.append("Where are the joints, and what closes them?")
    return hints


def draw_rain(plan: Plan, conditions: Mapping[str, float]) -> Drawing:
    """The collector on its tray in section, to scale [mm], rain from above."""
    f = plan.factors
    tray = conditions.get("tray_m2", 0.12) ** 0.5 * 1000
    mouth, store = f.get("mouth_m", 0.12) * 1000, f.get("store_m", 0.08) * 1000
    deep, rim = f.get("deep_m", 0.06) * 1000, f.get("rim_m", 0.02) * 1000
    slope = f.get("slope_deg", 30.0) / 90.0
    rise = max((mouth - store) / 2, 0) * slope + 4
    top = deep + rise
    apron = f.get("apron_m", 0.0) * 1000
    looks = {p: tone_at(plan, p) for p in ("store", "lining", "funnel", "apron", "seal")}
    shapes: list[Shape] = [
        box(-tray / 2 - 6, -8, tray / 2 + 6, -3, "shell"),
        box(-tray / 2 - 6, -3, -tray / 2, 22, "shell"),
        box(tray / 2, -3, tray / 2 + 6, 22, "shell"),
    ]
    half, out = store / 2, mouth / 2
    shapes += [
        box(-half - 4, 0, -half, deep, looks["store"][0], "store", looks["store"][1]),
        box(half, 0, half + 4, deep, looks["store"][0], "store", looks["store"][1]),
        box(-half - 4, -3, half + 4, 0, looks["store"][0], "store", looks["store"][1]),
        box(-half, 0, -half + 3, deep * 0.95, looks["lining"][0], "lining", looks["lining"][1]),
        box(half - 3, 0, half, deep * 0.95, looks["lining"][0], "lining", looks["lining"][1]),
        box(-half + 3, 2, half - 3, deep * 0.35, "water"),
    ]
    for side in (-1, 1):
        foot, edge = side * (half + 2), side * max(out, half + 4)
        tone, part = looks["funnel"]
        shapes.append(
            polygon(
                [
                    (foot, deep),
                    (edge, top),
                    (edge, top + rim),
                    (edge - side * 4, top + rim),
                    (edge - side * 4, top + 4),
                    (foot - side * 3, deep + 4),
                ],
                tone,
                "funnel",
                part,
            )
        )
        tone, part = looks["apron"]
        reach = max(apron, 12)
        far = edge + side * reach
        shapes.append(
            polygon(
                [
                    (edge, top),
                    (far, top + reach * slope + 4),
                    (far, top + reach * slope + 8),
                    (edge, top + 4),
                ],
                tone,
                "apron",
                part,
            )
        )
        tone, part = looks["seal"]
        shapes.append(
            box(
                min(foot, foot + side * 8), deep - 6, max(foot, foot + side * 8), deep + 6, tone, "seal", part
            )
        )
    cloud = top + rim + 70
    shapes += [
        line("rain", (x, cloud), (x, cloud - 30))
        for x in (-tray * 0.4, -tray * 0.2, 0.0, tray * 0.2, tray * 0.4)
    ]
    edge, reach = max(out, half + 4), max(apron, 12)
    handles = [
        Handle("mouth_m", (edge, top), (5.0, 5.0 * slope)),
        Handle("apron_m", (edge + reach, top + reach * slope + 6), (10.0, 10.0 * slope)),
        Handle("rim_m", (-edge, top + rim), (0.0, 10.0)),
        Handle("store_m", (half + 4, deep * 0.4), (5.0, 0.0)),
        Handle("deep_m", (-half - 2, deep), (0.0, 10.0)),
    ]
    return framed("Collector on its tray in section, to scale", shapes, handles)


BUILD = Building(
    places=(
        Place("funnel", "Funnel", "leads drops into the store", ("wax_paper", "plastic_bag", "foil", "card")),
        Place("apron", "Apron", "gathers from beside the mouth", ("cling_film", "foil", "plastic_bag")),
        Place("store", "Store", "keeps the water", ("bottle_plastic", "plastic_bag", "card")),
        Place("lining", "Lining", "keeps the store from soaking", ("cling_film", "plastic_bag")),
        Place("seal", "Seal", "closes the joints", ("clear_tape", "clay")),
    ),
    factors=(
        Factor("mouth_m", "Mouth, across", "centimeter", 12, 4, 30, 1),
        Factor("apron_m", "Apron, width", "centimeter", 6, 0, 20, 1),
        Factor("slope_deg", "Slope", "degree", 30, 0, 60, 5),
        Factor("rim_m", "Rim", "centimeter", 2, 0, 8, 0.5),
        Factor("store_m", "Store, across", "centimeter", 8, 3, 20, 1),
        Factor("deep_m", "Store, depth", "centimeter", 6, 2, 20, 1),
    ),
    materials=(
        ("bottle_plastic", 2),
        ("plastic_bag", 2),
        ("cling_film", 2),
        ("foil", 2),
        ("card", 2),
        ("wax_paper", 2),
        ("cotton", 1),
        ("leaves", 4),
        ("moss", 4),
        ("craft_stick", 6),
        ("clay", 2),
        ("clear_tape", 4),
    ),
    hints=rain_hints,
    draw=draw_rain,
)
