"""What probes, their page and those who follow a run are told."""

from __future__ import annotations

from datetime import datetime

from pydantic import Field, RootModel

from thermion.web.payloads import Answer, RowId, Sent


class SenmlRecord(Sent):
    """A measurement as RFC 8428 has it, or the base fields for those that follow; others are not looked at.

    `n` name, `u` unit (Cel, K, g, kg, l, m3, m, s, count; %EL and dBm of the probe itself), `v` value, `t` time:
    seconds before now where it is negative, since 1970 else. `bn`, `bu`, `bv`, `bt`: what all names begin with,
    the unit of those without, what is added to values and times.
    """

    n: str | None = None
    u: str | None = None
    v: float | None = None
    t: float | None = None
    bn: str | None = None
    bu: str | None = None
    bv: float | None = None
    bt: float | None = None


class SenmlPack(RootModel[list[SenmlRecord]]):
    """Records in the order in which their base fields hold; at most 2,000."""


class Refusal(Answer):
    """A record that was not stored, and why."""

    name: str
    why: str


class PackStored(Answer):
    """What became of a pack of records; a record sent again counts as repeated and changes nothing."""

    stored: int
    repeated: int = 0
    refused: list[Refusal] = []  # noqa: RUF012 - pydantic copies it


class ChannelShown(Answer):
    """A channel now: its value and age in words, what is wrong with it, what its probe says
    of itself (battery, signal), the spot it stands in.
    """

    id: int
    value: str
    age: str
    trouble: str = ""
    itself: str = ""
    spot: str = ""


class ProbesShown(Answer):
    """All channels, and what the desk is to be told of those that stand in this run."""

    channels: list[ChannelShown]
    lines: list[str]


class Putting(Sent):
    """A channel is put into a spot of the run (`row-12`, `read-rise_m`); into none with an empty one."""

    channel: RowId
    spot: str = Field(max_length=40)


class Zeroing(Sent):
    """What a machine at the station shows now is to count as nothing."""

    channel: RowId


class GaugeShown(Answer):
    """A machine at a station: the field it fills, the number for it as typed, what is said of it.

    `zero` when it can be set to zero, `text` empty while it has nothing to fill in.
    """

    key: str
    channel: int
    said: str
    text: str = ""
    zero: bool = False


class StationShown(Answer):
    gauges: list[GaugeShown]


class Followed(Answer):
    """A reading as it is followed from outside. `value` is in `unit`, `taken_s` since the phase began."""

    id: int
    row: str
    phase: str
    mark_s: float | None
    taken_s: float
    value: float | None
    unit: str
    source: str
    replaces: int | None


class RunFollowed(Answer):
    """A run's readings, those after `since`; `last` is what to ask for next time."""

    run: int
    challenge: str
    started: dict[str, datetime]
    closed: bool
    last: int
    readings: list[Followed] = Field(default=[])
