"""The door and the devices that come through it: codes, who is in, who is sent away.

Whoever is in is known by a number and a secret that the device keeps; what it may do follows from what it is
(`core.door.Role`) and from the class, team or station that its code was for. `now` is `moments.steady()` in all
of it: no step of a clock lets anybody in or out.
"""

from __future__ import annotations

import hashlib
import hmac
import secrets
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from zoneinfo import ZoneInfo

from sqlalchemy import delete, func, select
from sqlalchemy.orm import Session, joinedload

from thermion.core import door
from thermion.core.door import ONCE, Joins, Role
from thermion.core.kinds import get_kind
from thermion.records import moments
from thermion.records.errors import Gone, Refused
from thermion.records.planning.briefs import brief_of
from thermion.records.planning.classes import computer_zone
from thermion.records.planning.conduct import SOON
from thermion.records.planning.week import bell_of, timing_of
from thermion.records.tables import Challenge, Device, Doorway, JoinCode, Run, SchoolClass

MOST_IN = 60  # devices of a kind in a class; one more sends away the one that came first
MOST_OF_TEAM = 8
FORGOTTEN = timedelta(days=30)  # after which a device that is out is no longer listed


@dataclass(frozen=True, kw_only=True)
class DeviceIn:
    """A device that is in: what it is, where, what it is called. Plain, so that it can be remembered."""

    id: int
    role: Role
    name: str
    class_id: int | None = None
    team_id: int | None = None
    challenge_id: int | None = None
    station: int = 0


def open_until(session: Session) -> datetime | None:
    """Until when the door stands open; None when it is closed."""
    row = session.get(Doorway, 1)
    return None if row is None else row.open_until


def is_open(session: Session, now: datetime) -> bool:
    until = open_until(session)
    return until is not None and now < until


def open_door(session: Session, now: datetime) -> None:
    """Let devices in until the end of this day, or until it is closed."""
    row = session.get(Doorway, 1) or Doorway(id=1)
    session.add(row)
    row.open_until = door.end_of_day(now.astimezone(ZoneInfo(computer_zone())))


def close_door(session: Session, now: datetime) -> None:
    """Nobody comes in, and codes and devices end, but for those of the week."""
    row = session.get(Doorway, 1)
    if row is not None:
        row.open_until = None
    ends = now + timedelta(days=1)  # what is good for longer was said to be for the week
    session.execute(delete(JoinCode).where(JoinCode.until <= ends))
    for device in session.scalars(select(Device).where(Device.ended_at.is_(None), Device.until <= ends)):
        device.ended_at = now


def team_codes(session: Session, school_class: SchoolClass, now: datetime) -> dict[int, str]:
    """The code of each team that is there, made where there is none that is good."""
    found = {c.team_id: c for c in _codes(session, school_class.id, now) if c.role == "team"}
    out = {}
    for team in school_class.present:
        code = found.get(team.id) or make_code(session, "team", now, school_class.id, team_id=team.id)
        out[team.id] = code.code
    return out


def good_team_codes(session: Session, class_id: int, now: datetime) -> dict[int, str]:
    """The codes of the teams that have one which is good."""
    return {c.team_id: c.code for c in _codes(session, class_id, now) if c.role == "team" and c.team_id}


def board_code(session: Session, class_id: int, now: datetime) -> str:
    found = [c for c in _codes(session, class_id, now) if c.role == "board"]
    return (found[0] if found else make_code(session, "board", now, class_id)).code


@dataclass(frozen=True)
class StationCode:
    """A station of a challenge whose test is on, and the code of the device that stands there."""

    challenge: Challenge
    station: int
    code: str


def station_codes(session: Session, class_id: int, now: datetime) -> list[StationCode]:
    """One code for each station of every test of turns or races that is not closed."""
    going = (
        select(Challenge)
        .join(Run)
        .where(Challenge.class_id == class_id, Run.closed_at.is_(None))
        .order_by(Challenge.position, Challenge.id)
        .distinct()
    )
    found = {(c.challenge_id, c.station): c for c in _codes(session, class_id, now) if c.role == "station"}
    out = []
    for challenge in session.scalars(going):
        if get_kind(challenge.kind).test.shape == "marks":
            continue
        for station in range(1, timing_of(session, challenge, brief_of(challenge)).stations + 1):
            code = found.get((challenge.id, station)) or make_code(
                session, "station", now, class_id, challenge_id=challenge.id, station=station
            )
            out.append(StationCode(challenge, station, code.code))
    return out


def make_code(
    session: Session,
    role: Joins,
    now: datetime,
    class_id: int | None,
    *,
    team_id: int | None = None,
    challenge_id: int | None = None,
    station: int = 0,
    week: bool = False,
) -> JoinCode:
    """A new code. What serves once is good for a moment, the rest as long as the lesson, or for the week."""
    session.execute(delete(JoinCode).where(JoinCode.until <= now))
    taken = set(session.scalars(select(JoinCode.code)))
    once = role in ONCE
    row = JoinCode(
        code=door.new_code(taken, door.LONG if once else door.SHORT),
        role=role,
        class_id=class_id,
        team_id=team_id,
        challenge_id=challenge_id,
        station=station,
        until=now + door.MOMENT if once else _good_until(session, class_id, now, week=week),
    )
    session.add(row)
    session.flush()
    return row


def _codes(session: Session, class_id: int, now: datetime) -> Sequence[JoinCode]:
    """The codes of a class that are good."""
    asked = select(JoinCode).where(JoinCode.class_id == class_id, JoinCode.until > now)
    return session.scalars(asked.order_by(JoinCode.until.desc(), JoinCode.code)).all()


