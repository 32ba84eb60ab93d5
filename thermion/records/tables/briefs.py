"""A challenge and its brief: conditions, choices, marks, offers, scoring terms."""

from __future__ import annotations

from datetime import datetime
from secrets import token_hex
from typing import TYPE_CHECKING

from sqlalchemy import ForeignKey, String, UniqueConstraint
from sqlalchemy.orm import Mapped, mapped_column, relationship

from thermion.core.ages import USUAL, AgeBand
from thermion.core.planning.rungs import RungKey
from thermion.records.tables.base import Base

if TYPE_CHECKING:
    from thermion.records.tables.builds import Build
    from thermion.records.tables.classes import SchoolClass
    from thermion.records.tables.planning import TimingRow
    from thermion.records.tables.runs import Run


class Challenge(Base):
    """A challenge of one family for one class: its brief, builds and runs."""

    __tablename__ = "challenges"
    id: Mapped[int] = mapped_column(primary_key=True)
    class_id: Mapped[int] = mapped_column(ForeignKey("classes.id", ondelete="CASCADE"), index=True)
    kind: Mapped[str] = mapped_column(String(32))
    title: Mapped[str] = mapped_column(String(80))
    story: Mapped[str] = mapped_column(String(2000), default="")
    success: Mapped[str] = mapped_column(String(1000), default="")
    age_band: Mapped[AgeBand] = mapped_column(String(8), default=USUAL)
    dial: Mapped[str] = mapped_column(String(8), default="", server_default="")  # "": at its age
    position: Mapped[int] = mapped_column(default=0)
    beside: Mapped[bool] = mapped_column(
        default=False, server_default="0"
    )  # shares lessons with the one before
    lineage: Mapped[str] = mapped_column(String(16), default=lambda: token_hex(8), server_default="")
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
    marks: Mapped[list[Mark]] = relationship(cascade="all, delete-orphan", order_by="Mark.phase, Mark.time_s")
    offers: Mapped[list[OfferRow]] = relationship(cascade="all, delete-orphan", order_by="OfferRow.position")
    terms: Mapped[list[TermRow]] = relationship(cascade="all, delete-orphan", order_by="TermRow.position")
    rungs: Mapped[list[RungRow]] = relationship(cascade="all, delete-orphan", order_by="RungRow.id")
    on_rungs: Mapped[list[TeamRung]] = relationship(cascade="all, delete-orphan", order_by="TeamRung.id")
    timing: Mapped[TimingRow | None] = relationship(viewonly=True, uselist=False)
    builds: Mapped[list[Build]] = relationship(
        back_populates="challenge", cascade="all, delete-orphan", order_by="Build.id"
    )
    runs: Mapped[list[Run]] = relationship(
        back_populates="challenge", cascade="all, delete-orphan", order_by="Run.number"
    )


class ShelfBrief(Base):
    """A brief that the teacher keeps apart from any class, as a challenge file without builds and runs."""

    __tablename__ = "shelf"
    id: Mapped[int] = mapped_column(primary_key=True)
    title: Mapped[str] = mapped_column(String(80))
    kind: Mapped[str] = mapped_column(String(32))
    lineage: Mapped[str] = mapped_column(String(16), unique=True)
    content: Mapped[str]
    kept_at: Mapped[datetime]


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
    material: Mapped[str] = mapped_column(String(320))
    limit_units: Mapped[float | None]
    points: Mapped[float]


class TermRow(Base):
    """A term of the challenge's scoring rule, in the class's unit."""

    __tablename__ = "rule_terms"
    id: Mapped[int] = mapped_column(primary_key=True)
    challenge_id: Mapped[int] = mapped_column(ForeignKey("challenges.id", ondelete="CASCADE"), index=True)
    position: Mapped[int]
    metric: Mapped[str] = mapped_column(String(120))
    unit: Mapped[str] = mapped_column(String(40))
    weight: Mapped[float]
    divisor: Mapped[float] = mapped_column(default=1.0)
    cap: Mapped[float | None]


class RungRow(Base):
    """A rung of a challenge as the teacher set it: see `thermion.core.planning.rungs.Rung`."""

    __tablename__ = "rungs"
    __table_args__ = (UniqueConstraint("challenge_id", "key"),)
    id: Mapped[int] = mapped_column(primary_key=True)
    challenge_id: Mapped[int] = mapped_column(ForeignKey("challenges.id", ondelete="CASCADE"))
    key: Mapped[RungKey] = mapped_column(String(8))
    share: Mapped[float]
    words: Mapped[AgeBand] = mapped_column(String(8))
    aim: Mapped[str] = mapped_column(String(200), default="")


class TeamRung(Base):
    """A team that is on a rung; a team without a row has the brief as it stands."""

    __tablename__ = "team_rungs"
    __table_args__ = (UniqueConstraint("challenge_id", "team_id"),)
    id: Mapped[int] = mapped_column(primary_key=True)
    challenge_id: Mapped[int] = mapped_column(ForeignKey("challenges.id", ondelete="CASCADE"))
    team_id: Mapped[int] = mapped_column(ForeignKey("teams.id", ondelete="CASCADE"), index=True)
    key: Mapped[RungKey] = mapped_column(String(8))
