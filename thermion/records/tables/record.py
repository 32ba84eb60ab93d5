"""What the record keeps about itself: who it is, what was sent already, what was deleted."""

from __future__ import annotations

from datetime import datetime

from sqlalchemy import LargeBinary, String
from sqlalchemy.orm import Mapped, mapped_column

from thermion.records.tables.base import Base


class Receipt(Base):
    """A form's one-time token and where it led, so that sending it twice does it once."""

    __tablename__ = "receipts"
    token: Mapped[str] = mapped_column(String(64), primary_key=True)
    location: Mapped[str] = mapped_column(String(200))
    at: Mapped[datetime] = mapped_column(index=True)


class House(Base):
    """One row: a key of these data, so that a device does not send what it keeps to those of others."""

    __tablename__ = "house"
    key: Mapped[str] = mapped_column(String(32), primary_key=True)


class Deleted(Base):
    """Rows that were deleted, kept for a while so that they can come back; see `keeping.deleted`."""

    __tablename__ = "deleted"
    __table_args__ = ({"sqlite_autoincrement": True},)  # an old page never brings back something else
    id: Mapped[int] = mapped_column(primary_key=True)
    what: Mapped[str] = mapped_column(String(16))
    title: Mapped[str] = mapped_column(String(200))
    at: Mapped[datetime]
    rows: Mapped[bytes] = mapped_column(LargeBinary, deferred=True)
