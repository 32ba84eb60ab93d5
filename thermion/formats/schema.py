"""What a challenge file holds: the schema that `exchange` writes and reads."""

from __future__ import annotations

from datetime import datetime
from typing import Literal

from pydantic import Base64Bytes, BaseModel, ConfigDict, Field

from thermion.core.physics.units import TempUnit
from thermion.core.teams import COLOURS, SHAPES

FORMAT: Literal["thermion.challenge"] = "thermion.challenge"
VERSION = 5


class _Item(BaseModel):
    model_config = ConfigDict(extra="forbid", from_attributes=True, allow_inf_nan=False, defer_build=True)


class TeamItem(_Item):
    name: str = Field(min_length=1, max_length=40)
    letter: str = Field(min_length=1, max_length=1)
    shape: Literal[SHAPES]  # type: ignore[valid-type]
    colour: Literal[COLOURS]  # type: ignore[valid-type]


class ClassItem(_Item):
    name: str = Field(min_length=1, max_length=80)
    temp_unit: TempUnit
    decimal: Literal["point", "comma"]
    zone: str
    teams: list[TeamItem] = Field(min_length=1)


class SettingItem(_Item):
    key: str
    value: float
    tolerance: float = 0.0


class ChoiceItem(_Item):
    key: str
    value: str


class MarkItem(_Item):
    phase: str
    time_s: float = Field(ge=0)


class OfferItem(_Item):
    material: str
    limit_units: float | None
    points: float


class TermItem(_Item):
    metric: str
    unit: str
    weight: float
    divisor: float = 1.0
    cap: float | None = None


class PartItem(_Item):
    place: str
    material: str
    form: str
    units: float = Field(ge=0)
    reused: float = Field(default=0.0, ge=0)


class FactorItem(_Item):
    key: str
    value: float


class PictureItem(_Item):
    """A sketch or photograph of a version: JPEG, in base64."""

    width: int = Field(ge=1)
    height: int = Field(ge=1)
    data: Base64Bytes
    added_at: datetime


class VersionItem(_Item):
    """`idea` is the letter of the team whose idea helped."""

    number: int
    state: Literal["draft", "waiting", "signed", "issued"]
    prediction: float | None
    prediction_typed: str = Field(default="", max_length=40)
    change_note: str
    remark: str = ""
    created_at: datetime
    waiting_at: datetime | None
    signed_at: datetime | None
    issued_at: datetime | None
    parts: list[PartItem]
    factors: list[FactorItem]
    idea: str | None = None
    pictures: list[PictureItem] = []


class BuildItem(_Item):
    team: str
    versions: list[VersionItem]


class PhaseItem(_Item):
    phase: str
    started_at: datetime


class ConditionItem(_Item):
    key: str
    value: float
    how: Literal["", "measured", "estimated"] = ""


class EntryItem(_Item):
    """A row of a run; team and version are null for the air and the control."""

    team: str | None
    version: int | None
    device: str = ""
    offset_s: float = 0.0
    left: Literal["", "absent", "broken"] = ""


class StepItem(_Item):
    phase: str
    length_s: float = Field(ge=0)
    not_before: int = Field(default=0, ge=0)


class TimingItem(_Item):
    attempts: int = Field(ge=1)
    stations: int = Field(ge=1)
    readers: int = Field(ge=1)
    read_s: float
    set_up_s: float
    fit_s: float
    run_s: float
    reset_s: float
    stagger: bool


class RigItem(_Item):
    check_key: str
    spot: str
    value: float | None
    at: datetime


class ReadingItem(_Item):
    """`entry` and `supersedes` count from 0 within the run's lists."""

    entry: int
    phase: str
    mark_s: float | None
    time_s: float
    timed: bool
    value: float | None
    source: str
    question: str = ""
    suggestion: float | None = None
    entered_at: datetime
    arrived_at: datetime
    supersedes: int | None = None


class AttemptItem(_Item):
    """`entry` and `supersedes` count from 0 within the run's lists."""

    entry: int
    values: dict[str, float]
    seen: str = ""
    adjusted: str = ""
    note: str = ""
    free: bool = False
    withdrawn: bool = False
    race: str = ""
    at: datetime
    supersedes: int | None = None


class ApartItem(_Item):
    """What of a run does not count; `entry` counts from 0 within the run's rows."""

    entry: int | None = None
    phase: str = ""
    after_s: float | None = None
    why: str = Field(min_length=1, max_length=200)
    at: datetime
    undone_at: datetime | None = None


class RunItem(_Item):
    number: int
    speed: float
    rehearsal: bool
    seed: int
    note: str
    created_at: datetime
    closed_at: datetime | None
    phases: list[PhaseItem]
    conditions: list[ConditionItem]
    entries: list[EntryItem]
    readings: list[ReadingItem]
    attempts: list[AttemptItem] = []
    aparts: list[ApartItem] = []


class ConclusionItem(_Item):
    """What the class concluded from this challenge."""

    text: str = Field(min_length=1, max_length=300)
    at: datetime


class ChallengeItem(_Item):
    kind: str
    title: str = Field(min_length=1, max_length=80)
    story: str
    success: str
    age_band: str
    school: str
    credit: float
    created_at: datetime
    brief_done_at: datetime | None
    cautions_seen_at: datetime | None
    settings: list[SettingItem]
    choices: list[ChoiceItem]
    marks: list[MarkItem]
    offers: list[OfferItem]
    terms: list[TermItem]
    tools: str = "scissors"
    steps: list[StepItem] = []
    timing: TimingItem | None = None
    rig: list[RigItem] = []
    conclusions: list[ConclusionItem] = []
    builds: list[BuildItem]
    runs: list[RunItem]


class ChallengeFile(BaseModel):
    """The file. Temperatures in °C, other quantities SI, times UTC in ISO 8601."""

    model_config = ConfigDict(extra="forbid", defer_build=True)
    format: Literal["thermion.challenge"] = FORMAT
    version: int = VERSION
    school_class: ClassItem
    challenge: ChallengeItem
