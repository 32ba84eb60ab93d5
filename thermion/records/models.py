"""The tables. Quantities are SI (°C for temperatures, minutes where a name says so), times UTC."""

from __future__ import annotations

from datetime import datetime

from sqlalchemy import JSON, CheckConstraint, ForeignKey, Index, String, UniqueConstraint, text
from sqlalchemy.orm import Mapped, mapped_column, relationship

from thermion.records.base import Base
from thermion.records.models_kept import Attachment, Carried, Conclusion
from thermion.records.models_planning import (
    KitItem,
    LessonRow,
    RigReading,
    StepRow,
    StockMove,
    TimingRow,
)

__all__ = [
    "Attachment", "AttemptRow", "Base", "Build", "Carried", "Challenge", "ChallengeChoice",
    "ChallengeSetting", "Conclusion", "Entry", "FactorRow",
    "KitItem", "LessonRow", "Mark", "OfferRow", "PartRow", "Reading", "Receipt", "RigReading",
    "Run", "RunCondition", "RunPhase", "SchoolClass", "StepRow", "StockMove", "Team", "TermRow",
    "TimingRow", "Version",
]  # fmt: skip

CONTROL = "control"  # the device of what stands untouched beside the builds


class SchoolClass(Base):
    """A class: how it writes numbers, and its teams. No person is ever named."""

    __tablename__ = "classes"
    id: Mapped[int] = mapped_column(primary_key=True)
    name: Mapped[str] = mapped_column(String(80))
    temp_unit: Mapped[str] = mapped_column(String(8), default="degC")
    decimal: Mapped[str] = mapped_column(String(8), default="point")
    zone: Mapped[str] = mapped_column(String(64), default="UTC")
    learners: Mapped[int] = mapped_column(default=24)
    latitude_deg: Mapped[float | None]
    longitude_deg: Mapped[float | None]
    altitude_m: Mapped[float] = mapped_column(default=0.0)
    created_at: Mapped[datetime]
    teams: Mapped[list[Team]] = relationship(
        back_populates="school_class", cascade="all, delete-orphan", order_by="Team.position"
    )
    challenges: Mapped[list[Challenge]] = relationship(
        back_populates="school_class", cascade="all, delete-orphan", order_by="Challenge.position"
    )


class Team(Base):
    """A team, told apart by letter, shape and colour; position is its place in the room."""

    __tablename__ = "teams"
    __table_args__ = (UniqueConstraint("class_id", "letter"),)
    id: Mapped[int] = mapped_column(primary_key=True)
    class_id: Mapped[int] = mapped_column(ForeignKey("classes.id", ondelete="CASCADE"), index=True)
    name: Mapped[str] = mapped_column(String(40))
    letter: Mapped[str] = mapped_column(String(1))
    shape: Mapped[str] = mapped_column(String(16))
    colour: Mapped[str] = mapped_column(String(16))
    position: Mapped[int]
    school_class: Mapped[SchoolClass] = relationship(back_populates="teams")


class Challenge(Base):
    """A challenge of one family for one class: its brief, builds and runs."""

    __tablename__ = "challenges"
    id: Mapped[int] = mapped_column(primary_key=True)
    class_id: Mapped[int] = mapped_column(ForeignKey("classes.id", ondelete="CASCADE"), index=True)
    kind: Mapped[str] = mapped_column(String(32))
    title: Mapped[str] = mapped_column(String(80))
    story: Mapped[str] = mapped_column(String(2000), default="")
    success: Mapped[str] = mapped_column(String(1000), default="")
    age_band: Mapped[str] = mapped_column(String(8), default="9-12")
    position: Mapped[int] = mapped_column(default=0)
    tools: Mapped[str] = mapped_column(String(200), default="scissors")  # keys, by space
    school: Mapped[str] = mapped_column(String(16), default="raw")
    credit: Mapped[float] = mapped_column(default=1.0)
    brief_done_at: Mapped[datetime | None]
    cautions_seen_at: Mapped[datetime | None]
    created_at: Mapped[datetime]
    school_class: Mapped[SchoolClass] = relationship(back_populates="challenges")
    settings: Mapped[list[ChallengeSetting]] = relationship(
        cascade="all, delete-orphan", order_by="ChallengeSetting.id"
    )
    choices: Mapped[list[ChallengeChoice]] = relationship(
        cascade="all, delete-orphan", order_by="ChallengeChoice.id"
    )
    marks: Mapped[list[Mark]] = relationship(
        cascade="all, delete-orphan", order_by="Mark.phase, Mark.time_s"
    )
    offers: Mapped[list[OfferRow]] = relationship(
        cascade="all, delete-orphan", order_by="OfferRow.position"
    )
    terms: Mapped[list[TermRow]] = relationship(
        cascade="all, delete-orphan", order_by="TermRow.position"
    )
    builds: Mapped[list[Build]] = relationship(
        back_populates="challenge", cascade="all, delete-orphan", order_by="Build.id"
    )
    runs: Mapped[list[Run]] = relationship(
        back_populates="challenge", cascade="all, delete-orphan", order_by="Run.number"
    )


