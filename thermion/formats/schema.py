"""What a challenge file holds: the schema that `exchange` writes and reads.

Shapes only: what a value may be is looked at by `checking` when a file comes in, so that whatever is stored
can go out. Each item names the table whose columns keep it; a text that people typed freely is `Said` or
`Named`, so that a package can leave it out.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated, ClassVar, Literal

from pydantic import AfterValidator, AwareDatetime, Base64Bytes, BaseModel, BeforeValidator, ConfigDict, Field

from thermion.core.ages import AgeBand
from thermion.core.kinds import kind_now
from thermion.core.physics.units import TempUnit
from thermion.core.planning.pads import Pads
from thermion.core.planning.rungs import RungKey
from thermion.core.planning.week import step_now
from thermion.core.teams import COLOURS, SHAPES
from thermion.records import tables as stored
from thermion.records.tables.base import Base

FORMAT: Literal["thermion.challenge"] = "thermion.challenge"
VERSION = 13


def _printable(text: object) -> object:
    """A text that a page can show: without control characters but line ends."""
    if isinstance(text, str) and any(ord(ch) < 32 and ch not in "\n\r\t" for ch in text):
        raise ValueError("holds a control character")
    return text


@dataclass(frozen=True)
class Typed:
    """Marks what people typed freely; `instead` stands for it in a package without words, where a list of such
    things is empty."""

    instead: str = ""


Words = Annotated[str, BeforeValidator(_printable)]
Said = Annotated[Words, Typed()]
Named = Annotated[Words, Field(min_length=1), Typed("–")]
Key = Annotated[str, Field(max_length=32)]
KindKey = Annotated[Key, AfterValidator(kind_now)]
StepKey = Annotated[Key, AfterValidator(step_now)]
MetricKey = Annotated[str, Field(max_length=120), BeforeValidator(_printable)]
MaterialKey = Annotated[str, Field(max_length=320), BeforeValidator(_printable)]
Moment = AwareDatetime
Amount = Annotated[float, Field(ge=-1e9, le=1e9)]
AtLeast0 = Annotated[float, Field(ge=0, le=1e9)]
Number = Annotated[int, Field(ge=1, le=10_000)]
# Which device brought something, as `records.running.devices.name_of` calls it; "" where nobody noted it.
By = Annotated[
    str,
    Field(max_length=20, pattern=r"^((desk|probe|team)|(second desk|helper|station|board) \d+|team \S)?$"),
]
Row = Annotated[int, Field(ge=0, le=1_000_000)]


class _Item(BaseModel):
    model_config = ConfigDict(extra="forbid", from_attributes=True, allow_inf_nan=False, defer_build=True)
    table: ClassVar[type[Base] | None] = None  # where it is stored


class _Brought(_Item):
    by: By = ""


class TeamItem(_Item):
    table = stored.Team
    name: Named
    letter: str = Field(min_length=1, max_length=1)
    shape: Literal[SHAPES]  # type: ignore[valid-type]
    colour: Literal[COLOURS]  # type: ignore[valid-type]


class ClassItem(_Item):
    table = stored.SchoolClass
    name: Named
    temp_unit: TempUnit
    decimal: Literal["point", "comma"]
    zone: Words
    teams: list[TeamItem] = Field(min_length=1)


class SettingItem(_Item):
    table = stored.ChallengeSetting
    key: Key
    value: Amount
    tolerance: Amount = 0.0


class ChoiceItem(_Item):
    table = stored.ChallengeChoice
    key: Key
    value: Words


class MarkItem(_Item):
    table = stored.Mark
    phase: Key
    time_s: AtLeast0


class OfferItem(_Item):
    """`material`: a known key, or one of a class's own: like~unit~name, each quoted as in an address."""

    table = stored.OfferRow
    material: MaterialKey
    limit_units: Annotated[float, Field(ge=1, le=1e6)] | None
    points: AtLeast0


class TermItem(_Item):
    table = stored.TermRow
    metric: MetricKey
    unit: Key
    weight: Amount
    divisor: Amount = 1.0
    cap: Amount | None = None


