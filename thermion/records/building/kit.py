"""Kit lists of a class: from builds' materials, rig and instruments; packs, costs, ticks, cuts."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from math import ceil

from sqlalchemy import select
from sqlalchemy.orm import Session

from thermion.core.kinds.testing import Need
from thermion.core.physics.materials import MATERIALS
from thermion.core.planning.kit import CutPlan, Line, cut_plan, kit_list
from thermion.core.planning.ledger import wanted
from thermion.core.plans import Part
from thermion.records import moments
from thermion.records.building.store import ledger
from thermion.records.errors import Refused
from thermion.records.planning.briefs import Brief, brief_of
from thermion.records.tables import Challenge, KitItem, SchoolClass, Team

MATERIAL_SPARE = 0.1


@dataclass(frozen=True, kw_only=True)
class KitLine:
    """A line of the list, who asks for it, its pack, and whether it is there."""

    line: Line
    wanted_by: tuple[str, ...]
    pack: float
    pack_cost: float
    have: bool
    material: bool


@dataclass(frozen=True)
class CutLine:
    """One stock to cut: what, the plan, and how many pieces of which length [m]."""

    item: str
    stock_m: float
    pieces: tuple[tuple[float, int], ...]
    plan: CutPlan


@dataclass(frozen=True)
class Kit:
    lines: tuple[KitLine, ...]
    cuts: tuple[CutLine, ...]
    cost: float
    estimated: tuple[str, ...]  # challenges whose plans are not in: their limits count instead


def kit_of(session: Session, school_class: SchoolClass, challenges: Sequence[Challenge]) -> Kit:
    """The list of one challenge, or the merged one of several in the week.

    Materials come from the newest plans, plus the offered limit for each team that has none yet.
    Things the class uses again (a fan, a scale) are needed once however many challenges ask.
    """
    teams = len(school_class.present)
    if teams == 0:
        raise Refused("A class needs a team before anything can be counted.", "teams")
    known = {r.item: r for r in session.scalars(select(KitItem).where(KitItem.class_id == school_class.id))}
    newest = _newest_plans(session, challenges)
    asked: dict[str, list[str]] = {}
    needed: dict[str, list[Need]] = {}
    estimated: list[str] = []
    cuts: dict[tuple[str, float], list[tuple[float, int]]] = {}
    for challenge in challenges:
        brief = brief_of(challenge)
        found, guess = _materials(brief, newest.get(challenge.id, {}), school_class.present)
        if guess:
            estimated.append(challenge.title)
        for need in (*brief.kind.test.kit_for(brief.choices), *found):
            needed.setdefault(need.item, []).append(need)
            asked.setdefault(need.item, []).append(challenge.title)
        for cut in brief.kind.test.bench.cuts:
            count = cut.count * (teams if cut.per == "team" else 1)
            count = ceil(count * (1 + cut.spare) - 1e-9)
            cuts.setdefault((cut.item, cut.stock_m), []).append((cut.length_m, count))
    lines = []
    for item, needs_of in needed.items():
        row = known.get(item)
        pack, cost = (row.pack, row.pack_cost) if row else (1.0, 0.0)
        made = [replace(n, pack=pack, pack_cost=cost) for n in needs_of]
        if not any(n.unit for n in made):
            made = [_largest(made, teams, school_class.learners)]
        (line,) = kit_list(made, teams, school_class.learners)
        have = bool(row and row.have_at)
        lines.append(
            KitLine(
                line=line,
                wanted_by=tuple(dict.fromkeys(asked[item])),
                pack=pack,
                pack_cost=cost,
                have=have,
                material=any(n.unit for n in made),
            )
        )
    plans = tuple(
        CutLine(item, stock, tuple(pieces), cut_plan(pieces, stock)) for (item, stock), pieces in cuts.items()
    )
    return Kit(tuple(lines), plans, sum(x.line.cost for x in lines), tuple(estimated))


def _largest(made: Sequence[Need], teams: int, learners: int) -> Need:
    """Things that are used again: the challenge that asks for most decides."""
    count = {"team": teams, "learner": learners, "class": 1}
    return max(made, key=lambda n: n.quantity * (1 + n.spare) * count[n.per])


Plans = Mapping[int, tuple[Part, ...]]  # what the newest version of a team's build is made of


def _newest_plans(session: Session, challenges: Sequence[Challenge]) -> dict[int, Plans]:
    """The plans of each challenge; builds without parts left out."""
    out: dict[int, dict[int, tuple[Part, ...]]] = {}
    for versions in ledger(session, Challenge.id.in_([c.id for c in challenges])).values():
        newest = versions[-1]
        if newest.drawn.parts:
            out.setdefault(newest.challenge_id, {})[newest.team_id] = newest.drawn.parts
    return dict(out)


def _materials(brief: Brief, plans: Plans, teams: Sequence[Team]) -> tuple[list[Need], bool]:
    """Units of each material for the whole class, and whether some plans are still missing: of those teams, all
    that their brief allows."""
    asked = [wanted(parts) for parts in plans.values()]
    stocks = max(len(set(brief.kind.build.stocks(brief.choices).values())), 1)
    missing = [team for team in teams if team.id not in plans]
    for team in missing:
        allowed = brief.of_team(team.id).offers
        asked.append({o.material: o.limit * stocks for o in allowed if o.limit})
    total: dict[str, float] = {}
    for units_of in asked:
        for material, units in units_of.items():
            total[material] = total.get(material, 0.0) + units
    out = [
        Need(
            item=MATERIALS[m].name, quantity=units, per="class", spare=MATERIAL_SPARE, unit=MATERIALS[m].unit
        )
        for m, units in total.items()
        if units > 0
    ]
    return out, bool(missing)


def save_item(
    session: Session,
    class_id: int,
    item: str,
    *,
    pack: float | None = None,
    pack_cost: float | None = None,
    have: bool | None = None,
) -> None:
    """Keep a pack, its cost, or the tick of one thing on the class's lists."""
    row = session.scalar(select(KitItem).where(KitItem.class_id == class_id, KitItem.item == item[:80]))
    if row is None:
        row = KitItem(class_id=class_id, item=item[:80], pack=1.0, pack_cost=0.0)
        session.add(row)
    if pack is not None:
        if not 0 < pack <= 1e5:
            raise Refused("A pack holds more than zero.", "pack")
        row.pack = pack
    if pack_cost is not None:
        if not 0 <= pack_cost <= 1e5:
            raise Refused("A cost is zero or more.", "pack_cost")
        row.pack_cost = pack_cost
    if have is not None:
        row.have_at = moments.now() if have else None
    session.flush()
