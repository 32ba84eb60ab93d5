"""The relief crew's week: four ovens at four stages, and the other families briefed."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from datetime import UTC, datetime, timedelta
from typing import Any

from sqlalchemy.orm import Session

from thermion.core.plans import Part, Plan
from thermion.demo.crews import hold_lesson, other_crews, thoughts
from thermion.demo.families import make_run
from thermion.demo.planning import plan_week, shelves
from thermion.probes.simulated import SimulatedProbe
from thermion.records.building import builds, store
from thermion.records.building.builds import Draft
from thermion.records.database import Database
from thermion.records.judging.earlier import relearn_all
from thermion.records.planning import briefs
from thermion.records.planning.classes import TeamInput, computer_zone, save_class
from thermion.records.running import runs
from thermion.records.running.readings import ReadingInput, save_reading
from thermion.records.tables import Challenge, Run, SchoolClass, Version

TEAMS = ("Avocet", "Dunlin", "Godwit", "Knot", "Plover", "Turnstone", "Whimbrel", "Curlew")
_Parts = tuple[tuple[str, str, str, float], ...]
FIRST: Mapping[str, tuple[_Parts, dict[str, float], float]] = {
    "Avocet": (
        (
            ("window", "cling_film", "flat", 2),
            ("absorber", "black_paper", "flat", 2),
            ("wall", "newspaper", "crumpled", 4),
            ("reflector", "foil", "flat", 1),
            ("seal", "tape", "flat", 2),
        ),
        {"reflector_deg": 95},
        70,
    ),
    "Dunlin": (
        (
            ("window", "cling_film", "flat", 1),
            ("absorber", "foil", "flat", 1),
            ("wall", "foil", "flat", 2),
            ("seal", "tape", "flat", 1),
        ),
        {},
        90,
    ),
    "Godwit": (
        (
            ("window", "bubble_wrap", "flat", 1),
            ("absorber", "black_paper", "flat", 2),
            ("wall", "straw", "flat", 8),
            ("floor", "straw", "flat", 2),
            ("seal", "tape", "flat", 3),
        ),
        {"height_m": 0.10},
        60,
    ),
    "Knot": (
        (
            ("window", "cling_film", "flat", 1),
            ("absorber", "black_paper", "flat", 1),
            ("wall", "felt", "flat", 2),
        ),
        {},
        65,
    ),
    "Plover": (
        (
            ("window", "cling_film", "flat", 2),
            ("absorber", "black_paper", "flat", 2),
            ("floor", "felt", "flat", 2),
            ("reflector", "foil", "flat", 1),
            ("seal", "tape", "flat", 4),
        ),
        {"reflector_deg": 125},
        75,
    ),
    "Turnstone": (
        (
            ("absorber", "black_paper", "flat", 2),
            ("wall", "newspaper", "flat", 4),
            ("reflector", "foil", "flat", 2),
        ),
        {"reflector_deg": 90},
        80,
    ),
    "Whimbrel": (
        (
            ("window", "cling_film", "flat", 1),
            ("absorber", "black_paper", "flat", 2),
            ("wall", "newspaper", "shredded", 3),
            ("floor", "newspaper", "shredded", 1),
            ("seal", "tape", "flat", 2),
        ),
        {},
        62,
    ),
    "Curlew": (
        (
            ("window", "cling_film", "flat", 1),
            ("absorber", "black_paper", "flat", 2),
            ("wall", "newspaper", "shredded", 3),
            ("floor", "newspaper", "shredded", 1),
            ("seal", "tape", "flat", 2),
        ),
        {},
        58,
    ),
}
SECOND: Mapping[str, tuple[_Parts, dict[str, float], str]] = {
    "Avocet": (
        (*FIRST["Avocet"][0], ("floor", "felt", "flat", 2)),
        {},
        "The floor was the only side without anything in it.",
    ),
    "Dunlin": (
        (
            ("window", "cling_film", "flat", 2),
            ("absorber", "black_paper", "flat", 2),
            ("wall", "newspaper", "crumpled", 6),
            ("seal", "tape", "flat", 3),
        ),
        {},
        "Foil made no heat. We start over: dark inside, paper in the walls.",
    ),
    "Godwit": (
        (("window", "cling_film", "flat", 2), *FIRST["Godwit"][0][1:]),
        {},
        "Bubble wrap keeps light out as well as heat in. Try clear film.",
    ),
    "Knot": ((*FIRST["Knot"][0], ("seal", "tape", "flat", 4)), {}, "We felt air at the lid, so we close it."),
    "Plover": (
        FIRST["Plover"][0],
        {"reflector_deg": 95},
        "The reflector threw the light over the box. More upright now.",
    ),
    "Turnstone": (
        (("window", "cling_film", "flat", 2), *FIRST["Turnstone"][0]),
        {},
        "There was no window: the warm air went straight up.",
    ),
    "Whimbrel": (
        (*FIRST["Whimbrel"][0], ("reflector", "foil", "flat", 1)),
        {"reflector_deg": 95, "height_m": 0.10},
        "Reflector, and a lower box.",
    ),
    "Curlew": (FIRST["Curlew"][0], {}, "Same again, to see how much a repeat varies."),
}
NEED = "Warm the keeper's mug as hot as you can in 30 minutes, and keep it warm when the light goes."


def build_demo(database: Database, now: datetime | None = None) -> None:
    """Fill an empty data folder with the week; the run that is on began 12 minutes before now."""
    now = now or datetime.now(UTC)
    with database.writing() as session:
        crew = save_class(
            session,
            name="Relief crew",
            temp_unit="degC",
            decimal="point",
            zone=computer_zone(),
            teams=[TeamInput(name=name) for name in TEAMS],
        )
        shelves(session, crew)
        _finished(session, crew, now - timedelta(days=2))
        _running(session, crew, now)
        _waiting(session, crew, now)
        _not_begun(session, crew)
        plan_week(session, crew, now)
        hold_lesson(session, crew, now)
        thoughts(session, crew)
        other_crews(session, crew, now)
    relearn_all(database)


def _challenge(
    session: Session, crew: SchoolClass, title: str, choices: Mapping[str, str], school: str
) -> Challenge:
    challenge = briefs.create_challenge(session, crew, "solar_oven", title)
    challenge.success = NEED
    briefs.save_settings(challenge, {}, choices)
    briefs.use_school(challenge, school)
    briefs.acknowledge_cautions(challenge)
    briefs.finish_brief(challenge)
    session.flush()
    return challenge


def _plan(parts: _Parts, factors: Mapping[str, float]) -> Plan:
    kind_factors = {"height_m": 0.12, "gap_m": 0.04, "reflector_m": 0.3, "reflector_deg": 110.0}
    return Plan(tuple(Part(*p) for p in parts), {**kind_factors, **factors})


def _version(
    session: Session,
    challenge: Challenge,
    team: str,
    plan: Plan,
    prediction: float | None,
    note: str = "",
    until: str = "issued",
) -> Version:
    """A team's next version, taken as far along as `until`."""
    team_id = next(t.id for t in challenge.school_class.teams if t.name == team)
    version = builds.start_version(session, challenge, team_id)
    builds.save_draft(version, version.revision, Draft(plan=plan, prediction=prediction, change_note=note))
    brief = briefs.brief_of(challenge)
    steps: list[tuple[str, Callable[[], object]]] = [
        ("waiting", lambda: builds.hand_in(version, brief)),
        ("signed", lambda: builds.sign(version, brief)),
        ("issued", lambda: store.hand_out(session, version)),
    ]
    for state, step in steps:
        if until == "draft":
            break
        step()
        if state == until:
            break
    session.flush()
    return version


