"""Where a probe's channel stands in a run, and what its values become there.

In a test at marks it stands in a row and its values are that row's readings; in a race they are those of
the race that is on; at a station it is a machine that shows what is noted of an attempt.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Any

from sqlalchemy import or_, select
from sqlalchemy.orm import Session, selectinload

from thermion.core.judging.observed import Around, Quantity, observe, quantity_of
from thermion.core.judging.plausibility import expect
from thermion.core.judging.probing import SILENT_S
from thermion.core.kinds.testing import Gauge, Reads
from thermion.core.physics.units import stored_unit
from thermion.records import moments
from thermion.records.database import touches
from thermion.records.errors import Gone, Refused
from thermion.records.inserting import insert_new
from thermion.records.planning.briefs import Brief, brief_of, get_challenge
from thermion.records.running.attempts import all_attempts
from thermion.records.running.races import START, probe_read, race_on
from thermion.records.running.readings import slots_of
from thermion.records.tables import Entry, ProbeChannel, Reading, Run, RunPhase

STORED = {"Cel": "degC", "K": "degC", "g": "kilogram", "kg": "kilogram", "l": "meter**3", "m3": "meter**3"}
STORED |= {"m": "meter", "s": "second", "count": "count"}


@dataclass(frozen=True)
class RowSpot:
    """Where a channel can stand in a run: in a row, or at the station for what is read there.

    `key` names it (`row-12`, `read-rise_m`), `units` are the stored ones that can be read there.
    """

    key: str
    label: str
    entry: Entry | None
    units: frozenset[str]


def spots_of(run: Run, brief: Brief) -> list[RowSpot]:
    """Every place of a run that a channel can stand in."""
    test = brief.kind.test
    if test.shape == "marks":
        return [
            RowSpot(f"row-{e.id}", "", e, frozenset({stored_unit(brief.read_at(e.is_air).unit)}))
            for e in run.entries
        ]
    if test.shape == "races":
        return [RowSpot(f"read-{START.key}", "The race's probe", None, frozenset({stored_unit(START.unit)}))]
    return [
        RowSpot(f"read-{read.key}", read.label, None, frozenset(g.unit for g in read.gauges))
        for read in test.attempt_reads(brief.choices)
        if read.gauges
    ]


def spot_of(channel: ProbeChannel, run: Run) -> str:
    """The key of the spot of this run that a channel stands in; nothing when it stands elsewhere."""
    if channel.run_id == run.id:
        return f"read-{channel.read_key}"
    return f"row-{channel.entry_id}" if channel.entry_id in {e.id for e in run.entries} else ""


def stand(channel: ProbeChannel, spot: RowSpot | None, run: Run | None = None) -> None:
    """It stands there from now on, and nowhere else. A zero was of where it stood before; what all said
    in one glass stays."""
    if STORED[channel.unit] != "degC":
        channel.offset, channel.checked_at = 0.0, None
    channel.entry_id, channel.run_id, channel.read_key = None, None, ""
    if spot is not None and spot.entry is not None:
        channel.entry_id = spot.entry.id
    elif spot is not None and run is not None:
        channel.run_id, channel.read_key = run.id, spot.key.removeprefix("read-")


def put_in(session: Session, channel_id: int, key: str, run: Run, brief: Brief) -> None:
    """A channel stands in a spot of a run from now on, or in none; one that stood there makes room."""
    channel = _channel(session, channel_id)
    if not key:
        stand(channel, None)
        return
    spot = next((s for s in spots_of(run, brief) if s.key == key), None)
    if spot is None:
        raise Gone("This row is not in the run any more.")
    mine = get_challenge(session, run.challenge_id).class_id
    if channel.probe.class_id not in (None, mine):
        raise Refused(f"{channel.probe.name} belongs to another class. Make a key for this one.", "channel")
    channel.probe.class_id = mine
    if STORED[channel.unit] not in spot.units:
        raise Refused(f"{channel.name} sends {channel.unit}, which is not what is read there.", "channel")
    for other in channels_in(session, run):
        if spot_of(other, run) == key:
            stand(other, None)
    stand(channel, spot, run)


def _channel(session: Session, channel_id: int) -> ProbeChannel:
    channel = session.get(ProbeChannel, channel_id)
    if channel is None:
        raise Gone("This probe is no longer there.")
    return channel


def channels_in(session: Session, run: Run) -> Sequence[ProbeChannel]:
    """The channels that stand somewhere in a run."""
    rows = [e.id for e in run.entries]
    return session.scalars(
        select(ProbeChannel).where(or_(ProbeChannel.entry_id.in_(rows), ProbeChannel.run_id == run.id))
    ).all()


def is_probed(session: Session, run: Run) -> bool:
    """Whether a probe stands in a run."""
    return bool(channels_in(session, run))


def read_by_machine(session: Session, run: Run) -> set[str]:
    """The keys of what a machine reads at this run's station."""
    return {c.read_key for c in channels_in(session, run) if c.run_id == run.id}


