"""Stand-in probes and the demo week they feed."""

from __future__ import annotations

from datetime import UTC, datetime

import pytest
from sqlalchemy import func, select

from tests.conftest import GOOD
from thermion.core.kinds import get_kind
from thermion.core.physics.materials import MATERIALS
from thermion.demo import build_demo
from thermion.probes.simulated import SimulatedProbe
from thermion.records.building import builds
from thermion.records.judging.conclusions import known_in
from thermion.records.judging.evidence import load_evidence
from thermion.records.judging.how_far import paths
from thermion.records.planning import briefs
from thermion.records.running.runs import going_runs
from thermion.records.tables import Challenge, Reading

RIG = {
    "aperture_m2": 0.09,
    "load_kg": 0.15,
    "sun_deg": 50.0,
    "air_c": 20.0,
    "start_c": 20.0,
    "irradiance_w_m2": 600.0,
}
KIND = get_kind("solar_oven")


def probe(**more) -> SimulatedProbe:
    return SimulatedProbe(kind=KIND, conditions=RIG, plan=GOOD, seed=7, lengths_s={"heating": 1860.0}, **more)


def test_cooling_begins_where_heating_ended():
    device = probe()
    assert device.true_c("cooling", 0.0) == pytest.approx(device.true_c("heating", 1860.0))
    assert device.true_c("cooling", 1200.0) < device.true_c("cooling", 300.0)
    assert (
        SimulatedProbe(kind=KIND, conditions=RIG, plan=None, seed=1, lengths_s={}).true_c("heating", 900.0)
        == 20.0
    )


def test_equal_seeds_give_equal_readings_on_the_thermometers_scale():
    readings = [probe().read("heating", 60.0 * i) for i in range(30)]
    assert readings == [probe().read("heating", 60.0 * i) for i in range(30)]
    assert all((2 * r) == int(2 * r) for r in readings)


def test_a_cloud_dims_only_while_it_passes():
    clear, cloudy = probe(), probe(cloud=(840.0, 1020.0, 0.2))
    assert cloudy.true_c("heating", 800.0) == clear.true_c("heating", 800.0)
    assert cloudy.true_c("heating", 1020.0) < clear.true_c("heating", 1020.0) - 3
    later = clear.true_c("heating", 1800.0) - cloudy.true_c("heating", 1800.0)
    assert 0 < later < clear.true_c("heating", 1020.0) - cloudy.true_c("heating", 1020.0)


def test_the_demo_week_shows_every_stage_and_a_real_weeks_troubles(database):
    now = datetime(2026, 6, 3, 10, 0, tzinfo=UTC)
    build_demo(database, now)
    with database.session() as session:
        challenges = session.scalars(select(Challenge).order_by(Challenge.id)).all()
        steps = [p.next_step for p in paths(session, challenges, now).values()]
        assert steps == [
            "Look at what came out",
            "Read the next mark",
            "4 plans wait for your check",
            "Finish the brief",
            "Look at what came out",
            "Look at what came out",
            "2 plans wait for your check",
            "Start the clock",
            "Read the next mark",
            "Take the next turn",
            "Look at what came out",
            "Look at what came out",
            *["6 teams still planning", "8 teams still planning"] * 2,
        ]
        finished = briefs.get_challenge(session, challenges[0].id)
        brief = briefs.brief_of(finished)
        found = load_evidence(session, finished, brief, school="thrift").findings
        assert {v.subject.version for v in found.versions} == {1, 2}
        assert any(p.first != p.last for p in found.places)  # places that nobody can tell apart
        assert found.unfair  # another sun on the second day
        missed = [m for v in found.versions for m in v.missed]
        assert sorted(missed) == ["cooling 10 min", "heating 15 min", "heating 5 min"]
        assert any(v.figures["to_level"].value is None for v in found.versions)  # never got there
        corrected = select(func.count()).where(Reading.supersedes_id.is_not(None))
        assert session.scalar(corrected) == 2  # corrected slips
        going = going_runs(session, 1, now)
        assert [(g.shape, g.since_s / 60) for g in going] == [("marks", 12), ("marks", 13), ("turns", 32)]
        raced = briefs.get_challenge(session, challenges[4].id)
        told = load_evidence(session, raced, briefs.brief_of(raced), school="raw").findings
        longest = max(told.versions, key=lambda v: v.figures["time"].value)
        (kept,) = known_in(session, challenges[7].id)  # the bait begins from what the race told
        used = MATERIALS[told.used[longest.subject][0]].name
        assert kept.text.startswith(used)
        waiting = builds.builds_of(session, challenges[2].id)
        over = next(b for b in waiting if b.team.name == "Turnstone").versions[-1]
        problems = builds.problems(over, briefs.brief_of(briefs.get_challenge(session, 3)))
        assert [p.message for p in problems] == ["Newspaper: 10 used, the limit is 8."]
