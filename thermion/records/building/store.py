"""The class store: what is there, what goes out against signed lists, what comes back."""

from __future__ import annotations

from collections import UserDict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from sqlalchemy import ColumnElement, func, select
from sqlalchemy.orm import Session, joinedload

from thermion.core.physics.materials import MATERIALS
from thermion.core.planning.ledger import Bill, StoreMoved, bill, goes_out, held
from thermion.core.plans import Part
from thermion.records import moments
from thermion.records.building.builds import issue, sign
from thermion.records.errors import Refused
from thermion.records.planning.briefs import Brief, brief_of, get_challenge
from thermion.records.tables import Build, Challenge, KitItem, PartRow, StockMove, Version

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


@dataclass(frozen=True, kw_only=True)
class Counted:
    """A version with what the store knows of it, and what earlier versions left with its team."""

    version_id: int
    challenge_id: int
    team_id: int
    number: int
    state: str
    drawn: StoreMoved
    has: Mapping[str, float]

    @property
    def goes_out(self) -> dict[str, float]:
        """Units of each material that are to be handed out for it."""
        return goes_out(self.drawn.parts, self.has)


def stock(session: Session, class_id: int) -> dict[str, float]:
    """Units of each counted material; a material that was never counted is not in it."""
    counted = select(StockMove.material).where(StockMove.class_id == class_id, StockMove.reason == "count")
    rows = session.execute(
        select(StockMove.material, func.sum(StockMove.units))
        .where(StockMove.class_id == class_id, StockMove.material.in_(counted))
        .group_by(StockMove.material)
    )
    return {material: float(units) for material, units in rows}


class Prices(UserDict[str, float]):
    """Price per unit of a material by its key, out of prices by name; 0 where none is known."""

    def __missing__(self, key: str) -> float:
        return self.data.get(MATERIALS[key].name, 0.0) if key in MATERIALS else 0.0

    def get(self, key: str, default: float = 0.0) -> float:  # type: ignore[override]  # never without one
        return self[key] or default


def prices(session: Session, class_id: int) -> Prices:
    """What a unit of each material costs, from its pack on the kit list."""
    rows = session.scalars(select(KitItem).where(KitItem.class_id == class_id))
    return Prices({r.item: r.pack_cost / r.pack for r in rows if r.pack > 0})


def ledger(session: Session, which: ColumnElement[bool]) -> dict[int, list[Counted]]:
    """The versions of the builds asked for, by build and in order, in two queries."""
    rows = session.execute(
        select(
            Version.build_id,
            Version.id,
            Build.challenge_id,
            Build.team_id,
            Version.number,
            Version.state,
            PartRow.place,
            PartRow.material,
            PartRow.form,
            PartRow.units,
            PartRow.reused,
        )
        .join(Build, Build.id == Version.build_id)
        .join(Challenge, Challenge.id == Build.challenge_id)
        .outerjoin(PartRow, PartRow.version_id == Version.id)
        .where(which)
        .order_by(Build.challenge_id, Version.build_id, Version.number, PartRow.position)
    )
    parts: dict[tuple[int, int, int, int, int, str], list[Part]] = {}
    for *version, place, material, form, units, reused in rows:
        mine = parts.setdefault(tuple(version), [])
        if material is not None:
            mine.append(Part(place=place, material=material, form=form, units=units, reused=reused))
    moves = _moves(session, which)
    out: dict[int, list[Counted]] = {}
    for (build_id, version_id, challenge_id, team_id, number, state), made in parts.items():
        before = out.setdefault(build_id, [])
        has = held([v.drawn for v in before if v.state == "issued"])
        more, back = (moves.get((version_id, reason), {}) for reason in ("topup", "return"))
        drawn = StoreMoved(tuple(made), more, back)
        before.append(
            Counted(
                version_id=version_id,
                challenge_id=challenge_id,
                team_id=team_id,
                number=number,
                state=state,
                drawn=drawn,
                has=has,
            )
        )
    return out


def _moves(session: Session, which: ColumnElement[bool]) -> dict[tuple[int, str], dict[str, float]]:
    """Units handed out and taken back beside the plans, by version and why, by material."""
    out: dict[tuple[int, str], dict[str, float]] = {}
    for version_id, reason, material, units in session.execute(
        select(StockMove.version_id, StockMove.reason, StockMove.material, func.sum(StockMove.units))
        .join(Version, Version.id == StockMove.version_id)
        .join(Build, Build.id == Version.build_id)
        .join(Challenge, Challenge.id == Build.challenge_id)
        .where(which, StockMove.reason.in_(("topup", "return")))
        .group_by(StockMove.version_id, StockMove.reason, StockMove.material)
    ):
        out.setdefault((int(version_id or 0), reason), {})[material] = abs(float(units))
    return out