def _read(
    session: Session,
    challenge: Challenge,
    run: Run,
    until_s: Mapping[str, float],
    *,
    missed: Sequence[tuple[str, str, float]] = (),
    slips: Mapping[tuple[str, str, float], str] | None = None,
    cloud: tuple[float, float, float] | None = None,
) -> None:
    """Walk the round at every mark, probe by probe, five to nine seconds a reading."""
    brief = briefs.brief_of(challenge)
    slips = slips or {}
    started = {p.phase: p.started_at for p in run.phases}
    values = {**brief.values, **{c.key: c.value for c in run.conditions}}
    lengths = {"heating": brief.last_mark_s()["heating"] + 60}
    for phase, last in until_s.items():
        for mark in (m for m in brief.marks[phase] if m <= last):
            for i, entry in enumerate(run.entries):
                name = entry.version.build.team.name if entry.version else "Air"
                if (name, phase, mark) in missed:
                    continue
                late = 4 + 6.5 * i
                plan = builds.plan_of(entry.version) if entry.version else None
                probe = SimulatedProbe(
                    kind=brief.kind,
                    conditions=values,
                    plan=plan,
                    seed=run.seed * 100 + entry.position,
                    lengths_s=lengths,
                    cloud=cloud,
                )
                value = probe.read(phase, mark + late)
                moment = started[phase] + timedelta(seconds=mark + late)
                slip = slips.get((name, phase, mark))
                key = f"demo-{run.id}-{entry.id}-{phase}-{mark:g}"
                first = save_reading(
                    session,
                    run.id,
                    ReadingInput(
                        entry_id=entry.id,
                        phase=phase,
                        mark_s=mark,
                        given=slip or f"{value:g}",
                        client_id=key,
                        entered_at=moment,
                    ),
                    moment + timedelta(seconds=1),
                ).reading
                if slip:
                    later = moment + timedelta(seconds=25)
                    save_reading(
                        session,
                        run.id,
                        ReadingInput(
                            entry_id=entry.id,
                            phase=phase,
                            mark_s=mark,
                            given=f"{value:g}",
                            client_id=f"{key}-corrected",
                            entered_at=later,
                            supersedes_id=first.id,
                        ),
                        later,
                    )


