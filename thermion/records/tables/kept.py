"""Tables of what is kept beside the numbers: pictures of builds, conclusions carried on."""

from __future__ import annotations

from datetime import datetime

from sqlalchemy import ForeignKey, LargeBinary, String, UniqueConstraint
from sqlalchemy.orm import Mapped, mapped_column

from thermion.records.acting import Brought
from thermion.records.tables.base import Base


class Attachment(Brought, Base):
    """A sketch or photograph of a version, encoded anew: JPEG without any of its metadata."""

    __tablename__ = "attachments"
    id: Mapped[int] = mapped_column(primary_key=True)
    version_id: Mapped[int] = mapped_column(ForeignKey("versions.id", ondelete="CASCADE"), index=True)
    width: Mapped[int]
    height: Mapped[int]
    data: Mapped[bytes] = mapped_column(LargeBinary, deferred=True)
    added_at: Mapped[datetime]


class Repeats(Base):
    """How much a try of a metric varied in a challenge's closed real runs: the sum of squares about
    the means and its degrees of freedom; written when a run is closed. In the stored unit², or as shares
    where tries vary in proportion above a floor, then with a lower and a higher floor too."""

    __tablename__ = "repeats"
    __table_args__ = (UniqueConstraint("challenge_id", "metric"),)
    id: Mapped[int] = mapped_column(primary_key=True)
    challenge_id: Mapped[int] = mapped_column(ForeignKey("challenges.id", ondelete="CASCADE"))
    metric: Mapped[str] = mapped_column(String(32))
    squares: Mapped[float]
    dof: Mapped[float]
    squares_low: Mapped[float | None]
    squares_high: Mapped[float | None]


class Conclusion(Base):
    """A sentence that a class draws from a challenge's findings and keeps."""

    __tablename__ = "conclusions"
    id: Mapped[int] = mapped_column(primary_key=True)
    challenge_id: Mapped[int] = mapped_column(ForeignKey("challenges.id", ondelete="CASCADE"), index=True)
    text: Mapped[str] = mapped_column(String(300))
    at: Mapped[datetime]


class Carried(Base):
    """A conclusion that a later challenge of the class begins from."""

    __tablename__ = "carried"
    conclusion_id: Mapped[int] = mapped_column(
        ForeignKey("conclusions.id", ondelete="CASCADE"), primary_key=True
    )
    challenge_id: Mapped[int] = mapped_column(
        ForeignKey("challenges.id", ondelete="CASCADE"), primary_key=True, index=True
    )