class PartItem(_Item):
    table = stored.PartRow
    place: Key
    material: MaterialKey
    form: Key
    units: AtLeast0
    reused: AtLeast0 = 0.0
    idea: int = Field(default=0, ge=0, le=99)  # number of the team's idea it was taken from


class FactorItem(_Item):
    table = stored.FactorRow
    key: Key
    value: Amount


class PictureItem(_Brought):
    """A sketch or photograph of a version: JPEG, in base64."""

    table = stored.Attachment
    width: int = Field(ge=1, le=100_000)
    height: int = Field(ge=1, le=100_000)
    data: Base64Bytes
    added_at: Moment


class JudgedItem(_Brought):
    """What one judge said of a version by one of the class's own criteria, in the stored unit."""

    table = stored.Judged
    criterion: MetricKey
    judge: int = Field(ge=1, le=8)
    value: Amount | None
    at: Moment


class VersionItem(_Item):
    """`idea` is the letter of the team whose idea helped."""

    table = stored.Version
    number: Number
    state: Literal["draft", "waiting", "signed", "issued"]
    prediction: Amount | None
    prediction_typed: Said = ""
    change_note: Said
    worked: Said = ""
    failed: Said = ""
    remark: Said = ""
    answer: Said = ""
    created_at: Moment
    waiting_at: Moment | None
    signed_at: Moment | None
    issued_at: Moment | None
    waiting_by: By = ""
    signed_by: By = ""
    issued_by: By = ""
    parts: list[PartItem]
    factors: list[FactorItem]
    idea: Words | None = None
    pictures: Annotated[list[PictureItem], Typed()] = []
    judged: list[JudgedItem] = Field(default=[], max_length=1000)


class IdeaItem(_Brought):
    """A silent idea of a team: strokes (x, y in thousandths), materials by place, a photograph in base64."""

    table = stored.Idea
    team: Words
    number: int = Field(ge=1, le=99)
    strokes: list[Annotated[list[Annotated[int, Field(ge=-100, le=1100)]], Field(max_length=2000)]] = Field(
        max_length=400
    )
    picks: dict[Key, MaterialKey] = Field(max_length=40)
    why: Said = ""
    photograph: Base64Bytes | None = None
    at: Moment


class TakenItem(_Brought):
    """What a team wants to take from another, by their letters."""

    table = stored.Taken
    team: Words
    source: Words
    what: Said = ""
    at: Moment


class BuildItem(_Item):
    team: Words
    versions: list[VersionItem]


class PhaseItem(_Brought):
    table = stored.RunPhase
    phase: Key
    started_at: Moment


class ConditionItem(_Item):
    table = stored.RunCondition
    key: Key
    value: Amount
    how: Literal["", "measured", "estimated"] = ""


class EntryItem(_Item):
    """A row of a run; team and version are null for the air and the control."""

    table = stored.Entry
    team: Words | None
    version: int | None
    device: Key = ""
    offset_s: Amount = 0.0
    left: Literal["", "absent", "broken"] = ""
    probe_checked: bool | None = None


class StepItem(_Item):
    table = stored.StepRow
    phase: StepKey
    length_s: AtLeast0
    not_before: int = Field(default=0, ge=0, le=1000)


class TimingItem(_Item):
    table = stored.TimingRow
    attempts: int = Field(ge=1, le=1000)
    stations: int = Field(ge=1, le=1000)
    readers: int = Field(ge=1, le=1000)
    read_s: Amount
    set_up_s: Amount
    fit_s: Amount
    run_s: Amount
    reset_s: Amount
    stagger: bool
    in_row: bool = False


class RigItem(_Brought):
    table = stored.RigReading
    check_key: Key
    spot: Key
    value: Amount | None
    at: Moment


