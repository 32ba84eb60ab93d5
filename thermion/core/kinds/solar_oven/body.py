"""The solar oven's body: from parts and factors to physics, to a drawing, to questions."""

from __future__ import annotations

from collections.abc import Mapping
from math import sqrt

from thermion.core.kinds.building import Aim, Building, Factor, PartPlace, SetAngle
from thermion.core.kinds.layers import packed_resistance
from thermion.core.kinds.solar_oven.drawing import draw_oven
from thermion.core.physics.materials import MATERIALS, like_of
from thermion.core.physics.oven import WATER_J_KG_K, best_reflector, reflector_gain, window_tilt
from thermion.core.plans import Part, Plan
from thermion.core.sim import OvenModel

SHELL = MATERIALS["cardboard"]
INSIDE_W_M2K, OUTSIDE_W_M2K = 8.0, 15.0  # film coefficients, Duffie & Beckman ch. 3
GAP_M2K_W = 0.17  # resistance of a closed air gap above 15 mm, EN ISO 6946:2017 table 8
OPEN_LEAK_W_K = 0.9  # unsealed joints of a box this size; range of classroom boxes 0.3 to 1
FLATNESS = 0.6  # share of light that hand-smoothed foil throws where it should; an estimate
BOX_J_K = 90.0  # inner lining and air that warm with the load


def _area(plan: Plan, aperture_m2: float, place: str) -> float:
    side = sqrt(aperture_m2)
    if place == "wall":
        return 4 * side * plan.factors.get("height_m", 0.12)
    if place == "reflector":
        return side * plan.factors.get("reflector_m", 0.3)
    return aperture_m2


def _wall_resistance(plan: Plan, place: str, aperture_m2: float) -> float:
    gap = plan.factors.get("gap_m", 0.04)
    r = 1 / INSIDE_W_M2K + 1 / OUTSIDE_W_M2K + 2 * SHELL.thickness_m / SHELL.conductivity
    return r + packed_resistance(plan, place, _area(plan, aperture_m2, place), gap, GAP_M2K_W)


def _coverage(plan: Plan, place: str, aperture_m2: float) -> list[tuple[Part, float]]:
    area = _area(plan, aperture_m2, place)
    return [(p, p.units * MATERIALS[p.material].area_m2 / area) for p in plan.at(place)]


def oven_model(plan: Plan, conditions: Mapping[str, float]) -> OvenModel:
    """Physics of a plan under the rig's conditions (SI): see `thermion.core.sim.OvenModel`."""
    aperture = conditions.get("aperture_m2", 0.09)
    side = sqrt(aperture)
    through, window_r, covered = 1.0, 1 / INSIDE_W_M2K + 1 / OUTSIDE_W_M2K, 0.0
    for part, cover in _coverage(plan, "window", aperture):
        material, layers = MATERIALS[part.material], min(cover, 4.0)
        through *= material.transmittance**layers
        window_r += layers * (material.thickness_m / material.conductivity + GAP_M2K_W * 0.6)
        covered += cover
    closed = min(1.0, covered)
    u_window = closed / window_r + (1 - closed) * 25.0
    absorptance = 0.5
    for part, cover in _coverage(plan, "absorber", aperture):
        share = min(1.0, cover)
        absorptance = share * MATERIALS[part.material].absorptance + (1 - share) * absorptance
    mirror = min(
        1.0,
        sum(
            min(1.0, c) * MATERIALS[p.material].reflectance for p, c in _coverage(plan, "reflector", aperture)
        ),
    )
    gain = reflector_gain(
        side,
        plan.factors.get("reflector_m", 0.3),
        plan.factors.get("reflector_deg", 110.0),
        conditions.get("sun_deg", 75.0),
        mirror * FLATNESS,
    )
    joints = 4 * side / 0.5
    tight = sum(p.units * MATERIALS[p.material].tight for p in plan.at("seal")) / joints
    leak = OPEN_LEAK_W_K * (1 - min(0.92, 2 * tight)) * closed
    ua = (
        aperture * u_window
        + _area(plan, aperture, "wall") / _wall_resistance(plan, "wall", aperture)
        + aperture / _wall_resistance(plan, "floor", aperture)
        + leak
    )
    heat = conditions.get("load_kg", 0.15) * WATER_J_KG_K + BOX_J_K
    return OvenModel(aperture, through * absorptance * gain, ua, heat)


