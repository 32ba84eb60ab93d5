"""A class and its teams."""

from __future__ import annotations

from datetime import datetime
from typing import TYPE_CHECKING

from sqlalchemy import ForeignKey, String, UniqueConstraint
from sqlalchemy.orm import Mapped, mapped_column, relationship

from thermion.core.physics.units import Decimal, TempUnit
from thermion.records.tables.base import Base

if TYPE_CHECKING:
    from thermion.records.tables.briefs import Challenge


class SchoolClass(Base):
    """A class: how it writes numbers, and its teams. No person is ever named. `put_away_at`: it is not
    shown until it is taken out again."""

    __tablename__ = "classes"
    id: Mapped[int] = mapped_column(primary_key=True)
    name: Mapped[str] = mapped_column(String(80))
    temp_unit: Mapped[TempUnit] = mapped_column(String(8), default="degC")
    decimal: Mapped[Decimal] = mapped_column(String(8), default="point")
    zone: Mapped[str] = mapped_column(String(64), default="UTC")
    learners: Mapped[int] = mapped_column(default=24)
    latitude_deg: Mapped[float | None]
    longitude_deg: Mapped[float | None]
    altitude_m: Mapped[float] = mapped_column(default=0.0)
    created_at: Mapped[datetime]
    put_away_at: Mapped[datetime | None]
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
