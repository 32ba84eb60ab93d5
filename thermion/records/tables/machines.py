"""What reads by itself: how a logger's files are meant, probes that send values, their channels."""

from __future__ import annotations

from datetime import datetime

from sqlalchemy import JSON, ForeignKey, String, UniqueConstraint
from sqlalchemy.orm import Mapped, mapped_column, relationship

from thermion.records.tables.base import Base


class LoggerLayout(Base):
    """What was answered about files of one logger, told by their headings; asked no more."""

    __tablename__ = "logger_layouts"
    id: Mapped[int] = mapped_column(primary_key=True)
    layout: Mapped[str] = mapped_column(String(24), unique=True)
    name: Mapped[str] = mapped_column(String(60), default="")
    answers: Mapped[dict[str, str]] = mapped_column(JSON)
    at: Mapped[datetime]


class Probe(Base):
    """A program or board that may send values, by a key of which only the hash is kept.

    It reads in tests of one class; of none while it has stood in no run yet.
    """

    __tablename__ = "probes"
    id: Mapped[int] = mapped_column(primary_key=True)
    name: Mapped[str] = mapped_column(String(40))
    key_hash: Mapped[str] = mapped_column(String(64), unique=True)
    class_id: Mapped[int | None]
    made_at: Mapped[datetime]
    revoked_at: Mapped[datetime | None]
    battery: Mapped[float | None]  # percent left, of a probe that says so
    signal: Mapped[float | None]  # dBm
    channels: Mapped[list[ProbeChannel]] = relationship(
        back_populates="probe", cascade="all, delete-orphan", order_by="ProbeChannel.id"
    )


class ProbeChannel(Base):
    """One sensor of a probe: where it stands, and what is taken off its values.

    It stands in a row of a run, or at the station of a run where it reads `read_key`. `unit` is the
    SenML unit it sends in, `last_value` in the stored unit as sent, without the offset; `checked_at`
    is when that was found: all in one glass, or set to zero. `heard_at` is when it last sent, `prompt`
    whether a value ever came at about its own time: then its clock is right.
    """

    __tablename__ = "probe_channels"
    __table_args__ = (UniqueConstraint("probe_id", "name"),)
    id: Mapped[int] = mapped_column(primary_key=True)
    probe_id: Mapped[int] = mapped_column(ForeignKey("probes.id", ondelete="CASCADE"), index=True)
    name: Mapped[str] = mapped_column(String(120))
    unit: Mapped[str] = mapped_column(String(16))
    offset: Mapped[float] = mapped_column(default=0.0)
    checked_at: Mapped[datetime | None]
    entry_id: Mapped[int | None] = mapped_column(ForeignKey("entries.id", ondelete="SET NULL"), index=True)
    run_id: Mapped[int | None] = mapped_column(ForeignKey("runs.id", ondelete="SET NULL"), index=True)
    read_key: Mapped[str] = mapped_column(String(32), default="")
    last_at: Mapped[datetime | None]
    last_value: Mapped[float | None]
    heard_at: Mapped[datetime | None]
    prompt: Mapped[bool] = mapped_column(default=False)
    probe: Mapped[Probe] = relationship(back_populates="channels")


class ProbeValue(Base):
    """A value lately sent, in the stored unit; those that stand in a run are readings too."""

    __tablename__ = "probe_values"
    __table_args__ = (UniqueConstraint("channel_id", "at"),)
    id: Mapped[int] = mapped_column(primary_key=True)
    channel_id: Mapped[int] = mapped_column(ForeignKey("probe_channels.id", ondelete="CASCADE"))
    at: Mapped[datetime]
    value: Mapped[float]