PAPER_J_KG_K = 1400.0  # specific heat of paper, card and wood, EN ISO 10456:2007 table 3 (1300 to 1600)


def box_heat(plan: Plan, conditions: Mapping[str, float]) -> tuple[float, float]:
    """Heat capacity of the box that cools with the load [J/K], and half of the range it may have.

    The dark lining and the air inside cool with it; of the inner shell anything between nothing and
    all of it: the middle, and how far it reaches either way.
    """
    aperture = conditions.get("aperture_m2", 0.09)
    lining = PAPER_J_KG_K * sum(p.units * MATERIALS[p.material].unit_mass_kg for p in plan.at("absorber"))
    inside = aperture * plan.factors.get("height_m", 0.12) * 1.2 * 1006.0
    walls = aperture + _area(plan, aperture, "wall")
    shell = walls * SHELL.thickness_m * SHELL.density * PAPER_J_KG_K
    return lining + inside + shell / 2, shell / 2


def oven_hints(plan: Plan) -> list[str]:
    """Questions that point to what a plan leaves open, without the answer."""
    hints = []
    if not plan.at("window"):
        hints.append("What stops the warm air from rising out of the top?")
    if all(MATERIALS[p.material].absorptance < 0.8 for p in plan.at("absorber")):
        hints.append("Where in the box does light turn into heat?")
    if not plan.at("wall") and not plan.at("floor"):
        hints.append("Which way will the heat leave, and what is in its way?")
    if not plan.at("seal"):
        hints.append("Where could air slip out, and how would you find out?")
    if any(like_of(p.material) == "foil" and p.place in ("wall", "floor") for p in plan.parts):
        hints.append("Foil sends light back. Does it also slow heat that goes through a wall?")
    return hints


def aim_oven(rig: Mapping[str, float], elevation_deg: float) -> Aim:
    """Tilt of a window and angle of the usual reflector for a sun of this elevation [degrees]."""
    usual = BUILD.usual()
    best = best_reflector(rig["aperture_m2"] ** 0.5, usual.factors["reflector_m"], elevation_deg)
    mirror = SetAngle("Reflector", None, best.reason or "")
    if best.angle_deg is not None:
        mirror = SetAngle("Open the reflector", best.angle_deg, f"{best.gain:.1f}× the light")
        usual = Plan((), {**usual.factors, "reflector_deg": best.angle_deg})
    outdoors = {k: v for k, v in rig.items() if k != "lamp_m"} | {"sun_deg": elevation_deg}
    tilt = SetAngle("Tilt a window by", window_tilt(elevation_deg), "from level")
    return Aim((tilt, mirror), draw_oven(usual, outdoors))


BUILD = Building(
    places=(
        PartPlace(
            "window", "Window", "lets light in, keeps air in", ("cling_film", "acetate", "bubble_wrap")
        ),
        PartPlace("absorber", "Dark lining", "turns light into heat", ("black_paper", "foil", "newspaper")),
        PartPlace("wall", "Walls", "keep heat in", ("newspaper", "straw", "felt", "bubble_wrap")),
        PartPlace("floor", "Floor", "keeps heat in", ("newspaper", "straw", "felt", "cardboard")),
        PartPlace("reflector", "Reflector", "throws more light in", ("foil", "black_paper")),
        PartPlace("seal", "Seal", "closes the joints", ("tape",)),
    ),
    factors=(
        Factor(key="height_m", label="Inner height", unit="centimeter", default=12, low=6, high=30, step=1),
        Factor(key="gap_m", label="Gap in the walls", unit="centimeter", default=4, low=1, high=8, step=0.5),
        Factor(
            key="reflector_m",
            label="Reflector length",
            unit="centimeter",
            default=30,
            low=10,
            high=45,
            step=1,
        ),
        Factor(
            key="reflector_deg", label="Reflector angle", unit="degree", default=110, low=60, high=170, step=5
        ),
    ),
    materials=(
        ("newspaper", 8),
        ("cardboard", 4),
        ("foil", 3),
        ("cling_film", 2),
        ("bubble_wrap", 2),
        ("black_paper", 4),
        ("felt", 3),
        ("straw", 10),
        ("tape", 6),
    ),
    hints=oven_hints,
    draw=draw_oven,
    aim=aim_oven,
)
