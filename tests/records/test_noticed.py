"""Stories at the edges of running a test: what was taken back, corrected, rehearsed, or just too long."""

from __future__ import annotations

from datetime import timedelta

import pytest

from tests.conftest import NOON, Crew
from thermion.records.errors import Refused, Unsure
from thermion.records.planning import briefs
from thermion.records.running import runs
from thermion.records.running.conditions import ask_about, taken_instead
from thermion.records.running.set_apart import LONGEST_WHY, set_apart


@pytest.fixture
def on(crew: Crew):
    run = crew.run(crew.plan("Avocet"), crew.plan("Dunlin"))
    return crew, run, crew.entries(run)["Avocet"]


def test_what_was_taken_back_leads_nobody_to_expect_anything(on):
    crew, _, row = on
    late = NOON + timedelta(minutes=20)
    crew.read(row, 0, "20")
    gone = crew.read(row, 5, "70", moment=late).reading
    crew.read(row, 5, "", moment=late, supersedes_id=gone.id)
    assert crew.read(row, 10, "38", moment=late).reading.question == ""


def test_an_earlier_mark_is_judged_by_what_came_before_it_only(on):
    crew, _, row = on
    late = NOON + timedelta(minutes=30)
    for minute, value in ((0, "20"), (5, "26"), (20, "60"), (25, "62")):
        crew.read(row, minute, value, moment=late)
    assert crew.read(row, 10, "31", moment=late).reading.question == ""


def test_the_next_phase_begins_where_the_corrected_last_value_was(on):
    crew, run_id, row = on
    for minute, value in ((0, "20"), (5, "44"), (10, "58")):
        last = crew.read(row, minute, value).reading
    crew.read(row, 10, "66", supersedes_id=last.id, keep=True)
    begin = NOON + timedelta(minutes=16)
    with crew.database.writing() as session:
        run = runs.get_run(session, run_id)
        brief = briefs.brief_of(briefs.get_challenge(session, crew.challenge_id))
        runs.start_phase(session, run, brief, "cooling", begin)
    at = begin + timedelta(seconds=20)
    assert crew.read(row, 0, "81", phase="cooling", moment=at).reading.question == ""  # within 20 of 66


def test_a_rehearsals_air_is_no_guide_for_a_real_run_and_an_earlier_runs_is(crew: Crew):
    version = crew.plan("Avocet")
    with crew.database.writing() as session:
        challenge = briefs.get_challenge(session, crew.challenge_id)
        brief = briefs.brief_of(challenge)

        def made(air_c: float, *, rehearsal: bool) -> None:
            conditions = brief.values | {"air_c": air_c}
            runs.create_run(
                session, challenge, version_ids=[version], conditions=conditions, rehearsal=rehearsal
            )

        made(2.0, rehearsal=True)
        ask_about(session, challenge.id, brief, {"air_c": 24.0}, ())
        made(28.0, rehearsal=False)
        ask_about(session, challenge.id, brief, {"air_c": 33.0}, ())
        with pytest.raises(Unsure, match=r"Was that|so far it was 28") as asked:
            ask_about(session, challenge.id, brief, {"air_c": 2.8}, ())
        assert "so far it was 28.0" in asked.value.message
        ask_about(session, challenge.id, brief, {"air_c": 2.8}, {"air_c"})
        assert taken_instead(brief, ["air_c:28.0", "none:1"], {"air_c": 2.8}) == {"air_c": 28.0}


def test_a_reason_may_fill_its_line_and_no_more(on):
    crew, run_id, _ = on
    with crew.database.writing() as session:
        run = runs.get_run(session, run_id)
        assert set_apart(session, run, "x" * LONGEST_WHY).why == "x" * LONGEST_WHY
        with pytest.raises(Refused, match=f"At most {LONGEST_WHY} letters"):
            set_apart(session, run, "x" * (LONGEST_WHY + 1))
