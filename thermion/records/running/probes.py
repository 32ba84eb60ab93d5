"""Probes that send values: their keys, their channels, and what of it stands in a run.

A value is on the disk before its sender is answered, and the same value sent again changes nothing.
"""

from __future__ import annotations

import hashlib
import secrets
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from datetime import UTC, datetime, timedelta
from statistics import fmean, median

from sqlalchemy import bindparam, delete, select
from sqlalchemy.orm import Session, joinedload, selectinload

from thermion.core.judging.probing import LATE_S, Measured, SentValue
from thermion.records import moments
from thermion.records.errors import Refused
from thermion.records.inserting import insert_new
from thermion.records.running.placed_probes import STORED, Places, known_readings, stand, to_run
from thermion.records.tables import Probe, ProbeChannel, ProbeValue

MOST_PROBES, MOST_CHANNELS = 40, 64
AHEAD, OLDEST = timedelta(seconds=30), timedelta(hours=24)
KEPT = timedelta(minutes=30)  # of values that stand in no run
FRESH = timedelta(seconds=30)  # values that a check in one glass counts
AGREE_K = 5.0  # probes that differ by more than this do not stand in one glass


@dataclass
class Received:
    """What became of a pack: values stored, values that were there already, and what was refused."""

    stored: int = 0
    repeated: int = 0
    refused: list[tuple[str, str]] = field(default_factory=list)  # name, why


def make_probe(session: Session, name: str, class_id: int | None = None) -> tuple[Probe, str]:
    """A new probe of a class and its key, which is told once and kept nowhere."""
    said = " ".join(name.split())[:40]
    if not said:
        raise Refused("Give the probe a name, e.g. board at the window.", "name")
    there = probes_of(session)
    if any(p.name.casefold() == said.casefold() for p in there):
        raise Refused("There is a probe of that name. Give this one another.", "name")
    if len(there) >= MOST_PROBES:
        raise Refused(f"There are at most {MOST_PROBES} probes.", "name")
    key = secrets.token_urlsafe(18)
    probe = Probe(name=said, key_hash=_hashed(key), made_at=moments.now(), class_id=class_id)
    session.add(probe)
    session.flush()
    return probe, key


# asked with every pack, and so built once
_BY_KEY = select(Probe).where(Probe.key_hash == bindparam("hashed")).options(joinedload(Probe.channels))


def _hashed(key: str) -> str:
    return hashlib.sha256(key.encode()).hexdigest()


def probe_of_key(session: Session, key: str) -> Probe | None:
    """The probe that holds a key; None for an unknown or revoked one."""
    rows = session.scalars(_BY_KEY, {"hashed": _hashed(key)}).unique().all()
    return None if not rows or rows[0].revoked_at is not None else rows[0]


def probes_of(session: Session, class_id: int | None = None) -> Sequence[Probe]:
    """Every probe whose key was not revoked; with a class, those that may stand in its runs."""
    found = select(Probe).where(Probe.revoked_at.is_(None))
    if class_id is not None:
        found = found.where((Probe.class_id == class_id) | Probe.class_id.is_(None))
    return session.scalars(found.order_by(Probe.id).options(selectinload(Probe.channels))).all()


def revoke(session: Session, probe_id: int) -> None:
    """Its key opens nothing any more; what it has read stays in the runs."""
    probe = session.get(Probe, probe_id)
    if probe is not None:
        probe.revoked_at = moments.now()
        for channel in probe.channels:
            stand(channel, None)


def receive(
    session: Session, probe: Probe, measured: Sequence[Measured], now: datetime | None = None
) -> Received:
    """Store a pack's values: each once, each at its own time; what stands in a run goes there too."""
    arrived = now or moments.now()
    out = Received()
    channels = {c.name: c for c in probe.channels}
    fresh: dict[int, list[tuple[datetime, float]]] = {}
    for m in _without_itself(probe, measured, out):
        at, why = _moment(m, arrived)
        channel = channels.get(m.name)
        if not why and channel is None and len(channels) >= MOST_CHANNELS:
            why = f"one probe has at most {MOST_CHANNELS} channels"
        if not why and channel is not None and STORED[channel.unit] != m.stored_unit:
            why = f"it was sent in {channel.unit} before"
        if why:
            out.refused.append((m.name, why))
            continue
        if channel is None:
            channel = channels[m.name] = ProbeChannel(name=m.name, unit=m.unit)
            probe.channels.append(channel)
            session.flush()
        fresh.setdefault(channel.id, []).append((at, m.value))
        by_id, places = {c.id: c for c in channels.values()}, Places(session)
    for channel_id, new in _new(session, fresh).items():
        _take(session, by_id[channel_id], new, arrived, places, out)
        out.repeated += len(fresh[channel_id]) - len(new)
    session.execute(
        delete(ProbeValue).where(ProbeValue.channel_id.in_(fresh), ProbeValue.at < arrived - KEPT)
    )
    return out


