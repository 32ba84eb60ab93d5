"""A test was held on paper: its values are typed in at once, and none of them has a measured time."""

from __future__ import annotations

from datetime import timedelta

import pytest

from tests.conftest import NOON, Crew
from thermion.formats.exchange import export_challenge, import_challenge
from thermion.formats.intake import read_file
from thermion.records.errors import Refused
from thermion.records.planning import briefs
from thermion.records.running import runs
from thermion.records.running.on_paper import hold_on_paper, length_s, not_from_paper


@pytest.fixture
def sheet(crew: Crew):
    """A run that was never started, and how it is taken from paper."""
    run_id = crew.run(crew.plan("Avocet"), crew.plan("Dunlin"), start=False)

    class Sheet:
        rows = crew.entries(run_id)

        def taken(self, began=None, now=NOON) -> None:
            with crew.database.writing() as session:
                brief = briefs.brief_of(briefs.get_challenge(session, crew.challenge_id))
                hold_on_paper(session, runs.get_run(session, run_id), brief, began, now)

        def length(self) -> float:
            with crew.database.session() as session:
                brief = briefs.brief_of(briefs.get_challenge(session, crew.challenge_id))
                return length_s(runs.get_run(session, run_id), brief)

        def note(self) -> str:
            with crew.database.session() as session:
                return runs.get_run(session, run_id).note

    return crew, run_id, Sheet()


def test_every_mark_of_every_phase_is_open_and_stands_at_its_planned_time(sheet):
    crew, _, paper = sheet
    paper.taken()
    for phase, minute in (("heating", 0), ("heating", 5), ("heating", 15), ("cooling", 0)):
        saved = crew.read(paper.rows["Avocet"], minute, "30", phase=phase, moment=NOON).reading
        assert (saved.time_s, saved.timed) == (minute * 60.0, False)
    assert paper.note() == "From paper; when it began is not known."


def test_it_may_be_told_when_it_began_but_not_that_it_is_not_over_yet(sheet):
    _, _, paper = sheet
    long_ago = NOON - timedelta(seconds=paper.length())
    with pytest.raises(Refused, match="not over yet"):
        paper.taken(began=long_ago + timedelta(seconds=1))
    paper.taken(began=long_ago)
    assert paper.note() == ""
    paper.taken()  # a second time changes nothing
    assert paper.note() == ""


def test_a_test_whose_clock_runs_is_not_from_paper(crew: Crew):
    run_id = crew.run(crew.plan("Avocet"))
    with crew.database.writing() as session:
        brief = briefs.brief_of(briefs.get_challenge(session, crew.challenge_id))
        with pytest.raises(Refused, match="type its values at their marks"):
            hold_on_paper(session, runs.get_run(session, run_id), brief)


def test_it_is_no_test_that_is_on_and_goes_out_and_comes_back_as_from_paper(sheet):
    crew, run_id, paper = sheet
    paper.taken(now=NOON)
    with crew.database.writing() as session:
        assert runs.going_runs(session, crew.class_id, NOON + timedelta(minutes=1)) == []
        text = export_challenge(session, crew.challenge_id)
        made = import_challenge(session, read_file(text.encode()), "token")
        session.flush()
        assert [run.paper for run in runs.runs_of(session, made.id)] == [True]
        assert runs.get_run(session, run_id).paper


def test_pressed_by_mistake_it_goes_back_to_the_clock_until_a_value_is_typed(sheet):
    crew, run_id, paper = sheet

    def back() -> None:
        with crew.database.writing() as session:
            not_from_paper(session, runs.get_run(session, run_id))

    paper.taken()
    back()
    with crew.database.session() as session:
        run = runs.get_run(session, run_id)
        assert (run.paper, run.phases, run.note) == (False, [], "")
    paper.taken()
    crew.read(paper.rows["Avocet"], 5, "30", moment=NOON)
    with pytest.raises(Refused, match="typed in from paper already"):
        back()
