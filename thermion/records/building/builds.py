"""Builds and their versions: drafting, checking, signing, issuing, succeeding."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime

from sqlalchemy import ColumnElement, func, select
from sqlalchemy.orm import Session, joinedload, selectinload
from sqlalchemy.orm.attributes import set_committed_value

from thermion.core.judging.observed import Observed, observe, predicted
from thermion.core.kinds import get_kind
from thermion.core.physics.materials import MATERIALS
from thermion.core.plans import Part, Plan, Problem
from thermion.records import moments
from thermion.records.acting import who
from thermion.records.deleting import Removed, delete_kept
from thermion.records.errors import Conflict, Gone, Refused
from thermion.records.loading import load_together
from thermion.records.planning.briefs import Brief, brief_of, get_challenge
from thermion.records.planning.classes import came_too_late
from thermion.records.tables import Build, Challenge, Entry, FactorRow, PartRow, Run, Taken, Team, Version


@dataclass(frozen=True, kw_only=True)
class Draft:
    """What is on the plan editor: the plan, the prediction [SI] and the note on changes.

    `prediction_typed` is what stands in its field while that cannot be read.
    """

    plan: Plan
    prediction: float | None
    change_note: str
    idea_team_id: int | None = None
    prediction_typed: str = ""
    worked: str = ""
    failed: str = ""


def plan_of(version: Version) -> Plan:
    """A stored version as the core takes it."""
    return Plan(
        tuple(
            Part(place=p.place, material=p.material, form=p.form, units=p.units, reused=p.reused, idea=p.idea)
            for p in version.parts
        ),
        {f.key: f.value for f in version.factors},
    )


def builds_of(session: Session, challenge_id: int) -> Sequence[Build]:
    """Builds of a challenge in room order with all versions, in a fixed number of queries."""
    return load_builds(session, Build.challenge_id == challenge_id)


def teams_of(session: Session, challenge: Challenge) -> list[Team]:
    """The teams of a challenge: those that built in it, and those that are there and were in time for it."""
    built = set(session.scalars(select(Build.team_id).where(Build.challenge_id == challenge.id)))
    over = select(func.min(Run.closed_at)).where(Run.challenge_id == challenge.id, Run.rehearsal.is_(False))
    first = session.scalar(over)
    return [
        team
        for team in challenge.school_class.teams
        if team.id in built or (team.left_at is None and not came_too_late(team, first))
    ]


def load_builds(session: Session, which: ColumnElement[bool]) -> Sequence[Build]:
    """The builds asked for, in room order, with teams, versions and plans, in three queries."""
    found = session.scalars(
        select(Build).join(Build.team).where(which).order_by(Team.position).options(joinedload(Build.team))
    ).all()
    load_together(session, found, Build.versions)
    load_plans(session, [v for build in found for v in build.versions])
    return found


def load_plans(session: Session, versions: Sequence[Version]) -> None:
    """What these versions are made of, in one query."""
    load_together(session, versions, Version.parts, Version.factors)


def get_version(session: Session, version_id: int) -> Version:
    """A version with its plan, build, team, sister versions and challenge."""
    found = session.get(Version, version_id, options=[joinedload(Version.build).joinedload(Build.team)])
    if found is None:
        raise Gone("This plan is no longer there: it was deleted, perhaps in another tab.")
    load_together(session, [found.build], Build.versions)
    load_plans(session, found.build.versions)
    set_committed_value(found.build, "challenge", get_challenge(session, found.build.challenge_id))
    return found


def brief_for(version: Version) -> Brief:
    """The brief of a version's challenge, as its team has it."""
    return brief_of(version.build.challenge).of_team(version.build.team_id)


def start_version(session: Session, challenge: Challenge, team_id: int) -> Version:
    """Version 1 of a team's build, or the next one as a copy of the last.

    Refused while the last version has not been issued: that one is to be finished first.
    """
    build = session.scalar(
        select(Build)
        .where(Build.challenge_id == challenge.id, Build.team_id == team_id)
        .options(selectinload(Build.versions))
    )
    if build is None:
        if team_id not in {t.id for t in challenge.school_class.present}:
            raise Gone("This team is no longer in the class.")
        build = Build(challenge_id=challenge.id, team_id=team_id)
        session.add(build)
        session.flush()
        session.refresh(build, ["versions"])
    kind = get_kind(challenge.kind)
    last = build.versions[-1] if build.versions else None
    if last is not None and last.state != "issued":
        raise Refused(f"Version {last.number} is not issued yet; it can still be changed.", "version")
    load_plans(session, build.versions[-1:])
    credit = _waiting_credit(session, challenge.id, team_id)
    version = Version(build=build, number=last.number + 1 if last else 1, created_at=moments.now())
    usual = kind.build.usual()
    source = usual if last is None else plan_of(last)
    _store(version, Draft(plan=source, prediction=None, change_note="", idea_team_id=credit))
    session.add(version)
    session.flush()
    return version


def _waiting_credit(session: Session, challenge_id: int, team_id: int) -> int | None:
    """The team from whom this one said last that it takes something."""
    found = select(Taken.from_id).where(Taken.challenge_id == challenge_id, Taken.team_id == team_id)
    return session.scalar(found.order_by(Taken.id.desc()).limit(1))


