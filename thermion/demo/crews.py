"""The Supply crew and the Signal crew, who have already run one of the same challenges; a lesson held."""

from __future__ import annotations

from collections.abc import Mapping
from datetime import datetime, timedelta

from sqlalchemy.orm import Session

from thermion.core.kinds.briefing import Term
from thermion.core.kinds.criteria import criterion
from thermion.demo.families import issued, make_run, sails, take_turns
from thermion.formats.briefs import copy_to
from thermion.records.building import ideas
from thermion.records.building.ideas import IdeaInput
from thermion.records.judging.criteria import judge, newest_versions
from thermion.records.planning import briefs, conduct, week
from thermion.records.planning.classes import TeamInput, computer_zone, save_class
from thermion.records.planning.conduct import Done
from thermion.records.running import runs
from thermion.records.tables import Challenge, SchoolClass

_Rotor = tuple[tuple[tuple[str, str, float], ...], dict[str, float], float]
_TAPE, _CORK = ("fix", "tape", 2), ("hub", "cork", 1)
CRANES: Mapping[str, _Rotor] = {
    "Avocet": ((("blade", "card", 2), _TAPE, _CORK), {}, 8),
    "Dunlin": ((("blade", "balsa", 4), _TAPE, _CORK), {"pitch_deg": 40.0}, 6),
    "Godwit": ((("blade", "copy_paper", 2), _TAPE, _CORK), {}, 10),
    "Knot": ((("blade", "card", 2), ("spar", "craft_stick", 4), _TAPE, _CORK), {"opposed": 2.0}, 9),
    "Plover": ((("blade", "card", 2), ("spar", "craft_stick", 4), _TAPE, _CORK), {}, 7),
    "Turnstone": ((("blade", "foam_plate", 1), ("fix", "tape", 1)), {"blades": 3.0}, 12),
}
MENDED: Mapping[str, tuple[_Rotor, str, str]] = {
    "Avocet": ((CRANES["Avocet"][0], {"pitch_deg": 20.0}, 10), "Flatter blades, nothing else.", ""),
    "Godwit": (
        ((("blade", "card", 2), _TAPE, _CORK), {}, 8),
        "Paper went limp in the wind. Card stays as it is bent.",
        "Plover",
    ),
    "Knot": (
        (CRANES["Knot"][0], {"opposed": 0.0}, 12),
        "Two blades pushed the other way. Now all push the same way.",
        "",
    ),
}
STRAIGHT = ((3, 4), (1, 1), (4, 4), (2, 3), (4, 3), (0, 0), (2, 2), (3, 3))  # marks of two judges by team


def other_crews(session: Session, relief: SchoolClass, now: datetime) -> None:
    """Two classes with the same week: the crane in two versions here, the sails there."""
    cranes = next(c for c in relief.challenges if c.kind == "wind_hoist")
    races = next(c for c in relief.challenges if c.kind == "sail_run")
    supply = _crew(session, "Supply crew", list(CRANES), now)
    signal = _crew(session, "Signal crew", [t.name for t in relief.teams], now, temp_unit="degF")
    (made,) = copy_to(session, cranes.id, [supply.id])
    briefs.acknowledge_cautions(made.challenge)
    _two_versions(session, made.challenge, now - timedelta(days=2))
    (made,) = copy_to(session, races.id, [signal.id])
    briefs.acknowledge_cautions(made.challenge)
    sails(session, made.challenge, now - timedelta(days=2))
    _straight(session, made.challenge)
    for title in ("Save the bait", "Fill the cistern"):
        found = next(c for c in relief.challenges if c.title == title)
        copy_to(session, found.id, [supply.id, signal.id])


def _crew(
    session: Session, name: str, teams: list[str], now: datetime, temp_unit: str = "degC"
) -> SchoolClass:
    made = save_class(
        session,
        name=name,
        temp_unit="degF" if temp_unit == "degF" else "degC",
        decimal="point",
        zone=computer_zone(),
        teams=[TeamInput(name=team) for team in teams],
        learners=4 * len(teams),
    )
    start = now.replace(second=0, microsecond=0) - timedelta(hours=6)
    for day in (-2, -1, 1, 2):
        week.save_lesson(session, made.id, start + timedelta(days=day), 60 * 60.0, 5 * 60.0)
    return made


