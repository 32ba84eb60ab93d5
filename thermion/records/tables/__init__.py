"""The tables. Quantities are SI (°C for temperatures, minutes where a name says so), times UTC."""

from __future__ import annotations

from thermion.records.tables.base import Base
from thermion.records.tables.briefs import (
    Challenge,
    ChallengeChoice,
    ChallengeSetting,
    Mark,
    OfferRow,
    RungRow,
    ShelfBrief,
    TeamRung,
    TermRow,
)
from thermion.records.tables.builds import Build, FactorRow, Idea, Judged, PartRow, Taken, Version
from thermion.records.tables.classes import OwnCaution, OwnMaterial, OwnWord, SchoolClass, Team
from thermion.records.tables.devices import Device, Doorway, JoinCode
from thermion.records.tables.kept import Attachment, Carried, Conclusion, Repeats
from thermion.records.tables.machines import LoggerLayout, Probe, ProbeChannel, ProbeValue
from thermion.records.tables.planning import (
    BoardRow,
    Conducted,
    KitItem,
    LessonRow,
    RigReading,
    StepRow,
    StockMove,
    TimingRow,
    Understood,
)
from thermion.records.tables.record import Deleted, House, Receipt
from thermion.records.tables.runs import (
    CONTROL,
    AttemptRow,
    Entry,
    Reading,
    Run,
    RunCondition,
    RunPhase,
    SetApart,
)

__all__ = [
    "CONTROL",
    "Attachment",
    "AttemptRow",
    "Base",
    "BoardRow",
    "Build",
    "Carried",
    "Challenge",
    "ChallengeChoice",
    "ChallengeSetting",
    "Conclusion",
    "Conducted",
    "Deleted",
    "Device",
    "Doorway",
    "Entry",
    "FactorRow",
    "House",
    "Idea",
    "JoinCode",
    "Judged",
    "KitItem",
    "LessonRow",
    "LoggerLayout",
    "Mark",
    "OfferRow",
    "OwnCaution",
    "OwnMaterial",
    "OwnWord",
    "PartRow",
    "Probe",
    "ProbeChannel",
    "ProbeValue",
    "Reading",
    "Receipt",
    "Repeats",
    "RigReading",
    "Run",
    "RunCondition",
    "RunPhase",
    "RungRow",
    "SchoolClass",
    "SetApart",
    "ShelfBrief",
    "StepRow",
    "StockMove",
    "Taken",
    "Team",
    "TeamRung",
    "TermRow",
    "TimingRow",
    "Understood",
    "Version",
]