def class_ledger(session: Session, class_id: int) -> dict[int, list[Counted]]:
    """Every version of a class's builds, as the store sees it."""
    return ledger(session, Challenge.class_id == class_id)


def _counted(session: Session, version: Version) -> Counted:
    """A version with what its team already has."""
    mine = ledger(session, Build.id == version.build_id)[version.build_id]
    return next(v for v in mine if v.version_id == version.id)


def shelves(session: Session, class_id: int, builds: Mapping[int, Sequence[Counted]]) -> list[Shelf]:
    """Every counted material, with what signed plans ask for."""
    there, price = stock(session, class_id), prices(session, class_id)
    promised: dict[str, float] = {}
    for version in (v for versions in builds.values() for v in versions if v.state == "signed"):
        for material, units in version.goes_out.items():
            promised[material] = promised.get(material, 0.0) + units
    order = {m: i for i, m in enumerate(MATERIALS)}  # a class's own after those that ship
    known = sorted(there, key=lambda m: (order.get(m, len(order)), MATERIALS[m].name))
    return [Shelf(m, there[m], promised.get(m, 0.0), price[m]) for m in known]


def _versions(session: Session, class_id: int, *states: str) -> Sequence[Version]:
    return session.scalars(
        select(Version)
        .join(Version.build)
        .join(Build.challenge)
        .where(Challenge.class_id == class_id, Version.state.in_(states))
        .order_by(Version.waiting_at, Version.id)
        .options(
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
            at=moments.now(),
        )
    )
    session.flush()


def sign_off(session: Session, version: Version, brief: Brief) -> None:
    """Sign a plan; one whose team has all that it needs already may be built at once."""
    sign(version, brief)
    session.flush()
    if not _counted(session, version).goes_out:
        issue(version)


def hand_out(session: Session, version: Version) -> None:
    """Issue a signed plan and take out of the store what its team does not have yet.

    Refused, naming what is missing, when the store holds less of a counted material. Called in
    a writing session, which holds the write lock, so two desks cannot oversell the last sheet.
    """
    challenge = version.build.challenge
    there, wanted = stock(session, challenge.class_id), _counted(session, version).goes_out
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
    offers = brief.of_team(version.build.team_id).offers
    offer = next((o for o in offers if o.material == material), None)
    if offer is None:
        raise Refused("This material is not on offer in this challenge.", "material")
    if not 0 < units <= 999:
        raise Refused("Hand out more than zero units.", "units")
    used = _has(session, version).get(material, 0.0)
    if offer.limit is not None and used + units > offer.limit + 1e-9:
        raise Refused(f"{MATERIALS[material].name}: {used:g} used, the limit is {offer.limit:g}.", "units")
    class_id = version.build.challenge.class_id
    _enough(stock(session, class_id), {material: units})
    _move(session, class_id, material, -units, "topup", version.id)


def give_back(session: Session, version: Version, material: str, units: float) -> None:
    """Take back what can be used again; it earns the brief's credit. Refused beyond what went
    out."""
    _issued(session, version)
    out = _has(session, version).get(material, 0.0)
    if not 0 < units <= out + 1e-9:
        raise Refused(f"{out:g} of it went out to this team, so no more can come back.", "units")
    _move(session, version.build.challenge.class_id, material, units, "return", version.id)


def _issued(session: Session, version: Version) -> tuple[Challenge, Brief]:
    if version.state != "issued":
        raise Refused("Materials go out against a plan that is signed off and handed out.")
    challenge = get_challenge(session, version.build.challenge_id)
    return challenge, brief_of(challenge)


def _has(session: Session, version: Version) -> dict[str, float]:
    """Units that went out to a version's team and did not come back, by material."""
    mine = ledger(session, Build.id == version.build_id)[version.build_id]
    return held([v.drawn for v in mine if v.state == "issued"])


def bills(
    challenge: Challenge, brief: Brief, builds: Mapping[int, Sequence[Counted]], price: Mapping[str, float]
) -> dict[int, Bill]:
    """Running units, impact and cost of each team in a challenge, by team id."""
    points = {o.material: o.points for o in brief.offers}
    out: dict[int, Bill] = {}
    for versions in builds.values():
        issued = [v for v in versions if v.challenge_id == challenge.id and v.state == "issued"]
        if issued:
            drawn = [v.drawn for v in issued]
            out[issued[0].team_id] = bill(drawn, price=price, points=points, credit=brief.credit)
    return out
