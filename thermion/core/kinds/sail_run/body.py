"""The sail on its trolley: from cloth and mast to physics, to a drawing from the side."""

from __future__ import annotations

from collections.abc import Mapping
from math import cos, radians

from thermion.core.kinds.building import Building, Factor, PartPlace
from thermion.core.kinds.sail_run.drawing import draw_sail
from thermion.core.physics.materials import FORMS, MATERIALS
from thermion.core.plans import Plan
from thermion.core.sim import SailModel

BARE_PA = 1.5  # wind pressure at which an unsupported sheet has half given way; an estimate
MAST_PA = 9.0  # what one stiff stick of the sail's height adds; an estimate
STAY_PA = 3.0  # what one strip of stay or tape adds; an estimate
STICK_NM = 0.067  # bending stiffness E·I of a craft stick, the unit in which masts count


def sail_area(plan: Plan) -> float:
    """Area spread to the wind [m²]: width times height, as far as there is material for it."""
    f = plan.factors
    full = f.get("width_m", 0.18) * f.get("height_m", 0.18)
    have = sum(MATERIALS[p.material].area_m2 * p.units / FORMS[p.form].bulk for p in plan.at("sail"))
    return min(full, have)


def holds(plan: Plan) -> float:
    """Wind pressure at which half of the sail has given way [Pa]: cloth, mast and stays."""
    height = plan.factors.get("height_m", 0.18)
    cloth = sum(
        MATERIALS[p.material].rigidity_nm() * FORMS[p.form].bulk ** 2 * p.units for p in plan.at("sail")
    )
    masts = 0.0
    for part in plan.at("mast"):
        material = MATERIALS[part.material]
        width = material.area_m2 / 0.18
        masts += part.units * min(material.rigidity_nm() * width / STICK_NM, 3.0)
    stays = sum(p.units for p in plan.at("stay"))
    reach = (0.18 / height) ** 2  # a taller sail has more leverage
    return (BARE_PA + 400.0 * min(cloth, 0.05) + MAST_PA * masts) * reach + STAY_PA * min(stays, 6)


def rolling_mass(plan: Plan, conditions: Mapping[str, float]) -> float:
    """Trolley and all that stands on it [kg]."""
    built = sum(MATERIALS[p.material].unit_mass_kg * p.units for p in plan.parts)
    return conditions.get("trolley_kg", 0.15) + built


def sail_model(plan: Plan, conditions: Mapping[str, float]) -> SailModel | None:
    """Physics of a plan on the class's trolley; None while there is no sail."""
    area = sail_area(plan)
    if area <= 0:
        return None
    f = plan.factors
    low = f.get("low_m", 0.04)
    return SailModel(
        area_m2=area,
        belly=f.get("belly", 0.1),
        rake_deg=f.get("rake_deg", 0.0),
        low_m=low,
        high_m=low + f.get("height_m", 0.18) * max(cos(radians(f.get("rake_deg", 0.0))), 0.05),
        stiffness_pa=holds(plan),
        mass_kg=rolling_mass(plan, conditions),
        turned_deg=f.get("turned_deg", 0.0),
    )


def sail_hints(plan: Plan) -> list[str]:
    """Questions that point to what a plan leaves open."""
    f, hints = plan.factors, []
    if not plan.at("sail"):
        hints.append("What does the wind push against?")
    if not plan.at("mast"):
        hints.append("What keeps the sail up when the wind leans on it?")
    elif holds(plan) < 8:
        hints.append("Which part will give first, and which way will it go?")
    if f.get("belly", 0.1) < 0.05:
        hints.append("What does the air do when it meets something flat, and something hollow?")
    if abs(f.get("turned_deg", 0.0)) > 20:
        hints.append("How much of the sail does the fan see?")
    if f.get("low_m", 0.04) > 0.15:
        hints.append("How high does the fan's wind blow, and where is the sail?")
    return hints


BUILD = Building(
    places=(
        PartPlace(
            "sail",
            "Sail",
            "takes the push of the wind",
            ("copy_paper", "card", "plastic_bag", "cotton", "nylon", "foam_plate"),
        ),
        PartPlace("mast", "Mast", "keeps the sail up", ("craft_stick", "balsa")),
        PartPlace("stay", "Stays", "keep the mast from leaning", ("tape",)),
    ),
    factors=(
        Factor(key="width_m", label="Sail width", unit="centimeter", default=18, low=4, high=40, step=1),
        Factor(key="height_m", label="Sail height", unit="centimeter", default=18, low=4, high=40, step=1),
        Factor(key="belly", label="Belly, of the width", unit="percent", default=10, low=0, high=60, step=5),
        Factor(
            key="rake_deg",
            label="Rake, leaning away from the wind",
            unit="degree",
            default=0,
            low=-30,
            high=60,
            step=5,
        ),
        Factor(
            key="low_m",
            label="Lower edge above the deck",
            unit="centimeter",
            default=4,
            low=0,
            high=30,
            step=1,
        ),
        Factor(
            key="turned_deg", label="Turned off the wind", unit="degree", default=0, low=-80, high=80, step=5
        ),
    ),
    materials=(
        ("copy_paper", 3),
        ("card", 2),
        ("plastic_bag", 1),
        ("cotton", 1),
        ("nylon", 1),
        ("foil", 1),
        ("foam_plate", 1),
        ("craft_stick", 6),
        ("balsa", 2),
        ("tape", 4),
    ),
    hints=sail_hints,
    draw=draw_sail,
)
