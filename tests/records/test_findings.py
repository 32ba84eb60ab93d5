"""Findings from stored readings: figures, places, fairness, what changed."""

from __future__ import annotations

from datetime import timedelta

import pytest

from tests.conftest import GOOD, NOON, Crew, initial
from thermion.core.judging.spread import Spread
from thermion.core.plans import Part, Plan
from thermion.formats.exchange import export_challenge, import_challenge
from thermion.formats.intake import read_file
from thermion.records.errors import Refused
from thermion.records.judging.earlier import relearn
from thermion.records.judging.evidence import load_evidence
from thermion.records.judging.lent import earlier_spreads
from thermion.records.planning import briefs
from thermion.records.running import runs
from thermion.records.running.set_apart import set_apart, take_back

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
        challenge = briefs.get_challenge(session, crew.challenge_id)
        brief = briefs.brief_of(challenge)
        return load_evidence(session, challenge, brief, school=school, rehearsal=rehearsal)


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
    assert {initial(s): place for s, place in found.facts.items()} == {"A": 1, "D": 2}
    assert found.lead.word == "not known"  # one try each: nobody knows how much a try varies
    assert evidence(crew, "thrift").findings.versions[0].score.total == pytest.approx(58.0 - 10)


def test_the_second_version_is_judged_against_the_first_and_its_one_change(crew: Crew):
    first = crew.run(crew.plan("Avocet"))
    fill(crew, first, {"Air": 0, "Avocet": 30})
    changed = Plan((*GOOD.parts, Part(place="floor", material="felt", form="flat", units=2)), GOOD.factors)
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
    assert gain.how == "physics"  # the two days have no build in common
    assert gain.claim.word == "leaning"  # one repeat tells how much a try varies, and a sun only estimated
    assert gain.leans_on[0] == "irradiance_w_m2"
    assert gain.cause.verdict == "no difference"  # none that is sure enough to name its cause
    assert [c.sentence for c in gain.changes] == ["Floor: no wool felt → 2 flat wool felt"]
    assert found.versions[1].runs == (2, 3)
    assert found.spread.dof == 1
    assert not found.unfair


def test_runs_in_other_light_are_brought_to_the_same(crew: Crew):
    """The second day is brighter by two fifths, and the box changed by nothing that matters."""
    dim = crew.run(crew.plan("Avocet"), irradiance_w_m2=500.0, air_c=20.0)
    fill(crew, dim, {"Air": 0, "Avocet": 30})
    more = Plan((*GOOD.parts, Part(place="floor", material="felt", form="flat", units=1)), GOOD.factors)
    later = NOON + timedelta(days=1)
    bright = crew.run(crew.plan("Avocet", more, note="Felt."), at=later, irradiance_w_m2=700.0, air_c=20.0)
    fill(crew, bright, {"Air": 0, "Avocet": 42}, at=later)
    found = evidence(crew).findings
    (gain,) = found.gains
    assert [m.key for m in gain.mismatches] == ["irradiance_w_m2"]
    assert gain.claim.difference == pytest.approx(0.0, abs=0.3)
    assert gain.claim.word == "not known"
    assert gain.common == pytest.approx(2**0.5 * 0.1 * 40, rel=0.05)  # each day's sun to a tenth
    assert [(w.run_a, w.run_b) for w in found.unfair] == [(1, 2)]
    assert found.places_fair


