"""A class and its teams."""

from __future__ import annotations

from datetime import datetime
from typing import TYPE_CHECKING, Any

from sqlalchemy import JSON, ForeignKey, String, UniqueConstraint
from sqlalchemy.orm import Mapped, mapped_column, relationship

from thermion.core.physics.units import Decimal, TempUnit
from thermion.records.tables.base import Base

if TYPE_CHECKING:
    from thermion.records.tables.briefs import Challenge


class SchoolClass(Base):
    """A class: how it writes numbers, and its teams. No person is ever named. `put_away_at`: it is not
    shown until it is taken out again. Its `hours` in the week and `holidays` are kept as the place of that
    name writes them (`planning/timetable.py`)."""

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
    hours: Mapped[list[dict[str, Any]]] = mapped_column(JSON, default=list, server_default="[]")
    holidays: Mapped[list[list[str]]] = mapped_column(JSON, default=list, server_default="[]")
    created_at: Mapped[datetime]
    put_away_at: Mapped[datetime | None]
    teams: Mapped[list[Team]] = relationship(
        back_populates="school_class", cascade="all, delete-orphan", order_by="Team.position"
    )
    own_words: Mapped[list[OwnWord]] = relationship(order_by="OwnWord.id")
    challenges: Mapped[list[Challenge]] = relationship(
        back_populates="school_class", cascade="all, delete-orphan", order_by="Challenge.position"
    )

    @property
    def present(self) -> list[Team]:
        """The teams that are there, in the order of the room."""
        return [team for team in self.teams if team.left_at is None]


class OwnMaterial(Base):
    """A material of a class's own: its key says what it is, this is how it is offered at first."""

    __tablename__ = "own_materials"
    __table_args__ = (UniqueConstraint("class_id", "key"),)
    id: Mapped[int] = mapped_column(primary_key=True)
    class_id: Mapped[int] = mapped_column(ForeignKey("classes.id", ondelete="CASCADE"), index=True)
    key: Mapped[str] = mapped_column(String(320))
    limit_units: Mapped[float | None]
    points: Mapped[float] = mapped_column(default=1.0)


class OwnWord(Base):
    """A class's own word for what is seen at the tests of a family, with the question it brings up.

    Let go of (`gone_at`) it is not offered any more, but still known where it was noted.
    """

    __tablename__ = "own_words"
    id: Mapped[int] = mapped_column(primary_key=True)
    class_id: Mapped[int] = mapped_column(ForeignKey("classes.id", ondelete="CASCADE"), index=True)
    kind: Mapped[str] = mapped_column(String(32))
    seen: Mapped[str] = mapped_column(String(60))
    ask: Mapped[str] = mapped_column(String(160), default="")
    gone_at: Mapped[datetime | None]

    @property
    def word(self) -> str:
        """Its key among what can be seen."""
        return f"own{self.id}"


class OwnCaution(Base):
    """A caution or rule of a class's own room, for all its challenges."""

    __tablename__ = "own_cautions"
    id: Mapped[int] = mapped_column(primary_key=True)
    class_id: Mapped[int] = mapped_column(ForeignKey("classes.id", ondelete="CASCADE"), index=True)
    text: Mapped[str] = mapped_column(String(200))


class Team(Base):
    """A team, told apart by letter, shape and colour; position is its place in the room. One that came later
    `joined_at` a moment; one that `left_at` another is asked for nothing, what it built stays."""

    __tablename__ = "teams"
    __table_args__ = (UniqueConstraint("class_id", "letter"),)
    id: Mapped[int] = mapped_column(primary_key=True)
    class_id: Mapped[int] = mapped_column(ForeignKey("classes.id", ondelete="CASCADE"), index=True)
    name: Mapped[str] = mapped_column(String(40))
    letter: Mapped[str] = mapped_column(String(1))
    shape: Mapped[str] = mapped_column(String(16))
    colour: Mapped[str] = mapped_column(String(16))
    position: Mapped[int]
    joined_at: Mapped[datetime | None]
    left_at: Mapped[datetime | None]
    school_class: Mapped[SchoolClass] = relationship(back_populates="teams")
