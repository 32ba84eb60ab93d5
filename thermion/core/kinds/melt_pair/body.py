"""Two devices from one stock: one to melt a sample fast, one to keep it solid."""

from __future__ import annotations

from collections.abc import Mapping

from thermion.core.kinds.building import Building, Drawing, Factor, PartPlace
from thermion.core.kinds.layers import packed_resistance
from thermion.core.kinds.melt_pair.drawing import draw_melt
from thermion.core.physics.materials import MATERIALS
from thermion.core.plans import Plan
from thermion.core.sim import MeltModel

FAT_KG_M3 = 920.0  # coconut oil, solid
AIR_FILM_W_M2K = 10.0  # a small thing in still air, radiation included
GAP_M2K_W = 0.12
CUBE_ABSORBS = 0.35  # share of light a pale fat takes up, an estimate
WARMER_K = 6.0  # the fast device's air above the room's, where the two share a wall; an estimate
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
        closed = min(closed, 1 - conditions.get("open_sides", 0.0) / 6)
        shade, covered = _cover(plan, "slow_shade", side**2)
        closed = max(closed, 0.3 * covered)
        held = faces / (1 / AIR_FILM_W_M2K + wrap)
        ua = closed * held + (1 - closed) * ua
        gain *= passes * shade
        air += conditions.get("shared_walls", 0.0) / 6 * WARMER_K  # a share of what is around it is warmer
    return MeltModel(
        mass_kg=mass,
        ua_w_k=max(ua, 1e-4),
        air_c=air,
        light_w=gain * light,
        solidus_c=conditions.get("solidus_c", 22.0),
        liquidus_c=conditions.get("liquidus_c", 26.0),
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


def draw(plan: Plan, conditions: Mapping[str, float]) -> Drawing:
    """Both devices and the control, with the class's sample."""
    openings = conditions.get("open_sides", 0.0), conditions.get("shared_walls", 0.0)
    return draw_melt(plan, cube_edge(conditions), *openings)


def stocks(choices: Mapping[str, str]) -> dict[str, str]:
    """A stock for each device, where the brief has it so."""
    if choices.get("pair") != "own":
        return {}
    named = {"fast": "the fast one", "slow": "the slow one"}
    return {place.key: named[place.key[:4]] for place in BUILD.places}


BUILD = Building(
    places=(
        PartPlace(
            "fast_base", "Fast: under the sample", "gathers heat", ("black_paper", "foil", "copy_paper")
        ),
        PartPlace(
            "fast_cover", "Fast: cover", "lets light in, keeps warm air in", ("cling_film", "acetate", "foil")
        ),
        PartPlace("fast_mirror", "Fast: sides", "throw light on the sample", ("foil", "copy_paper")),
        PartPlace(
            "slow_wrap",
            "Slow: wrap",
            "slows heat from the air",
            ("felt", "newspaper", "cotton_wool", "black_paper"),
        ),
        PartPlace("slow_shade", "Slow: shade", "keeps the light off", ("foil", "copy_paper", "cardboard")),
    ),
    factors=(
        Factor(
            key="fast_m", label="Fast tray, across", unit="centimeter", default=10, low=4, high=25, step=1
        ),
        Factor(key="slow_m", label="Slow box, across", unit="centimeter", default=10, low=4, high=25, step=1),
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
    stocks=stocks,
    draw=draw,
)
