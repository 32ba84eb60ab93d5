"""Readings: true times, slips asked about, corrections that keep, harmless retries."""

from __future__ import annotations

from dataclasses import replace
from datetime import timedelta

import pytest
from sqlalchemy import func, select

from tests.conftest import NOON, Crew
from thermion.records.database import Database
from thermion.records.errors import Conflict, Gone, Implausible, Refused
from thermion.records.planning import briefs
from thermion.records.running import runs
from thermion.records.running.logged import LoggedChannel, add_logged, lay, take_back
from thermion.records.running.series import series_of
from thermion.records.tables import Reading


@pytest.fixture
def on(crew: Crew):
    """A run of two builds with its clock going: crew, run, row ids."""
    run = crew.run(crew.plan("Avocet"), crew.plan("Dunlin"))
    return crew, run, crew.entries(run)


def stored(crew: Crew) -> int:
    with crew.database.session() as session:
        return session.scalar(select(func.count()).select_from(Reading))


def test_the_true_time_is_stored_not_the_planned_one(on):
    crew, _, rows = on
    saved = crew.read(rows["Avocet"], 5, "36.5", late_s=47)
    assert (saved.reading.mark_s, saved.reading.time_s, saved.reading.timed) == (300, 347.0, True)
    paper = crew.read(rows["Dunlin"], 5, "33", moment=NOON + timedelta(minutes=40))
    assert (paper.reading.time_s, paper.reading.timed) == (300.0, False)
    told = crew.read(rows["Dunlin"], 10, "41", moment=NOON + timedelta(minutes=40), at_s=640.0)
    assert (told.reading.time_s, told.reading.timed) == (640.0, True)


def test_sending_the_same_reading_again_stores_it_once(on):
    crew, _, rows = on
    first = crew.read(rows["Avocet"], 0, "20.5", client_id="abc")
    again = crew.read(rows["Avocet"], 0, "20.5", client_id="abc", late_s=90)
    assert again.repeated
    assert (again.reading.id, stored(crew)) == (first.reading.id, 1)


def test_a_correction_supersedes_keeps_its_moment_and_the_earlier_value(on):
    crew, run, rows = on
    slip = crew.read(rows["Avocet"], 0, "25").reading
    fixed = crew.read(rows["Avocet"], 0, "20.5", late_s=50, supersedes_id=slip.id).reading
    assert (fixed.time_s, fixed.supersedes_id) == (slip.time_s, slip.id)
    with crew.database.session() as session:
        assert [r.value for r in runs.history(session, runs.get_run(session, run), fixed.id)] == [20.5, 25.0]
        assert series_of(session, [runs.get_run(session, run)])[rows["Avocet"], "heating"].trace.value == (
            20.5,
        )
        cell = runs.cells(session, runs.get_run(session, run))[rows["Avocet"], "heating", 0.0]
        assert (cell.reading.value, cell.earlier) == (20.5, 1)
    taken_back = crew.read(rows["Avocet"], 0, "", late_s=60, supersedes_id=fixed.id).reading
    assert taken_back.value is None
    with crew.database.session() as session:
        assert series_of(session, [runs.get_run(session, run)]) == {}
    assert stored(crew) == 3


def test_two_screens_in_one_cell_the_second_is_told_and_nothing_is_lost(on):
    crew, _, rows = on
    crew.read(rows["Avocet"], 0, "20.5", client_id="laptop")
    with pytest.raises(Conflict, match=r"20\.5"):
        crew.read(rows["Avocet"], 0, "21", client_id="tablet")
    assert stored(crew) == 1


def test_cooling_begins_where_heating_ended_and_is_not_questioned(on):
    crew, run_id, rows = on
    for minute, value in ((0, "20"), (5, "44"), (10, "58"), (15, "67")):
        crew.read(rows["Avocet"], minute, value)
    begin = NOON + timedelta(minutes=16)
    with crew.database.writing() as session:
        run = runs.get_run(session, run_id)
        brief = briefs.brief_of(briefs.get_challenge(session, crew.challenge_id))
        runs.start_phase(session, run, brief, "cooling", begin)
    moment = begin + timedelta(seconds=20)
    first = crew.read(rows["Avocet"], 0, "66", phase="cooling", moment=moment).reading
    assert first.question == ""  # 66 °C is no room in °F here
    other = crew.read(rows["Dunlin"], 0, "66", phase="cooling", moment=moment).reading
    assert other.question == "Was that 66 °F?"  # nothing is known of this box


