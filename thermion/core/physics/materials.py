"""Everyday materials and what their form does to them. Values are typical, not measured.

Sources: [A] EN ISO 10456:2007, tables of design thermal values; [B] J. H. Lienhard, A Heat
Transfer Textbook, 5th ed., appendix A; [C] J. A. Duffie and W. A. Beckman, Solar Engineering
of Thermal Processes, 4th ed., ch. 4 and 5; [D] nominal trade size of the sheet; [E] M. F. Ashby,
Materials Selection in Mechanical Design, 5th ed., appendix A (Young's modulus of the class of
material); [F] the project's own estimate: what a piece of that size drinks, how well it closes a
joint, and the size of a natural handful. Impact points are the project's own ordering (thinner,
reused or natural is lower), for a class to change.
"""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping
from dataclasses import dataclass, replace
from functools import lru_cache
from math import log
from urllib.parse import quote, unquote

from thermion.core.physics.material_table import FORM_SETS, HANDLED, SOLIDS
from thermion.core.values import Unfit

AIR_W_MK = 0.026  # still air near 25 °C [B]


@dataclass(frozen=True)
class Form:
    """How a sheet is used: `bulk` times thicker than flat (the rest is air)."""

    key: str
    label: str
    bulk: float


FORMS = {
    form.key: form
    for form in (
        Form("flat", "flat", 1.0),
        Form("folded", "folded", 1.6),
        Form("rolled", "rolled", 3.0),
        Form("crumpled", "crumpled", 9.0),
        Form("shredded", "shredded", 14.0),
    )
}


def unit_beside(name: str, unit: str) -> str:
    """The unit to write beside a name; nothing where the name says it: “Craft stick”, not “… stick”."""
    return "" if unit.lower() in re.findall(r"\w+", name.lower()) else unit


@dataclass(frozen=True)
class Material:
    """One unit of a material, as handed out.

    `area_m2` and `thickness_m` of one flat unit; density [kg/m³], conductivity [W/(m·K)] of
    the solid; solar absorptance, transmittance, reflectance (sum 1); Young's modulus [GPa];
    `drinks_ml` water one unit soaks up [mL]; default impact points per unit. `tight` is how
    well it closes a joint (0 to 1, per 0.5 m of joint); `swatch` names its look.
    """

    key: str
    name: str
    unit: str
    area_m2: float
    thickness_m: float
    density: float
    conductivity: float
    absorptance: float
    transmittance: float
    reflectance: float
    modulus_gpa: float
    drinks_ml: float
    points: float
    forms: tuple[str, ...]
    source: str
    swatch: str = "plain"
    tight: float = 0.0

    @property
    def areal_mass_kg_m2(self) -> float:
        """Mass of a square metre of one flat layer [kg/m²]."""
        return self.density * self.thickness_m

    @property
    def resistance_m2k_w(self) -> float:
        """Resistance of one flat layer [m²·K/W]."""
        return self.thickness_m / self.conductivity

    @property
    def unit_mass_kg(self) -> float:
        return self.areal_mass_kg_m2 * self.area_m2

    def rigidity_nm(self, layers: float = 1.0) -> float:
        """Bending stiffness of a strip per width, E·d³/12 [N·m], of `layers` glued flat."""
        return self.modulus_gpa * 1e9 * (self.thickness_m * layers) ** 3 / 12.0


def _rows(table: str) -> dict[str, list[str]]:
    """The cells of each line of a table after its key; the first line names the columns."""
    lines = [re.split(r" {2,}", line) for line in table.strip().splitlines()[1:]]
    return {key: cells for key, *cells in lines}


def _material(key: str, handled: list[str], solid: list[str]) -> Material:
    name, unit, area, millimetres, forms, points, drinks, tight, look, sources = handled
    density, conductivity, absorbs, passes, reflects, modulus = (float(cell) for cell in solid)
    return Material(
        key=key,
        name=name,
        unit=unit,
        area_m2=float(area),
        thickness_m=float(millimetres) / 1000,
        density=density,
        conductivity=conductivity,
        absorptance=absorbs,
        transmittance=passes,
        reflectance=reflects,
        modulus_gpa=modulus,
        drinks_ml=float(drinks),
        points=float(points),
        forms=FORM_SETS[forms],
        source=sources,
        swatch=look,
        tight=float(tight),
    )


OWN = "~"  # in the key of a class's own material: like~unit~name, each quoted as in an address
LONGEST_NAME = 40
LONGEST_UNIT = 24


