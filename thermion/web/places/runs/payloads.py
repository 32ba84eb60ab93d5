"""What the pages of a run and the server say to each other."""

from __future__ import annotations

from pydantic import Field

from thermion.records.running.readings import ClashWay
from thermion.web.payloads import Answer, ClientId, Moment, RowId, Sent, Typed

# the grid


class CellShown(Answer):
    """A reading as the grid shows it, and where: row, phase and mark."""

    entry: int
    phase: str
    mark: str
    id: int
    text: str
    time: str
    timed: bool
    question: str
    suggestion: str
    earlier: int
    source: str


class RowShown(Answer):
    """A row of the grid: a build, one of its devices, the control, or the air."""

    id: int
    name: str
    letter: str
    colour: str
    outline: str
    device: str
    scaled: bool
    control: bool


class MarkShown(Answer):
    """A mark [s] with its key, what it is called, and until when it is the due one [s]."""

    mark: float
    key: str
    label: str
    until: float


class PhaseShown(Answer):
    key: str
    label: str
    begin: str
    started: Moment | None
    slots: list[MarkShown]


class RunState(Answer):
    """The whole run for the grid: rows, clocks with their marks, cells."""

    now: Moment
    speed: float
    rehearsal: bool
    paper: bool  # every mark is open, and none is due
    closed: bool
    closed_at: Moment | None
    before: str  # what is said before the clock starts
    words: list[str]
    rows: list[RowShown]
    phases: list[PhaseShown]
    cells: list[CellShown]


class GridPage(Answer):
    """What the script of the grid begins with."""

    state: RunState
    where: str
    board: bool
    urls: dict[str, str]
    words: dict[str, str | list[str]]


class ReadingSent(Sent):
    """One reading from the grid; `at` is a time given by hand (m:ss)."""

    entry: RowId
    phase: str = Field(max_length=16)
    mark: float
    typed: Typed = ""
    client_id: ClientId
    entered_at: Moment
    supersedes: RowId | None = None
    at: str | None = Field(default=None, max_length=20)
    keep: bool = False
    after: str = Field(default="", max_length=64)
    way: ClashWay = ""


class ReadingSaved(Answer):
    cell: CellShown
    note: str = ""
    repeated: bool = False


class StartSent(Sent):
    phase: str = Field(default="", max_length=16)


class ProbeSent(Sent):
    """A row's stand-in probe is to be read at a mark."""

    entry: RowId
    phase: str = Field(max_length=16)
    mark: float
    client_id: ClientId


class Earlier(Answer):
    """A value that stood in a cell, and when it came there."""

    text: str
    time: str
    entered: str
    source: str
    by: str


class History(Answer):
    rows: list[Earlier]


# a station


class Pulse(Answer):
    """A word that differs as soon as anything was noted."""

    pulse: str


# a race with one probe


class ProbeShown(Answer):
    time: str
    text: str


class RaceState(Answer):
    """The race that is on: its key, when it began, what the probe showed."""

    key: str
    started: Moment
    readings: list[ProbeShown]


class RacePage(Answer):
    """What the script of a race begins with; `probed` when a probe reads by itself."""

    now: Moment
    where: str
    who: str
    race: RaceState | None
    probed: bool
    urls: dict[str, str]
    words: dict[str, str | list[str]]


class RaceSent(Sent):
    client_id: ClientId
    pressed_at: Moment


class RaceStart(RaceSent):
    entry: RowId
    typed: Typed = ""
    sure: bool = False


class RaceProbe(RaceSent):
    typed: Typed = ""


class RaceStop(RaceSent):
    key: str = Field(default="", max_length=16)
    at_target: bool = False
    seen: list[str] = Field(default_factory=list, max_length=40)
    note: str = Field(default="", max_length=200)


class FalseStart(RaceSent):
    key: str = Field(default="", max_length=16)


class RaceAnswer(Answer):
    race: RaceState | None = None
    chart: str = ""
    note: str = ""