def test_a_correction_of_nothing_is_refused(on):
    crew, _, rows = on
    with pytest.raises(Conflict, match="no longer there"):
        crew.read(rows["Avocet"], 0, "20.5", supersedes_id=77)
    assert stored(crew) == 0


def test_a_doubtful_value_is_stored_asked_about_and_can_be_kept(on):
    crew, _, rows = on
    for minute, value in ((0, "20"), (5, "30"), (10, "38")):
        crew.read(rows["Avocet"], minute, value)
    doubt = crew.read(rows["Avocet"], 15, "112").reading
    assert (doubt.value, doubt.question) == (112.0, "Was that 112 °F?")
    assert doubt.suggestion == pytest.approx(44.4, abs=0.1)
    kept = crew.read(rows["Avocet"], 15, "112", supersedes_id=doubt.id, keep=True).reading
    assert (kept.value, kept.question) == (112.0, "")


def test_the_impossible_is_refused_with_the_likely_value(on):
    crew, _, rows = on
    crew.read(rows["Avocet"], 0, "20")
    crew.read(rows["Avocet"], 5, "30")
    with pytest.raises(Implausible, match="999 °C cannot be here"):
        crew.read(rows["Avocet"], 10, "999")
    with pytest.raises(Implausible) as slip:
        crew.read(rows["Avocet"], 10, "365")
    assert slip.value.suggestion == "36.5"
    assert stored(crew) == 2


def test_fahrenheit_in_a_celsius_class_is_understood_with_its_letter(on):
    crew, _, rows = on
    saved = crew.read(rows["Avocet"], 0, "68 F")
    assert saved.reading.value == pytest.approx(20.0)
    assert saved.check.message == "Read as 68 F, stored as 20.0 °C."


@pytest.mark.parametrize(
    ("typed", "says"), [("warm", "not a number"), ("", "Nothing typed"), ("1,250", "could be")]
)
def test_text_in_a_number_is_said_at_its_place(on, typed, says):
    crew, _, rows = on
    with pytest.raises(Refused, match=says) as refused:
        crew.read(rows["Avocet"], 0, typed)
    assert refused.value.field == "value"
    assert stored(crew) == 0


def test_a_decimal_comma_class_in_fahrenheit(database: Database):
    crew = Crew(database, "degF", "comma")
    run = crew.run(crew.plan("Avocet"))
    saved = crew.read(crew.entries(run)["Avocet"], 0, "69,8")
    assert saved.reading.value == pytest.approx(21.0)


def test_no_reading_before_its_mark_its_clock_or_in_a_run_that_is_gone(on):
    crew, run_id, rows = on
    with pytest.raises(Refused, match="has not come"):
        crew.read(rows["Avocet"], 20, "40", moment=NOON + timedelta(minutes=5))
    with pytest.raises(Refused, match="not been started"):
        crew.read(rows["Avocet"], 0, "60", phase="cooling")
    with pytest.raises(Refused, match="no such mark"):
        crew.read(rows["Avocet"], 7, "40")
    with pytest.raises(Gone, match="was deleted"):
        crew.read(9999, 0, "40", run_id=run_id)
    with pytest.raises(Refused, match="within the run"):
        crew.read(rows["Avocet"], 0, "20", at_s=4000.0)


def log(crew: Crew, run_id: int, phase: str, file_id: str, *channels: LoggedChannel) -> int:
    with crew.database.writing() as session:
        run = runs.get_run(session, run_id)
        brief = briefs.brief_of(briefs.get_challenge(session, run.challenge_id))
        return add_logged(session, run, brief, phase, NOON, channels, file_id)


def test_a_logger_file_goes_in_whole_once_or_not_at_all(on):
    crew, run_id, rows = on
    times = tuple(60.0 * i for i in range(10))
    good = LoggedChannel(rows["Avocet"], times, tuple(20.0 + i for i in range(10)), "degC")
    assert [log(crew, run_id, "heating", "sha", good) for _ in range(2)] == [10, 0]
    with pytest.raises(Gone):
        log(crew, run_id, "cooling", "other", good, LoggedChannel(9999, (0.0,), (20.0,), "degC"))
    hot = LoggedChannel(rows["Dunlin"], times, (*(68.0 + i for i in range(9)), 999.9), "degF")
    assert log(crew, run_id, "cooling", "hot", hot) == 9  # what cannot be costs that value alone
    wrong = LoggedChannel(rows["Dunlin"], times, tuple(900.0 + i for i in range(10)), "degF")
    with pytest.raises(Refused, match=r"0:00 of Dunlin: 482\.222 °C cannot be here"):
        log(crew, run_id, "cooling", "wrong", good, wrong)
    assert stored(crew) == 19