class ChallengeSetting(Base):
    """A condition held fixed, or a level of the criteria: value and tolerance, SI."""

    __tablename__ = "challenge_settings"
    __table_args__ = (UniqueConstraint("challenge_id", "key"),)
    id: Mapped[int] = mapped_column(primary_key=True)
    challenge_id: Mapped[int] = mapped_column(ForeignKey("challenges.id", ondelete="CASCADE"))
    key: Mapped[str] = mapped_column(String(32))
    value: Mapped[float]
    tolerance: Mapped[float] = mapped_column(default=0.0)


class ChallengeChoice(Base):
    __tablename__ = "challenge_choices"
    __table_args__ = (UniqueConstraint("challenge_id", "key"),)
    id: Mapped[int] = mapped_column(primary_key=True)
    challenge_id: Mapped[int] = mapped_column(ForeignKey("challenges.id", ondelete="CASCADE"))
    key: Mapped[str] = mapped_column(String(32))
    value: Mapped[str] = mapped_column(String(32))


class Mark(Base):
    """A planned moment of reading, in seconds from the start of its phase."""

    __tablename__ = "marks"
    __table_args__ = (UniqueConstraint("challenge_id", "phase", "time_s"),)
    id: Mapped[int] = mapped_column(primary_key=True)
    challenge_id: Mapped[int] = mapped_column(ForeignKey("challenges.id", ondelete="CASCADE"))
    phase: Mapped[str] = mapped_column(String(16))
    time_s: Mapped[float]


class OfferRow(Base):
    """A material on offer in a challenge: limit per team (none: free) and points per unit."""

    __tablename__ = "offers"
    __table_args__ = (UniqueConstraint("challenge_id", "material"),)
    id: Mapped[int] = mapped_column(primary_key=True)
    challenge_id: Mapped[int] = mapped_column(ForeignKey("challenges.id", ondelete="CASCADE"))
    position: Mapped[int]
    material: Mapped[str] = mapped_column(String(32))
    limit_units: Mapped[float | None]
    points: Mapped[float]


class TermRow(Base):
    """A term of the challenge's scoring rule, in the class's unit."""

    __tablename__ = "rule_terms"
    id: Mapped[int] = mapped_column(primary_key=True)
    challenge_id: Mapped[int] = mapped_column(
        ForeignKey("challenges.id", ondelete="CASCADE"), index=True
    )
    position: Mapped[int]
    metric: Mapped[str] = mapped_column(String(32))
    unit: Mapped[str] = mapped_column(String(40))
    weight: Mapped[float]
    divisor: Mapped[float] = mapped_column(default=1.0)
    cap: Mapped[float | None]


class Build(Base):
    """What one team makes in one challenge, through its versions."""

    __tablename__ = "builds"
    __table_args__ = (UniqueConstraint("challenge_id", "team_id"),)
    id: Mapped[int] = mapped_column(primary_key=True)
    challenge_id: Mapped[int] = mapped_column(
        ForeignKey("challenges.id", ondelete="CASCADE"), index=True
    )
    team_id: Mapped[int] = mapped_column(ForeignKey("teams.id", ondelete="CASCADE"), index=True)
    challenge: Mapped[Challenge] = relationship(back_populates="builds")
    team: Mapped[Team] = relationship()
    versions: Mapped[list[Version]] = relationship(
        back_populates="build", cascade="all, delete-orphan", order_by="Version.number"
    )


