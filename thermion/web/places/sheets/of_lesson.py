"""Sheets of a lesson that is held: half-sheets for ideas, cards for a walk round, a lesson for a substitute."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import timedelta
from zoneinfo import ZoneInfo

from thermion.core.ages import AgeBand, reader
from thermion.core.planning.acts import act_of
from thermion.core.planning.safety import DEFER
from thermion.records import moments
from thermion.records.building import builds
from thermion.records.judging.evidence import load_evidence
from thermion.records.planning import conduct
from thermion.records.planning.briefs import Brief
from thermion.records.planning.own import cautions_of
from thermion.records.tables import Challenge, Team
from thermion.web.components.conducted import item_words, minutes_words
from thermion.web.pictures.drawings import PAPER, names_svg, plan_svg
from thermion.web.places.sheets import words
from thermion.web.sessions import read_session, week_plan

Shown = dict[str, object]


def act_said(phase: str, key: str, age: AgeBand) -> str:
    """What learners of an age are told in an act."""
    act = act_of(phase, key)
    return act.said(age) if act else ""


def ideas_sheet(_: Challenge, brief: Brief, age: AgeBand) -> Shown:
    """Half a sheet for each of a learner's ideas: the outline, what is on offer, one sentence."""
    return {
        "picture": names_svg(brief, PAPER),
        "materials": [words.on_offer(o) for o in brief.offers],
        "says": act_said("ideas", "silent", age),
    }


@dataclass(frozen=True)
class PlaceCard:
    """What lies at a team's place on a walk round: its build, what came out, and one thing to look for."""

    team: Team
    picture: str
    lines: list[str]
    look_for: str


def walk_sheet(challenge: Challenge, brief: Brief, age: AgeBand) -> Shown:
    """A card for each place; a team without a tested build has one without a result."""
    session = read_session()
    evidence = load_evidence(session, challenge, brief, school=challenge.school)
    cards = []
    for i, team in enumerate(challenge.school_class.teams):
        build = next((b for b in builds.builds_of(session, challenge.id) if b.team_id == team.id), None)
        made = [v for v in build.versions if v.state == "issued"] if build else []
        picture = plan_svg(builds.plan_of(made[-1]), brief, PAPER) if made else names_svg(brief, PAPER)
        lines = words.card_lines(evidence.findings, team.id, brief, young=reader(age).plain)
        cards.append(PlaceCard(team, picture, lines, words.look_for(i, age)))
    return {"cards": cards, "says": act_said("findings", "walk", age)}


@dataclass(frozen=True)
class ActPrinted:
    """A stretch of a lesson as a substitute reads it: from when, what, how long, what learners are told."""

    at: str
    name: str
    minutes: str
    says: str


def lesson_sheet(challenge: Challenge, brief: Brief, age: AgeBand) -> Shown:
    """The lesson that comes next, act by act, for whoever holds it instead."""
    session, zone = read_session(), ZoneInfo(challenge.school_class.zone)
    plan = week_plan(challenge.class_id)
    lesson = conduct.lesson_now(session, challenge.school_class, plan, moments.now())
    ages = {str(c.id): c.age_band for c in plan.challenges}
    acts = []
    titles = {str(c.id): c.title for c in plan.challenges}
    begins = lesson.lesson.start if lesson.lesson else moments.now()
    for held in lesson.held:
        at = (begins + timedelta(seconds=held.item.start_s)).astimezone(zone)
        said = held.item.what.said(ages.get(held.item.challenge, age))
        name = item_words(held.item, titles, [("", "")])
        acts.append(ActPrinted(f"{at:%H:%M}", name, minutes_words(held.item.length_s), said))
    heading = ""
    if lesson.lesson is not None:
        start = lesson.lesson.start.astimezone(zone)
        ends = start + timedelta(seconds=lesson.lesson.length_s)
        heading = words.lesson(lesson.number + 1, start, ends)
    return {
        "heading": heading,
        "acts": acts,
        "warned": cautions_of(read_session(), challenge, brief, age)[:6],
        "waiting": brief.kind.test.bench.waiting,
        "teams": challenge.school_class.teams,
        "defer": DEFER,
    }
