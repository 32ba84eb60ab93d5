"""Everyday materials and what their form does to them. Values are typical, not measured.

Sources: [A] EN ISO 10456:2007, tables of design thermal values; [B] J. H. Lienhard, A Heat
Transfer Textbook, 5th ed., appendix A; [C] J. A. Duffie and W. A. Beckman, Solar Engineering
of Thermal Processes, 4th ed., ch. 4 and 5; [D] nominal trade size of the sheet. Impact points
are the project's own ordering (thinner, reused or natural is lower), for a class to change.
"""

from __future__ import annotations

from dataclasses import dataclass

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
        Form("crumpled", "crumpled", 9.0),
        Form("shredded", "shredded", 14.0),
    )
}


@dataclass(frozen=True)
class Material:
    """One unit of a material, as handed out.

    `area_m2` and `thickness_m` of one flat unit; density [kg/m³], conductivity [W/(m·K)] of
    the solid; solar absorptance, transmittance, reflectance (sum 1); default impact points
    per unit. `tight` is how well it closes a joint (0 to 1, per 0.5 m of joint).
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
    points: float
    forms: tuple[str, ...]
    source: str
    swatch: str = "plain"
    tight: float = 0.0


_SHEET = ("flat", "folded", "crumpled", "shredded")
_STIFF = ("flat", "folded")
_ONE = ("flat",)

MATERIALS = {
    m.key: m
    for m in (
        Material("newspaper", "Newspaper", "sheet", 0.24, 0.00007, 650, 0.13,
                 0.45, 0.05, 0.50, 1, _SHEET, "A, D", "print"),
        Material("copy_paper", "White paper", "sheet", 0.0624, 0.0001, 800, 0.13,
                 0.20, 0.10, 0.70, 2, _SHEET, "A, D", "plain"),
        Material("black_paper", "Black paper", "sheet", 0.0624, 0.0002, 700, 0.13,
                 0.92, 0.00, 0.08, 2, _SHEET, "A, C", "dark"),
        Material("cardboard", "Corrugated cardboard", "piece", 0.12, 0.004, 150, 0.065,
                 0.65, 0.00, 0.35, 2, _STIFF, "B, D", "flute"),
        Material("foil", "Aluminium foil", "sheet", 0.09, 0.000015, 2700, 200,
                 0.12, 0.00, 0.88, 5, ("flat", "folded", "crumpled"), "B, C", "shine"),
        Material("cling_film", "Clear film", "sheet", 0.09, 0.000012, 920, 0.33,
                 0.03, 0.89, 0.08, 3, _ONE, "A, C", "clear"),
        Material("acetate", "Clear acetate", "sheet", 0.0624, 0.0001, 1300, 0.20,
                 0.05, 0.85, 0.10, 4, _ONE, "A, C", "clear"),
        Material("bubble_wrap", "Bubble wrap", "sheet", 0.09, 0.004, 25, 0.045,
                 0.08, 0.76, 0.16, 4, _STIFF, "B, D", "bubble"),
        Material("felt", "Wool felt", "piece", 0.04, 0.003, 180, 0.045,
                 0.70, 0.00, 0.30, 3, _STIFF, "A, B", "fibre"),
        Material("cotton", "Cotton cloth", "piece", 0.09, 0.0006, 400, 0.06,
                 0.50, 0.05, 0.45, 3, _SHEET, "B", "fibre"),
        Material("fleece", "Fleece", "piece", 0.09, 0.004, 90, 0.04,
                 0.60, 0.00, 0.40, 4, _STIFF, "B", "fibre"),
        Material("cotton_wool", "Cotton wool", "handful", 0.02, 0.03, 30, 0.04,
                 0.30, 0.10, 0.60, 3, _ONE, "B", "fibre"),
        Material("straw", "Dry grass", "handful", 0.02, 0.03, 60, 0.055,
                 0.60, 0.00, 0.40, 0, _ONE, "A", "straw"),
        Material("leaves", "Dry leaves", "handful", 0.02, 0.03, 50, 0.06,
                 0.65, 0.00, 0.35, 0, _ONE, "B", "straw"),
        Material("sand", "Dry sand", "cup", 0.02, 0.0125, 1600, 0.30,
                 0.60, 0.00, 0.40, 1, _ONE, "A, B", "grain"),
        Material("foam", "Packing foam", "piece", 0.04, 0.01, 20, 0.038,
                 0.25, 0.05, 0.70, 5, _ONE, "A", "bubble"),
        Material("cork", "Cork sheet", "piece", 0.03, 0.003, 160, 0.05,
                 0.70, 0.00, 0.30, 3, _ONE, "A", "grain"),
        Material("black_paint", "Black paint", "coat", 0.06, 0.00005, 1200, 0.20,
                 0.95, 0.00, 0.05, 3, _ONE, "C", "dark"),
        Material("tape", "Paper tape", "strip of 50 cm", 0.0125, 0.0001, 800, 0.13,
                 0.50, 0.00, 0.50, 1, _ONE, "D", "plain", tight=0.30),
        Material("clay", "Modelling clay", "lump", 0.005, 0.01, 1700, 0.70,
                 0.60, 0.00, 0.40, 2, _ONE, "B", "grain", tight=0.25),
    )
}  # fmt: skip


def layer_thickness(material: Material, form: str, units: float, area_m2: float) -> float:
    """Thickness [m] when `units` of a material cover `area_m2` evenly, before any packing."""
    return units * material.area_m2 * material.thickness_m * FORMS[form].bulk / area_m2


def blend_conductivity(solid_w_mk: float, solid_share: float) -> float:
    """Conductivity [W/(m·K)] of a solid loosened by still air, `solid_share` by volume.

    Geometric mean of solid and air, the usual estimate for fibrous and granular fills [B];
    it is bounded by the series and parallel arrangements.
    """
    return float(solid_w_mk**solid_share * AIR_W_MK ** (1.0 - solid_share))