def _take(
    session: Session,
    channel: ProbeChannel,
    values: Sequence[tuple[datetime, float]],
    arrived: datetime,
    places: Places,
    out: Received,
) -> None:
    """Store a channel's values that no pack of the last half hour had.

    Those of an older pack that came before stand in the run by their names. An old value that stands in
    no run is kept by nobody, and not said to be stored.
    """
    before = known_readings(session, channel, [at for at, _ in values])
    new = [(at, value) for at, value in values if at not in before]
    out.repeated += len(values) - len(new)
    if not new:
        return
    if channel.last_at is None or new[-1][0] > channel.last_at:
        channel.last_at, channel.last_value = new[-1]
    channel.heard_at = arrived
    channel.prompt = channel.prompt or (arrived - new[-1][0]).total_seconds() < LATE_S
    made: set[datetime] = set()
    if channel.prompt:  # else its clock is wrong, and nobody knows when it read
        made = to_run(session, channel, new, arrived, places)
    fresh = [(at, value) for at, value in new if at >= arrived - KEPT]
    if fresh:
        insert_new(
            session, ProbeValue, [{"channel_id": channel.id, "at": at, "value": value} for at, value in fresh]
        )
    lost = sum(at < arrived - KEPT and at not in made for at, _ in new)
    out.stored += len(new) - lost
    if lost:
        out.refused.append((channel.name, f"{lost} older than half an hour, of no time of an open test"))


def _without_itself(probe: Probe, measured: Sequence[Measured], out: Received) -> list[Measured]:
    """What is left after what a probe says of its battery [%] and its signal [dBm] was kept."""
    for said in measured:
        if said.stored_unit == "battery":
            probe.battery = min(max(said.value, 0.0), 100.0)
        elif said.stored_unit == "signal":
            probe.signal = said.value
    left = [m for m in measured if m.stored_unit not in ("battery", "signal")]
    out.stored += len(measured) - len(left)
    return left


def _moment(m: Measured, arrived: datetime) -> tuple[datetime, str]:
    """When a value was taken, and why it cannot be believed."""
    if m.time_s is None:
        ago = timedelta(seconds=max(min(m.ago_s, 1e7), -1e7))
        at = arrived - ago
    else:
        try:
            at = datetime.fromtimestamp(m.time_s, UTC)
        except (OverflowError, ValueError, OSError):
            return arrived, "its time is none"
    at = at.replace(microsecond=at.microsecond // 1000 * 1000)
    if at > arrived + AHEAD:
        return (
            at,
            f"its time is {(at - arrived).total_seconds():.0f} s in the future: send no time, or set its clock",
        )
    if at < arrived - OLDEST:
        return at, "its time is more than a day ago: send no time, or set its clock"
    return min(at, arrived), ""


def _new(
    session: Session, fresh: Mapping[int, Sequence[tuple[datetime, float]]]
) -> dict[int, list[tuple[datetime, float]]]:
    """Of each channel those not stored before, in order of time; of two at one moment the last."""
    if not fresh:
        return {}
    moments_sent = [at for values in fresh.values() for at, _ in values]
    there = session.execute(
        select(ProbeValue.channel_id, ProbeValue.at).where(
            ProbeValue.channel_id.in_(fresh),
            ProbeValue.at >= min(moments_sent),
            ProbeValue.at <= max(moments_sent),
        )
    )
    known = {(channel_id, at) for channel_id, at in there}
    return {
        channel_id: [
            (at, value) for at, value in sorted(dict(values).items()) if (channel_id, at) not in known
        ]
        for channel_id, values in fresh.items()
    }


def latest(session: Session, now: datetime | None = None) -> dict[int, SentValue]:
    """What every channel sent within the last ten minutes, with its offset taken off."""
    at = now or moments.now()
    channels = {c.id: c for c in session.scalars(select(ProbeChannel))}
    found: dict[int, list[tuple[float, float]]] = {}
    rows = select(ProbeValue).where(ProbeValue.at >= at - timedelta(minutes=10)).order_by(ProbeValue.at)
    for row in session.scalars(rows):
        value = row.value - channels[row.channel_id].offset
        found.setdefault(row.channel_id, []).append((row.at.timestamp(), value))
    return {
        c: SentValue([t for t, _ in v], [x for _, x in v], at.timestamp(), _late(channels[c]))
        for c, v in found.items()
    }


def _late(channel: ProbeChannel) -> float:
    """How long after its own time the latest value came, of a channel whose clock was never right."""
    if channel.prompt or channel.heard_at is None or channel.last_at is None:
        return 0.0
    return (channel.heard_at - channel.last_at).total_seconds()


def check_in_one_glass(session: Session, now: datetime | None = None) -> int:
    """Set the offsets of all probes that send, so that in one glass all show the same; how many were set.

    Refused when fewer than two send, or when they differ by more than probes in one glass can.
    """
    at = now or moments.now()
    channels = {c.id: c for c in session.scalars(select(ProbeChannel))}
    rows = select(ProbeValue).where(ProbeValue.at >= at - FRESH)
    values: dict[int, list[float]] = {}
    for row in session.scalars(rows):
        if STORED[channels[row.channel_id].unit] == "degC":
            values.setdefault(row.channel_id, []).append(row.value)
    means = {c: fmean(v) for c, v in values.items()}
    if len(means) < 2:
        raise Refused("At least two probes have to send while they stand in one glass.", "glass")
    middle = median(means.values())
    far = [channels[c].name for c, m in means.items() if abs(m - middle) > AGREE_K]
    if far:
        raise Refused(f"Not all stand in the same glass: {', '.join(far[:4])} is far off.", "glass")
    for channel_id, mean in means.items():
        channels[channel_id].offset, channels[channel_id].checked_at = mean - middle, at
    return len(means)