def test_a_build_tested_unchanged_on_both_days_takes_the_days_out(crew: Crew):
    """Dunlin changed nothing: what its box gained is the day's, not the design's."""
    rig = {"irradiance_w_m2": 600.0, "air_c": 20.0}
    first = crew.run(crew.plan("Avocet"), crew.plan("Dunlin"), **rig)
    fill(crew, first, {"Air": 0, "Avocet": 30, "Dunlin": 25})
    felt = Plan((*GOOD.parts, Part(place="floor", material="felt", form="flat", units=2)), GOOD.factors)
    later = NOON + timedelta(days=1)
    second = crew.run(crew.plan("Avocet", felt, note="Felt."), crew.plan("Dunlin", note="-"), at=later, **rig)
    fill(crew, second, {"Air": 0, "Avocet": 42, "Dunlin": 31}, at=later)
    (gain,) = evidence(crew).findings.gains  # Dunlin's second is no gain, it is the yardstick
    assert (initial(gain.after), gain.how) == ("A", "yardsticks")
    assert [initial(s) for s in gain.yardsticks] == ["D"]
    assert gain.claim.difference == pytest.approx((42 - 31 * 30 / 25) * 0.95, abs=0.3)


def test_a_run_set_apart_is_shown_and_kept_and_not_counted(crew: Crew):
    """Rain on the second day; what was read before it counts as a bound, and all again when taken back."""
    whole = crew.run(crew.plan("Avocet"), crew.plan("Dunlin"))
    fill(crew, whole, RISES)
    later = NOON + timedelta(days=1)
    wet = crew.run(1, 2, at=later)
    fill(crew, wet, {"Air": 0, "Avocet": 12, "Dunlin": 9}, at=later)
    hottest = {"A": 58.0, "D": 43.8}

    def peaks() -> dict[str, float]:
        found = evidence(crew).findings
        return {initial(v.subject): v.figures["peak"].value for v in found.versions}

    def change(act, *args, **more):
        with crew.database.writing() as session:
            return act(session, runs.get_run(session, wet), *args, **more)

    assert peaks()["A"] < 50
    made = change(set_apart, "rain")
    assert change(set_apart, "rain ").id == made.id  # twice is once
    assert peaks() == pytest.approx(hottest, abs=0.2)
    change(take_back, made.id)
    assert peaks()["A"] < 50
    row = crew.entries(wet)["Dunlin"]
    change(set_apart, "it fell over", entry_id=row)
    assert peaks()["D"] == pytest.approx(hottest["D"], abs=0.2)
    change(set_apart, "rain from here on", phase="heating", after_s=660.0)
    found = {initial(v.subject): v for v in evidence(crew).findings.versions}
    assert found["A"].figures["peak"].value == pytest.approx(
        58.0, abs=0.2
    )  # never averaged with a broken test
    with pytest.raises(Refused, match="a word why"):
        change(set_apart, "  ")
    with pytest.raises(Refused, match="minute"):
        change(set_apart, "rain", phase="heating")


def test_how_much_a_try_varies_is_lent_by_three_other_challenges(crew: Crew):
    def repeated(crew: Crew) -> None:
        for day, shift in enumerate((0.0, 1.0, -0.5, 0.4)):
            at = NOON + timedelta(days=day)
            again = [1, 2] if day else [crew.plan("Avocet"), crew.plan("Dunlin")]
            run = crew.run(*again, at=at)
            fill(crew, run, {"Air": 0, "Avocet": 40 + shift, "Dunlin": 25}, at=at)
            with crew.database.writing() as session:
                runs.close_run(runs.get_run(session, run), at)
        with crew.database.writing() as session:
            relearn(session, crew.challenge_id)

    def known(number: int) -> dict[str, Spread]:
        with crew.database.session() as session:
            challenge = briefs.get_challenge(session, number)
            return earlier_spreads(session, challenge, briefs.brief_of(challenge))

    repeated(crew)
    with crew.database.session() as session:
        copied = export_challenge(session, crew.challenge_id)
    assert known(1) == {}  # its own repeats are not an earlier challenge's
    for token in ("one", "two", "three"):
        assert known(1) == {}  # two are too few to tell how much challenges differ in it
        with crew.database.writing() as session:
            made = import_challenge(session, read_file(copied.encode()), token).id
    own = evidence(crew).findings.spread
    assert known(made)["peak"].sd == pytest.approx(own.sd, rel=1e-6)
    assert known(made)["peak"].dof == 8  # three from each of three others, which agree; never more than 8


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