def _store(version: Version, draft: Draft) -> None:
    version.parts = [
        PartRow(
            position=i,
            place=p.place,
            material=p.material,
            form=p.form,
            units=p.units,
            reused=p.reused,
            idea=p.idea,
        )
        for i, p in enumerate(draft.plan.parts)
    ]
    rows = {row.key: row for row in version.factors}
    for key, value in draft.plan.factors.items():
        if key not in rows:
            version.factors.append(FactorRow(key=key, value=value))
        else:
            rows[key].value = value
    version.prediction, version.change_note = draft.prediction, draft.change_note
    version.prediction_typed = draft.prediction_typed
    version.idea_team_id = draft.idea_team_id
    version.worked, version.failed = draft.worked[:300], draft.failed[:300]


def read_prediction(typed: str, brief: Brief) -> Observed:
    """What a team predicts, through the same door as what is read afterwards."""
    return observe(typed, predicted(brief.kind, brief.choices, brief.values), brief.setting)


def save_draft(version: Version, revision: int, draft: Draft) -> None:
    """Keep a draft, even one over its limits: nothing typed is lost. Handing in checks it.

    Conflict when another screen saved meanwhile; Refused once the plan was handed in.
    """
    if version.state != "draft":
        raise Refused(
            f"Version {version.number} is {STATES[version.state]}; make a next version to change it."
        )
    if version.revision != revision:
        raise Conflict("This plan was changed on another screen meanwhile.")
    kind = get_kind(version.build.challenge.kind)
    places, factors = {p.key for p in kind.build.places}, {f.key: f for f in kind.build.factors}
    for part in draft.plan.parts:
        material = MATERIALS.get(part.material)
        if part.place not in places or material is None or part.form not in material.forms:
            raise Refused("A part names a place, material or form that does not exist.", "parts")
    for key, value in draft.plan.factors.items():
        factor = factors.get(key)
        if factor is None or not factor.si("low") - 1e-9 <= value <= factor.si("high") + 1e-9:
            raise Refused(f"{factor.label if factor else key} is outside what can be built.", key)
    _store(version, draft)
    version.revision += 1


STATES = {"draft": "a draft", "waiting": "waiting for the check", "signed": "signed off", "issued": "issued"}


def problems(version: Version, brief: Brief) -> list[Problem]:
    """What keeps this plan from being handed in: limits, and what a plan must say."""
    plan = plan_of(version)
    found = brief.of_team(version.build.team_id).over(plan)
    if not plan.parts:
        found.append(Problem("Nothing is planned yet. Point at a place of the drawing.", None))
    if version.prediction is None:
        name = brief.kind.analysis.prediction_for(brief.choices).label.lower()
        typed = version.prediction_typed
        why = read_prediction(typed, brief).check.message if typed else f"No prediction yet: {name}?"
        found.append(Problem(why, None, "prediction"))
    if version.number > 1 and not version.change_note.strip():
        found.append(Problem("What changes against the version before, and why?", None, "note"))
    return found


def hand_in(version: Version, brief: Brief) -> None:
    """Draft → waiting for the teacher. Refused, naming the limit, when the plan is not inside."""
    _expect(version, "draft")
    found = problems(version, brief)
    if found:
        raise Refused(" ".join(p.message for p in found))
    version.state, version.waiting_at = "waiting", _now(version)
    version.waiting_by = who()
    version.revision += 1


def send_back(version: Version, remark: str) -> None:
    """Waiting or signed → draft again, with the teacher's question for the team."""
    _expect(version, "waiting", "signed")
    version.state, version.remark, version.answer = "draft", remark.strip(), ""
    version.waiting_at = version.signed_at = None
    version.waiting_by = version.signed_by = ""
    version.revision += 1


def answer_question(version: Version, said: str) -> None:
    """What the team says to the teacher's question, while it is put to it."""
    _expect(version, "draft")
    version.answer = said.strip()[:500]


def sign(version: Version, brief: Brief) -> None:
    """Waiting → signed off. Limits are checked again: the brief may have changed meanwhile."""
    _expect(version, "waiting")
    found = brief.of_team(version.build.team_id).over(plan_of(version))
    if found:
        raise Refused(" ".join(p.message for p in found))
    version.state, version.signed_at, version.signed_by = "signed", _now(version), who()
    version.revision += 1


def issue(version: Version) -> None:
    """Signed → materials handed out. From here on it cannot be edited, only succeeded."""
    if version.state in ("draft", "waiting"):
        raise Refused("Materials are handed out only for a plan that is signed off.")
    _expect(version, "signed")
    version.state, version.issued_at, version.issued_by = "issued", _now(version), who()
    version.revision += 1


def _now(version: Version) -> datetime:
    """This moment; never before the version was made, whoever set the clock meanwhile."""
    return max(moments.now(), version.created_at)


def _expect(version: Version, *states: str) -> None:
    if version.state not in states:
        raise Refused(f"Version {version.number} is {STATES[version.state]}; nothing was changed.")


def delete_version(session: Session, version: Version) -> Removed:
    """Drop a draft that is not needed; it can be brought back. An issued version is part of the record
    and stays."""
    _expect(version, "draft", "waiting", "signed")
    if session.scalar(select(Entry.id).where(Entry.version_id == version.id).limit(1)):
        raise Refused("This version is part of a run, so it stays.")
    build = version.build
    title = f"{build.challenge.title}, {build.team.name}, version {version.number}"
    return delete_kept(session, version if len(build.versions) > 1 else build, "version", title)
