"""The collector on its tray: from parts and factors to where the water goes, and to a drawing."""

from __future__ import annotations

from collections.abc import Mapping
from math import exp

from thermion.core.kinds.building import Building, Factor, PartPlace
from thermion.core.kinds.rain_catch.drawing import draw_rain
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


BUILD = Building(
    places=(
        PartPlace(
            "funnel", "Funnel", "leads drops into the store", ("wax_paper", "plastic_bag", "foil", "card")
        ),
        PartPlace("apron", "Collar", "gathers from beside the mouth", ("cling_film", "foil", "plastic_bag")),
        PartPlace("store", "Store", "keeps the water", ("bottle_plastic", "plastic_bag", "card")),
        PartPlace("lining", "Lining", "keeps the store from soaking", ("cling_film", "plastic_bag")),
        PartPlace("seal", "Seal", "closes the joints", ("clear_tape", "clay")),
    ),
    factors=(
        Factor(key="mouth_m", label="Mouth, across", unit="centimeter", default=12, low=4, high=30, step=1),
        Factor(key="apron_m", label="Collar, width", unit="centimeter", default=6, low=0, high=20, step=1),
        Factor(key="slope_deg", label="Slope", unit="degree", default=30, low=0, high=60, step=5),
        Factor(key="rim_m", label="Rim", unit="centimeter", default=2, low=0, high=8, step=0.5),
        Factor(key="store_m", label="Store, across", unit="centimeter", default=8, low=3, high=20, step=1),
        Factor(key="deep_m", label="Store, depth", unit="centimeter", default=6, low=2, high=20, step=1),
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