class ReadingItem(_Brought):
    """`entry` and `supersedes` count from 0 within the run's lists."""

    table = stored.Reading
    entry: Row
    phase: Key
    mark_s: Amount | None
    time_s: Amount
    timed: bool
    value: Amount | None
    source: Key
    question: Said = ""
    suggestion: Amount | None = None
    entered_at: Moment
    arrived_at: Moment
    supersedes: Row | None = None


class AttemptItem(_Brought):
    """`entry` and `supersedes` count from 0 within the run's lists."""

    table = stored.AttemptRow
    entry: Row
    values: dict[str, float]
    seen: str = ""
    adjusted: str = ""
    note: Said = ""
    free: bool = False
    withdrawn: bool = False
    race: Key = ""
    machine: str = Field(default="", max_length=100)
    at: Moment
    supersedes: Row | None = None


class ApartItem(_Brought):
    """What of a run does not count; `entry` counts from 0 within the run's rows."""

    table = stored.SetApart
    entry: Row | None = None
    phase: Key = ""
    after_s: Amount | None = None
    why: Named
    at: Moment
    undone_at: Moment | None = None


class RunItem(_Item):
    table = stored.Run
    number: Number
    speed: Amount
    rehearsal: bool
    paper: bool = False
    pads: Pads = ""
    seed: Annotated[int, Field(ge=0, le=2**53)]
    note: Said
    created_at: Moment
    closed_at: Moment | None
    phases: list[PhaseItem]
    conditions: list[ConditionItem]
    entries: list[EntryItem]
    readings: list[ReadingItem]
    attempts: list[AttemptItem] = []
    aparts: list[ApartItem] = []


class ConclusionItem(_Item):
    """What the class concluded from this challenge."""

    table = stored.Conclusion
    text: Named
    at: Moment


class UnderstoodItem(_Brought):
    """A mark on what a team has understood: of a shipped statement, or one whose key holds its words."""

    table = stored.Understood
    team: str = Field(min_length=1, max_length=1)
    key: str = Field(min_length=1, max_length=120)
    mark: Literal["", "seen", "not yet"]
    at: Moment


class RungItem(_Item):
    """An easier or harder brief within the challenge, and the letters of the teams that have it."""

    table = stored.RungRow
    key: RungKey
    share: float
    words: AgeBand
    aim: Said = ""
    teams: list[Annotated[str, Field(min_length=1, max_length=1)]] = []


class WordItem(_Item):
    """A class's own word for what is seen, with its question; `word` is its key in `seen` of attempts."""

    table = stored.OwnWord
    word: Key
    seen: Named
    ask: Said = ""


class ChallengeItem(_Item):
    table = stored.Challenge
    kind: KindKey
    title: Named
    story: Said
    success: Said
    age_band: AgeBand
    dial: Literal["", "6-8", "7-10", "9-12", "11-14", "13-16"] = ""
    lineage: str = Field(default="", max_length=16)  # the same in all copies of a brief
    school: Key
    credit: AtLeast0
    created_at: Moment
    brief_done_at: Moment | None
    cautions_seen_at: Moment | None
    settings: list[SettingItem]
    choices: list[ChoiceItem]
    marks: list[MarkItem]
    offers: list[OfferItem]
    terms: list[TermItem]
    tools: str = "scissors"
    steps: list[StepItem] = []
    timing: TimingItem | None = None
    rig: list[RigItem] = []
    conclusions: Annotated[list[ConclusionItem], Typed()] = []
    ideas: Annotated[list[IdeaItem], Typed()] = []
    taken: Annotated[list[TakenItem], Typed()] = []
    understood: Annotated[list[UnderstoodItem], Typed()] = []
    rungs: list[RungItem] = []
    own_words: list[WordItem] = []
    own_cautions: Annotated[list[Named], Typed()] = []
    builds: list[BuildItem]
    runs: list[RunItem]


class ChallengeFile(BaseModel):
    """The file. Temperatures in °C, other quantities SI, times UTC in ISO 8601."""

    model_config = ConfigDict(extra="forbid", defer_build=True)
    format: Literal["thermion.challenge"] = FORMAT
    version: int = VERSION
    school_class: ClassItem
    challenge: ChallengeItem