def _whole_run(
    session: Session,
    challenge: Challenge,
    versions: Sequence[Version],
    conditions: Mapping[str, float],
    at: datetime,
    note: str,
    **trouble: Any,
) -> None:
    run = make_run(session, challenge, versions, conditions, at, note)
    brief = briefs.brief_of(challenge)
    runs.start_phase(session, run, brief, "heating", at)
    runs.start_phase(session, run, brief, "cooling", at + timedelta(seconds=1860))
    _read(session, challenge, run, {"heating": 1800, "cooling": 1200}, **trouble)
    runs.close_run(run, at + timedelta(seconds=3200))


def _finished(session: Session, crew: SchoolClass, at: datetime) -> None:
    """Two versions tested on two days, and a repeat of three builds."""
    challenge = _challenge(session, crew, "Keeper's supper", {"heat_source": "sun"}, "thrift")
    first = [
        _version(session, challenge, team, _plan(parts, factors), prediction)
        for team, (parts, factors, prediction) in FIRST.items()
    ]
    day = {"start_c": 18.0, "air_c": 18.0, "irradiance_w_m2": 520.0, "sun_deg": 48.0}
    _whole_run(
        session,
        challenge,
        first,
        day,
        at,
        "Clear at first; a cloud passed from 14 to 17 min.",
        missed=[("Knot", "heating", 900), ("Plover", "cooling", 600)],
        slips={("Godwit", "heating", 1200.0): "4.8"},
        cloud=(840.0, 1020.0, 0.2),
    )
    second = [
        _version(
            session, challenge, team, _plan(parts, {**FIRST[team][1], **factors}), FIRST[team][2] + 3, note
        )
        for team, (parts, factors, note) in SECOND.items()
    ]
    next_day = {"start_c": 19.0, "air_c": 20.0, "irradiance_w_m2": 640.0, "sun_deg": 50.0}
    _whole_run(
        session,
        challenge,
        second,
        next_day,
        at + timedelta(days=1),
        "Clear all morning, light wind.",
        missed=[("Dunlin", "heating", 300)],
    )
    again = [v for v in second if v.build.team.name in ("Avocet", "Curlew", "Knot")]
    _whole_run(
        session,
        challenge,
        again,
        {**next_day, "irradiance_w_m2": 620.0},
        at + timedelta(days=1, hours=2),
        "Three builds again.",
    )


def _running(session: Session, crew: SchoolClass, now: datetime) -> None:
    """A lamp run, 12 minutes in, the round of minute 10 done but for one build."""
    challenge = _challenge(session, crew, "Keeper's supper by lamp", {"heat_source": "lamp"}, "raw")
    versions = [
        _version(session, challenge, team, _plan(parts, factors), prediction)
        for team, (parts, factors, prediction) in FIRST.items()
    ]
    lamp = {"start_c": 20.0, "air_c": 20.0, "irradiance_w_m2": 560.0}
    at = now - timedelta(minutes=12)
    run = make_run(session, challenge, versions, lamp, at)
    runs.start_phase(session, run, briefs.brief_of(challenge), "heating", at)
    _read(
        session,
        challenge,
        run,
        {"heating": 600},
        missed=[("Whimbrel", "heating", 300), ("Curlew", "heating", 600)],
        slips={("Knot", "heating", 300.0): "86"},
    )


def _waiting(session: Session, crew: SchoolClass, now: datetime) -> None:
    """Plans at every stage: four wait for the check, one is over its limits."""
    challenge = _challenge(session, crew, "Supper for two", {"heat_source": "sun"}, "green")
    stages = {
        "Avocet": "waiting",
        "Dunlin": "waiting",
        "Godwit": "signed",
        "Knot": "waiting",
        "Plover": "issued",
        "Turnstone": "draft",
        "Whimbrel": "waiting",
    }
    for team, until in stages.items():
        parts, factors, prediction = FIRST[team]
        if team == "Turnstone":
            parts = (*parts, ("wall", "newspaper", "crumpled", 6))
        _version(session, challenge, team, _plan(parts, factors), prediction + 2, until=until)


def _not_begun(session: Session, crew: SchoolClass) -> None:
    briefs.create_challenge(session, crew, "solar_oven", "Supper in the fog", "6-8")
