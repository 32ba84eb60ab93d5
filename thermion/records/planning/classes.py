"""Classes and their teams."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from zoneinfo import ZoneInfoNotFoundError, available_timezones

from sqlalchemy import select, update
from sqlalchemy.orm import Session, selectinload

from thermion.core.physics.units import Decimal, Setting, TempUnit
from thermion.core.teams import COLOURS, SHAPES, look, pick_letters
from thermion.records import moments
from thermion.records.deleting import Removed, delete_kept
from thermion.records.errors import Gone, Refused
from thermion.records.tables import Build, Probe, SchoolClass, Team


@dataclass(frozen=True, kw_only=True)
class TeamInput:
    """A team as typed; `id` for one that exists."""

    name: str
    id: int | None = None
    letter: str = ""
    shape: str = ""
    colour: str = ""


def setting_of(school_class: SchoolClass) -> Setting:
    """How this class writes numbers."""
    return Setting(school_class.temp_unit, school_class.decimal)


def computer_zone() -> str:
    """The time zone of this computer, as a class's default; UTC when it does not say."""
    from tzlocal import get_localzone_name

    try:
        found = str(get_localzone_name())
    except (ValueError, OSError, ZoneInfoNotFoundError):
        return "UTC"
    return found if found in available_timezones() else "UTC"


def list_classes(session: Session, *, put_away: bool = False) -> Sequence[SchoolClass]:
    """The classes at work, or those that were put away."""
    return session.scalars(
        select(SchoolClass)
        .where(SchoolClass.put_away_at.is_not(None) if put_away else SchoolClass.put_away_at.is_(None))
        .order_by(SchoolClass.id)
        .options(selectinload(SchoolClass.teams), selectinload(SchoolClass.challenges))
    ).all()


def get_class(session: Session, class_id: int) -> SchoolClass:
    found = session.get(SchoolClass, class_id, options=[selectinload(SchoolClass.teams)])
    if found is None:
        raise Gone("This class is no longer there. It may have been deleted in another tab.")
    return found


def put_away(school_class: SchoolClass, away: bool) -> None:
    """Out of sight for the summer, with everything, or back."""
    school_class.put_away_at = moments.now() if away else None


def delete_class(session: Session, school_class: SchoolClass) -> Removed:
    """Remove a class with its challenges and all that was read in them; it can be brought back."""
    session.execute(update(Probe).where(Probe.class_id == school_class.id).values(class_id=None))
    return delete_kept(session, school_class, "class", school_class.name)


def free_name(session: Session, name: str) -> str:
    """`name`, or with a number behind it when a class has that name already."""
    taken, found, number = set(session.scalars(select(SchoolClass.name))), name, 1
    while found in taken:
        number += 1
        found = f"{name[:70]} ({number})"
    return found


def save_class(
    session: Session,
    *,
    name: str,
    temp_unit: TempUnit,
    decimal: Decimal,
    zone: str,
    teams: Sequence[TeamInput],
    learners: int | None = None,
    class_id: int | None = None,
) -> SchoolClass:
    """Make or change a class. Empty team names drop out; letters, shapes, colours are filled in.

    A team that is not named any more and has builds has left: they stay, and it comes back by its name.
    Raises Refused naming the field: no name, no team, or a name twice.
    """
    wanted = [t for t in teams if t.name.strip()]
    _check(name, wanted, learners)
    if class_id is None:
        school_class = SchoolClass(created_at=moments.now())
        session.add(school_class)
    else:
        school_class = get_class(session, class_id)
    school_class.name, school_class.zone = name.strip(), zone
    school_class.temp_unit, school_class.decimal = temp_unit, decimal
    if learners is not None:
        school_class.learners = learners
    _as_wanted(session, school_class, wanted)
    return school_class


def _check(name: str, wanted: Sequence[TeamInput], learners: int | None) -> None:
    if not name.strip():
        raise Refused("Give the class a name, e.g. Relief crew.", "name")
    if not wanted:
        raise Refused("A class needs at least one team.", "teams")
    if learners is not None and not 1 <= learners <= 60:
        raise Refused("A class has between 1 and 60 learners.", "learners")
    if len(wanted) > len(SHAPES) * 2:
        raise Refused(f"At most {len(SHAPES) * 2} teams in one class.", "teams")
    names = [t.name.strip().casefold() for t in wanted]
    for i, each in enumerate(names):
        if each in names[:i]:
            raise Refused(f"Two teams are called {wanted[i].name.strip()}.", f"teams-{i}")


def _as_wanted(session: Session, school_class: SchoolClass, wanted: Sequence[TeamInput]) -> None:
    """The class's teams as wanted, in that order; letters and looks filled in."""
    existing = {t.id: t for t in school_class.teams}
    gone = {t.name.casefold(): t for t in school_class.teams if t.left_at is not None}
    back = [t.id or getattr(gone.get(t.name.strip().casefold()), "id", None) for t in wanted]
    for team_id, team in existing.items():
        if team_id not in back:
            _drop(session, school_class, team)
    session.flush()
    left = [t for t in school_class.teams if t.id not in back]
    given = pick_letters([*((t.name, t.letter) for t in left), *((t.name, t.letter) for t in wanted)])
    letters = given[len(left) :]
    for team in school_class.teams:  # free the letters before giving them anew
        team.letter = chr(0xE000 + team.id)
    session.flush()
    first = not existing
    for i, item in enumerate(wanted):
        number = back[i]
        row = existing.get(number) if number is not None else None
        if row is None:
            row = Team(joined_at=None if first else moments.now())
            school_class.teams.append(row)
        row.left_at = None
        row.name, row.letter, row.position = item.name.strip(), letters[i], i
        shape, colour = look(i)
        row.shape = item.shape if item.shape in SHAPES else shape
        row.colour = item.colour if item.colour in COLOURS else colour
    for i, team in enumerate(left):
        team.letter, team.position = given[i], len(wanted) + i
    session.flush()


def _drop(session: Session, school_class: SchoolClass, team: Team) -> None:
    """A team without builds is taken off the list; one that has some has left."""
    if session.scalar(select(Build.id).where(Build.team_id == team.id).limit(1)) is None:
        school_class.teams.remove(team)
    elif team.left_at is None:
        team.left_at = moments.now()


def came_too_late(team: Team, first_closed: datetime | None) -> bool:
    """Whether a team came after a challenge's first test was over."""
    return team.joined_at is not None and first_closed is not None and first_closed < team.joined_at
