"""Builds and their versions: parts and factors of a plan."""

from __future__ import annotations

from datetime import datetime
from typing import TYPE_CHECKING

from sqlalchemy import JSON, CheckConstraint, ForeignKey, LargeBinary, String, UniqueConstraint
from sqlalchemy.orm import Mapped, mapped_column, relationship

from thermion.records.acting import Brought
from thermion.records.tables.base import Base

if TYPE_CHECKING:
    from thermion.records.tables.briefs import Challenge
    from thermion.records.tables.classes import Team


class Build(Base):
    """What one team makes in one challenge, through its versions."""

    __tablename__ = "builds"
    __table_args__ = (UniqueConstraint("challenge_id", "team_id"),)
    id: Mapped[int] = mapped_column(primary_key=True)
    challenge_id: Mapped[int] = mapped_column(ForeignKey("challenges.id", ondelete="CASCADE"), index=True)
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
    prediction_typed: Mapped[str] = mapped_column(
        String(40), default="", server_default=""
    )  # while unreadable
    change_note: Mapped[str] = mapped_column(String(1000), default="")
    worked: Mapped[str] = mapped_column(String(300), default="", server_default="")
    failed: Mapped[str] = mapped_column(String(300), default="", server_default="")
    idea_team_id: Mapped[int | None] = mapped_column(
        ForeignKey("teams.id", ondelete="SET NULL"), index=True
    )  # the team whose idea helped
    remark: Mapped[str] = mapped_column(String(500), default="")
    answer: Mapped[str] = mapped_column(
        String(500), default="", server_default=""
    )  # the team's, to the remark
    revision: Mapped[int] = mapped_column(default=1)
    created_at: Mapped[datetime]
    waiting_at: Mapped[datetime | None]
    signed_at: Mapped[datetime | None]
    issued_at: Mapped[datetime | None]
    waiting_by: Mapped[str] = mapped_column(String(20), default="", server_default="")  # by which device
    signed_by: Mapped[str] = mapped_column(String(20), default="", server_default="")
    issued_by: Mapped[str] = mapped_column(String(20), default="", server_default="")
    hidden: Mapped[dict[str, object]] = mapped_column(JSON, default=dict, server_default="{}")  # out of sight
    build: Mapped[Build] = relationship(back_populates="versions")
    parts: Mapped[list[PartRow]] = relationship(cascade="all, delete-orphan", order_by="PartRow.position")
    factors: Mapped[list[FactorRow]] = relationship(cascade="all, delete-orphan", order_by="FactorRow.id")
    judged: Mapped[list[Judged]] = relationship(cascade="all, delete-orphan", order_by="Judged.id")


class Idea(Brought, Base):
    """One of a team's silent ideas in a challenge, by its number in the team; nobody's name is asked.

    Drawn on a screen (`strokes`: lists of x, y in thousandths of the drawing), photographed, or
    both; `picks` names a material by place, `why` is one sentence.
    """

    __tablename__ = "ideas"
    __table_args__ = (UniqueConstraint("challenge_id", "team_id", "number"),)
    id: Mapped[int] = mapped_column(primary_key=True)
    challenge_id: Mapped[int] = mapped_column(ForeignKey("challenges.id", ondelete="CASCADE"))
    team_id: Mapped[int] = mapped_column(ForeignKey("teams.id", ondelete="CASCADE"), index=True)
    number: Mapped[int]
    strokes: Mapped[list[list[int]]] = mapped_column(JSON)
    picks: Mapped[dict[str, str]] = mapped_column(JSON)
    why: Mapped[str] = mapped_column(String(200), default="")
    width: Mapped[int] = mapped_column(default=0)  # of the photograph; 0 without one
    height: Mapped[int] = mapped_column(default=0)
    data: Mapped[bytes | None] = mapped_column(LargeBinary, deferred=True)
    client_id: Mapped[str] = mapped_column(String(64), unique=True)
    hidden: Mapped[dict[str, object]] = mapped_column(JSON, default=dict, server_default="{}")  # out of sight
    at: Mapped[datetime]


class Taken(Brought, Base):
    """What a team wants to take from another on a walk round; it waits for the team's next version."""

    __tablename__ = "taken"
    __table_args__ = (UniqueConstraint("challenge_id", "team_id", "from_id", "what"),)
    id: Mapped[int] = mapped_column(primary_key=True)
    challenge_id: Mapped[int] = mapped_column(ForeignKey("challenges.id", ondelete="CASCADE"))
    team_id: Mapped[int] = mapped_column(ForeignKey("teams.id", ondelete="CASCADE"), index=True)
    from_id: Mapped[int] = mapped_column(ForeignKey("teams.id", ondelete="CASCADE"), index=True)
    what: Mapped[str] = mapped_column(String(160), default="")
    at: Mapped[datetime]


class Judged(Brought, Base):
    """What one judge says of a version under one of the class's own criteria; the newest row counts.

    Judges are told apart by a number. Without a value it was taken back.
    """

    __tablename__ = "judged"
    id: Mapped[int] = mapped_column(primary_key=True)
    version_id: Mapped[int] = mapped_column(ForeignKey("versions.id", ondelete="CASCADE"), index=True)
    criterion: Mapped[str] = mapped_column(String(120))
    judge: Mapped[int]
    value: Mapped[float | None]
    at: Mapped[datetime]


class PartRow(Base):
    __tablename__ = "parts"
    id: Mapped[int] = mapped_column(primary_key=True)
    version_id: Mapped[int] = mapped_column(ForeignKey("versions.id", ondelete="CASCADE"), index=True)
    position: Mapped[int]
    place: Mapped[str] = mapped_column(String(16))
    material: Mapped[str] = mapped_column(String(320))
    form: Mapped[str] = mapped_column(String(16))
    units: Mapped[float]
    reused: Mapped[float] = mapped_column(default=0.0)
    idea: Mapped[int] = mapped_column(default=0, server_default="0")  # number of the team's idea


class FactorRow(Base):
    __tablename__ = "factors"
    __table_args__ = (UniqueConstraint("version_id", "key"),)
    id: Mapped[int] = mapped_column(primary_key=True)
    version_id: Mapped[int] = mapped_column(ForeignKey("versions.id", ondelete="CASCADE"))
    key: Mapped[str] = mapped_column(String(32))
    value: Mapped[float]