def _straight(session: Session, challenge: Challenge) -> None:
    """The signal crew scores how straight a trolley ran, too; two judges have looked."""
    straight = criterion("Runs straight")
    briefs.save_rule(
        challenge,
        [*briefs.brief_of(challenge).rule, Term(metric=straight.key, unit=straight.unit, weight=5.0)],
    )
    session.flush()
    brief = briefs.brief_of(challenge)
    for version, marks in zip(newest_versions(session, challenge.id), STRAIGHT, strict=True):
        for by, mark in enumerate(marks, 1):
            judge(
                session,
                challenge.id,
                brief,
                version.id,
                key=straight.key,
                by=by,
                typed=str(mark),
                setting=brief.setting,
            )


def _two_versions(session: Session, challenge: Challenge, at: datetime) -> None:
    """A finished crane: every team's first rotor, and what three of them mended."""
    session.flush()
    rig = {"wind_m_s": 2.8}
    first = [issued(session, challenge, team, *made) for team, made in CRANES.items()]
    session.flush()
    run = make_run(session, challenge, [v for v, _ in first], rig, at, "Fan on step 1.")
    take_turns(session, challenge, run, [p for _, p in first], 41)
    runs.close_run(run, at + timedelta(minutes=50))
    again = [
        issued(session, challenge, team, *made, note=note, idea=idea)
        for team, (made, note, idea) in MENDED.items()
    ]
    again += [issued(session, challenge, "Plover", *CRANES["Plover"], note="The same again.")]
    session.flush()
    then = at + timedelta(days=1)
    run = make_run(session, challenge, [v for v, _ in again], rig, then, "Second versions, same fan.")
    take_turns(session, challenge, run, [p for _, p in again], 42)
    runs.close_run(run, then + timedelta(minutes=35))


def hold_lesson(session: Session, crew: SchoolClass, now: datetime) -> None:
    """The lesson that is on: its first steps are done, the test is on."""
    plan = week.week_of(session, crew.id)
    begun = now - timedelta(minutes=20)
    for minute in (0.2, 1.6, 3.1, 6.4, 7.6):
        at = begun + timedelta(minutes=minute)
        seen = conduct.lesson_now(session, crew, plan, at)
        conduct.carry_out(session, crew, plan, Done(what="next", seen=seen.mark), at)
    lamp = next(c for c in plan.challenges if c.title == "Keeper's supper by lamp")
    at = now - timedelta(minutes=12)
    seen = conduct.lesson_now(session, crew, plan, at)
    started = Done(what="start", seen=seen.mark, challenge=str(lamp.id), phase="test", act="rounds")
    conduct.carry_out(session, crew, plan, started, at)


SKETCH = {
    "box": [[440, 290, 440, 445, 690, 445, 690, 290], [440, 290, 690, 290], [690, 290, 760, 60]],
    "nest": [[410, 270, 450, 450, 680, 450, 720, 270], [430, 340, 700, 340], [445, 395, 690, 395]],
}
THOUGHTS = (
    ("Turnstone", "box", {"absorber": "black_paper", "reflector": "foil"}, "Black soaks up the light."),
    ("Turnstone", "nest", {"wall": "straw", "floor": "straw"}, "A nest keeps eggs warm."),
    ("Turnstone", "box", {"window": "cling_film", "seal": "tape"}, "The warm air must not get out."),
    ("Curlew", "nest", {"wall": "newspaper", "window": "bubble_wrap"}, "Air in the paper holds heat."),
)
LEARNED = (("Dunlin", "Avocet", "paper in the walls"), ("Turnstone", "Plover", "a clear window"))


def thoughts(session: Session, crew: SchoolClass) -> None:
    """Silent ideas for a supper that is planned now, and what was taken on the walk round of another."""
    teams = {t.name: t.id for t in crew.teams}
    planned = next(c for c in crew.challenges if c.title == "Supper for two")
    planned = briefs.get_challenge(session, planned.id)
    for i, (team, sketch, picks, why) in enumerate(THOUGHTS):
        given = IdeaInput(SKETCH[sketch], picks, why, f"demo-idea-{i}")
        ideas.add_idea(session, planned, teams[team], given)
    done = next(c for c in crew.challenges if c.title == "Keeper's supper")
    for team, source, what in LEARNED:
        ideas.take_from(session, done, teams[team], teams[source], what)