# ---- rows and races: values become readings


@dataclass(kw_only=True)
class ChannelPlace:
    """Where a channel's values go: the row, its run and brief, what was read at its marks by phase (when, and
    what [stored unit]).

    Of a race `race` is its clock, and no other counts.
    """

    entry: Entry
    run: Run
    brief: Brief
    quantity: Quantity
    read: dict[str, dict[float, tuple[float, float | None]]]
    race: RunPhase | None = None


class Places:
    """Where the channels of one pack stand, each looked up once."""

    def __init__(self, session: Session) -> None:
        self._session = session
        self._found: dict[int, ChannelPlace | None] = {}
        self._runs: dict[int, tuple[Run, Brief]] = {}

    def of(self, channel: ProbeChannel) -> ChannelPlace | None:
        """None where it stands nowhere, its run is closed, or no race is on."""
        if channel.id not in self._found:
            self._found[channel.id] = (
                self._row(channel.entry_id) if channel.run_id is None else self._race(channel.run_id)
            )
        return self._found[channel.id]

    def _run(self, run_id: int) -> tuple[Run, Brief] | None:
        if run_id not in self._runs:
            several = (selectinload(Run.phases), selectinload(Run.entries))
            run = self._session.get(Run, run_id, options=several)
            if run is None:
                return None
            self._runs[run_id] = run, brief_of(get_challenge(self._session, run.challenge_id))
        return self._runs[run_id]

    def _row(self, entry_id: int | None) -> ChannelPlace | None:
        entry = None if entry_id is None else self._session.get(Entry, entry_id)
        found = None if entry is None else self._run(entry.run_id)
        if entry is None or found is None or found[0].closed_at is not None:
            return None
        run, brief = found
        read: dict[str, dict[float, tuple[float, float | None]]] = {}
        rows = (
            select(Reading.phase, Reading.mark_s, Reading.time_s, Reading.value)
            .where(Reading.entry_id == entry.id, Reading.mark_s.is_not(None))
            .order_by(Reading.id)
        )
        for phase, mark, time_s, value in self._session.execute(rows):
            read.setdefault(phase, {})[mark or 0.0] = (time_s, value)
        quantity = quantity_of(brief.read_at(entry.is_air), brief.values)
        return ChannelPlace(entry=entry, run=run, brief=brief, quantity=quantity, read=read)

    def _race(self, run_id: int) -> ChannelPlace | None:
        """The race that is on, if this run is held in races."""
        found = self._run(run_id)
        if found is None or found[0].closed_at is not None or found[1].kind.test.shape != "races":
            return None
        run, brief = found
        race = race_on(self._session, run)
        if race is None:
            return None
        clock = next(p for p in run.phases if p.phase == race.key)
        return ChannelPlace(
            entry=race.entry,
            run=run,
            brief=brief,
            quantity=quantity_of(probe_read(brief), brief.values),
            read={},
            race=clock,
        )