class Version(Base):
    """One version of a build. `revision` counts saves, so that two screens cannot collide."""

    __tablename__ = "versions"
    __table_args__ = (
        UniqueConstraint("build_id", "number"),
        CheckConstraint("state in ('draft','waiting','signed','issued')", name="state"),
    )
    id: Mapped[int] = mapped_column(primary_key=True)
    build_id: Mapped[int] = mapped_column(ForeignKey("builds.id", ondelete="CASCADE"), index=True)
    number: Mapped[int]
    state: Mapped[str] = mapped_column(String(8), default="draft")
    prediction: Mapped[float | None]
    change_note: Mapped[str] = mapped_column(String(1000), default="")
    idea_team_id: Mapped[int | None] = mapped_column(
        ForeignKey("teams.id", ondelete="SET NULL"), index=True
    )  # the team whose idea helped
    remark: Mapped[str] = mapped_column(String(500), default="")
    revision: Mapped[int] = mapped_column(default=1)
    created_at: Mapped[datetime]
    waiting_at: Mapped[datetime | None]
    signed_at: Mapped[datetime | None]
    issued_at: Mapped[datetime | None]
    build: Mapped[Build] = relationship(back_populates="versions")
    parts: Mapped[list[PartRow]] = relationship(
        cascade="all, delete-orphan", order_by="PartRow.position"
    )
    factors: Mapped[list[FactorRow]] = relationship(
        cascade="all, delete-orphan", order_by="FactorRow.id"
    )


class PartRow(Base):
    __tablename__ = "parts"
    id: Mapped[int] = mapped_column(primary_key=True)
    version_id: Mapped[int] = mapped_column(
        ForeignKey("versions.id", ondelete="CASCADE"), index=True
    )
    position: Mapped[int]
    place: Mapped[str] = mapped_column(String(16))
    material: Mapped[str] = mapped_column(String(32))
    form: Mapped[str] = mapped_column(String(16))
    units: Mapped[float]
    reused: Mapped[float] = mapped_column(default=0.0)


class FactorRow(Base):
    __tablename__ = "factors"
    __table_args__ = (UniqueConstraint("version_id", "key"),)
    id: Mapped[int] = mapped_column(primary_key=True)
    version_id: Mapped[int] = mapped_column(ForeignKey("versions.id", ondelete="CASCADE"))
    key: Mapped[str] = mapped_column(String(32))
    value: Mapped[float]


class Run(Base):
    """One test of several builds. `speed` is 1 on the wall clock, 30 or 60 in a rehearsal."""

    __tablename__ = "runs"
    __table_args__ = (UniqueConstraint("challenge_id", "number"),)
    id: Mapped[int] = mapped_column(primary_key=True)
    challenge_id: Mapped[int] = mapped_column(
        ForeignKey("challenges.id", ondelete="CASCADE"), index=True
    )
    number: Mapped[int]
    speed: Mapped[float] = mapped_column(default=1.0)
    rehearsal: Mapped[bool] = mapped_column(default=False)
    seed: Mapped[int] = mapped_column(default=0)
    note: Mapped[str] = mapped_column(String(500), default="")
    created_at: Mapped[datetime]
    closed_at: Mapped[datetime | None]
    challenge: Mapped[Challenge] = relationship(back_populates="runs")
    phases: Mapped[list[RunPhase]] = relationship(
        cascade="all, delete-orphan", order_by="RunPhase.id"
    )
    conditions: Mapped[list[RunCondition]] = relationship(
        cascade="all, delete-orphan", order_by="RunCondition.id"
    )
    entries: Mapped[list[Entry]] = relationship(
        back_populates="run", cascade="all, delete-orphan", order_by="Entry.position"
    )

    @property
    def builds(self) -> int:
        """How many builds it tests; a build with two devices has two rows."""
        return len({e.version_id for e in self.entries if e.version_id is not None})


class RunPhase(Base):
    """When a phase's clock was started: the clock is this moment and nothing else."""

    __tablename__ = "run_phases"
    __table_args__ = (UniqueConstraint("run_id", "phase"),)
    id: Mapped[int] = mapped_column(primary_key=True)
    run_id: Mapped[int] = mapped_column(ForeignKey("runs.id", ondelete="CASCADE"))
    phase: Mapped[str] = mapped_column(String(16))
    started_at: Mapped[datetime]


class RunCondition(Base):
    __tablename__ = "run_conditions"
    __table_args__ = (UniqueConstraint("run_id", "key"),)
    id: Mapped[int] = mapped_column(primary_key=True)
    run_id: Mapped[int] = mapped_column(ForeignKey("runs.id", ondelete="CASCADE"))
    key: Mapped[str] = mapped_column(String(32))
    value: Mapped[float]


