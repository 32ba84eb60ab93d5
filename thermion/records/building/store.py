"""The class store: what is there, what goes out against signed lists, what comes back."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import UTC, datetime

from sqlalchemy import func, select
from sqlalchemy.orm import Session, joinedload, selectinload

from thermion.core.physics.materials import MATERIALS
from thermion.core.plans import tally
from thermion.records.building.builds import issue, plan_of
from thermion.records.errors import Refused
from thermion.records.planning.briefs import Brief, brief_of, get_challenge
from thermion.records.tables import Build, Challenge, KitItem, StockMove, Version

REASONS = ("count", "issue", "topup", "return")


@dataclass(frozen=True)
class Shelf:
    """One material in the store: units there, promised to signed plans, and price per unit."""

    material: str
    there: float
    promised: float
    price: float

    @property
    def free(self) -> float:
        return self.there - self.promised

    @property
    def short(self) -> bool:
        """Less is left than the signed plans need, or hardly more."""
        return self.free < 1


@dataclass(frozen=True)
class Bill:
    """What a team has used up in a challenge: units, impact, cost, and units it gave back."""

    units: float
    impact: float
    cost: float
    back: float


def stock(session: Session, class_id: int) -> dict[str, float]:
    """Units of each counted material; a material that was never counted is not in it."""
    counted = select(StockMove.material).where(StockMove.class_id == class_id, StockMove.reason == "count")
    rows = session.execute(
        select(StockMove.material, func.sum(StockMove.units))
        .where(StockMove.class_id == class_id, StockMove.material.in_(counted))
        .group_by(StockMove.material)
    )
    return {material: float(units) for material, units in rows}


def prices(session: Session, class_id: int) -> dict[str, float]:
    """Price per unit of each material, from its pack on the kit list."""
    rows = session.scalars(select(KitItem).where(KitItem.class_id == class_id))
    by_name = {r.item: r.pack_cost / r.pack for r in rows if r.pack > 0}
    return {key: by_name.get(m.name, 0.0) for key, m in MATERIALS.items()}


def needs(version: Version) -> dict[str, float]:
    """Units a signed plan takes from the store: what is planned less what is reused."""
    out: dict[str, float] = {}
    for part in version.parts:
        out[part.material] = out.get(part.material, 0.0) + max(part.units - part.reused, 0.0)
    return {m: units for m, units in out.items() if units > 0}


def shelves(session: Session, class_id: int) -> list[Shelf]:
    """Every counted material, and those that signed plans ask for."""
    there, price = stock(session, class_id), prices(session, class_id)
    promised: dict[str, float] = {}
    for version in _versions(session, class_id, "signed"):
        for material, units in needs(version).items():
            promised[material] = promised.get(material, 0.0) + units
    return [Shelf(m, there[m], promised.get(m, 0.0), price.get(m, 0.0)) for m in MATERIALS if m in there]


def _versions(session: Session, class_id: int, *states: str) -> Sequence[Version]:
    return session.scalars(
        select(Version)
        .join(Version.build)
        .join(Build.challenge)
        .where(Challenge.class_id == class_id, Version.state.in_(states))
        .order_by(Version.waiting_at, Version.id)
        .options(
            selectinload(Version.parts),
            selectinload(Version.factors),
            joinedload(Version.build).joinedload(Build.team),
            joinedload(Version.build).joinedload(Build.challenge),
        )
    ).all()


def queue(session: Session, class_id: int) -> dict[str, list[Version]]:
    """Plans that wait for the check, and plans that wait for their materials, oldest first."""
    out: dict[str, list[Version]] = {"waiting": [], "signed": []}
    for version in _versions(session, class_id, "waiting", "signed"):
        out[version.state].append(version)
    return out


def count_stock(session: Session, class_id: int, material: str, units: float) -> None:
    """Set what is there by counting it. Refused below zero."""
    if material not in MATERIALS:
        raise Refused("There is no such material.", material)
    if not 0 <= units <= 1e6:
        raise Refused("A count is zero or more.", material)
    found = stock(session, class_id)
    before = found.get(material)
    if before is None:  # what went out before the first count does not count against it
        before = _sum(session, class_id, material)
    _move(session, class_id, material, units - before, "count")


def _sum(session: Session, class_id: int, material: str) -> float:
    total = session.scalar(
        select(func.sum(StockMove.units)).where(
            StockMove.class_id == class_id, StockMove.material == material
        )
    )
    return float(total or 0.0)


def _move(
    session: Session, class_id: int, material: str, units: float, reason: str, version_id: int | None = None
) -> None:
    session.add(
        StockMove(
            class_id=class_id,
            material=material,
            units=units,
            reason=reason,
            version_id=version_id,
            at=datetime.now(UTC),
        )
    )
    session.flush()


def hand_out(session: Session, version: Version) -> None:
    """Issue a signed plan and take its units out of the store.

    Refused, naming what is missing, when the store holds less of a counted material. Called in
    a writing session, which holds the write lock, so two desks cannot oversell the last sheet.
    """
    challenge = version.build.challenge
    there, wanted = stock(session, challenge.class_id), needs(version)
    if version.state == "signed":
        _enough(there, wanted)
    issue(version)
    for material, units in wanted.items():
        _move(session, challenge.class_id, material, -units, "issue", version.id)


def _enough(there: Mapping[str, float], wanted: Mapping[str, float]) -> None:
    short = [
        f"{MATERIALS[m].name.lower()} ({units:g} needed, {max(there[m], 0):g} there)"
        for m, units in wanted.items()
        if m in there and there[m] < units - 1e-9
    ]
    if short:
        raise Refused("The store is short of " + ", ".join(short) + ". Nothing was handed out.")


def top_up(session: Session, version: Version, material: str, units: float) -> None:
    """Hand out more of a material for an improvement on the spot, within the brief's limit."""
    _, brief = _issued(session, version)
    offer = next((o for o in brief.offers if o.material == material), None)
    if offer is None:
        raise Refused("This material is not on offer in this challenge.", "material")
    if not 0 < units <= 999:
        raise Refused("Hand out more than zero units.", "units")
    used = _used(session, version).get(material, 0.0)
    if offer.limit is not None and used + units > offer.limit + 1e-9:
        raise Refused(f"{MATERIALS[material].name}: {used:g} used, the limit is {offer.limit:g}.", "units")
    class_id = version.build.challenge.class_id
    _enough(stock(session, class_id), {material: units})
    _move(session, class_id, material, -units, "topup", version.id)