def to_run(
    session: Session,
    channel: ProbeChannel,
    values: Sequence[tuple[datetime, float]],
    arrived: datetime,
    places: Places,
) -> set[datetime]:
    """Readings of the row that a channel stands in: the first value after each mark is the mark's.

    The moments of those that became readings.
    """
    if channel.run_id is not None:
        touches(session, ("run", channel.run_id))  # a machine at its station shows it
    place = places.of(channel)
    if place is None or stored_unit(place.quantity.unit) != STORED[channel.unit]:
        return set()
    rows = [row for at, value in values if (row := _reading(channel, place, at, value, arrived))]
    if rows:
        touches(session, ("run", place.run.id))
        insert_new(session, Reading, rows)
        checked = channel.checked_at is not None
        place.entry.probe_checked = checked and place.entry.probe_checked is not False
    return {row["entered_at"] for row in rows}


def _name(channel: ProbeChannel, at: datetime) -> str:
    """What a channel's value is known by, wherever the channel stands when it comes again."""
    return f"probe-{channel.id}-{round(at.timestamp() * 1000)}"


def known_readings(session: Session, channel: ProbeChannel, moments: Sequence[datetime]) -> set[datetime]:
    """Those of a channel's moments whose values are readings already."""
    names = {_name(channel, at): at for at in moments}
    found = session.scalars(select(Reading.client_id).where(Reading.client_id.in_(names)))
    return {names[name] for name in found}


def _reading(
    channel: ProbeChannel, place: ChannelPlace, at: datetime, value: float, arrived: datetime
) -> dict[str, Any] | None:
    """A value as a reading of the phase that was on, at its mark if that is due and nobody read it."""
    clocks = place.run.phases if place.race is None else [place.race]
    phases = sorted((p for p in clocks if p.started_at <= at), key=lambda p: p.started_at)
    if not phases:
        return None
    phase = phases[-1]
    time_s = (at - phase.started_at).total_seconds() * place.run.speed - place.entry.offset_s
    seen = observe(value - channel.offset, place.quantity, place.brief.setting, source="probe")
    if time_s < 0 or seen.value is None:
        return None
    read = place.read.setdefault(phase.phase, {})
    marks = place.brief.marks.get(phase.phase, ()) if place.race is None else ()
    due = next(
        (
            s.mark_s
            for s in (slots_of(marks) if marks else ())
            if s.mark_s <= time_s < s.mark_s + _after(s.mark_s, marks) and s.mark_s not in read
        ),
        None,
    )
    question = ""
    if due is not None:
        question = _asked(place, seen.value, time_s, read)
        read[due] = (time_s, seen.value)
    return {
        "entry_id": place.entry.id,
        "phase": phase.phase,
        "mark_s": due,
        "time_s": time_s,
        "timed": True,
        "value": seen.value,
        "source": "probe",
        "question": question,
        "suggestion": None,
        "client_id": _name(channel, at),
        "entered_at": at,
        "arrived_at": arrived,
        "supersedes_id": None,
    }


def _asked(
    place: ChannelPlace, value: float, time_s: float, read: Mapping[float, tuple[float, float | None]]
) -> str:
    """What is asked of a probe's value at a mark, beside what stands at the marks before: it may have fallen
    out."""
    past = sorted((t, v) for t, v in read.values() if v is not None and t < time_s)
    moments = dict(past)
    if len(moments) < 2:
        return ""
    air = None if place.entry.is_air else place.brief.values.get("air_c")
    around = Around(expected=expect(list(moments), list(moments.values()), time_s), air_c=air)
    check = observe(value, place.quantity, place.brief.setting, source="probe", around=around).check
    return check.message if check.answer == "ask" else ""


