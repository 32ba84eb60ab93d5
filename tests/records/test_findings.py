"""Findings from stored readings: figures, places, fairness, what changed."""

from __future__ import annotations

from datetime import timedelta

import pytest

from tests.conftest import GOOD, NOON, Crew, initial
from thermion.core.plans import Part, Plan
from thermion.records.judging.evidence import load_evidence
from thermion.records.planning import briefs
from thermion.records.running import runs

RISES = {"Air": 0, "Avocet": 40, "Dunlin": 25}


def fill(crew: Crew, run_id: int, rises: dict[str, float], at=NOON, skip=()) -> None:
    """Type a whole run: each build approaches its rise with a time constant of ten minutes."""
    with crew.database.writing() as session:
        run = runs.get_run(session, run_id)
        brief = briefs.brief_of(briefs.get_challenge(session, crew.challenge_id))
        runs.start_phase(session, run, brief, "cooling", at + timedelta(minutes=31))
    for name, entry in crew.entries(run_id).items():
        for minute in (0, 5, 10, 15, 20, 25, 30):
            if (name, minute) in skip:
                continue
            value = 20 + rises[name] * (1 - 2.71828 ** (-minute / 10))
            crew.read(
                entry,
                minute,
                f"{value:.1f}",
                late_s=0,
                keep=True,
                moment=at + timedelta(minutes=minute),
                client_id=f"{run_id}{entry}h{minute}",
            )
        for minute in (0, 5, 10, 15, 20):
            value = 20 + rises[name] * 0.95 * 2.71828 ** (-minute / 10)
            crew.read(
                entry,
                minute,
                f"{value:.1f}",
                phase="cooling",
                keep=True,
                moment=at + timedelta(minutes=31 + minute),
                client_id=f"{run_id}{entry}c{minute}",
            )


def evidence(crew: Crew, school: str = "raw", rehearsal: bool = False):
    with crew.database.session() as session:
        brief = briefs.brief_of(briefs.get_challenge(session, crew.challenge_id))
        return load_evidence(session, crew.challenge_id, brief, school=school, rehearsal=rehearsal)


def test_figures_scores_and_places_of_one_run(crew: Crew):
    run = crew.run(crew.plan("Avocet"), crew.plan("Dunlin"), irradiance_w_m2=600.0)
    fill(crew, run, RISES, skip=[("Dunlin", 15)])
    found = evidence(crew).findings
    avocet, dunlin = found.versions
    assert avocet.figures["peak"].value == pytest.approx(58.0)
    assert avocet.figures["limit"].value == pytest.approx(60.0, abs=0.3)
    assert avocet.figures["tau_cool"].value == pytest.approx(10.0, abs=0.2)
    assert avocet.figures["to_level"].value == pytest.approx(13.9, abs=0.5)
    assert dunlin.figures["to_level"].value is None
    assert dunlin.missed == ("heating 15 min",)
    assert [(initial(p.key), p.place) for p in found.places] == [("A", 1), ("D", 2)]
    assert found.lead.word == "leaning"  # one try each: never clear
    assert evidence(crew, "thrift").findings.versions[0].score.total == pytest.approx(58.0 - 10)


def test_the_second_version_is_judged_against_the_first_and_its_one_change(crew: Crew):
    first = crew.run(crew.plan("Avocet"))
    fill(crew, first, {"Air": 0, "Avocet": 30})
    changed = Plan((*GOOD.parts, Part("floor", "felt", "flat", 2)), GOOD.factors)
    later = NOON + timedelta(days=1)
    second = crew.run(crew.plan("Avocet", changed, note="The floor was empty."), at=later)
    fill(crew, second, {"Air": 0, "Avocet": 42}, at=later)
    again = crew.run(2, at=later + timedelta(hours=2))
    fill(crew, again, {"Air": 0, "Avocet": 41}, at=later + timedelta(hours=2))
    found = evidence(crew).findings
    (gain,) = found.gains
    assert (initial(gain.after), gain.before.version, gain.after.version, gain.verdict) == (
        "A",
        1,
        2,
        "better",
    )
    assert gain.claim.word == "clear"  # the repeat tells how much a try varies
    assert gain.cause.verdict == "candidate"
    assert [c.sentence for c in gain.changes] == ["Floor: no wool felt → 2 flat wool felt"]
    assert found.versions[1].runs == (2, 3)
    assert found.repeats == 1
    assert not found.unfair


def test_runs_in_other_light_are_set_apart_and_corrected(crew: Crew):
    dim = crew.run(crew.plan("Avocet"), irradiance_w_m2=500.0, air_c=20.0)
    fill(crew, dim, {"Air": 0, "Avocet": 30})
    later = NOON + timedelta(days=1)
    bright = crew.run(crew.plan("Avocet", note="Same again."), at=later, irradiance_w_m2=700.0, air_c=20.0)
    fill(crew, bright, {"Air": 0, "Avocet": 42}, at=later)
    found = evidence(crew).findings
    (gain,) = found.gains
    assert [m.key for m in gain.mismatches] == ["irradiance_w_m2"]
    assert gain.claim.difference == pytest.approx(11.4, abs=0.2)
    assert gain.corrected.difference == pytest.approx(0.0, abs=0.3)
    assert gain.corrected.word == "too close to call"
    assert gain.cause.verdict == "repeatability"
    assert [(w.run_a, w.run_b) for w in found.unfair] == [(1, 2)]
    assert found.places_fair  # only one version is ranked


def test_rehearsals_never_mix_with_real_runs(crew: Crew):
    version = crew.plan("Avocet")
    with crew.database.writing() as session:
        challenge = briefs.get_challenge(session, crew.challenge_id)
        run = runs.create_run(
            session, challenge, version_ids=[version], conditions={}, rehearsal=True, speed=60.0, now=NOON
        )
        runs.start_phase(session, run, briefs.brief_of(challenge), "heating", NOON)
        run_id = run.id
    entry = crew.entries(run_id)["Avocet"]
    saved = crew.read(entry, 5, "40", moment=NOON + timedelta(seconds=6))
    assert saved.reading.time_s == pytest.approx(360.0)  # six seconds at 60×
    assert evidence(crew).findings is None
    assert len(evidence(crew, rehearsal=True).findings.versions) == 1


def test_a_value_in_question_is_named_beside_the_figures(crew: Crew):
    run = crew.run(crew.plan("Avocet"))
    entry = crew.entries(run)["Avocet"]
    for minute, value in ((0, "20"), (5, "30"), (10, "36"), (15, "96")):
        crew.read(entry, minute, value)
    assert evidence(crew).tried[0].missed == ("heating 15 min in question",)