def give_back(session: Session, version: Version, material: str, units: float) -> None:
    """Take back what can be used again; it earns the brief's credit. Refused beyond what went
    out."""
    _issued(session, version)
    out = _used(session, version).get(material, 0.0)
    if not 0 < units <= out + 1e-9:
        raise Refused(f"{out:g} of it went out to this team, so no more can come back.", "units")
    _move(session, version.build.challenge.class_id, material, units, "return", version.id)


def _issued(session: Session, version: Version) -> tuple[Challenge, Brief]:
    if version.state != "issued":
        raise Refused("Materials go out against a plan that is signed off and handed out.")
    challenge = get_challenge(session, version.build.challenge_id)
    return challenge, brief_of(challenge)


def _used(session: Session, version: Version) -> dict[str, float]:
    """Units that went out for a version and did not come back, by material."""
    rows = session.execute(
        select(StockMove.material, func.sum(StockMove.units))
        .where(StockMove.version_id == version.id)
        .group_by(StockMove.material)
    )
    return {m: -float(units) for m, units in rows}


def bills(session: Session, challenge: Challenge, brief: Brief) -> dict[int, Bill]:
    """Running units, impact and cost of each team: issued plans, top-ups, returns; by team id."""
    price = prices(session, challenge.class_id)
    points = {o.material: o.points for o in brief.offers}
    out: dict[int, Bill] = {}
    versions = [
        v for v in _versions(session, challenge.class_id, "issued") if v.build.challenge_id == challenge.id
    ]
    ids = [v.id for v in versions]
    moves: dict[int, list[StockMove]] = {}
    for move in session.scalars(select(StockMove).where(StockMove.version_id.in_(ids))):
        moves.setdefault(move.version_id or 0, []).append(move)
    for version in versions:
        team = version.build.team_id
        before = out.get(team, Bill(0.0, 0.0, 0.0, 0.0))
        count = tally(plan_of(version), brief.offers, brief.credit)
        wanted = needs(version)
        units, impact = count.units, count.impact
        cost = sum(price.get(m, 0.0) * n for m, n in wanted.items())
        back = 0.0
        for move in moves.get(version.id, []):
            if move.reason == "topup":
                units -= move.units
                impact -= move.units * points.get(move.material, 0.0)
                cost -= move.units * price.get(move.material, 0.0)
            elif move.reason == "return":
                back += move.units
                impact -= move.units * brief.credit
        out[team] = Bill(
            before.units + units, before.impact + max(impact, 0.0), before.cost + cost, before.back + back
        )
    return out
