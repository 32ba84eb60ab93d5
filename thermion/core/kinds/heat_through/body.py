"""A sample between a heat pad and a probe: from material and form to the pace of the heat."""

from __future__ import annotations

from collections.abc import Mapping

from thermion.core.kinds.building import Building, Drawing, Factor, PartPlace
from thermion.core.kinds.heat_through.drawing import draw_stack
from thermion.core.physics.materials import FORMS, MATERIALS, blend_conductivity
from thermion.core.plans import Plan
from thermion.core.sim import layer_resistance

SAMPLE_M2 = 0.0025  # 5 cm by 5 cm, the cut of every piece
CONTACT_W_M2K = 60.0  # both faces together, pressed by hand-size weight; an estimate
PROBE_J_K = 2.5  # probe with its backing plate, an estimate
SOLID_J_KG_K = 1400.0  # most plastics, papers and woods, J. H. Lienhard, appendix A
METAL_J_KG_K = 600.0  # between copper and aluminium


def sample_layers(plan: Plan) -> list[tuple[float, float, float]]:
    """(thickness [m], conductivity [W/(m·K)], heat capacity [J/K]) of each part, as clamped.

    A unit is one piece of the sample's size; loose forms are pressed into the clamp's opening.
    """
    loose = [(p, p.units * MATERIALS[p.material].thickness_m * FORMS[p.form].bulk) for p in plan.at("sample")]
    room = plan.factors.get("clamp_m", 0.01)
    total = sum(t for _, t in loose)
    squeeze = min(1.0, room / total) if total else 1.0
    out = []
    for part, thick in loose:
        material = MATERIALS[part.material]
        share = min(1.0, 1 / FORMS[part.form].bulk / squeeze)
        mass = part.units * material.areal_mass_kg_m2 * SAMPLE_M2
        heat = METAL_J_KG_K if material.conductivity > 20 else SOLID_J_KG_K
        out.append((thick * squeeze, blend_conductivity(material.conductivity, share), mass * heat))
    return out


def race_constant(plan: Plan | None) -> float:
    """Time constant of the probe behind the sample [s]; of the bare control without a plan.

    τ = R·(C_probe + C_sample/3), a third of the sample warming with the probe.
    """
    layers = sample_layers(plan) if plan is not None else []
    r = layer_resistance([(d, k) for d, k, _ in layers], SAMPLE_M2, inside_w_m2k=CONTACT_W_M2K)
    return r * (PROBE_J_K + sum(c for _, _, c in layers) / 3)


def race_hints(plan: Plan) -> list[str]:
    """Questions that point to what a sample leaves open."""
    if not plan.at("sample"):
        return ["Which material, and in which form?"]
    hints = []
    if len(plan.at("sample")) > 1:
        hints.append("With two materials in it, which of them will you have tested?")
    loose = sum(p.units * MATERIALS[p.material].thickness_m * FORMS[p.form].bulk for p in plan.at("sample"))
    if loose > 2 * plan.factors.get("clamp_m", 0.01):
        hints.append("What happens to the air in it when the clamp closes?")
    if any(MATERIALS[p.material].reflectance > 0.8 for p in plan.at("sample")):
        hints.append("Shiny sends light back. Is there any light between pad and probe?")
    return hints


def draw_race(plan: Plan, _: Mapping[str, float]) -> Drawing:
    """Pad, sample and probe; the sample as thick as the clamp leaves it."""
    thick = [t for t, _, _ in sample_layers(plan)]
    return draw_stack(list(zip(plan.at("sample"), thick, strict=True)), plan.factors.get("clamp_m", 0.01))


def caption(plan: Plan) -> str:
    """What is raced: the materials of the sample."""
    return " + ".join(dict.fromkeys(MATERIALS[p.material].name for p in plan.at("sample")))


BUILD = Building(
    places=(PartPlace("sample", "Sample", "stands between pad and probe"),),
    factors=(
        Factor(key="clamp_m", label="Clamp opening", unit="millimeter", default=10, low=1, high=30, step=1),
    ),
    materials=(
        ("foil", 4),
        ("copy_paper", 4),
        ("newspaper", 4),
        ("cardboard", 2),
        ("bubble_wrap", 2),
        ("felt", 2),
        ("fleece", 2),
        ("cork", 2),
        ("foam", 1),
        ("cotton_wool", 1),
        ("wool", 1),
        ("copper_sheet", 2),
        ("steel_sheet", 2),
        ("acetate", 2),
        ("balsa", 2),
        ("clay_tile", 1),
        ("rubber", 1),
    ),
    caption=caption,
    hints=race_hints,
    draw=draw_race,
)
