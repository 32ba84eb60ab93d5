"""Runs: clocks, conditions, rows, readings and attempts."""

from __future__ import annotations

from datetime import datetime
from typing import TYPE_CHECKING, Literal

from sqlalchemy import JSON, ForeignKey, Index, String, UniqueConstraint, false, text
from sqlalchemy.orm import Mapped, mapped_column, relationship

from thermion.core.planning.pads import Pads
from thermion.records.acting import Brought
from thermion.records.tables.base import Base

if TYPE_CHECKING:
    from thermion.records.tables.briefs import Challenge
    from thermion.records.tables.builds import Version


CONTROL = "control"  # the device of what stands untouched beside the builds


Left = Literal["", "absent", "broken"]
How = Literal["", "measured", "estimated"]  # how a condition of a run was obtained


class Run(Base):
    """One test of several builds. `speed` is 1 on the wall clock, 30 or 60 in a rehearsal."""

    __tablename__ = "runs"
    __table_args__ = (UniqueConstraint("challenge_id", "number"),)
    id: Mapped[int] = mapped_column(primary_key=True)
    challenge_id: Mapped[int] = mapped_column(ForeignKey("challenges.id", ondelete="CASCADE"), index=True)
    number: Mapped[int]
    speed: Mapped[float] = mapped_column(default=1.0)
    rehearsal: Mapped[bool] = mapped_column(default=False)
    paper: Mapped[bool] = mapped_column(default=False, server_default=false())  # typed in afterwards
    pads: Mapped[Pads] = mapped_column(String(8), default="", server_default="")  # whether teams read on them
    seed: Mapped[int] = mapped_column(default=0)
    note: Mapped[str] = mapped_column(String(500), default="")
    created_at: Mapped[datetime]
    closed_at: Mapped[datetime | None]
    bell_at: Mapped[datetime | None]  # of the lesson whose bell was answered by going on
    challenge: Mapped[Challenge] = relationship(back_populates="runs")
    phases: Mapped[list[RunPhase]] = relationship(cascade="all, delete-orphan", order_by="RunPhase.id")
    conditions: Mapped[list[RunCondition]] = relationship(
        cascade="all, delete-orphan", order_by="RunCondition.id"
    )
    aparts: Mapped[list[SetApart]] = relationship(
        back_populates="run", cascade="all, delete-orphan", order_by="SetApart.id"
    )
    entries: Mapped[list[Entry]] = relationship(
        back_populates="run", cascade="all, delete-orphan", order_by="Entry.position"
    )

    @property
    def builds(self) -> int:
        """How many builds it tests; a build with two devices has two rows."""
        return len({e.version_id for e in self.entries if e.version_id is not None})


class RunPhase(Brought, Base):
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
    how: Mapped[How] = mapped_column(String(10), default="")


class SetApart(Brought, Base):
    """A run (`entry_id` None) or one row's part in it that does not count, and a word why.

    With a `phase` only what was read in it after `after_s` [s], and in later phases. `undone_at`:
    taken back in. Rows are never deleted.
    """

    __tablename__ = "set_aparts"
    id: Mapped[int] = mapped_column(primary_key=True)
    run_id: Mapped[int] = mapped_column(ForeignKey("runs.id", ondelete="CASCADE"), index=True)
    entry_id: Mapped[int | None] = mapped_column(ForeignKey("entries.id", ondelete="CASCADE"))
    phase: Mapped[str] = mapped_column(String(16), default="")
    after_s: Mapped[float | None]
    why: Mapped[str] = mapped_column(String(200))
    at: Mapped[datetime]
    undone_at: Mapped[datetime | None]
    run: Mapped[Run] = relationship(back_populates="aparts")


class Entry(Base):
    """A row of a run: a version being tested, one of its devices, the control, or the air.

    `device` tells apart a version's several devices; the control has no version and the device
    "control", the air neither.
    """

    __tablename__ = "entries"
    __table_args__ = (UniqueConstraint("run_id", "version_id", "device"),)
    id: Mapped[int] = mapped_column(primary_key=True)
    run_id: Mapped[int] = mapped_column(ForeignKey("runs.id", ondelete="CASCADE"), index=True)
    version_id: Mapped[int | None] = mapped_column(ForeignKey("versions.id", ondelete="CASCADE"), index=True)
    device: Mapped[str] = mapped_column(String(8), default="")
    position: Mapped[int]
    offset_s: Mapped[float] = mapped_column(default=0.0)  # its clock starts so long after the run's
    left: Mapped[Left] = mapped_column(String(8), default="")  # "absent" or "broken": no more turns
    probe_checked: Mapped[bool | None]  # whether every probe that read it had been in one glass
    run: Mapped[Run] = relationship(back_populates="entries")
    version: Mapped[Version | None] = relationship()

    @property
    def is_air(self) -> bool:
        return self.version_id is None and not self.device

    @property
    def is_control(self) -> bool:
        return self.device == CONTROL


class Reading(Brought, Base):
    """One value as it was entered. Rows are only ever added: a correction supersedes.

    `value` None takes a reading back. `time_s` is the time taken from the phase's start;
    `timed` is false when that is the planned mark because the true moment is not known.
    """

    __tablename__ = "readings"
    __table_args__ = (
        Index(
            "uq_readings_first",
            "entry_id",
            "phase",
            "mark_s",
            unique=True,
            sqlite_where=text("supersedes_id IS NULL AND mark_s IS NOT NULL"),
        ),
        Index("ix_readings_entry_phase", "entry_id", "phase", "time_s"),
        Index("ix_readings_entry_id", "entry_id"),  # and so the newest of a row
    )
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


class AttemptRow(Brought, Base):
    """One attempt at a station as it was noted. Rows are only ever added: a correction supersedes.

    `values` by the key of what is read [stored unit], `machine` the keys of those that a machine read;
    `seen` observation keys by space; `adjusted` a, b … after something was changed on the spot, with a
    word on it in `note`; `free` hand-held; `withdrawn` takes the superseded one back. `race` names the
    clock and the probe's readings of a test with one probe (the phase of both).
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
    machine: Mapped[str] = mapped_column(String(100), default="")
    client_id: Mapped[str] = mapped_column(String(64), unique=True)
    at: Mapped[datetime]
    supersedes_id: Mapped[int | None] = mapped_column(
        ForeignKey("attempts.id", ondelete="CASCADE"), unique=True
    )
