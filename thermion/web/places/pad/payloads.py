"""What the reading page of a pad and the server say to each other."""

from __future__ import annotations

from pydantic import Field

from thermion.records.running.readings import ClashWay
from thermion.web.payloads import Answer, ClientId, Moment, RowId, Sent, Typed


class PadOffer(Answer):
    """A material on offer, and the most units of it that this team may use."""

    material: str
    limit: float | None


class PadPart(Answer):
    """A part of the team's newest version."""

    place: str
    material: str
    form: str
    units: float


class PadNow(Answer):
    """What is on for a team and what it does next; numbers are those of the addresses, 0 for none."""

    now: Moment
    team: str
    team_id: int
    challenge: int
    kind: str
    age: str
    temp_unit: str
    decimal: str
    does: str
    phase: str
    version: int
    number: int
    revision: int
    state: str
    remark: str
    ideas: int
    run: int
    row: int  # whose turn it is at a station
    tried: int  # attempts of that row so far
    choices: dict[str, str]
    likely: str  # a prediction in the middle of what can be
    offers: list[PadOffer]
    conditions: dict[str, float]
    parts: list[PadPart]
    factors: dict[str, float]  # in stored units


class PadCell(Answer):
    """The team's value at a mark, and the question about it."""

    row: int
    phase: str
    mark: str
    id: int
    text: str
    question: str
    suggestion: str


class PadMark(Answer):
    """A mark [s], its key, its minute, and until when it is due [s]."""

    mark: float
    key: str
    label: str
    until: float


class PadPhase(Answer):
    key: str
    label: str
    started: Moment | None
    marks: list[PadMark]


class PadRow(Answer):
    """One of the team's rows: its build, or one of its devices, with what it is called."""

    id: int
    device: str
    name: str


class PadRun(Answer):
    """The team's part of a test: its rows, the clocks with their marks, its values."""

    now: Moment
    speed: float
    closed: bool
    rows: list[PadRow]
    phases: list[PadPhase]
    cells: list[PadCell]


class PadPage(Answer):
    """What the script of the page begins with."""

    run: PadRun
    where: str
    unit: str
    choices: list[str]  # the words of a scale, from 0
    urls: dict[str, str]
    words: dict[str, str]


class PadReading(Sent):
    """One value of the team's own build."""

    row: RowId
    phase: str = Field(max_length=16)
    mark: float
    typed: Typed = ""
    client_id: ClientId
    entered_at: Moment
    supersedes: RowId | None = None
    keep: bool = False
    after: str = Field(default="", max_length=64)
    way: ClashWay = ""


class PadSaved(Answer):
    cell: PadCell
