"""A build as data: parts at places and factors; its count, limits, and what changed."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

from thermion.core.physics.materials import FORMS, MATERIALS
from thermion.core.physics.units import convert, stored_unit, unit_label
from thermion.core.values import not_negative, single

MOST_UNITS = 999.0  # of one material at one place, and on offer for a team
MOST_POINTS = 999.0  # of impact for a unit
MOST_CREDIT = 50.0  # points for a reused unit


@dataclass(frozen=True)
class Part:
    """So many units of a material, in a form, at a place of the build; some of them reused.

    `idea` is the number of the team's idea that it was taken from; 0: of none.
    """

    place: str
    material: str
    form: str
    units: float
    reused: float = 0.0
    idea: int = 0


@dataclass(frozen=True)
class Plan:
    """One version of a build. Factors are in SI or degrees, by the key of the kind's factor."""

    parts: tuple[Part, ...] = ()
    factors: Mapping[str, float] = field(default_factory=dict)

    def at(self, place: str) -> tuple[Part, ...]:
        return tuple(part for part in self.parts if part.place == place)


@dataclass(frozen=True)
class Offer:
    """A material on offer: most units a team may use (None: no limit) and points per unit."""

    material: str
    limit: float | None
    points: float


@dataclass(frozen=True)
class Problem:
    """Something that keeps a plan from being handed in; `part` is the row it belongs to."""

    message: str
    part: int | None = None
    field: str | None = None


@dataclass(frozen=True)
class Tally:
    """Units and impact of a plan, per material and in all."""

    units: float
    impact: float
    used: Mapping[str, float]


def impact(uses: Sequence[tuple[float, float, float]], credit: float) -> float:
    """Environmental impact [points]: Σ units × points − credit × reused units, never under 0.

    `uses` holds (units, points per unit, reused units of these) per material.
    """
    back = not_negative("credit", credit)
    total = sum(
        not_negative("units", units) * single("points", points) - back * not_negative("reused", reused)
        for units, points, reused in uses
    )
    return max(total, 0.0)


def tally(plan: Plan, offers: Sequence[Offer], credit: float) -> Tally:
    """Units [count] and impact [points] of a plan at the offers' prices."""
    price = {offer.material: offer.points for offer in offers}
    used: dict[str, float] = {}
    for part in plan.parts:
        used[part.material] = used.get(part.material, 0.0) + part.units
    uses = [(p.units, price.get(p.material, 0.0), p.reused) for p in plan.parts]
    return Tally(sum(used.values()), impact(uses, credit), used)


def used_of_stock(plan: Plan, stocks: Mapping[str, str]) -> dict[tuple[str, str], float]:
    """Units of each material by the stock it is from; a place that `stocks` does not name has the common one."""
    used: dict[tuple[str, str], float] = {}
    for part in plan.parts:
        key = stocks.get(part.place, ""), part.material
        used[key] = used.get(key, 0.0) + part.units
    return used


def check_limits(
    plan: Plan, offers: Sequence[Offer], stocks: Mapping[str, str] | None = None
) -> list[Problem]:
    """Every way in which the plan goes beyond what is on offer, named at its row.

    `stocks` names the stock of each place where a limit is not one for the whole build.
    """
    allowed = {offer.material: offer for offer in offers}
    used: dict[tuple[str, str], float] = {}
    out: list[Problem] = []
    for i, part in enumerate(plan.parts):
        material = MATERIALS[part.material]
        offer = allowed.get(part.material)
        if offer is None:
            out.append(Problem(f"{material.name} is not on offer in this challenge.", i))
            continue
        if part.reused > part.units:
            out.append(Problem(f"{part.reused:g} reused of only {part.units:g}.", i, "reused"))
        stock = (stocks or {}).get(part.place, "")
        so_far = used[stock, part.material] = used.get((stock, part.material), 0.0) + part.units
        if offer.limit is not None and so_far > offer.limit:
            of = f" of the stock for {stock}" if stock else ""
            words = f"{material.name}{of}: {so_far:g} used, the limit is {offer.limit:g}."
            out.append(Problem(words, i, "units"))
    return out


@dataclass(frozen=True)
class Change:
    """One difference between two versions, in words, at a place or factor."""

    where: str
    sentence: str


def differences(
    before: Plan, after: Plan, place_names: Mapping[str, str], factors: Mapping[str, tuple[str, str]]
) -> list[Change]:
    """What was changed from one version to the next, one line per place and material or factor.

    One material put in place of another is one change. `place_names` gives each place's label,
    `factors` each factor's label and the unit to write it in.
    """
    out: list[Change] = []
    old, new = _by_place(before), _by_place(after)
    for place in sorted(old.keys() | new.keys()):
        was, now = old.get(place, {}), new.get(place, {})
        name = place_names.get(place, place)
        moved = [m for m in sorted(was.keys() | now.keys()) if was.get(m) != now.get(m)]
        gone = [m for m in moved if m not in now]
        come = [m for m in moved if m not in was]
        if len(moved) == 2 and len(gone) == len(come) == 1:  # one material for another
            text = f"{name}: {_amount(gone[0], was)} → {_amount(come[0], now)}"
            out.append(Change(place, text))
            continue
        for m in moved:
            text = f"{name}: {_amount(m, was)} → {_amount(m, now)}"
            out.append(Change(place, text))
    for key in sorted(before.factors.keys() | after.factors.keys()):
        a, b = before.factors.get(key), after.factors.get(key)
        if a != b:
            label, unit = factors.get(key, (key, "dimensionless"))
            was_text, now_text = (_measure(x, unit) for x in (a, b))
            out.append(Change(key, f"{label}: {was_text} → {now_text} {unit_label(unit)}".rstrip()))
    return out


def _measure(value: float | None, unit: str) -> str:
    return "–" if value is None else f"{convert(value, stored_unit(unit), unit):.4g}"


def _by_place(plan: Plan) -> dict[str, dict[str, dict[str, float]]]:
    """Place -> material -> form -> units."""
    places: dict[str, dict[str, dict[str, float]]] = {}
    for part in plan.parts:
        forms = places.setdefault(part.place, {}).setdefault(part.material, {})
        forms[part.form] = forms.get(part.form, 0.0) + part.units
    return places


def _amount(material: str, at_place: Mapping[str, Mapping[str, float]]) -> str:
    name = MATERIALS[material].name.lower()
    forms = at_place.get(material)
    if not forms:
        return f"no {name}"
    count = " + ".join(f"{units:g} {FORMS[form].label}" for form, units in sorted(forms.items()))
    return f"{count} {name}"
