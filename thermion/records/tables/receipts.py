"""What was sent already."""

from __future__ import annotations

from datetime import datetime

from sqlalchemy import String
from sqlalchemy.orm import Mapped, mapped_column

from thermion.records.tables.base import Base


class Receipt(Base):
    """A form's one-time token and where it led, so that sending it twice does it once."""

    __tablename__ = "receipts"
    token: Mapped[str] = mapped_column(String(64), primary_key=True)
    location: Mapped[str] = mapped_column(String(200))
    at: Mapped[datetime]