def own_key(name: str, unit: str, like: str) -> str:
    """The key of a class's own material, which says all there is to know of it.

    It behaves like a known one: for drawing, kit and simulation. ValueError naming the argument.
    """
    said, counted = " ".join(name.split()), " ".join(unit.split())
    if not 0 < len(said) <= LONGEST_NAME or not said.isprintable():
        raise Unfit("name", f"expected 1 to {LONGEST_NAME} letters")
    if not 0 < len(counted) <= LONGEST_UNIT or not counted.isprintable():
        raise Unfit("unit", f"expected 1 to {LONGEST_UNIT} letters")
    if like not in MATERIALS.shipped:
        raise Unfit("like", "expected a known material")
    return OWN.join((like, *(quote(text, safe="").replace(OWN, "%7E") for text in (counted, said))))


class Catalogue(Mapping[str, Material]):
    """Materials by key: those that ship, and any class's own, which are known by their keys alone.

    Going through it gives the shipped ones.
    """

    def __init__(self, shipped: Mapping[str, Material]) -> None:
        self.shipped = shipped

    def __getitem__(self, key: str) -> Material:
        return self.shipped[key] if OWN not in key else _own(key)

    def __contains__(self, key: object) -> bool:
        try:
            return isinstance(key, str) and self[key] is not None
        except KeyError:
            return False

    def __iter__(self) -> Iterator[str]:
        return iter(self.shipped)

    def __len__(self) -> int:
        return len(self.shipped)

    def named(self, name: str) -> str | None:
        """The key of the shipped material of this name, however it is written."""
        said = " ".join(name.split()).casefold()
        return next((m.key for m in self.shipped.values() if m.name.casefold() == said), None)


@lru_cache(maxsize=4096)
def _own(key: str) -> Material:
    """A class's own material by its key; KeyError when the key is none that `own_key` makes."""
    like, _, rest = key.partition(OWN)
    unit, _, name = (unquote(part) for part in rest.partition(OWN))
    try:
        exact = own_key(name, unit, like)
    except ValueError:
        raise KeyError(key) from None
    if exact != key:
        raise KeyError(key)
    return replace(MATERIALS.shipped[like], key=key, name=name, unit=unit, source="of the class")


_SOLIDS = _rows(SOLIDS)
MATERIALS = Catalogue({key: _material(key, cells, _SOLIDS[key]) for key, cells in _rows(HANDLED).items()})


def like_by_name(name: str) -> str | None:
    """The shipped material whose name shares a telling word with this one; None when none or several do.

    Words of four letters or more tell, in singular or plural; of several the one that shares most.
    """

    def telling(text: str) -> set[str]:
        words = re.findall(r"[^\W\d_]+", text.casefold())
        return {w.removesuffix("s") for w in words if len(w.removesuffix("s")) > 3}

    mine = telling(name)
    shared = {m.key: len(mine & telling(m.name)) for m in MATERIALS.values()}
    most = max(shared.values())
    best = [key for key, count in shared.items() if count == most]
    exact = [key for key in best if telling(MATERIALS[key].name) <= mine]
    found = best if len(best) == 1 else exact
    return found[0] if most and len(found) == 1 else None


def like_of(key: str) -> str:
    """The shipped material that a material behaves like; its own key if it is one."""
    return key.partition(OWN)[0]


SHARP = {"glass", "steel_sheet", "copper_sheet", "foil_tray"}  # edges: not for a kitchen table


def alike(key: str, count: int = 2) -> list[Material]:
    """Other materials of the same look that hold heat back most nearly as well, flat, unit for unit.

    What closes joints is replaced by what closes joints; nothing with sharp edges is proposed.
    """
    mine = MATERIALS[key]

    def apart(other: Material) -> float:
        return abs(log(other.resistance_m2k_w / mine.resistance_m2k_w))

    if mine.tight:
        same = [m for m in MATERIALS.values() if m.tight and m.key != key]
    else:
        same = [m for m in MATERIALS.values() if m.swatch == mine.swatch and not m.tight and m.key != key]
    same = [m for m in same if m.key not in SHARP]
    return sorted(same, key=apart)[:count]


def layer_thickness(material: Material, form: str, units: float, area_m2: float) -> float:
    """Thickness [m] when `units` of a material cover `area_m2` evenly, before any packing."""
    return units * material.area_m2 * material.thickness_m * FORMS[form].bulk / area_m2


def blend_conductivity(solid_w_mk: float, solid_share: float) -> float:
    """Conductivity [W/(m·K)] of a solid loosened by still air, `solid_share` by volume.

    Geometric mean of solid and air, the usual estimate for fibrous and granular fills [B];
    it is bounded by the series and parallel arrangements.
    """
    return float(solid_w_mk**solid_share * AIR_W_MK ** (1.0 - solid_share))
