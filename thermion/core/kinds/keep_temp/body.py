"""The jar in its jacket: from layers to heat loss, to a drawing in section, to questions."""

from __future__ import annotations

from collections.abc import Mapping
from math import pi

from thermion.core.kinds.building import Building, Drawing, Factor, PartPlace
from thermion.core.kinds.keep_temp.drawing import draw_jar
from thermion.core.kinds.layers import packed_resistance
from thermion.core.physics.materials import MATERIALS
from thermion.core.plans import Plan

AIR_FILM_W_M2K = 8.0  # outside of a jar in still room air, ISO 6946:2017 table 7
GAP_M2K_W = 0.17  # resistance of a closed air gap above 15 mm, ISO 6946:2017 table 8
OPEN_LEAK_W_K = 0.05  # draught through the joints of an unsealed lid; an estimate
SHINE = 0.25  # share of the outer film that a bright outside takes away (radiation), an estimate
RADIUS_M, HEIGHT_M = 0.035, 0.09  # of the jar that everyone gets
ROOM_M = 0.03  # around the jar, when the brief does not say
PLACES = ("wall", "floor", "lid")


def jar_area(place: str) -> float:
    """Area of the jar at a place [m²]."""
    return 2 * pi * RADIUS_M * HEIGHT_M if place == "wall" else pi * RADIUS_M**2


def jacket_room(plan: Plan, conditions: Mapping[str, float]) -> float:
    """Thickness the jacket is packed into [m]: the plan's, as far as the brief allows."""
    most = conditions.get("room_m", ROOM_M)
    return min(plan.factors.get("jacket_m", most), most)


def jar_ua(plan: Plan, conditions: Mapping[str, float]) -> float:
    """Heat loss of the jar in its jacket [W/K]: sides, floor and lid in parallel, and draught.

    Thin layers are taken as flat; a jacket as thick as the jar's radius would be overrated by
    about a third.
    """
    room = jacket_room(plan, conditions)
    total = 0.0
    for place in PLACES:
        area = jar_area(place)
        shiny = any(MATERIALS[p.material].reflectance > 0.8 for p in plan.at(place))
        film = 1 / (AIR_FILM_W_M2K * (1 - SHINE * shiny))
        total += area / (film + _held(plan, place, area, room))
    tight = sum(p.units * MATERIALS[p.material].tight for p in plan.at("seal"))
    return total + OPEN_LEAK_W_K * (1 - min(0.9, 2 * tight))


def _held(plan: Plan, place: str, area_m2: float, room_m: float) -> float:
    """Resistance of a jacket's layers [m²·K/W]; without any layer there is no closed gap."""
    if not plan.at(place):
        return 0.0
    covered = sum(MATERIALS[p.material].area_m2 * p.units for p in plan.at(place)) / area_m2
    full = packed_resistance(plan, place, area_m2, room_m, GAP_M2K_W / 3)
    return full * min(covered, 1.0)


def jar_hints(plan: Plan) -> list[str]:
    """Questions that point to what a plan leaves open."""
    hints = []
    if not plan.at("wall"):
        hints.append("Which way does most of the heat go in or out?")
    if not plan.at("lid"):
        hints.append("What is above the jar, and does heat care about up and down?")
    if not plan.at("floor"):
        hints.append("What does the jar stand on?")
    if not plan.at("seal"):
        hints.append("Where could air slip through, and how would you find out?")
    wool = [p for p in plan.parts if MATERIALS[p.material].swatch == "fibre"]
    if wool and sum(p.units for p in wool) > 6:
        hints.append("What happens to the air in it when you press it together?")
    return hints


def draw(plan: Plan, conditions: Mapping[str, float]) -> Drawing:
    """The jar with ice in it, or with a warm drink."""
    return draw_jar(plan, jacket_room(plan, conditions), RADIUS_M, HEIGHT_M, "started_kg" in conditions)


BUILD = Building(
    places=(
        PartPlace(
            "wall",
            "Jacket",
            "slows heat through the sides",
            ("newspaper", "bubble_wrap", "felt", "cotton_wool", "foil", "wool"),
        ),
        PartPlace(
            "floor", "Under the jar", "slows heat from below", ("foam", "newspaper", "felt", "cardboard")
        ),
        PartPlace("lid", "Lid", "slows heat from above", ("foam", "bubble_wrap", "felt", "cling_film")),
        PartPlace("seal", "Seal", "stops draughts", ("tape",)),
    ),
    factors=(
        Factor(
            key="jacket_m",
            label="Jacket, thickness",
            unit="centimeter",
            default=3,
            low=0.5,
            high=10,
            step=0.5,
        ),
    ),
    materials=(
        ("newspaper", 6),
        ("bubble_wrap", 2),
        ("foil", 2),
        ("cotton_wool", 4),
        ("felt", 2),
        ("wool", 4),
        ("straw", 6),
        ("foam", 2),
        ("cling_film", 2),
        ("cardboard", 2),
        ("tape", 4),
    ),
    hints=jar_hints,
    draw=draw,
)
