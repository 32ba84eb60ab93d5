"""The rotor: from blades and factors to physics, to a drawing from the front, to questions."""

from __future__ import annotations

from collections.abc import Mapping

from thermion.core.kinds.building import Building, Factor, PartPlace
from thermion.core.kinds.wind_hoist.drawing import draw_rotor
from thermion.core.physics.materials import FORMS, MATERIALS
from thermion.core.plans import Plan
from thermion.core.sim import RotorModel

HUB_M = 0.02  # radius of the hub the blades start from
STICK_M = 0.18  # length of a stiffening stick, which sets its width
BARE_GRIP_N_M = 0.0012  # torque a hub that is only pushed on passes before it slips; an estimate
GRIP_N_M = 0.02  # what each unit of tightness adds; an estimate


def blade_area(plan: Plan) -> float:
    """Area of one blade [m²] by its factors."""
    f = plan.factors
    return f.get("length_m", 0.12) * f.get("chord_m", 0.04) * (1 + f.get("tip_share", 1.0)) / 2


def rotor_radius(plan: Plan) -> float:
    """From the axis to the tips [m]."""
    return HUB_M + plan.factors.get("length_m", 0.12)


def covered(plan: Plan) -> float:
    """Share of the blades for which there is material (0 to 1)."""
    need = blade_area(plan) * plan.factors.get("blades", 4)
    have = sum(MATERIALS[p.material].area_m2 * p.units / _bulk(p.form) for p in plan.at("blade"))
    return min(1.0, have / need)


def _bulk(form: str) -> float:
    return FORMS[form].bulk


def tip_stiffness(plan: Plan) -> float:
    """Force per bend at the tip of one blade [N/m]: 3·E·I/L³ of a strip clamped at the hub.

    Sheets laid on each other unglued add up. Folds and rolls stand off the neutral plane, so they
    count with the square of their bulk.
    """
    blades, length = plan.factors.get("blades", 4), plan.factors.get("length_m", 0.12)
    bending = 0.0
    for part in plan.at("blade"):
        material = MATERIALS[part.material]
        layers = max(part.units * material.area_m2 / (blades * blade_area(plan)), 1.0)
        each = material.rigidity_nm() * min(layers, 4.0) * _bulk(part.form) ** 2
        bending += each * plan.factors.get("chord_m", 0.04)
    for part in plan.at("spar"):
        material = MATERIALS[part.material]
        width = material.area_m2 / STICK_M * min(part.units / blades, 2.0)
        bending += material.rigidity_nm() * width
    return 3 * bending / length**3


def grip(plan: Plan) -> float:
    """Torque at which the hub slips on its shaft [N·m]."""
    tight = sum(p.units * MATERIALS[p.material].tight for p in plan.at("fix"))
    return BARE_GRIP_N_M + GRIP_N_M * min(tight, 2.0)


def rotor_model(plan: Plan, conditions: Mapping[str, float]) -> RotorModel | None:
    """Physics of a plan under the rig's conditions; None while it has no blade."""
    share = covered(plan)
    if share <= 0:
        return None
    blades = round(plan.factors.get("blades", 4))
    mass = sum(
        MATERIALS[p.material].unit_mass_kg * p.units for place in ("blade", "spar") for p in plan.at(place)
    )
    spool = conditions.get("spool_m", 0.01) + conditions.get("string_m", 0.001)
    return RotorModel(
        blades=blades,
        opposed=min(round(plan.factors.get("opposed", 0)), blades),
        radius_m=rotor_radius(plan),
        chord_m=max(blade_area(plan) * share / plan.factors.get("length_m", 0.12), 1e-4),
        pitch_deg=plan.factors.get("pitch_deg", 30.0),
        stiffness_n_m=max(tip_stiffness(plan), 1e-4),
        spool_m=spool,
        inertia_kg_m2=2e-5 + mass * rotor_radius(plan) ** 2 / 3,
    )


def rotor_hints(plan: Plan) -> list[str]:
    """Questions that point to what a plan leaves open."""
    f, hints = plan.factors, []
    if not plan.at("blade"):
        hints.append("What does the wind push against?")
    elif tip_stiffness(plan) < 1.0:
        hints.append("What will the tips do when the fan blows hard?")
    if not plan.at("fix"):
        hints.append("What stops the hub from turning on the shaft instead of with it?")
    if f.get("opposed", 0) > 0:
        hints.append("Which way does each blade want to turn the shaft?")
    if f.get("pitch_deg", 30) < 5 or f.get("pitch_deg", 30) > 70:
        hints.append("Where does the wind go when it meets a blade at that angle?")
    if covered(plan) < 0.99 and plan.at("blade"):
        hints.append("Is there enough material for that many blades of that size?")
    return hints


BUILD = Building(
    places=(
        PartPlace(
            "blade",
            "Blades",
            "catch the wind and turn",
            ("card", "copy_paper", "bottle_plastic", "balsa", "foam_plate"),
        ),
        PartPlace("spar", "Stiffening", "keeps blades from bending", ("craft_stick", "balsa")),
        PartPlace("hub", "Hub", "holds the blades at their angle", ("cork", "clay", "cardboard")),
        PartPlace("fix", "Fixing", "makes the shaft turn with the hub", ("tape", "clay")),
    ),
    factors=(
        Factor(key="blades", label="Blades", unit="dimensionless", default=4, low=2, high=12, step=1),
        Factor(key="length_m", label="Blade length", unit="centimeter", default=12, low=4, high=25, step=1),
        Factor(key="chord_m", label="Blade width", unit="centimeter", default=4, low=1, high=12, step=0.5),
        Factor(
            key="tip_share",
            label="Tip width, of the root's",
            unit="percent",
            default=100,
            low=20,
            high=160,
            step=10,
        ),
        Factor(key="pitch_deg", label="Pitch", unit="degree", default=30, low=0, high=80, step=5),
        Factor(
            key="opposed",
            label="Blades folded the other way",
            unit="dimensionless",
            default=0,
            low=0,
            high=6,
            step=1,
        ),
    ),
    materials=(
        ("card", 3),
        ("copy_paper", 4),
        ("foam_plate", 2),
        ("bottle_plastic", 3),
        ("balsa", 4),
        ("craft_stick", 8),
        ("cork", 1),
        ("clay", 1),
        ("cardboard", 1),
        ("tape", 4),
    ),
    hints=rotor_hints,
    draw=draw_rotor,
)
