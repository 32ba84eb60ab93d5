"""The door: whether it stands open, the codes that let devices in, and the devices that are in."""

from __future__ import annotations

from datetime import datetime

from sqlalchemy import ForeignKey, String
from sqlalchemy.orm import Mapped, mapped_column, relationship

from thermion.core.door import Joins
from thermion.records.tables.base import Base
from thermion.records.tables.classes import Team


class Doorway(Base):
    """One row: until when the door stands open; None: it is closed."""

    __tablename__ = "doorway"
    id: Mapped[int] = mapped_column(primary_key=True)
    open_until: Mapped[datetime | None]


class JoinCode(Base):
    """A code, what it makes of a device, and where: a class, and in it a team or a station of a challenge.

    A code that serves once is deleted by the device that it lets in.
    """

    __tablename__ = "join_codes"
    code: Mapped[str] = mapped_column(String(16), primary_key=True)
    role: Mapped[Joins] = mapped_column(String(12))
    class_id: Mapped[int | None] = mapped_column(ForeignKey("classes.id", ondelete="CASCADE"), index=True)
    team_id: Mapped[int | None] = mapped_column(ForeignKey("teams.id", ondelete="CASCADE"))
    challenge_id: Mapped[int | None] = mapped_column(ForeignKey("challenges.id", ondelete="CASCADE"))
    station: Mapped[int] = mapped_column(default=0)
    until: Mapped[datetime]


class Device(Base):
    """A device that was let in, by a secret of which only the hash is kept; `ended_at`: it is out again."""

    __tablename__ = "devices"
    __table_args__ = ({"sqlite_autoincrement": True},)  # a cookie of before never is another's
    id: Mapped[int] = mapped_column(primary_key=True)
    role: Mapped[Joins] = mapped_column(String(12))
    number: Mapped[int]  # among those of its kind, as it is called
    class_id: Mapped[int | None] = mapped_column(ForeignKey("classes.id", ondelete="CASCADE"), index=True)
    team_id: Mapped[int | None] = mapped_column(ForeignKey("teams.id", ondelete="CASCADE"))
    challenge_id: Mapped[int | None] = mapped_column(ForeignKey("challenges.id", ondelete="CASCADE"))
    station: Mapped[int] = mapped_column(default=0)
    secret_hash: Mapped[str] = mapped_column(String(64))
    joined_at: Mapped[datetime]
    until: Mapped[datetime]
    ended_at: Mapped[datetime | None]
    team: Mapped[Team | None] = relationship()