def test_a_file_is_laid_without_what_lies_before_the_start_or_where_a_logger_has_read(on):
    crew, run_id, rows = on
    times = tuple(60.0 * i for i in range(10))
    first = LoggedChannel(rows["Avocet"], times, tuple(20.0 + i for i in range(10)), "degC")
    log(crew, run_id, "heating", "first", first)
    later = replace(first, time_s=tuple(t - 120 for t in times))
    with crew.database.session() as session:
        run = runs.get_run(session, run_id)
        brief = briefs.brief_of(briefs.get_challenge(session, run.challenge_id))
        found = lay(session, run, brief, "heating", [later])
        assert (found.stored, found.before, found.over) == (8, 2, 8)
        assert lay(session, run, brief, "heating", [later], "gaps").stored == 0


def test_a_file_that_was_laid_wrong_is_taken_back_and_can_be_laid_again(on):
    crew, run_id, rows = on
    channel = LoggedChannel(rows["Avocet"], (0.0, 60.0), (20.0, 21.0), "degC")
    for shift in (0.0, 30.0, 45.0):
        laid = replace(channel, time_s=tuple(t + shift for t in channel.time_s))
        assert log(crew, run_id, "heating", "sha", laid) == 2
        assert log(crew, run_id, "heating", "sha", laid) == 0
        with crew.database.session() as session:
            series = series_of(session, [runs.get_run(session, run_id)])
            assert series[rows["Avocet"], "heating"].trace.time_s == (shift, 60.0 + shift)
        with crew.database.writing() as session:
            assert take_back(session, "sha", "heating") == 2
    with crew.database.session() as session:
        assert (rows["Avocet"], "heating") not in series_of(session, [runs.get_run(session, run_id)])


def test_a_reading_belongs_to_its_run_and_is_seen_and_corrected_only_there(on):
    crew, run_id, rows = on
    other = crew.run(crew.plan("Dunlin", note="again"))
    saved = crew.read(rows["Avocet"], 0, "20.5").reading
    with pytest.raises(Gone, match="or this row of it, was deleted"):
        crew.read(rows["Avocet"], 5, "24", run_id=other)
    with crew.database.session() as session:
        assert [r.id for r in runs.history(session, runs.get_run(session, run_id), saved.id)] == [saved.id]
        with pytest.raises(Gone, match="not in this run"):
            runs.history(session, runs.get_run(session, other), saved.id)


def test_the_clock_is_the_moment_of_its_start_and_nothing_else(on):
    crew, run_id, _ = on
    with crew.database.session() as session:
        run = runs.get_run(session, run_id)
        brief = briefs.brief_of(briefs.get_challenge(session, crew.challenge_id))
        heat, cool = runs.clocks(run, brief)
        assert heat.elapsed_s(NOON + timedelta(hours=20)) == 72000
        assert cool.elapsed_s(NOON) == 0
    with crew.database.writing() as session:
        run = runs.get_run(session, run_id)
        runs.start_phase(session, run, brief, "heating", NOON + timedelta(minutes=9))
        assert run.phases[0].started_at == NOON  # a second click changes nothing
        runs.close_run(run)
        with pytest.raises(Refused, match="closed"):
            runs.start_phase(session, run, brief, "cooling")


def test_who_may_be_in_a_run(crew: Crew):
    avocet, draft = crew.plan("Avocet"), crew.plan("Dunlin", until="signed")
    with pytest.raises(Refused, match="issued"):
        crew.run(avocet, draft)
    with pytest.raises(Refused, match="at least one"):
        crew.run()
    second = crew.plan("Avocet", note="again")
    with pytest.raises(Refused, match="one version only"):
        crew.run(avocet, second)
    with crew.database.writing() as session:
        challenge = briefs.get_challenge(session, crew.challenge_id)
        challenge.cautions_seen_at = None
    with pytest.raises(Refused, match="safety cautions"):
        crew.run(avocet)


def test_real_readings_cannot_be_thrown_away_rehearsals_can(on):
    crew, run_id, _ = on
    with pytest.raises(Refused, match="stay in the record"), crew.database.writing() as session:
        runs.delete_run(session, runs.get_run(session, run_id))
    with crew.database.writing() as session:
        challenge = briefs.get_challenge(session, crew.challenge_id)
        version = runs.get_run(session, run_id).entries[1].version_id
        made = runs.create_run(
            session, challenge, version_ids=[version], conditions={}, rehearsal=True, speed=60.0
        )
        runs.start_phase(session, made, briefs.brief_of(challenge), "heating")
        runs.delete_run(session, made)
