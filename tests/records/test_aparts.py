"""What does not count: set apart as a whole, by row or from a moment on, whatever the order."""

from __future__ import annotations

from datetime import timedelta

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.conftest import GOOD, NOON, Crew
from thermion.core.kinds.trials import Trace
from thermion.core.plans import Part, Plan
from thermion.formats.exchange import export_challenge, import_challenge
from thermion.formats.intake import read_file
from thermion.records.building import builds
from thermion.records.errors import Gone
from thermion.records.planning import briefs
from thermion.records.running import runs
from thermion.records.running.repeats import already_tested, yardsticks
from thermion.records.running.set_apart import NOTHING_APART, CutOff, apart_in, set_apart, take_back

PHASES = ("heating", "cooling")
times = st.lists(st.floats(0, 3600), unique=True, max_size=12).map(sorted)


@given(times, st.floats(0, 3600))
def test_a_cut_keeps_what_came_before_and_nothing_of_later_phases(at, after):
    trace = Trace(tuple(at), tuple(range(len(at))))
    cut = CutOff(PHASES, "heating", after)
    kept = cut.trace("heating", trace)
    assert kept.time_s == tuple(t for t in at if t <= after)
    assert kept.value == trace.value[: len(kept.value)]
    assert cut.trace("cooling", trace) == Trace()
    late = CutOff(PHASES, "cooling", after)
    assert late.trace("heating", trace) == trace
    assert late.trace("air", trace) == trace  # a reading of no phase of the test


@pytest.fixture
def wet(crew: Crew):
    """A run of two builds, and a way to change what of it counts."""
    run_id = crew.run(crew.plan("Avocet"), crew.plan("Dunlin"))

    class Wet:
        rows = crew.entries(run_id)

        def apart(self, why="rain", **more) -> int:
            with crew.database.writing() as session:
                return set_apart(session, runs.get_run(session, run_id), why, **more).id

        def back(self, number: int) -> None:
            with crew.database.writing() as session:
                take_back(session, runs.get_run(session, run_id), number)

        def look(self):
            with crew.database.session() as session:
                run = runs.get_run(session, run_id)
                return apart_in(run, PHASES), {e.id: e for e in run.entries}

    return Wet()


def test_a_run_a_row_and_a_moment_stand_beside_each_other(wet):
    assert wet.look()[0] is NOTHING_APART
    whole = wet.apart()
    found, rows = wet.look()
    assert all(found.leaves_out(e) for e in rows.values())
    wet.back(whole)
    wet.apart("it fell over", entry_id=wet.rows["Dunlin"])
    wet.apart("cloud", phase="cooling", after_s=300.0)
    found, rows = wet.look()
    assert [name for name, number in wet.rows.items() if found.leaves_out(rows[number])] == ["Dunlin"]
    seen = Trace((0.0, 240.0, 480.0), (50.0, 44.0, 39.0))
    assert found.trace(rows[wet.rows["Avocet"]], "cooling", seen).time_s == (0.0, 240.0)
    assert found.trace(rows[wet.rows["Avocet"]], "heating", seen) == seen


def test_of_two_moments_the_earlier_one_counts(wet):
    row = wet.rows["Avocet"]
    wet.apart("shade", entry_id=row, phase="cooling", after_s=300.0)
    wet.apart("slipped out", entry_id=row, phase="heating", after_s=900.0)
    found, rows = wet.look()
    seen = Trace((600.0, 1200.0), (30.0, 40.0))
    assert found.trace(rows[row], "heating", seen).time_s == (600.0,)
    assert found.trace(rows[row], "cooling", seen) == Trace()
    assert found.trace(rows[wet.rows["Dunlin"]], "heating", seen) == seen


def test_taking_back_twice_is_once_and_what_is_not_there_is_said(wet):
    number = wet.apart()
    wet.back(number)
    wet.back(number)
    assert wet.look()[0] is NOTHING_APART
    again = wet.apart("rain again")
    assert again != number  # what was said the first time stays in the record
    with pytest.raises(Gone):
        wet.back(999)
    with pytest.raises(Gone):
        wet.apart("x", entry_id=999)


def test_a_file_holds_what_was_set_apart_and_why(crew: Crew, wet):
    wet.apart("it fell over", entry_id=wet.rows["Dunlin"])
    wet.back(wet.apart("bell", phase="heating", after_s=1200.0))
    with crew.database.session() as session:
        file = export_challenge(session, crew.challenge_id)
    with crew.database.writing() as session:
        made = import_challenge(session, read_file(file.encode()), "t").id
    with crew.database.session() as session:
        (run,) = runs.runs_of(session, made)
        names = {e.id: e.position for e in run.entries}
        kept = [(a.why, a.phase, a.after_s, a.undone_at is None, names.get(a.entry_id)) for a in run.aparts]
    assert kept[0][:4] == ("it fell over", "", None, True)
    assert kept[1] == ("bell", "heating", 1200.0, False, None)


class TestYardsticks:
    def chosen(self, crew: Crew, *versions: int) -> list[str]:
        with crew.database.session() as session:
            found = builds.builds_of(session, crew.challenge_id)
            old = yardsticks(found, versions, already_tested(session, crew.challenge_id))
            return [f"{v.build.team.name} {v.number}" for v in old]

    def test_are_builds_that_were_tested_as_they_are(self, crew: Crew):
        first, second = crew.plan("Avocet"), crew.plan("Dunlin")
        assert self.chosen(crew, first, second) == []  # nothing was tested yet
        crew.run(first, second)
        felt = Plan((*GOOD.parts, Part(place="floor", material="felt", form="flat", units=1)), GOOD.factors)
        better = crew.plan("Avocet", felt, note="Felt.")
        same = crew.plan("Dunlin", note="Nothing.")
        assert self.chosen(crew, better, second) == ["Dunlin 1"]
        assert self.chosen(crew, better, same) == ["Dunlin 2"]  # a new version in which nothing changed
        assert self.chosen(crew, better) == []

    def test_a_rehearsal_tests_nothing(self, crew: Crew):
        version = crew.plan("Avocet")
        with crew.database.writing() as session:
            challenge = briefs.get_challenge(session, crew.challenge_id)
            runs.create_run(
                session, challenge, version_ids=[version], conditions={}, rehearsal=True, speed=60.0, now=NOON
            )
        assert self.chosen(crew, version) == []

    def test_twice_is_two_runs_or_two_attempts(self, crew: Crew):
        def twice() -> bool:
            with crew.database.session() as session:
                return already_tested(session, crew.challenge_id).twice

        version = crew.plan("Avocet")
        crew.run(version)
        assert not twice()
        crew.run(version, at=NOON + timedelta(days=1))
        assert twice()