class Entry(Base):
    """A row of a run: a version being tested, one of its devices, the control, or the air.

    `device` tells apart a version's several devices; the control has no version and the device
    "control", the air neither.
    """

    __tablename__ = "entries"
    __table_args__ = (UniqueConstraint("run_id", "version_id", "device"),)
    id: Mapped[int] = mapped_column(primary_key=True)
    run_id: Mapped[int] = mapped_column(ForeignKey("runs.id", ondelete="CASCADE"), index=True)
    version_id: Mapped[int | None] = mapped_column(
        ForeignKey("versions.id", ondelete="CASCADE"), index=True
    )
    device: Mapped[str] = mapped_column(String(8), default="")
    position: Mapped[int]
    offset_s: Mapped[float] = mapped_column(default=0.0)  # its clock starts so long after the run's
    left: Mapped[str] = mapped_column(String(8), default="")  # "absent" or "broken": no more turns
    run: Mapped[Run] = relationship(back_populates="entries")
    version: Mapped[Version | None] = relationship()

    @property
    def is_air(self) -> bool:
        return self.version_id is None and not self.device

    @property
    def is_control(self) -> bool:
        return self.device == CONTROL


class Reading(Base):
    """One value as it was entered. Rows are only ever added: a correction supersedes.

    `value` None takes a reading back. `time_s` is the time taken from the phase's start;
    `timed` is false when that is the planned mark because the true moment is not known.
    """

    __tablename__ = "readings"
    __table_args__ = (
        Index(
            "uq_readings_first",
            "entry_id", "phase", "mark_s",
            unique=True,
            sqlite_where=text("supersedes_id IS NULL AND mark_s IS NOT NULL"),
        ),
        Index("ix_readings_entry_phase", "entry_id", "phase", "time_s"),
    )  # fmt: skip
    id: Mapped[int] = mapped_column(primary_key=True)
    entry_id: Mapped[int] = mapped_column(ForeignKey("entries.id", ondelete="CASCADE"))
    phase: Mapped[str] = mapped_column(String(16))
    mark_s: Mapped[float | None]
    time_s: Mapped[float]
    timed: Mapped[bool] = mapped_column(default=True)
    value: Mapped[float | None]
    source: Mapped[str] = mapped_column(String(8), default="hand")
    question: Mapped[str] = mapped_column(String(200), default="")
    suggestion: Mapped[float | None]
    client_id: Mapped[str] = mapped_column(String(64), unique=True)
    entered_at: Mapped[datetime]
    arrived_at: Mapped[datetime]
    supersedes_id: Mapped[int | None] = mapped_column(
        ForeignKey("readings.id", ondelete="CASCADE"), unique=True
    )


class AttemptRow(Base):
    """One attempt at a station as it was noted. Rows are only ever added: a correction supersedes.

    `values` by the key of what is read [stored unit]; `seen` observation keys by space;
    `adjusted` a, b … after something was changed on the spot, with a word on it in `note`;
    `free` hand-held; `withdrawn` takes the superseded one back. `race` names the clock and the
    probe's readings of a test with one probe (the phase of both).
    """

    __tablename__ = "attempts"
    id: Mapped[int] = mapped_column(primary_key=True)
    entry_id: Mapped[int] = mapped_column(ForeignKey("entries.id", ondelete="CASCADE"), index=True)
    values: Mapped[dict[str, float]] = mapped_column(JSON)
    seen: Mapped[str] = mapped_column(String(200), default="")
    adjusted: Mapped[str] = mapped_column(String(1), default="")
    note: Mapped[str] = mapped_column(String(200), default="")
    free: Mapped[bool] = mapped_column(default=False)
    withdrawn: Mapped[bool] = mapped_column(default=False)
    race: Mapped[str] = mapped_column(String(16), default="")
    client_id: Mapped[str] = mapped_column(String(64), unique=True)
    at: Mapped[datetime]
    supersedes_id: Mapped[int | None] = mapped_column(
        ForeignKey("attempts.id", ondelete="CASCADE"), unique=True
    )


class Receipt(Base):
    """A form's one-time token and where it led, so that sending it twice does it once."""

    __tablename__ = "receipts"
    token: Mapped[str] = mapped_column(String(64), primary_key=True)
    location: Mapped[str] = mapped_column(String(200))
    at: Mapped[datetime]
