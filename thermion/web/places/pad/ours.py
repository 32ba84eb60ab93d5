"""What a pad is about: its team, the challenge that is on, the team's newest version and test."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from functools import cached_property

from flask import session as kept
from sqlalchemy.orm import Session

from thermion.core.planning.conduct import stands_at
from thermion.core.planning.pads import Doing, Stands, doing
from thermion.records import moments
from thermion.records.building import builds
from thermion.records.errors import Gone
from thermion.records.planning import conduct
from thermion.records.planning.briefs import Brief, brief_of, get_challenge
from thermion.records.planning.classes import get_class
from thermion.records.planning.conduct import LessonNow, OnNow
from thermion.records.planning.week import timing_of
from thermion.records.running import attempts, pads, races, runs
from thermion.records.tables import Build, Challenge, Run, SchoolClass, Team, Version
from thermion.web.access import asking
from thermion.web.sessions import read_session, week_plan


@dataclass(frozen=True)
class NextTurn:
    """Which of a team's rows is tried next at a station, how often it was, and whether it is on."""

    row: int
    tried: int
    on: bool


@dataclass(frozen=True, kw_only=True)
class Ours:
    """A team and what is on for it. `run`: the test of its newest version that was made last."""

    team: Team
    school_class: SchoolClass
    challenges: Sequence[Challenge]
    challenge: Challenge | None
    brief: Brief | None
    build: Build | None
    run: Run | None
    on: OnNow | None
    lesson: LessonNow

    @property
    def versions(self) -> Sequence[Version]:
        return self.build.versions if self.build else ()

    @property
    def version(self) -> Version | None:
        return self.versions[-1] if self.versions else None

    @property
    def stands(self) -> Stands:
        version, run = self.version, self.run
        marks = self.brief is not None and self.brief.kind.test.shape == "marks"
        going = run is not None and run.closed_at is None and (bool(run.phases) or not marks)
        return Stands(
            phase=self.on.row.phase if self.on else "",
            walking=self.walks is not None,
            state=version.state if version else "",  # type: ignore[arg-type]  # checked by the table
            asked=bool(version and version.state == "draft" and version.remark),
            reads=going and marks and bool(run and run.pads),
            turns=going and self.turn is not None,
            on=bool(run and run.pads and self.turn and self.turn.on),
            tried=run is not None and run.closed_at is not None,
        )

    @cached_property
    def turn(self) -> NextTurn | None:
        """This team's next turn at a station; None without a queue, or when it has had them all."""
        run, brief = self.run, self.brief
        if run is None or brief is None or brief.kind.test.shape == "marks":
            return None
        session = read_session()
        rows = attempts.current_attempts(session, [run.id])
        queue = attempts.queue_of(run, rows, timing_of(session, run.challenge, brief))
        mine = {e.id for e in pads.rows_of(run, self.team.id)}
        race = races.race_on(session, run)
        order = [*queue.on, *queue.after]
        at = next((at for at, row in enumerate(order) if row in mine), None)
        if race is not None and race.entry.id in mine:
            return NextTurn(race.entry.id, queue.done[race.entry.id], on=True)
        if at is None:
            return None
        on = race is None and order[at] in queue.on
        return NextTurn(order[at], queue.done[order[at]], on=on)

    @property
    def doing(self) -> Doing:
        return doing(self.stands)

    @property
    def walks(self) -> Team | None:
        """The team at whose place this one stands while the class walks round; None otherwise."""
        if self.on is None or self.on.act.turns != "walk":
            return None
        found = self.on.turn(moments.now())
        present = list(self.school_class.present)
        if found is None or not present:
            return None
        at = next((i for i, t in enumerate(present) if t.id == self.team.id), None)
        return None if at is None else present[stands_at(at, found[0], len(present))]


def ours() -> Ours:
    """What this device's team has before it."""
    device, session, now = asking().device, read_session(), moments.now()
    if device is None or device.team_id is None or device.class_id is None:
        raise Gone("This device belongs to no team.")
    school_class = get_class(session, device.class_id)
    team = next((t for t in school_class.teams if t.id == device.team_id), None)
    if team is None:
        raise Gone("This team is no longer on the list. Join with the code of your new team.")
    plan = week_plan(school_class.id)
    lesson = conduct.lesson_now(session, school_class, plan, now)
    found = _challenge(session, plan.challenges, lesson, team, now)
    if found is None:
        return Ours(
            team=team,
            school_class=school_class,
            challenges=(),
            challenge=None,
            brief=None,
            build=None,
            run=None,
            on=lesson.on[-1] if lesson.on else None,
            lesson=lesson,
        )
    challenge = get_challenge(session, found)
    build = next((b for b in builds.builds_of(session, found) if b.team_id == team.id), None)
    return Ours(
        team=team,
        school_class=school_class,
        challenges=plan.challenges,
        challenge=challenge,
        brief=brief_of(challenge).of_team(team.id),
        build=build,
        run=_run(session, build),
        on=next((o for o in lesson.on if o.row.challenge_id in (found, None)), None),
        lesson=lesson,
    )


def _challenge(
    session: Session, challenges: Sequence[Challenge], lesson: LessonNow, team: Team, now: datetime
) -> int | None:
    """The challenge chosen on this pad; else the one whose step or test is on; else the one made last."""
    there = [c.id for c in challenges]
    chosen = kept.get("challenge")
    if chosen in there:
        return int(chosen)
    for each in lesson.on:
        if each.row.challenge_id in there:
            return each.row.challenge_id
    going = runs.going_runs(session, team.class_id, now)
    if going:
        return going[-1].challenge_id
    return there[-1] if there else None


def _run(session: Session, build: Build | None) -> Run | None:
    """The last test of a team's newest version that was really held."""
    if build is None or not build.versions:
        return None
    found = [r for r in runs.runs_of(session, build.challenge_id) if not r.rehearsal]
    newest = build.versions[-1].id
    mine = [r for r in found if any(e.version_id == newest for e in r.entries)]
    return mine[-1] if mine else None