def _after(mark_s: float, marks: Sequence[float]) -> float:
    """How long after a mark a value is still the mark's: half of the way to the next."""
    later = [m for m in marks if m > mark_s]
    return (later[0] - mark_s) / 2.0 if later else 60.0


# ---- a station: a machine shows what is noted of an attempt


@dataclass(frozen=True, kw_only=True)
class MachineShows:
    """What a machine at a station shows now.

    `since` its zero [stored unit of the channel] and `value` what is read by that [stored unit]; None
    where it must be set to zero first or sent nothing for `silent_s` (None: never).
    """

    channel: ProbeChannel
    read: Reads
    gauge: Gauge
    since: float | None = None
    value: float | None = None
    silent_s: float | None = None
    end: float | None = None  # of what can be, where the value may as well be there

    @property
    def to_zero(self) -> bool:
        return self.gauge.zeroed and self.silent_s == 0.0 and self.value is None


_PROBE = Gauge(label="probe", unit="degC", zeroed=False)


def at_station(session: Session, run: Run, brief: Brief, now: datetime | None = None) -> list[MachineShows]:
    """What every machine at this run's station shows; each zero holds until an attempt is noted."""
    at = now or moments.now()
    channels = [c for c in channels_in(session, run) if c.run_id == run.id]
    if not channels:
        return []
    reads = {r.key: r for r in brief.kind.test.attempt_reads(brief.choices)}
    newest = max((a.at for a in all_attempts(session, [run.id]) if a.supersedes_id is None), default=None)
    rig = {**brief.values, **{c.key: c.value for c in run.conditions}}
    found = []
    for channel in channels:
        read = reads.get(channel.read_key)
        gauges = (*read.gauges, _PROBE) if read is not None else ()
        gauge = next((g for g in gauges if g.unit == STORED[channel.unit]), None)
        if read is None or gauge is None:
            continue
        found.append(_shown(channel, read, gauge, newest, rig, at))
    return found


def _shown(
    channel: ProbeChannel,
    read: Reads,
    gauge: Gauge,
    newest: datetime | None,
    rig: dict[str, float],
    at: datetime,
) -> MachineShows:
    if channel.heard_at is None or channel.last_value is None:
        return MachineShows(channel=channel, read=read, gauge=gauge)
    silence = _silence(channel, at)
    if silence > timedelta(seconds=SILENT_S):
        return MachineShows(channel=channel, read=read, gauge=gauge, silent_s=silence.total_seconds())
    zeroed = channel.checked_at
    if gauge.zeroed and (zeroed is None or (newest is not None and zeroed <= newest)):
        return MachineShows(channel=channel, read=read, gauge=gauge, silent_s=0.0)
    since = channel.last_value - channel.offset
    value = gauge.of(since, rig)
    end = rig.get(read.limit)
    near = end if end is not None and gauge.may_be(value, end) else None
    return MachineShows(
        channel=channel,
        read=read,
        gauge=gauge,
        since=since,
        value=0.0 if -read.step_si < value < 0.0 else value,
        silent_s=0.0,
        end=near,
    )


def _silence(channel: ProbeChannel, at: datetime) -> timedelta:
    """Since its latest value was taken; of a channel whose clock was never right, since it came."""
    last = channel.last_at if channel.prompt else channel.heard_at
    return at - last if last is not None else timedelta.max


def set_to_zero(session: Session, channel_id: int, run: Run, now: datetime | None = None) -> None:
    """What a machine at this run's station shows now counts as nothing."""
    channel = _channel(session, channel_id)
    if channel.run_id != run.id or STORED[channel.unit] == "degC":
        raise Gone("This probe does not stand at the station any more.")
    at = now or moments.now()
    if channel.last_value is None or _silence(channel, at) > timedelta(seconds=SILENT_S):
        raise Refused(f"{channel.name} is silent: it cannot be set to zero now.", "channel")
    channel.offset, channel.checked_at = channel.last_value, at