def new_codes(session: Session, class_id: int, now: datetime, *, week: bool = False) -> None:
    """Others for all teams, the board and the stations of a class; what came in by the old ones stays in.

    With `week` they are good for a week, and so is what is in.
    """
    session.execute(delete(JoinCode).where(JoinCode.class_id == class_id, JoinCode.role.not_in(ONCE)))
    school_class = session.get(SchoolClass, class_id)
    if school_class is None:
        raise Gone("This class is no longer there.")
    for team in school_class.present:
        make_code(session, "team", now, class_id, team_id=team.id, week=week)
    make_code(session, "board", now, class_id, week=week)
    if week:
        for device in devices_in(session, now):
            if device.class_id == class_id:
                device.until = now + door.WEEK


def join(session: Session, typed: str, now: datetime) -> tuple[Device, str]:
    """Let a device in by a code: its row, and the secret it is known by. Refused in words for any other."""
    code = door.heard(typed)
    wrong = door.never_in_one(code)
    if wrong:
        raise Refused(f"No code has “{wrong}” in it. Is it another letter?", "code")
    row = session.get(JoinCode, code)
    if row is None or row.until <= now:
        if row is not None:
            session.delete(row)
        raise Refused("This is no code of today. Look at the board, or ask for a new one.", "code")
    secret = secrets.token_urlsafe(24)
    device = Device(
        role=row.role,
        number=_next_number(session, row),
        class_id=row.class_id,
        team_id=row.team_id,
        challenge_id=row.challenge_id,
        station=row.station,
        secret_hash=_hash(secret),
        joined_at=now,
        until=_let_in_until(session, row, now),
    )
    if row.role in ONCE:
        session.delete(row)
    _make_room(session, row, now)
    session.execute(delete(Device).where(Device.ended_at < now - FORGOTTEN))
    session.add(device)
    session.flush()
    return device, secret


def _let_in_until(session: Session, row: JoinCode, now: datetime) -> datetime:
    """As long as the code; by a code for a moment, as long as the lesson or the day."""
    if row.role not in ONCE:
        return row.until
    return _good_until(session, row.class_id, now)


def _good_until(session: Session, class_id: int | None, now: datetime, *, week: bool = False) -> datetime:
    """When it ends: with the lesson of the class that is on or about to begin, with the day, or in a week."""
    bell = None
    here = moments.now()  # lessons go by the record's clock; what ends here by one that never steps
    for ahead in (timedelta(), SOON) if class_id is not None else ():
        found = bell_of(session, class_id or 0, here + ahead)
        if bell is None and found is not None:
            bell = now + ahead + timedelta(seconds=found[0].until_bell_s)
    return door.good_until(now.astimezone(ZoneInfo(computer_zone())), bell, week=week)


def _next_number(session: Session, row: JoinCode) -> int:
    """Counted among devices of its kind, and of its team."""
    same = select(func.max(Device.number)).where(Device.role == row.role)
    if row.team_id is not None:
        same = same.where(Device.team_id == row.team_id)
    return (session.scalar(same) or 0) + 1


def _make_room(session: Session, row: JoinCode, now: datetime) -> None:
    """Where too many are in by this code already, the one that came first goes."""
    same = select(Device).where(
        Device.ended_at.is_(None), Device.role == row.role, Device.class_id == row.class_id
    )
    if row.team_id is not None:
        same = same.where(Device.team_id == row.team_id)
    found = session.scalars(same.order_by(Device.id)).all()
    most = MOST_OF_TEAM if row.team_id is not None else MOST_IN
    for device in found[: max(len(found) - most + 1, 0)]:
        device.ended_at = now


def known(session: Session, device_id: int, secret: str) -> Device | None:
    """The device with this number and secret, in or out; None for anybody else's."""
    found = session.get(Device, device_id, options=[joinedload(Device.team)])
    if found is None or not hmac.compare_digest(found.secret_hash, _hash(secret)):
        return None
    return found


def as_in(device: Device) -> DeviceIn:
    return DeviceIn(
        id=device.id,
        role=device.role,
        name=name_of(device),
        class_id=device.class_id,
        team_id=device.team_id,
        challenge_id=device.challenge_id,
        station=device.station,
    )


def name_of(device: Device) -> str:
    """As it is called where something says who brought it: “team A”, “helper 2”."""
    if device.role == "team":
        return f"team {device.team.letter}" if device.team else "team"
    return f"{device.role} {device.number}"


def why_out(device: Device, now: datetime) -> str:
    """A sentence for a device that is no longer in; "" while it is."""
    if device.ended_at is not None:
        return "This device was sent away, or the door was closed."
    if now >= device.until:
        return "The lesson is over, and with it the code that let this device in."
    if device.role == "team" and (device.team is None or device.team.left_at is not None):
        return "This team is no longer on the list. Join with the code of your new team."
    return ""


def devices_in(session: Session, now: datetime) -> Sequence[Device]:
    """Those that are in, by class, kind and number."""
    asked = (
        select(Device)
        .where(Device.ended_at.is_(None), Device.until > now)
        .options(joinedload(Device.team))
        .order_by(Device.class_id, Device.role, Device.team_id, Device.number)
    )
    return session.scalars(asked).all()


def send_away(session: Session, device_id: int, now: datetime) -> Device:
    found = session.get(Device, device_id)
    if found is None:
        raise Gone("This device is no longer listed.")
    found.ended_at = found.ended_at or now
    return found


def _hash(secret: str) -> str:
    return hashlib.sha256(secret.encode()).hexdigest()
