"""What goes out of the store for a build, version after version, and what that comes to.

A next version is charged and handed only what it needs beyond what the team already has.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

from thermion.core.plans import Part


@dataclass(frozen=True)
class StoreMoved:
    """A version as the store sees it: its parts, and units handed out and taken back beside them."""

    parts: tuple[Part, ...]
    more: Mapping[str, float] = field(default_factory=dict)
    back: Mapping[str, float] = field(default_factory=dict)


@dataclass(frozen=True)
class Bill:
    """What a team has used up in a challenge: units, impact points, cost, and units it gave back."""

    units: float
    impact: float
    cost: float
    back: float


def wanted(parts: Sequence[Part]) -> dict[str, float]:
    """Units of each material that a plan is made of, less what is reused."""
    out: dict[str, float] = {}
    for part in parts:
        out[part.material] = out.get(part.material, 0.0) + max(part.units - part.reused, 0.0)
    return {material: units for material, units in out.items() if units > 0}


def held(issued: Sequence[StoreMoved]) -> dict[str, float]:
    """Units of each material that a team has after these versions, in their order, were handed out.

    What a later version no longer uses stays with the team until it is given back.
    """
    out: dict[str, float] = {}
    for version in issued:
        for material, units in wanted(version.parts).items():
            out[material] = max(out.get(material, 0.0), units)
        for material, units in version.more.items():
            out[material] = out.get(material, 0.0) + units
        for material, units in version.back.items():
            out[material] = max(out.get(material, 0.0) - units, 0.0)
    return out


def goes_out(parts: Sequence[Part], has: Mapping[str, float]) -> dict[str, float]:
    """Units of each material to hand out for a plan to a team that already `has` some."""
    need = {m: units - has.get(m, 0.0) for m, units in wanted(parts).items()}
    return {m: units for m, units in need.items() if units > 1e-9}


def bill(
    issued: Sequence[StoreMoved], *, price: Mapping[str, float], points: Mapping[str, float], credit: float
) -> Bill:
    """What the versions of one build, in their order, come to.

    Parameters
    ----------
    price, points : of one unit, by material [class's money; impact points].
    credit : impact points taken off for each reused unit and each that was given back.
    """
    units = impact = cost = back = 0.0
    reused: dict[str, float] = {}
    for i, version in enumerate(issued):
        new = goes_out(version.parts, held(issued[:i]))
        again = {
            m: sum(p.reused for p in version.parts if p.material == m)
            for m in {p.material for p in version.parts}
        }
        fresh_again = {m: max(n - reused.get(m, 0.0), 0.0) for m, n in again.items()}
        reused = {m: max(n, reused.get(m, 0.0)) for m, n in (reused | again).items()}
        used = [new, fresh_again, version.more]
        returned = sum(version.back.values())
        saved = credit * (sum(fresh_again.values()) + returned)
        units += sum(sum(each.values()) for each in used)
        impact += max(sum(n * points.get(m, 0.0) for each in used for m, n in each.items()) - saved, 0.0)
        cost += sum(n * price.get(m, 0.0) for each in (new, version.more) for m, n in each.items())
        back += returned
    return Bill(units, impact, cost, back)
