"""What is written at the places and dimensions of a drawn build."""

from __future__ import annotations

from dataclasses import replace

from thermion.core.kinds.building import Building, Factor, PartPlace
from thermion.core.physics.materials import FORMS, MATERIALS, unit_beside
from thermion.core.physics.units import Setting
from thermion.core.plans import Part, Plan
from thermion.web.components.words import units_words
from thermion.web.pictures.leaders import Label

MOST = 4  # parts named at one place
NOTHING = "nothing"


def labels_of(build: Building, plan: Plan, setting: Setting, before: Plan | None = None) -> dict[str, Label]:
    """A label for each place and each dimension, in the class's units; with `before` what differed."""
    labels = [_place(place, plan, before) for place in build.places]
    labels += [
        _factor(f, plan, setting, before)
        for f in build.factors
        if f.unit != "dimensionless" or plan.factors.get(f.key, f.default)
    ]
    return {label.key: label for label in labels}


def names_of(build: Building) -> dict[str, Label]:
    """The name of each place, and nothing of what is there."""
    return {place.key: Label(key=place.key, heading=place.label, lines=()) for place in build.places}


def part_words(part: Part) -> str:
    """“4 sheets newspaper, crumpled”."""
    material = MATERIALS[part.material]
    name = material.name if material.name[1:2].isupper() else material.name[0].lower() + material.name[1:]
    amount = units_words(part.units, unit_beside(material.name, material.unit)) or f"{part.units:g} ×"
    form = f", {FORMS[part.form].label}" if len(material.forms) > 1 else ""
    return f"{amount} {name}{form}"


def _place(place: PartPlace, plan: Plan, before: Plan | None) -> Label:
    lines = _parts(plan, place.key)
    was = "" if before is None else "; ".join(_parts(before, place.key)) or NOTHING
    changed = was if before is not None and was != ("; ".join(lines) or NOTHING) else ""
    return Label(
        key=place.key,
        heading=place.label,
        lines=lines or (NOTHING,),
        empty=not lines,
        was=changed and f"was {changed}",
    )


def _parts(plan: Plan, place: str) -> tuple[str, ...]:
    same: dict[tuple[str, str], Part] = {}
    for part in plan.at(place):
        key = part.material, part.form
        same[key] = replace(part, units=part.units + (same[key].units if key in same else 0.0))
    found = [part_words(part) for part in same.values()]
    if len(found) > MOST:
        found[MOST - 1 :] = [f"and {len(found) - MOST + 1} more"]
    return tuple(found)


def _factor(factor: Factor, plan: Plan, setting: Setting, before: Plan | None) -> Label:
    now = _measure(factor, plan, setting)
    was = _measure(factor, before, setting) if before is not None else now
    return Label(key=factor.key, heading=factor.label, lines=(now,), was=f"was {was}" if was != now else "")


def _measure(factor: Factor, plan: Plan, setting: Setting) -> str:
    value = plan.factors.get(factor.key, factor.si("default"))
    digits = 1 if factor.step < 1 else 0
    if factor.unit == "dimensionless":
        return setting.write(value, digits)
    return setting.show(value, factor.unit, digits)
