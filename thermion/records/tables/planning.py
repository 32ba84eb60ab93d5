"""The tables of planning: lessons, steps, timing, kit, store, checks of the rig."""

from __future__ import annotations

from datetime import datetime

from sqlalchemy import ForeignKey, String, UniqueConstraint, false
from sqlalchemy.orm import Mapped, mapped_column

from thermion.core.planning.understanding import Mark
from thermion.records.acting import Brought
from thermion.records.tables.base import Base


class LessonRow(Base):
    """One lesson of a class: what it does is laid out anew from the steps, not stored."""

    __tablename__ = "lessons"
    id: Mapped[int] = mapped_column(primary_key=True)
    class_id: Mapped[int] = mapped_column(ForeignKey("classes.id", ondelete="CASCADE"), index=True)
    starts_at: Mapped[datetime]
    length_s: Mapped[float]
    pack_up_s: Mapped[float]


class StepRow(Base):
    """A step of a challenge as the teacher set it: its length, and the lesson it was moved to.

    Lessons are named by their number in the week, so that a lesson can be changed or replaced.
    """

    __tablename__ = "steps"
    __table_args__ = (UniqueConstraint("challenge_id", "phase"),)
    id: Mapped[int] = mapped_column(primary_key=True)
    challenge_id: Mapped[int] = mapped_column(ForeignKey("challenges.id", ondelete="CASCADE"))
    phase: Mapped[str] = mapped_column(String(16))
    length_s: Mapped[float]
    not_before: Mapped[int] = mapped_column(default=0)


class TimingRow(Base):
    """How the test of a challenge is held: see `thermion.core.planning.week.Timing`."""

    __tablename__ = "timings"
    challenge_id: Mapped[int] = mapped_column(
        ForeignKey("challenges.id", ondelete="CASCADE"), primary_key=True
    )
    attempts: Mapped[int]
    stations: Mapped[int]
    readers: Mapped[int]
    read_s: Mapped[float]
    set_up_s: Mapped[float]
    fit_s: Mapped[float]
    run_s: Mapped[float]
    reset_s: Mapped[float]
    stagger: Mapped[bool] = mapped_column(default=False)
    in_row: Mapped[bool] = mapped_column(default=False, server_default=false())


class KitItem(Base):
    """What a class knows of one thing on its kit lists: its pack, and whether it is there."""

    __tablename__ = "kit_items"
    __table_args__ = (UniqueConstraint("class_id", "item"),)
    id: Mapped[int] = mapped_column(primary_key=True)
    class_id: Mapped[int] = mapped_column(ForeignKey("classes.id", ondelete="CASCADE"))
    item: Mapped[str] = mapped_column(String(80))
    pack: Mapped[float] = mapped_column(default=1.0)
    pack_cost: Mapped[float] = mapped_column(default=0.0)
    have_at: Mapped[datetime | None]


class StockMove(Brought, Base):
    """Units of a material that came into or went out of the class store; rows are only added.

    `reason`: count (set right by counting), issue, topup, return. What is there is their sum.
    """

    __tablename__ = "stock_moves"
    id: Mapped[int] = mapped_column(primary_key=True)
    class_id: Mapped[int] = mapped_column(ForeignKey("classes.id", ondelete="CASCADE"), index=True)
    material: Mapped[str] = mapped_column(String(320))
    units: Mapped[float]
    reason: Mapped[str] = mapped_column(String(8))
    version_id: Mapped[int | None] = mapped_column(ForeignKey("versions.id", ondelete="SET NULL"), index=True)
    at: Mapped[datetime]


class Conducted(Brought, Base):
    """An act of a step as it was held: its clock, what was planned for it [s], whose turn it is.

    `stood_s` is how long the clock stood; `turn` (from 0) began at `turn_from_s` of the act's
    clock. `cut` when nobody ended it: the bell did, so it tells nothing of how long it takes.
    Rows without `challenge_id` are for packing up. `changes` counts what screens did to it.
    """

    __tablename__ = "conducted"
    id: Mapped[int] = mapped_column(primary_key=True)
    class_id: Mapped[int] = mapped_column(ForeignKey("classes.id", ondelete="CASCADE"), index=True)
    challenge_id: Mapped[int | None] = mapped_column(
        ForeignKey("challenges.id", ondelete="CASCADE"), index=True
    )
    lesson_id: Mapped[int | None] = mapped_column(ForeignKey("lessons.id", ondelete="SET NULL"), index=True)
    phase: Mapped[str] = mapped_column(String(16))
    act: Mapped[str] = mapped_column(String(16))
    says: Mapped[str] = mapped_column(String(200), default="")  # the teacher's own sentence
    planned_s: Mapped[float]
    allowed_s: Mapped[float]
    started_at: Mapped[datetime]
    stood_s: Mapped[float] = mapped_column(default=0.0)
    paused_at: Mapped[datetime | None]
    turn: Mapped[int] = mapped_column(default=0)
    turn_from_s: Mapped[float] = mapped_column(default=0.0)
    ended_at: Mapped[datetime | None]
    cut: Mapped[bool] = mapped_column(default=False)
    changes: Mapped[int] = mapped_column(default=0)


class BoardRow(Base):
    """What the Desk put on a class's board; nothing put: the board shows what is going on.

    `shows` names it (see `thermion.core.planning.boards`), `challenge_id` and `run_id` of what,
    `step` how much of it is revealed.
    """

    __tablename__ = "boards"
    class_id: Mapped[int] = mapped_column(ForeignKey("classes.id", ondelete="CASCADE"), primary_key=True)
    shows: Mapped[str] = mapped_column(String(16))
    challenge_id: Mapped[int | None] = mapped_column(
        ForeignKey("challenges.id", ondelete="CASCADE"), index=True
    )
    run_id: Mapped[int | None] = mapped_column(ForeignKey("runs.id", ondelete="CASCADE"), index=True)
    step: Mapped[int] = mapped_column(default=0)


class RigReading(Brought, Base):
    """A check of the rig: done (no value), or a number noted at one spot [stored unit]."""

    __tablename__ = "rig_readings"
    __table_args__ = (UniqueConstraint("challenge_id", "check_key", "spot"),)
    id: Mapped[int] = mapped_column(primary_key=True)
    challenge_id: Mapped[int] = mapped_column(ForeignKey("challenges.id", ondelete="CASCADE"))
    check_key: Mapped[str] = mapped_column(String(16))
    spot: Mapped[str] = mapped_column(String(40))
    value: Mapped[float | None]
    at: Mapped[datetime]


class Understood(Brought, Base):
    """A teacher's mark on what a team has understood; rows are only added, the newest of a statement counts."""

    __tablename__ = "understood"
    id: Mapped[int] = mapped_column(primary_key=True)
    challenge_id: Mapped[int] = mapped_column(ForeignKey("challenges.id", ondelete="CASCADE"), index=True)
    team_id: Mapped[int] = mapped_column(ForeignKey("teams.id", ondelete="CASCADE"))
    key: Mapped[str] = mapped_column(String(120))
    mark: Mapped[Mark] = mapped_column(String(8))
    at: Mapped[datetime]
