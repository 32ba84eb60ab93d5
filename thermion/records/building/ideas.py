"""Silent ideas: drawn or photographed, side by side, and taken into the team's plan."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from sqlalchemy import func, select
from sqlalchemy.orm import Session, undefer

from thermion.core.kinds import get_kind
from thermion.core.physics.materials import MATERIALS
from thermion.core.plans import Part, Plan
from thermion.records import moments
from thermion.records.building import builds
from thermion.records.building.builds import Draft
from thermion.records.errors import Gone, Refused
from thermion.records.planning.briefs import brief_of
from thermion.records.tables import Build, Challenge, Idea, Taken, Version

MOST = 8  # of a team
MOST_STROKES, MOST_POINTS = 400, 1000


@dataclass(frozen=True)
class IdeaInput:
    """An idea as it was drawn: strokes of x, y in thousandths, materials by place, one sentence."""

    strokes: Sequence[Sequence[int]]
    picks: Mapping[str, str]
    why: str
    client_id: str


def ideas_of(session: Session, challenge_id: int, team_id: int | None = None) -> Sequence[Idea]:
    """The ideas of a challenge, or of one team, by team and number."""
    found = select(Idea).where(Idea.challenge_id == challenge_id)
    if team_id is not None:
        found = found.where(Idea.team_id == team_id)
    return session.scalars(found.order_by(Idea.team_id, Idea.number)).all()


def get_idea(session: Session, idea_id: int) -> Idea:
    found = session.get(Idea, idea_id)
    if found is None:
        raise Gone("This idea is no longer there.")
    return found


def photograph_of(session: Session, idea_id: int) -> bytes:
    found = session.scalar(select(Idea).where(Idea.id == idea_id).options(undefer(Idea.data)))
    if found is None or found.data is None:
        raise Gone("This picture is no longer there.")
    return found.data


def _next_number(session: Session, challenge: Challenge, team_id: int) -> int:
    if team_id not in {t.id for t in challenge.school_class.present}:
        raise Gone("This team is no longer in the class.")
    taken = set(
        session.scalars(select(Idea.number).where(Idea.challenge_id == challenge.id, Idea.team_id == team_id))
    )
    free = next((n for n in range(1, MOST + 1) if n not in taken), 0)
    if not free:
        raise Refused(f"A team has at most {MOST} ideas. Take one away first.", "ideas")
    return free


def add_idea(session: Session, challenge: Challenge, team_id: int, given: IdeaInput) -> Idea:
    """Keep an idea; sent twice it is kept once. Refused when it says nothing, or the team has eight."""
    known = session.scalar(select(Idea).where(Idea.client_id == given.client_id))
    if known is not None:
        return known
    brief = brief_of(challenge)
    places, offered = {p.key for p in brief.kind.build.places}, {o.material for o in brief.offers}
    picks = {p: m for p, m in given.picks.items() if p in places and m in offered}
    strokes = [list(s[: 2 * MOST_POINTS]) for s in given.strokes[:MOST_STROKES] if len(s) >= 4]
    why = " ".join(given.why.split())[:200]
    if not (picks or strokes or why):
        raise Refused("Draw something, or choose a material.", "ideas")
    made = Idea(
        challenge_id=challenge.id,
        team_id=team_id,
        number=_next_number(session, challenge, team_id),
        strokes=strokes,
        picks=picks,
        why=why,
        client_id=given.client_id,
        at=moments.now(),
    )
    session.add(made)
    session.flush()
    return made


def add_photograph(
    session: Session, challenge: Challenge, team_id: int, picture: tuple[bytes, int, int], client_id: str
) -> Idea:
    """An idea that was photographed from its sheet; the same photograph twice is kept once."""
    data, width, height = picture
    same = session.scalar(
        select(Idea).where(Idea.challenge_id == challenge.id, Idea.team_id == team_id, Idea.data == data)
    )
    if same is not None:
        return same
    made = Idea(
        challenge_id=challenge.id,
        team_id=team_id,
        number=_next_number(session, challenge, team_id),
        strokes=[],
        picks={},
        width=width,
        height=height,
        data=data,
        client_id=client_id,
        at=moments.now(),
    )
    session.add(made)
    session.flush()
    return made


def drop_idea(session: Session, idea_id: int) -> None:
    """Take an idea away. Parts of a plan that came from it keep its number. A second time is harmless."""
    found = session.get(Idea, idea_id)
    if found is not None:
        session.delete(found)


def counts(session: Session, challenge_id: int) -> dict[int, int]:
    """How many ideas each team has."""
    rows = session.execute(
        select(Idea.team_id, func.count()).where(Idea.challenge_id == challenge_id).group_by(Idea.team_id)
    )
    return {row[0]: row[1] for row in rows}


def take(session: Session, challenge: Challenge, team_id: int, chosen: Sequence[tuple[int, str]]) -> Version:
    """Parts of ideas into the team's plan: (number of the idea, place). What stood at that place goes.

    A plan is begun if the team has none that can be changed; each part remembers its idea.
    Refused when nothing was chosen or the plan is handed in.
    """
    if not chosen:
        raise Refused("Choose an idea, or parts of several.", "ideas")
    mine = {i.number: i for i in ideas_of(session, challenge.id, team_id)}
    there = [(n, place, mine[n].picks.get(place, "")) for n, place in chosen if n in mine]
    picked = [(n, place, material) for n, place, material in there if material in MATERIALS]
    if not picked:
        raise Gone("These ideas are no longer there. They may have been taken away in another tab.")
    last = _to_plan(session, challenge, team_id)
    plan = builds.plan_of(last)
    parts = list(plan.parts)
    for number, place, material in picked:
        parts = [p for p in parts if p.place != place or p.idea == number]
        if any(p.place == place and p.material == material for p in parts):
            continue
        form = MATERIALS[material].forms[0]
        parts.append(Part(place=place, material=material, form=form, units=1.0, reused=0.0, idea=number))
    draft = Draft(
        plan=Plan(tuple(parts), plan.factors),
        prediction=last.prediction,
        change_note=last.change_note,
        idea_team_id=last.idea_team_id,
        prediction_typed=last.prediction_typed,
        worked=last.worked,
        failed=last.failed,
    )
    builds.save_draft(last, last.revision, draft)
    session.flush()
    return last


def _to_plan(session: Session, challenge: Challenge, team_id: int) -> Version:
    """The version that a team plans now, begun if there is none; refused while one is handed in."""
    build = session.scalar(select(Build).where(Build.challenge_id == challenge.id, Build.team_id == team_id))
    last = build.versions[-1] if build is not None and build.versions else None
    if last is None or last.state == "issued":
        last = builds.start_version(session, challenge, team_id)
    if last.state != "draft":
        raise Refused(f"Version {last.number} is handed in. Send it back to change it.", "ideas")
    builds.load_plans(session, [last])
    return last


def takes(session: Session, challenge_id: int) -> Sequence[Taken]:
    """What teams want to take from each other, the first first."""
    return session.scalars(select(Taken).where(Taken.challenge_id == challenge_id).order_by(Taken.id)).all()


def take_from(session: Session, challenge: Challenge, team_id: int, from_id: int, what: str = "") -> Taken:
    """A team takes something from another: noted once, credited in its next version."""
    teams = {t.id for t in challenge.school_class.teams}
    if team_id not in teams or from_id not in teams:
        raise Gone("This team is no longer in the class.")
    if team_id == from_id:
        raise Refused("A team takes from another team.", "taken")
    said = " ".join(what.split())[:160]
    known = select(Taken).where(
        Taken.challenge_id == challenge.id,
        Taken.team_id == team_id,
        Taken.from_id == from_id,
        Taken.what == said,
    )
    found = session.scalar(known)
    if found is None:
        found = Taken(
            challenge_id=challenge.id, team_id=team_id, from_id=from_id, what=said, at=moments.now()
        )
        session.add(found)
        session.flush()
    return found


def untake(session: Session, challenge_id: int, taken_id: int) -> None:
    found = session.get(Taken, taken_id)
    if found is not None and found.challenge_id == challenge_id:
        session.delete(found)


def usual_places(challenge: Challenge) -> list[tuple[str, str]]:
    """Key and label of each place that an idea can name a material for."""
    return [(p.key, p.label) for p in get_kind(challenge.kind).build.places]
